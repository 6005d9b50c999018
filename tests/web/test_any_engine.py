"""Engines of any kind, repeats, what stands on paper, and keys on every screen."""

import re
import subprocess
from pathlib import Path

import pytest
from playwright.sync_api import expect
from sqlalchemy import Engine
from tests.drivers import Bench, load_demo
from tests.web.conftest import Asked, MakeBench

SIZES = [(1280, 800), (1024, 768), (390, 844)]


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (390, 844)])
def test_an_engine_of_twelve_from_the_first_key_to_its_engine_dialog(
    make_bench: MakeBench, width: int, height: int
) -> None:
    """Cylinders typed; an injector renamed and one added; what was read is retired, and stays."""
    bench = make_bench(width, height)
    bench.go()
    page = bench.page
    page.get_by_role("button", name=re.compile("New job")).click()
    page.get_by_label("Vehicle", exact=True).fill("Torvik long boat")
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("other", exact=True).click()
    dialog.get_by_label("1 to 16").fill("12")
    dialog.get_by_role("button", name="Go").click()
    expect(page.get_by_role("button", name=re.compile("^Enter injector"))).to_have_count(12)
    bench.page.get_by_label(re.compile("^first, ")).click()
    bench.type("50 26").press("Enter")
    bench.saved()
    if width < 1280:
        page.get_by_text("Route", exact=False).first.click()
    page.get_by_role("button", name="Vehicle and engine").click()
    dialog.get_by_label("Label of injector 2", exact=True).fill("Aft")
    dialog.get_by_role("button", name="Take injector 1 away").click()
    dialog.get_by_role("button", name="Add an injector").click()
    expect(dialog.get_by_label("Label of injector 1", exact=True)).to_have_value("1")
    dialog.get_by_label("Label of injector 1", exact=True).fill("Cold")
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog).to_have_count(0)
    expect(page.get_by_role("button", name="Enter injector Aft")).to_be_visible()
    expect(page.get_by_role("button", name="Enter injector Cold")).to_be_visible()
    expect(page.get_by_role("row").filter(has_text="24.0")).to_have_count(1)


def test_one_injector_for_all_is_asked_what_it_should_give(bench: Bench) -> None:
    """By keyboard: throttle body has one for all by itself; one burst, and the expected drop."""
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    expect(bench.page.get_by_role("dialog")).to_be_visible()
    bench.type("Brannock skiff").press("Tab", "Tab", "Tab", "ArrowRight")
    expect(bench.page.get_by_role("radio", name="one for all")).to_be_checked()
    bench.press("Enter")
    expect(bench.entry("first")).to_be_focused()
    expect(bench.page.get_by_role("columnheader", name="Injector", exact=True)).to_be_visible()
    bench.burst("40 20").says("Say what it should give")
    bench.press("w")
    bench.page.get_by_label(re.compile("^Drop of one burst")).fill("20")
    bench.press("Enter").says("The only one is in plumb")


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (390, 844)])
def test_after_cleaning_one_is_read_again_and_the_others_stay(
    make_bench: MakeBench, engine: Engine, width: int, height: int
) -> None:
    """From the verdict: a sheet after cleaning by itself, on the injector that was cleaned."""
    load_demo(engine)
    bench = make_bench(width, height)
    bench.go("/jobs/301/verdict")
    page = bench.page
    page.get_by_role("button", name="Start the repeat sheet, after cleaning 4").click()
    expect(page.get_by_role("heading", name="Drop per injector, 2nd")).to_be_visible()
    expect(page.get_by_role("main")).to_contain_text("after cleaning")
    expect(bench.row("4")).to_have_attribute("aria-current", "true")
    bench.page.get_by_label(re.compile("^first, ")).click()
    bench.burst("52 29.5")
    expect(bench.row("4")).to_have_attribute("aria-current", "true")
    bench.burst("52 29.5").saved()
    expect(page.get_by_role("main")).to_contain_text("Carried over:")
    expect(bench.row("4")).to_contain_text("mean of 2")
    expect(bench.row("1")).to_contain_text("carried over from s1")
    expect(bench.row("4")).to_contain_text("in plumb")
    bench.press("v")
    sentence = page.get_by_role("main")
    expect(sentence).to_contain_text("sound")
    expect(sentence).not_to_contain_text(re.compile("Clean and repeat 4|Repeat 1"))


