"""No axe violation on any screen, light and dark; a phone held in one hand; touch twins."""

from collections.abc import Callable

import pytest
from playwright.sync_api import expect
from sqlalchemy import Engine
from tests.drivers import Bench, load_demo
from tests.web.conftest import Asked, MakeBench, Obstacles


def ready(bench: Bench, heading: str = "Today") -> Bench:
    """A screen is there, and its keys work."""
    expect(bench.page.get_by_role("heading", name=heading, level=1)).to_be_visible()
    return bench


SCREENS: dict[str, Callable[[Bench], object]] = {
    "today": lambda b: b.turn_to("/"),
    "nothing found": lambda b: ready(b.turn_to("/")).press("/").type("no such"),
    "new job": lambda b: ready(b.turn_to("/")).press("n"),
    "bring in": lambda b: b.turn_to("/").page.get_by_role("button", name="Bring in a job file").click(),
    "one lean": lambda b: b.turn_to("/jobs/301"),
    "split": lambda b: b.turn_to("/jobs/306"),
    "dead": lambda b: b.turn_to("/jobs/305"),
    "begun": lambda b: b.turn_to("/jobs/310"),
    "question": lambda b: b.turn_to("/jobs/310").says("two measured").type("26 50").press("Enter"),
    "keys": lambda b: b.turn_to("/jobs/301").says("Injector").press("?"),
    "gauge": lambda b: b.turn_to("/jobs/301").page.get_by_role("button", name="Gauge").click(),
    "rule": lambda b: b.turn_to("/jobs/301").page.get_by_role("button", name="Rule ").first.click(),
    "working": lambda b: b.turn_to("/jobs/301").page.get_by_role(
        "button", name="How it was worked out").click(),
    "engine": lambda b: b.turn_to("/jobs/301").page.get_by_role(
        "button", name="Vehicle and engine").click(),
    "complaint": lambda b: b.turn_to("/jobs/301").page.get_by_role(
        "button", name="Complaint and codes").click(),
    "keys of today": lambda b: ready(b.turn_to("/")).press("?"),
    "keys of a verdict": lambda b: ready(b.turn_to("/jobs/311/verdict"), "Verdict").press("?"),
    "walk-round": lambda b: b.turn_to("/jobs/311/w"),
    "supply": lambda b: b.turn_to("/jobs/311/p"),
    "supply without pump": lambda b: b.turn_to("/jobs/319/p"),
    "hold": lambda b: b.turn_to("/jobs/311/h"),
    "heat soak": lambda b: b.turn_to("/jobs/321/h"),
    "collapse": lambda b: b.turn_to("/jobs/312/h"),
    "command": lambda b: b.turn_to("/jobs/317/n"),
    "coils": lambda b: b.turn_to("/jobs/315/c"),
    "loaded coils": lambda b: b.turn_to("/jobs/316/v"),
    "idling balance": lambda b: b.turn_to("/jobs/321/g"),
    "tip leak": lambda b: b.turn_to("/jobs/311/t"),
    "flow bench": lambda b: b.turn_to("/jobs/318/f"),
    "verdict": lambda b: b.turn_to("/jobs/311/verdict"),
    "verdict with a contradiction": lambda b: b.turn_to("/jobs/322/verdict"),
    "verdict without pump": lambda b: b.turn_to("/jobs/319/verdict"),
    "window": lambda b: b.turn_to("/jobs/311/c").says("All six").press("w"),
    "set aside": lambda b: b.turn_to("/jobs/301").page.get_by_role(
        "button", name="Set Tip leak aside").click(),
    "working of coils": lambda b: b.turn_to("/jobs/311/c").page.get_by_role(
        "button", name="How it was worked out").click(),
    "corrections": lambda b: b.turn_to("/jobs/329/c"),
    "cranking balance": lambda b: b.turn_to("/jobs/328/b"),
    "return volumes": lambda b: b.turn_to("/jobs/327/r"),
    "diesel verdict": lambda b: b.turn_to("/jobs/326/verdict"),
    "nozzles": lambda b: b.turn_to("/jobs/330/s3"),
    "nozzles, the seat held": lambda b: b.turn_to("/jobs/330/s3").says("opens early").press("t"),
    "nozzles in thou": lambda b: b.turn_to("/jobs/332/s3"),
    "rail": lambda b: b.turn_to("/jobs/333/s3"),
    "humps": lambda b: b.turn_to("/jobs/334/s4"),
    "pressure log": lambda b: b.turn_to("/jobs/335/s2").page.get_by_role(
        "button", name="Move burst 5").click(),
    "bring in a trace": lambda b: b.turn_to("/jobs/335/s2").page.get_by_role(
        "button", name="Bring in another trace").click(),
    "mechanical verdict": lambda b: b.turn_to("/jobs/330/verdict"),
    "shelf": lambda b: b.turn_to("/shelf"),
    "shelf, a window": lambda b: b.turn_to("/shelf").page.get_by_role(
        "button", name="Change Torvik port coils").click(),
    "shelf, a gauge": lambda b: b.turn_to("/shelf").page.get_by_role(
        "button", name="Change digital E").click(),
    "rules": lambda b: b.turn_to("/rules").page.get_by_role("button", name="Stop").click(),
    "lost": lambda b: b.turn_to("/nowhere"),
    "no such job": lambda b: b.turn_to("/jobs/none"),
}  # fmt: skip


