"""The server stopped in the middle: nothing typed is lost, and it goes up by itself."""

import re
from pathlib import Path

import pytest
from playwright.sync_api import Route, expect
from sqlalchemy import Engine
from tests.conftest import Live
from tests.drivers import ASK, Bench, load_demo, new_id

from plumb.service.uses import today


def test_typed_without_the_server_and_sent_when_it_is_back(bench: Bench, live: Live) -> None:
    """Two kept, server off, two more typed, seen waiting; server on: all four are there."""
    bench.go().new_job("Torvik Lundy 1.8")
    bench.burst("50 26").burst("50 26.5").saved()
    live.stop()
    bench.burst("50 31.5").burst("50 26")
    status = bench.page.get_by_role("status").first
    expect(status).to_contain_text("2 wait in this browser")
    expect(bench.row("3")).to_contain_text("waits to be saved")
    expect(bench.hangs("3")).to_have_attribute("aria-label", "25.1 % less than"
        " the reference, not settled")  # fmt: skip
    live.start()
    bench.says("Injector 3 gives 25 % less").saved()
    bench.page.reload()
    bench.says("Injector 3 gives 25 % less")


def test_slips_are_caught_without_the_server_too(bench: Bench, live: Live) -> None:
    """The question comes from the page's own rules."""
    bench.begun()
    bench.burst("50 26").saved()
    live.stop()
    bench.burst("26 50")
    expect(bench.asked()).to_contain_text("cannot rise")
    bench.press("Alt+Enter")
    expect(bench.row("2")).to_contain_text("waits to be saved")
    bench.press("Control+z")
    expect(bench.row("2")).not_to_contain_text("waits")
    live.start()
    bench.saved()


def test_a_page_closed_meanwhile_sends_at_the_next_visit(bench: Bench, live: Live) -> None:
    """What waits lives in the browser's own database, not in the page."""
    bench.begun()
    bench.burst("50 26").saved()
    address = bench.page.url
    live.stop()
    bench.burst("50 26.5")
    expect(bench.row("2")).to_contain_text("waits to be saved")
    context = bench.page.context
    bench.page.close()
    live.start()
    bench.page = context.new_page()
    bench.page.goto(address)
    expect(bench.row("2")).to_contain_text("23.5")
    bench.saved()


def test_what_only_the_server_can_refuse_is_asked_and_kept_until_answered(
    bench: Bench, live: Live
) -> None:
    """The gauge was changed elsewhere to a coarser one while this page was away."""
    bench.begun()
    bench.burst("50 26").saved()
    sheet = ASK.get(f"{live.address}/api/sheets/{_sheet_id(live)}").json()
    bench.page.route("**/api/sheets/*", lambda route: route.abort())
    coarse = {"name": "dial", "unit": "psi", "step": "2"}
    path = f"{live.address}/api/sheets/{sheet['id']}"
    changed = ASK.patch(path, json={"version": sheet["version"], "gauge": coarse})
    assert changed.status_code == 200
    bench.burst("51 27")
    expect(bench.asked()).to_contain_text("reads to 2 psi")
    expect(bench.page.get_by_role("status").first).to_contain_text("1 to decide")
    bench.page.get_by_role("button", name="Keep as typed").click()
    bench.saved()
    assert ASK.get(path).json()["measured"] == 2


def _sheet_id(live: Live) -> int:
    """The only sheet there is."""
    number = ASK.get(f"{live.address}/api/jobs").json()[0]["number"]
    job = ASK.get(f"{live.address}/api/jobs/{number}").json()
    return int(next(k["sheet_id"] for k in job["route"] if k["sheet_id"]))


def test_every_kind_of_reading_waits_for_the_server(
    bench: Bench, live: Live, engine: Engine
) -> None:
    """A lamp, a moment of a hold and a step of its board, typed while the server is away."""
    load_demo(engine)
    bench.go("/jobs/317/n").says("Command 3 is dark")
    live.stop()
    bench.page.get_by_role("button", name="Enter injector 3").click()
    bench.press("b")
    expect(bench.row("3")).to_contain_text("blinks, waits to be saved")
    expect(bench.page.get_by_role("status").first).to_contain_text("in this browser")
    live.start()
    bench.says("All blink").saved()
    bench.turn_to("/jobs/322/h").says("Holds")
    live.stop()
    bench.page.get_by_label(re.compile("^pressure, ")).focus()
    bench.burst("44 600")
    bench.page.get_by_role("button", name="Vacuum hose looked into: dry").click()
    expect(bench.page.get_by_role("status").first).to_contain_text("2 wait in this browser")
    live.start()
    expect(bench.page.get_by_text("the hose is dry")).to_be_visible()
    expect(bench.page.get_by_role("img", name=re.compile("44.0 psi at 10 min"))).to_be_visible()


def test_a_condition_changed_without_the_server_goes_again(
    bench: Bench, live: Live, engine: Engine
) -> None:
    """It says that it waits, and arrives by itself."""
    load_demo(engine)
    bench.go("/jobs/310/s1").says("two measured")
    bench.turn_to("/jobs/325/w").says("Fuel stands")
    live.stop()
    bench.page.get_by_role("button", name="surges").click()
    expect(bench.page.get_by_role("status").first).to_contain_text("1 waits in this browser")
    pressed = bench.page.get_by_role("button", name="surges", pressed=True)
    expect(pressed).to_be_visible()
    live.start()
    bench.saved()
    bench.page.reload()
    expect(pressed).to_be_visible()


