"""Practice in the browser: begun, worked by hand and by the box, handed in, marked."""

import re

import pytest
from fastapi import FastAPI
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from tests.conftest import emptied
from tests.drivers import Bench
from tests.virtual_time import VirtualTime
from tests.web.conftest import MakeBench, Obstacles

from plumb.practice.exercises import EXERCISES, engine_of


@pytest.fixture
def school_bench(make_bench: MakeBench, _practice: Engine, _app_with_pages: FastAPI) -> MakeBench:
    """A technician who practises, in an empty world of practice."""
    _app_with_pages.state.world.close()
    emptied(_practice)
    return make_bench


def begin(bench: Bench, exercise: str) -> Page:
    """From the list of exercises, by keyboard alone."""
    page = bench.go("/practice/").page
    page.get_by_label("Who practises").fill("Ines K.")
    page.get_by_role("button", name=f"Begin exercise {exercise}").focus()
    bench.press("Enter")
    expect(page.get_by_role("region", name="Bench")).to_be_visible()
    return page


def lean_of(exercise: str) -> str:
    """The number of its one bad injector."""
    (k,) = engine_of(EXERCISES[exercise]).truth
    return str(k + 1)


def test_an_exercise_by_keyboard(school_bench: MakeBench) -> None:
    """Looked at with Q, typed as it was read, the verdict with V; a hundred points, and the shop knows nothing."""
    bench = school_bench()
    page = begin(bench, "01")
    bench.press("q")
    seen = page.get_by_role("list", name="What is seen")
    expect(seen).to_contain_text("misfire")
    bench.go("/practice/jobs/1/pressure_drop")
    for row in "1234":
        expect(page.get_by_role("button", name=f"Do injector {row}")).to_be_visible()
        bench.press("q")
        line = seen.get_by_role("listitem").filter(has_text=re.compile(rf"^{row}\d"))
        expect(line).to_be_visible()
        figures = re.search(r"([\d.]+) psi, then ([\d.]+) psi", line.inner_text())
        assert figures is not None
        bench.burst(f"{figures[1]} {figures[2]}")
        bench.saved()
    lean = lean_of("01")
    bench.says(f"Injector {lean} gives")
    route = page.get_by_role("navigation", name="Route")
    expect(route).not_to_contain_text("next")
    expect(page.get_by_text("Next:")).to_have_count(0)
    bench.press("v")
    page.get_by_label(f"Injector {lean} is").select_option("gives_less")
    page.get_by_label(f"Do with injector {lean}").select_option("clean")
    page.get_by_role("button", name="Hand it in").press("Enter")
    expect(page.get_by_role("status").filter(has_text="100 of 100")).to_be_visible()
    page.reload()
    expect(page.get_by_text("What was hidden:")).to_be_visible()
    page.get_by_role("link", name="Another exercise").click()
    expect(page.get_by_text("best 100")).to_be_visible()
    page.get_by_role("link", name="Back to the workshop").click()
    expect(page.get_by_text("No job is open")).to_be_visible()


def test_the_box_works_a_practice_engine(
    school_bench: MakeBench, virtual_time: VirtualTime
) -> None:
    """The same capture as on a real engine, at the run's own bench; the lean one shows."""
    bench = school_bench()
    page = begin(bench, "01")
    bench.go("/practice/jobs/1/pressure_drop")
    page.get_by_role("button", name="Let bench burst box work it").click()
    page.get_by_role("button", name="Begin", exact=True).click()
    with virtual_time.goes_on():
        expect(page.get_by_text("4 taken by bench gauge")).to_be_visible(timeout=150_000)
    bench.says(f"Injector {lean_of('01')} gives")


def test_dangers_and_hints_are_told_where_they_happen(school_bench: MakeBench) -> None:
    """The rail opened under pressure, a hint for four points; in an exam there is none to be had."""
    bench = school_bench()
    page = begin(bench, "06")
    page.get_by_role("button", name="Start the engine").press("Enter")
    expect(page.get_by_text("engine runs")).to_be_visible()
    # A button that worked has not lost the keyboard.
    expect(page.get_by_role("button", name="Stop the engine")).to_be_focused()
    page.get_by_role("button", name="Take the rail out").press("Enter")
    expect(page.get_by_role("button", name="Put the rail back")).to_be_focused()
    expect(page.get_by_role("list", name="What could have hurt someone")).to_contain_text(
        "opened with"
    )
    page.get_by_role("button", name="Start the engine").click()
    expect(page.get_by_text("put it back first")).to_be_visible()
    page.get_by_role("button", name="A hint, for 4 points").click()
    expect(page.get_by_text("1 hint", exact=True)).to_be_visible()
    bench.go("/practice/")
    page.get_by_role("button", name="Exam: one is drawn").click()
    expect(page.get_by_text("An exam: there are no hints.")).to_be_visible()
    expect(page.get_by_role("button", name="A hint")).to_have_count(0)


def test_what_waits_in_a_browser_waits_in_its_own_world(school_bench: MakeBench) -> None:
    """The outbox of practice is another one than the shop's."""
    bench = school_bench()
    page = begin(bench, "01")
    bench.go("/practice/jobs/1/pressure_drop")
    expect(page.get_by_role("button", name="Do injector 1")).to_be_visible()
    bench.burst("43.5 24").saved()
    bench.go("/")
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    names = page.evaluate("indexedDB.databases().then((all) => all.map((d) => d.name).sort())")
    assert names == ["plumb", "plumb/practice"]


def test_practice_can_be_used_by_everybody(school_bench: MakeBench) -> None:
    """Axe on the list, the bench, the verdict and the marks, light and dark; nothing is wider than any screen."""
    bench, looked = school_bench(), Obstacles()
    page = begin(bench, "06")
    bench.press("q")
    expect(page.get_by_role("list", name="What is seen")).to_be_visible()

    def fits() -> None:
        assert looked.on(page) == []
        for width in (768, 390):
            bench.fits(width)
        # On a phone other parts are shown than on a desk.
        assert looked.on(page) == []
        bench.fits(1280)

    fits()
    bench.go("/practice/jobs/1/hold")
    expect(page.get_by_label("Try at the hold")).to_be_visible()
    fits()
    bench.go("/practice/jobs/1/verdict")
    expect(page.get_by_role("button", name="Hand it in")).to_be_visible()
    fits()
    page.get_by_role("button", name="Hand it in").click()
    expect(page.get_by_text("What was hidden:")).to_be_visible()
    fits()
    bench.go("/practice/")
    expect(page.get_by_role("heading", name="Handed in")).to_be_visible()
    fits()