OVER = {
    "new job", "bring in", "keys", "gauge", "rule", "working", "engine", "complaint",
    "keys of today", "keys of a verdict", "window", "set aside", "working of coils",
    "shelf, a window", "shelf, a gauge", "bring in a trace",
}  # fmt: skip
"""What opens over a screen."""
PARTS = 2


@pytest.mark.parametrize("part", range(PARTS))
def test_no_axe_violation(make_bench: MakeBench, engine: Engine, part: int) -> None:
    """WCAG rules of axe-core on every screen and every window over it, light and dark."""
    load_demo(engine)
    bench, looked = make_bench(), Obstacles()
    asked = Asked(bench.page)
    grounds = set()
    for theme in ("dark", "light"):
        bench.go().page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
        grounds.add(bench.page.evaluate("getComputedStyle(document.body).color"))
    assert len(grounds) == 2
    found: dict[str, object] = {}
    for name, reach in list(SCREENS.items())[part::PARTS]:
        reach(bench)
        over = bench.page.get_by_role("dialog")
        expect(over, name).to_have_count(1 if name in OVER else 0)
        expect(bench.page.get_by_role("heading", name="Opening…")).to_have_count(0)
        asked.all_came()
        found[name] = looked.on(bench.page)
        bench.page.keyboard.press("Escape")
        expect(over, name).to_have_count(0)
    assert not any(found.values()), found


def test_a_phone_in_one_hand(make_bench: MakeBench) -> None:
    """390 wide, touch: the pad types, nothing is wider than the screen, targets are 48 px."""
    bench = make_bench(390, 844, has_touch=True, is_mobile=True)
    bench.begun()
    pad = bench.page.get_by_role("group", name="Number pad")
    for key in ("5", "0", "next", "2", "6", "next"):
        pad.get_by_role("button", name=key, exact=True).tap()
    expect(bench.row("1")).to_contain_text("24.0")
    width = bench.page.evaluate("document.documentElement.scrollWidth")
    assert width <= 390
    for button in bench.page.get_by_role("region", name="Entry").get_by_role("button").all():
        box = button.bounding_box()
        if box is not None and "all keys" not in button.inner_text():
            assert min(box["width"], box["height"]) >= 47.5, button.inner_text()


SIZES = ((1280, 800), (1024, 768), (768, 1024), (390, 844))


def test_nothing_is_cut_off(bench: Bench, engine: Engine) -> None:
    """No screen scrolls sideways, from a workshop's monitor to a phone."""
    load_demo(engine)
    asked = Asked(bench.go().page)
    for path in ("/", "/jobs/304", "/jobs/330/s3", "/jobs/335/s2", "/jobs/334/s4", "/jobs/333/s3"):
        bench.turn_to(path)
        asked.all_came()
        for width, height in SIZES:
            bench.fits(width, height)