def test_a_part_of_the_pages_that_does_not_come_is_said_and_fetched_again(
    bench: Bench, engine: Engine
) -> None:
    """The hold's own script is refused once: no blank page, and loading anew opens it."""
    load_demo(engine)
    refused: list[str] = []
    bench.page.route("**/HoldSheet-*.js", lambda route: (refused.append("x"), route.abort()))
    bench.go("/jobs/322/h")
    expect(bench.page.get_by_role("heading", name="This screen did not open.")).to_be_visible()
    assert refused
    bench.page.unroute("**/HoldSheet-*.js")
    bench.page.get_by_role("button", name="Load it anew").click()
    bench.says("Holds")


def test_a_job_begun_before_the_catalogue_has_come_is_made(bench: Bench) -> None:
    """Enter comes while the catalogue is still on its way: the key is not dropped."""
    held: list[Route] = []

    def hold(route: Route) -> None:
        held.append(route)

    bench.page.route("**/api/catalogue", hold)
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n").type("Van").press("Enter")
    expect(bench.page.get_by_role("button", name="Go")).to_be_disabled()
    held[0].continue_()
    expect(bench.entry("first")).to_be_focused()


def _break_at(bench: Bench, injector: str) -> list[bool]:
    """The server breaks at this injector's readings for as long as the list says so."""
    broken = [True]

    def answer(route: Route) -> None:
        if broken[0] and f'"injector":"{injector}"' in (route.request.post_data or ""):
            body = {
                "type": "",
                "title": "Something broke",
                "status": 500,
                "detail": "",
                "problems": [],
            }
            route.fulfill(status=500, json=body)
        else:
            route.continue_()

    bench.page.route("**/readings*", answer)
    return broken


def test_one_that_the_server_breaks_at_jams_nobody(bench: Bench, live: Live) -> None:
    """Those behind it go up; after five times it is shown, is changed, and goes up too."""
    bench.begun()
    broken = _break_at(bench, "2")
    bench.burst("50 26").burst("50 26.5").burst("50 26").burst("50 26.5")
    path = f"{live.address}/api/sheets/{_sheet_id(live)}"
    status = bench.page.get_by_role("status").first
    expect(status).to_contain_text("1 wait")
    expect(bench.row("4")).to_contain_text("in plumb")
    assert [r["count"] for r in ASK.get(path).json()["rows"]] == [1, 0, 1, 1]
    expect(bench.asked()).to_contain_text("Something broke")
    expect(status).to_contain_text("1 to decide")
    broken[0] = False
    bench.press("Escape")
    expect(bench.entry("first")).to_have_value("50")
    expect(bench.entry("second")).to_have_value("26.5")
    bench.entry("second").fill("26")
    bench.press("Enter").saved()
    assert [r["count"] for r in ASK.get(path).json()["rows"]] == [1, 1, 1, 1]
    assert ASK.get(path).json()["rows"][1]["readings"][0]["second_typed"] == "26"


def test_what_stepped_aside_is_found_from_any_screen(bench: Bench, live: Live) -> None:
    """Shown with its job and what was said; sent again from there."""
    bench.begun()
    broken = _break_at(bench, "1")
    bench.burst("50 26")
    expect(bench.asked()).to_contain_text("Something broke")
    bench.go("/")
    bench.page.get_by_role("button", name="Look at it").click()
    dialog = bench.page.get_by_role("dialog")
    expect(dialog).to_contain_text("Injector 1: 50 26, on job 1, Drop per injector")
    expect(dialog).to_contain_text("Something broke")
    broken[0] = False
    dialog.get_by_role("button", name="Send it again").click()
    expect(dialog).to_be_hidden()
    expect(bench.page.get_by_role("status").first).to_contain_text("All saved")
    path = f"{live.address}/api/sheets/{_sheet_id(live)}"
    assert ASK.get(path).json()["rows"][0]["count"] == 1


def test_a_file_that_is_too_large_is_said_before_it_is_sent(bench: Bench, tmp_path: Path) -> None:
    """With its size and what is taken in."""
    file = tmp_path / "large.plumb.json"
    file.write_text(" " * (2 * 2**20 + 1))
    bench.go()
    bench.page.get_by_role("button", name="Bring in a job file").click()
    bench.page.get_by_role("dialog").locator("input[type=file]").set_input_files(file)
    expect(bench.page.get_by_role("alert")).to_contain_text(
        "large.plumb.json has 2.0 MB; at most 2.0 MB are taken in."
    )


def test_today_shows_more_when_asked(
    bench: Bench, live: Live, monkeypatch: pytest.MonkeyPatch
) -> None:
    """A page at a time, and how many there are in all."""
    monkeypatch.setattr(today, "ON_A_PAGE", 6)
    for n in range(9):
        body = {"request_id": new_id(), "vehicle_name": f"Torvik {n}"}
        assert ASK.post(f"{live.address}/api/jobs", json=body).status_code == 201
    bench.go()
    rows = bench.page.locator("main li")
    expect(rows).to_have_count(6)
    expect(bench.page.get_by_text("9 open")).to_be_visible()
    bench.page.get_by_role("button", name="Show more: 6 of 9").press("Enter")
    expect(rows).to_have_count(9)
    expect(bench.page.get_by_role("button", name=re.compile("Show more"))).to_be_hidden()
