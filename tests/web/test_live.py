"""A set of eight captured in the browser without a key, another's readings, and what rules are worth."""

import re
from collections.abc import Iterator

import pytest
from fastapi import FastAPI
from playwright.sync_api import expect
from tests.conftest import Live
from tests.drivers import Desk, eventually
from tests.live.conftest import Capturer, StandIns
from tests.virtual_time import VirtualTime
from tests.web.conftest import MakeBench, obstacles


@pytest.fixture
def addresses(live: Live) -> Iterator[dict[str, str]]:
    """Stand-ins of an engine of eight injectors, the third clogged."""
    engine = {"count": 8, "seed": 3, "injectors": {"3": {"flow": 0.76}}}
    made = StandIns(engine, {}, live.time)
    yield made.addresses
    live.quiet()
    made.close()


@pytest.fixture
def capturer(desk: Desk, virtual_time: VirtualTime, _app_with_pages: FastAPI) -> Capturer:
    """Who looks at a capture that is begun on the page: only the page's own application knows of it."""
    return Capturer(desk, virtual_time, _app_with_pages.state.captures)


def test_eight_injectors_without_a_key(
    make_bench: MakeBench, capturer: Capturer, live: Live, addresses: dict[str, str]
) -> None:
    """Begun with two presses, then nobody touches anything; another page sees each reading."""
    desk = capturer.desk
    capturer.gauge("rail gauge", "psi", "0.1", addresses["gauge"])
    box = {"what": "box", "name": "box", "values": {"address": addresses["box"]}}
    desk.client.post("/api/shelf", json=box)
    sheet = capturer.sheet("pressure_drop", "rail gauge", "psi", "0.1", 8)
    view = desk.client.get(f"/api/sheets/{sheet}").json()
    path = f"/jobs/{view['job_number']}/{view['key']}"
    elsewhere = make_bench().go(path)
    bench = make_bench().go(path)
    page = bench.page
    page.get_by_role("button", name="Let box work it").click()
    page.get_by_role("button", name="Begin").click()
    eventually(lambda: live.app.state.captures.view(sheet))
    capturer.until(sheet, lambda now: now["taken"] >= 2)
    for seen in (page, elsewhere.page):
        first = seen.get_by_role("row").filter(has=seen.get_by_role("button", name="Enter injector 1", exact=True))  # fmt: skip
        expect(first).to_contain_text(re.compile("in plumb|the others come first") if seen is page else re.compile(r"\d"))  # fmt: skip
    assert obstacles(page) == []
    capturer.until(sheet, lambda now: not now["running"], 200.0)
    expect(page.get_by_text("8 taken by rail gauge")).to_be_visible()
    bench.says("Injector 3 gives")
    elsewhere.says("Injector 3 gives")
    rows = capturer.rows(sheet)
    assert [rows[str(n)]["count"] for n in range(1, 9)] == [1] * 8
    expect(page.get_by_role("region", name="Trace")).to_contain_text("captured from rail gauge")


def test_another_row_comes_next(
    make_bench: MakeBench, capturer: Capturer, addresses: dict[str, str]
) -> None:
    """Who measures in another order says so; what is captured then is that row's."""
    desk = capturer.desk
    capturer.gauge("rail gauge", "psi", "0.1", addresses["gauge"])
    sheet = capturer.sheet("pressure_drop", "rail gauge", "psi", "0.1", 8)
    view = desk.client.get(f"/api/sheets/{sheet}").json()
    bench = make_bench().go(f"/jobs/{view['job_number']}/{view['key']}")
    expect(bench.page.get_by_role("button", name="Let rail gauge fill it in")).to_be_visible()
    bench.press("i")
    capture = bench.page.get_by_role("region", name="Capture")
    expect(capture).to_contain_text("Next: 1")
    with capturer.time.goes_on():
        capture.get_by_label("Which comes next").select_option("5")
        expect(capture).to_contain_text("Next: 5")
    bench.page.reload()
    expect(capture).to_contain_text("Next: 5")
    with capturer.time.goes_on():
        capture.get_by_role("button", name="Stop").click()
        expect(bench.page.get_by_role("button", name="Let rail gauge fill it in")).to_be_visible()


def test_what_another_notes_appears_with_their_name(
    make_bench: MakeBench, desk: Desk, live: Live
) -> None:
    """By the line, before the page asks by itself, and the name stands there."""
    sheet = desk.open_job()
    bench = make_bench().go(f"/jobs/{sheet['job_number']}/{sheet['key']}")
    expect(bench.entry("first")).to_be_focused()
    expect(bench.row("2")).to_be_visible()
    # The line opens a moment after the page.
    eventually(lambda: live.app.state.hub.lookers() == 1)
    # What the page asks for by itself gets no answer from here on.
    bench.page.route(f"**/api/sheets/{sheet['id']}", lambda _: None)
    assert desk.type(sheet, "2", "50 26", by="Tomas R.").status_code == 200
    expect(bench.page.get_by_text("Tomas R. noted 2: 50.0 26.0")).to_be_visible()
    expect(bench.row("2")).to_contain_text("26.0")


def test_an_instrument_is_asked_on_the_shelf(
    make_bench: MakeBench, addresses: dict[str, str]
) -> None:
    """What answered is shown; what does not answer is told."""
    bench = make_bench().go("/shelf")
    page = bench.page
    page.get_by_role("region", name="Gauges").get_by_role("button", name="Add").click()
    address = page.get_by_label(re.compile("^Address"))
    address.fill(addresses["gauge"])
    page.get_by_role("button", name="Ask it").click()
    expect(page.get_by_text("rail gauge")).to_be_visible()
    expect(page.get_by_role("button", name="Ask it")).to_be_focused()
    address.fill("TCPIP::127.0.0.1::9::SOCKET")
    page.get_by_role("button", name="Ask it").click()
    expect(page.get_by_text("nothing answers at 127.0.0.1 port 9").first).to_be_visible()
    address.fill("somewhere")
    page.get_by_role("button", name="Ask it").click()
    expect(page.get_by_text(re.compile("an address like"))).to_be_visible()


def test_what_the_rules_are_worth_on_this_sheet(make_bench: MakeBench, desk: Desk) -> None:
    """From the sheet to the picture by a link, a slider by keys, and it can be stopped."""
    sheet = desk.open_job()
    for n in "1234":
        desk.type(sheet, n, "50 26")
    bench = make_bench().go(f"/jobs/{sheet['job_number']}/{sheet['key']}")
    bench.page.get_by_role("link", name="What they are worth with this gauge").click()
    picture = bench.page.get_by_role("region", name="Picture")
    expect(picture.get_by_role("img")).to_have_attribute("aria-label", re.compile("Flow index: "))
    expect(bench.page.get_by_label("Gauge step")).to_have_attribute("aria-valuetext", "0.5 psi")
    bench.page.get_by_label("Gauge step").focus()
    # What is stopped is the run with this step: the page asks for it a moment after the key.
    with bench.page.expect_response(lambda r: r.request.method == "POST" and r.ok):
        bench.press("ArrowRight")
    expect(bench.page.get_by_label("Gauge step")).to_have_attribute("aria-valuetext", "1 psi")
    picture.get_by_role("button", name="Stop").click()
    expect(picture.get_by_role("status")).to_contain_text("stopped")
    planner = bench.page.get_by_role("region", name="Planner")
    expect(planner).to_contain_text("One pass as it is now does it in")
    bench.page.get_by_role("link", name="Back to the sheet").click()
    expect(bench.row("1")).to_be_visible()