def test_an_empty_sheet_opened_by_mistake_is_set_aside_or_taken_away(bench: Bench) -> None:
    """By its dots on the route."""
    bench.begun()
    page = bench.page
    page.get_by_role("button", name=re.compile("^Coils")).first.click()
    expect(page.get_by_role("heading", name="Coils")).to_be_visible()
    page.get_by_role("button", name="Set Coils aside").click()
    page.get_by_label("Why not").fill("no meter here")
    page.get_by_role("button", name="Set aside", exact=True).click()
    expect(page.get_by_role("navigation", name="Route")).to_contain_text("no meter here")
    page.get_by_role("button", name="Set Coils aside").click()
    page.get_by_role("button", name="Take this empty sheet away").click()
    expect(page.get_by_role("heading", name="Drop per injector")).to_be_visible()
    page.get_by_role("button", name="Complaint and codes").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Codes, with a space between").fill("P0304 x9")
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(dialog.get_by_role("alert")).to_contain_text("a code is P, B, C or U")
    dialog.get_by_label("Codes, with a space between").fill("p0304")
    dialog.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("banner")).to_contain_text("P0304")
    page.get_by_role("button", name="Complaint and codes").click()
    dialog.get_by_role("button", name="Take this empty job away").click()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    expect(page.get_by_text("Van", exact=True)).to_have_count(0)


def test_a_rail_pressure_is_typed_while_cranking(bench: Bench) -> None:
    """An engine that does not start: one row, wanted and actual, and what follows from it."""
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    bench.type("Torvik Dogger").press("Tab", "Tab", "Tab", *["ArrowRight"] * 3)
    bench.page.get_by_label(re.compile("^Complaint")).fill("cranks but does not start")
    bench.press("Enter")
    page = bench.page
    expect(page.get_by_role("heading", name=re.compile("."), level=1)).to_be_visible()
    page.get_by_role("button", name=re.compile("^Rail pressure")).first.click()
    expect(page.get_by_role("heading", name="Rail pressure")).to_be_visible()
    expect(page.get_by_role("row")).to_have_count(2)
    expect(page.get_by_label("What the set says")).to_contain_text("Cranking: clear of belts")
    bench.type("300 180").press("Enter")
    bench.says("120 bar below what is wanted while cranking")


def test_a_question_mark_tells_the_keys_on_every_screen(bench: Bench, engine: Engine) -> None:
    """Also where nothing is typed; the list fits a workshop's monitor, a tablet and a phone."""
    load_demo(engine)
    asked = Asked(bench.go().page)
    keys = bench.page.get_by_role("dialog", name="Keys")
    for path in ("/", "/shelf", "/jobs/318/verdict", "/jobs/311/w", "/jobs/311/h", "/jobs/311/s1"):
        bench.turn_to(path)
        expect(bench.page.get_by_role("heading", level=1)).not_to_have_text("Opening…")
        # A sheet's keys work once its own part of the pages has come.
        asked.all_came()
        for width, height in SIZES:
            bench.page.set_viewport_size({"width": width, "height": height})
            bench.press("?")
            expect(keys).to_be_visible()
            bench.press("Escape")
            expect(keys).to_have_count(0)


def test_on_paper_a_screen_is_a_clean_page(bench: Bench, engine: Engine, tmp_path: Path) -> None:
    """No button and no bar; whole header, date, page numbers; read out of the PDF itself."""
    load_demo(engine)
    bench.go()
    for path in ("/", "/jobs/301/s1", "/jobs/318/verdict"):
        _is_clean_on_paper(bench, tmp_path, path)


def _is_clean_on_paper(bench: Bench, tmp_path: Path, path: str) -> None:
    bench.turn_to(path)
    expect(bench.page.get_by_role("heading", level=1)).not_to_have_text("Opening…")
    if path != "/":
        expect(bench.page.get_by_label("What the set says", exact=True)).to_be_visible()
    if path == "/jobs/301/s1":
        bench.says("Injector 4 gives 29 % less")
    file = tmp_path / "page.pdf"
    bench.page.pdf(path=str(file), format="A4")
    text = subprocess.run(
        ["/usr/bin/pdftotext", "-layout", str(file), "-"],
        capture_output=True,
        text=True,
        check=True,
    ).stdout
    assert "Printed" in text
    assert re.search(r"Page 1 of \d", text)
    for pressed in ("Close the job", "Bring in", "New job", "Find a job", "all keys", "as system"):
        assert pressed not in text
    if path == "/jobs/301/s1":
        assert "Injector 4 gives 29 % less" in text
        assert "dial A, 0.5 psi" in text
        assert "SM-21 pilot van · rough idle when warm · P0304" in text
