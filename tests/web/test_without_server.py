"""The pages without the server: they open, work, keep and queue; a newer Plumb is taken in a quiet moment."""

import contextlib
import re
from collections.abc import Iterator
from typing import Any

import pytest
from PIL import Image
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from tests.conftest import Live
from tests.drivers import ASK, Bench, load_demo
from tests.web.conftest import MakeBench, kept, until

from plumb.api.app import PAGES


def head(bench: Bench, text: str) -> None:
    """What the head says of what is kept."""
    expect(bench.page.get_by_role("status").filter(has_text=text)).to_be_visible()


@pytest.fixture
def demo(live: Live, engine: Engine) -> Live:
    """A running application with the demo's jobs."""
    load_demo(engine)
    return live


def test_it_can_be_installed(live: Live) -> None:
    """Manifest and icons as browsers ask for them (W3C Web Application Manifest)."""
    sent = ASK.get(f"{live.address}/manifest.webmanifest")
    manifest = sent.json()
    assert manifest["display"] == "standalone"
    assert manifest["start_url"] == manifest["scope"] == "/"
    sizes = set()
    for icon in manifest["icons"]:
        with Image.open(PAGES / icon["src"].lstrip("/")) as picture:
            assert f"{picture.width}x{picture.height}" == icon["sizes"]
        assert ASK.get(live.address + icon["src"]).headers["content-type"] == icon["type"]
        sizes.add((picture.width, icon.get("purpose", "any")))
    assert sizes >= {(192, "any"), (512, "any"), (512, "maskable")}
    page = ASK.get(live.address).text
    assert 'rel="manifest"' in page


def test_reload_without_the_server(make_bench: MakeBench, demo: Live) -> None:
    """Today, a job and its sheet as last seen, with what they said, and how old that is."""
    bench = make_bench(keeps=True)
    bench.go("/jobs/311")
    kept(bench.page)
    says = bench.page.get_by_label("What the set says", exact=True)
    expect(says).to_contain_text("gives")
    told = says.inner_text()
    bench.page.goto(f"{demo.address}/")
    expect(bench.page.get_by_role("link", name=re.compile("^311"))).to_be_visible()
    demo.stop()
    bench.page.reload()
    expect(bench.page.get_by_role("link", name=re.compile("^311"))).to_be_visible()
    expect(bench.page.get_by_text("The server is away: as of")).to_be_visible()
    bench.page.goto(f"{demo.address}/jobs/311")
    expect(says).to_have_text(re.compile(re.escape(told.split("\n")[0])))
    demo.start()
    expect(bench.page.get_by_text("The server is away: as of")).to_be_hidden()


