"""The server was replaced by yesterday's backup while a browser held newer readings."""

from playwright.sync_api import expect
from sqlalchemy import Engine, text
from tests.conftest import Live
from tests.drivers import ASK, new_id
from tests.web.conftest import MakeBench

from plumb.keeping.dump import move_on
from plumb.store.journal import unwatch, watch
from plumb.store.server import Server


def yesterday(engine: Engine, database: Server) -> None:
    """What a restore of a backup from before the job leaves: the job is gone, ids go on well behind."""
    unwatch(engine)
    with engine.begin() as connection:
        connection.execute(text("DELETE FROM job"))
    move_on(database.place)
    watch(engine)


def test_what_waited_is_asked_about_and_gets_onto_no_other_sheet(
    make_bench: MakeBench, live: Live, engine: Engine, database: Server
) -> None:
    """Said in words, kept until somebody decides, and the job that is opened next stays empty."""
    bench = make_bench()
    bench.go().new_job("Torvik Lundy 1.8")
    bench.burst("50 26").saved()
    live.stop()
    bench.burst("50 31.5")
    expect(bench.page.get_by_role("status").first).to_contain_text("1 waits in this browser")
    yesterday(engine, database)
    live.start_away()
    made = ASK.post(
        f"{live.address}/api/jobs",
        json={"request_id": new_id(), "vehicle_name": "Brannock Tern"},
        timeout=60,
    ).json()
    live.let_in()
    expect(bench.page.get_by_role("status").first).to_contain_text("1 to decide")
    bench.page.get_by_role("button", name="Look at it").click()
    asked = bench.page.get_by_role("dialog")
    expect(asked).to_contain_text("50 31.5")
    expect(asked).to_contain_text("no such sheet")
    expect(asked.get_by_role("button", name="Throw it away")).to_be_visible()
    other = ASK.get(f"{live.address}/api/sheets/{made['id']}").json()
    assert other["measured"] == 0
    assert made["id"] > 100_000