def test_readings_conditions_and_a_run_wait_through_a_closed_page(
    make_bench: MakeBench, live: Live
) -> None:
    """Two sheets, conditions, a run, a note; page closed and opened; back on line: all there, in order."""
    bench = make_bench(begin="outside", keeps=True)
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    expect(bench.page.get_by_role("dialog")).to_be_visible()
    bench.type("Torvik Lundy 1.8").press("Enter")
    expect(bench.page.get_by_role("heading", name="Walk-round", level=1)).to_be_visible()
    walk = bench.page.url
    kept(bench.page)
    expect(bench.page.get_by_role("button", name="rough idle")).to_be_visible()
    number = re.search(r"/jobs/([^/]+)", walk)
    assert number is not None
    made = ASK.post(
        f"{live.address}/api/jobs/{number[1]}/sheets",
        json={"request_id": "00000000-0000-4000-8000-000000000001", "kind": "pressure_drop"},
        timeout=60,
    ).json()
    drop = f"{live.address}/jobs/{number[1]}/{made['key']}"
    bench.page.goto(drop)
    expect(bench.entry("first")).to_be_focused()
    live.stop()
    bench.burst("50 26").burst("50 26.5")
    bench.press("e", "e")
    bench.press("e")
    bench.page.get_by_role("button", name="It ran long enough").click()
    head(bench, "3 wait in this browser since")
    bench.page.goto(walk)
    bench.page.get_by_role("button", name="rough idle").click()
    bench.page.get_by_role("button", name="dry", exact=True).click()
    bench.page.get_by_label("What else was seen").fill("hose cracked at the rail")
    bench.press("Enter")
    expect(bench.page.get_by_role("button", name="rough idle")).to_have_attribute(
        "aria-pressed", "true"
    )
    head(bench, "6 wait in this browser since")
    context = bench.page.context
    bench.page.close()
    bench.page = context.new_page()
    bench.page.goto(walk)
    expect(bench.page.get_by_label("What else was seen")).to_have_value("hose cracked at the rail")
    head(bench, "6 wait in this browser since")
    live.start()
    bench.saved()
    entries = ASK.get(f"{live.address}/api/journal", params={"job": number[1]}, timeout=60).json()[
        "changes"
    ]
    wanted = ("second typed", "sheet", "complaint", "hose", "note")
    noted = [
        f["field"]
        for c in reversed(entries)
        for f in c["fields"]
        if (f["field"] in wanted and f["became"] and c["doing"] != "made")
        or f["field"] == wanted[0]
    ]
    # What was noted of the engine's run stands among what a sheet carries along.
    assert noted == ["second typed", "second typed", "sheet", "complaint", "hose", "note"]
    sheet = ASK.get(f"{live.address}/api/sheets/{made['id']}").json()
    assert [r["readings"][0]["second_typed"] for r in sheet["rows"][:2]] == ["26", "26.5"]
    assert sheet["engine_ran_at"]


def test_a_condition_that_somebody_else_changed_is_asked_about(
    make_bench: MakeBench, live: Live
) -> None:
    """Side by side: how it was, yours, what stands there now; either can stay."""
    bench = make_bench(begin="outside", keeps=True)
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    expect(bench.page.get_by_role("dialog")).to_be_visible()
    bench.type("Torvik Lundy 1.8").press("Enter")
    expect(bench.page.get_by_role("heading", name="Walk-round", level=1)).to_be_visible()
    live.stop()
    bench.page.get_by_label("What else was seen").fill("hose cracked")
    bench.press("Enter")
    bench.page.get_by_role("button", name="dry", exact=True).click()
    head(bench, "2 wait in this browser since")
    live.start_away()
    job = ASK.get(f"{live.address}/api/jobs").json()[0]["number"]
    knot = ASK.get(f"{live.address}/api/jobs/{job}").json()["route"][0]
    path = f"{live.address}/api/sheets/{knot['sheet_id']}"
    version = ASK.get(path).json()["version"]
    other = {"version": version, "put": {"note": "hose replaced last week"}}
    assert ASK.patch(path, json=other).status_code == 200
    live.let_in()
    head(bench, "1 to decide")
    bench.page.get_by_role("button", name="Look at it").click()
    asked = bench.page.get_by_role("dialog")
    expect(asked).to_contain_text("hose replaced last week")
    expect(asked.get_by_role("cell", name="hose cracked", exact=True)).to_be_visible()
    asked.get_by_role("button", name="Take yours").click()
    bench.saved()
    form = ASK.get(f"{live.address}/api/sheets/{knot['sheet_id']}").json()["form"]
    assert (form["note"], form["hose"]) == ("hose cracked", "dry")


def has_read_ahead(page: Page, address: str) -> None:
    """What a new job needs is in the browser."""
    asked = f"caches.match({address!r}, {{cacheName: 'plumb-said'}}).then(Boolean)"
    until(page, asked)


BLANKS = "/api/blanks/port?injectors=one_each&banks=1"


BUSY = """() => new Promise((busy) => {
  indexedDB.open("plumb").onsuccess = (opened) => {
    const db = opened.target.result;
    const errands = db.transaction("errands", "readwrite").objectStore("errands");
    const on = () => {
      busy(true);
      if (window.plumbFree) db.close();
      else errands.count().onsuccess = on;
    };
    on();
  };
})"""
"""The browser's database is busy, as on a slow disk, until the page that ran this is told."""

SHOWN = "() => new Promise((shown) => requestAnimationFrame(() => setTimeout(shown)))"
"""What the page made of what it knows stands on the screen."""


@contextlib.contextmanager
def busy_disk(page: Page) -> Iterator[None]:
    """Nothing that waits in the browser is read or written meanwhile."""
    page.evaluate(BUSY)
    try:
        yield
    finally:
        page.evaluate("() => { window.plumbFree = true; }")


def worked_behind_the_lift(bench: Bench) -> str:
    """A new job with readings, a condition, a second sheet with a tick and a note; where the first one is."""
    bench.press("n")
    expect(bench.page.get_by_role("dialog")).to_be_visible()
    bench.type("Torvik Lundy 1.8").press("Enter")
    expect(bench.entry("first")).to_be_focused()
    expect(bench.page.get_by_role("banner")).to_contain_text("New job, not sent yet")
    drop = bench.page.url
    bench.burst("50 26").burst("50 26.5")
    bench.page.get_by_role("button", name="Expected").click()
    expected = bench.page.get_by_role("dialog")
    expected.get_by_role("textbox").first.fill("23.5")
    bench.press("Enter")
    expect(expected).to_be_hidden()
    bench.page.get_by_role("button", name="Walk-round").first.click()
    expect(bench.page.get_by_role("heading", name="Walk-round", level=1)).to_be_visible()
    bench.page.get_by_role("button", name="rough idle").click()
    bench.page.get_by_label("What else was seen").fill("hose cracked at the rail")
    bench.press("Enter")
    head(bench, "7 wait in this browser since")
    return drop


def stored(live: Live) -> dict[str, Any]:
    """The sheets of the only job at the server, by kind."""
    (line,) = ASK.get(f"{live.address}/api/jobs").json()
    job = ASK.get(f"{live.address}/api/jobs/{line['number']}").json()
    return {
        k["kind"]: ASK.get(f"{live.address}/api/sheets/{k['sheet_id']}").json()
        for k in job["route"]
        if k["sheet_id"]
    }


def test_a_whole_visit_behind_the_lift(make_bench: MakeBench, live: Live) -> None:
    """A new job, two sheets, conditions and a note with no server; closed, opened, and all of it goes up."""
    bench = make_bench(keeps=True)
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    kept(bench.page)
    has_read_ahead(bench.page, BLANKS)
    live.stop()
    bench.page.reload()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    drop = worked_behind_the_lift(bench)
    context = bench.page.context
    bench.page.close()
    bench.page = context.new_page()
    bench.page.goto(live.address)
    line = bench.page.get_by_role("link", name=re.compile("^new Torvik Lundy"))
    expect(line).to_contain_text("Waits in this browser")
    line.click()
    expect(bench.page.get_by_label("What else was seen")).to_have_value("hose cracked at the rail")
    other = context.new_page()
    other.goto(live.address)
    with busy_disk(other):
        bench.page.goto(drop)
        expect(bench.page.get_by_role("heading", name="New job, not sent yet")).to_be_visible()
        bench.page.evaluate(SHOWN)
        expect(bench.page.get_by_role("main")).to_contain_text("Opening…")
    expect(bench.entry("first")).to_be_focused()
    expect(bench.row("2")).to_contain_text("26.5")
    other.close()
    live.start()
    # A figure that is half typed when the job gets its number stays where it is.
    bench.type("50 2")
    bench.saved()
    expect(bench.page).to_have_url(re.compile(r"/jobs/\d+/s1$"))
    bench.type("7").press("Enter")
    expect(bench.row("3")).to_contain_text("23")
    bench.saved()
    sheets = stored(live)
    assert set(sheets) == {"pressure_drop", "walk_round"}
    typed = [r["readings"][0]["second_typed"] for r in sheets["pressure_drop"]["rows"][:3]]
    assert typed == ["26", "26.5", "27"]
    form = sheets["walk_round"]["form"]
    assert (form["note"], form["complaint"]) == ("hose cracked at the rail", ["rough_idle"])
    knob = next(k for k in sheets["pressure_drop"]["knobs"] if k["name"] == "Expected")
    assert knob["fields"][0]["value"] == "23.5"
    expect(bench.page.get_by_label("Route").get_by_role("link", name="Walk-round")).to_be_visible()


def test_a_sheet_more_on_a_job_that_is_there(make_bench: MakeBench, demo: Live) -> None:
    """Begun without the server on a job as last seen; somebody else begins one meanwhile, both stay."""
    bench = make_bench(keeps=True)
    bench.go("/jobs/311")
    kept(bench.page)
    has_read_ahead(bench.page, BLANKS.replace("banks=1", "banks=2"))
    there = ASK.get(f"{demo.address}/api/jobs/311").json()["route"]
    kind = next(k for k in there if not k["sheet_id"] and k["kind"] == "scan")
    demo.stop()
    bench.page.get_by_role("button", name=kind["title"]).first.click()
    expect(bench.page.get_by_role("heading", name=kind["title"], level=1)).to_be_visible()
    bench.page.reload()
    expect(bench.page.get_by_role("heading", name=kind["title"], level=1)).to_be_visible()
    demo.start_away()
    other = {"request_id": "00000000-0000-4000-8000-000000000002", "kind": "scan"}
    theirs = ASK.post(f"{demo.address}/api/jobs/311/sheets", json=other).json()
    demo.let_in()
    expect(bench.page).to_have_url(re.compile(r"/jobs/311/s\d+$"))
    route = ASK.get(f"{demo.address}/api/jobs/311").json()["route"]
    mine = [k for k in route if k["kind"] == "scan" and k["sheet_id"] != theirs["id"]]
    assert len(mine) == 1
    assert bench.page.url.endswith(f"/jobs/311/{mine[0]['key']}")


def test_what_is_noted_on_a_job_waits_too(make_bench: MakeBench, demo: Live) -> None:
    """A repair, a procedure set aside, the complaint: said beside the job, sent later; a clash is asked about."""
    bench = make_bench(keeps=True)
    page = bench.go("/jobs/311/repair").page
    kept(page)
    form = page.get_by_role("form", name="Note a repair")
    expect(form).to_be_visible()
    demo.stop()
    form.get_by_role("button", name="3", exact=True).click()
    form.get_by_role("button", name="cleaned", exact=True).click()
    form.get_by_role("button", name="Keep").click()
    waits = page.get_by_role("region", name="Noted, not sent yet")
    expect(waits).to_contain_text("3 cleaned")
    page.get_by_role("button", name="Complaint and codes").click()
    page.get_by_role("dialog").get_by_label("Complaint").fill("stalls when hot")
    page.get_by_role("dialog").get_by_role("button", name="Keep").click()
    expect(waits).to_contain_text("stalls when hot")
    head(bench, "2 wait in this browser since")
    page.reload()
    expect(waits).to_contain_text("3 cleaned")
    demo.start_away()
    path = f"{demo.address}/api/jobs/311"
    version = ASK.get(path).json()["version"]
    theirs = {"version": version, "complaint": "misfires"}
    assert ASK.patch(path, json=theirs).status_code == 200
    demo.let_in()
    head(bench, "1 to decide")
    bench.page.get_by_role("button", name="Look at it").click()
    asked = page.get_by_role("dialog")
    expect(asked).to_contain_text("meanwhile somebody made it “misfires”")
    asked.get_by_role("button", name="Take yours").click()
    expect(asked).to_be_hidden()
    expect(waits).to_be_hidden()
    job = ASK.get(f"{demo.address}/api/jobs/311").json()
    assert job["complaint"] == "stalls when hot"
    (repair,) = [r for r in job["finishing"]["repairs"] if "3" in r["words"]]
    assert "cleaned" in repair["words"]
