"""A whole petrol job of six injectors, every sheet, by keyboard alone; and every sheet on a phone."""

import re

from playwright.sync_api import expect
from sqlalchemy import Engine
from tests.drivers import Bench, eventually, load_demo
from tests.web.conftest import MakeBench


def heading(bench: Bench, name: str) -> Bench:
    """The sheet of that name is open."""
    expect(bench.page.get_by_role("heading", name=name, level=1)).to_be_visible()
    return bench


def focus_choice(bench: Bench, name: str) -> Bench:
    """Tab until a choice of that name has the focus, then press it."""
    # The heading of a sheet is there before its states are; sixty Tabs can be over by then.
    expect(bench.page.get_by_role("button", name=name, exact=True).first).to_be_visible()
    for _ in range(60):
        if bench.page.evaluate("document.activeElement?.textContent?.trim()") == name:
            return bench.press("Space")
        bench.press("Tab")
    message = f"no choice {name} on the way of the Tab key"
    raise AssertionError(message)


def window(bench: Bench, texts: list[str], key: str = "w") -> Bench:
    """Open the window's knob with its letter, type its fields, Enter."""
    bench.press(key)
    return fill(bench, texts)


def fill(bench: Bench, texts: list[str]) -> Bench:
    """The first fields of the window that opens, Enter; it closes."""
    first = bench.page.locator("[role=dialog] input").first
    expect(first).to_be_visible()
    first.focus()
    for n, text in enumerate(texts):
        bench.press(*(["Tab"] if n else []), "Control+a").type(text)
    bench.press("Enter")
    expect(bench.page.locator("[role=dialog]")).to_be_hidden()
    return bench


def walk_round(bench: Bench) -> None:
    """Two complaints, a dry hose, connectors home."""
    heading(bench, "Walk-round")
    focus_choice(bench, "rough idle")
    focus_choice(bench, "smell of fuel")
    bench.says("rough idle and smell of fuel")
    focus_choice(bench, "dry")
    focus_choice(bench, "all home")
    bench.says("nothing wrong seen outside")
    onward(bench)


def supply(bench: Bench) -> None:
    """The pump runs; a window; three states."""
    heading(bench, "Supply pressure")
    focus_choice(bench, "it runs")
    runs = bench.page.get_by_role("button", name="it runs")
    expect(runs).to_have_attribute("aria-pressed", "true")
    bench.entry("pressure").focus()
    window(bench, ["48", "55", "card 3"])
    bench.entry("pressure").focus()
    bench.burst("50.5").burst("42").burst("50.5")
    bench.says("The supply is inside its window").saved()
    bench.press("]")
    heading(bench, "Scan")
    bench.press("]")


def hold(bench: Bench) -> None:
    """A limit, three moments, three steps of the board."""
    heading(bench, "Hold")
    window(bench, ["5", "300"])
    bench.entry("pressure").focus()
    bench.burst("50.5").says("50.5").burst("49 60").burst("43.5 300")
    bench.says("Does not hold")
    for step, outcome in (
        ("Vacuum hose looked into", "dry"),
        ("Return clamped", "still falls"),
        ("Supply clamped at shut-off", "still falls"),
    ):
        bench.page.get_by_role("button", name=f"{step}: {outcome}").focus()
        bench.press("Enter")
    left = bench.page.get_by_role("region", name="What is left")
    expect(left.get_by_text("it still falls with the supply clamped")).to_be_visible()
    expect(left.locator("b")).to_have_count(3)
    onward(bench)


def lamp_and_coils(bench: Bench) -> None:
    """Six lamps by one letter each; six coils, one without its point."""
    heading(bench, "Command")
    bench.press(*"bbbbbb")
    bench.says("All blink").saved()
    bench.press("]")
    heading(bench, "Coils")
    window(bench, ["12", "15", "15", "30", "2", "card 3"])
    bench.entry("coil").focus()
    for ohm in ("13.2", "13.4", "13.1", "133", "13.0", "13.2"):
        bench.burst(ohm)
        if ohm == "133":
            expect(bench.asked()).to_contain_text("Did you mean 13.3?")
            bench.press("Alt+Enter")
            expect(bench.asked()).to_be_hidden()
    bench.says("All six coils are in plumb").saved()
    bench.press("]")


def bursts(bench: Bench) -> None:
    """Six bursts, repeats as they are asked for, then the engine is run."""
    heading(bench, "Drop per injector")
    for figures in ("50.5 27", "50 26.5", "50.5 27.5", "50.5 32.5", "50.5 23.5", "50 26.5"):
        bench.burst(figures)
    bench.says("Injector 4 gives 26 % less")
    for _ in range(3):
        says = bench.page.get_by_label("What the set says", exact=True)
        if "Repeat injector 5" not in says.inner_text():
            break
        bench.burst("50.5 23.5").saved()
        bench.page.wait_for_timeout(150)
    bench.says("injector 5 gives")
    raw = bench.page.get_by_role("region", name="Raw fuel")
    expect(raw).to_contain_text("Raw fuel in cylinders")
    bench.press("e")
    expect(raw).to_contain_text("s to go")
    bench.page.get_by_role("button", name="It ran long enough").focus()
    bench.press("Enter")
    expect(raw).to_be_hidden()
    onward(bench)


def onward(bench: Bench) -> None:
    """The next sheet, when no field has the focus."""
    bench.page.locator("body").focus()
    bench.press("]")


def test_a_whole_petrol_job_by_keyboard(make_bench: MakeBench) -> None:
    """Walk-round to verdict; one clogged, one that leaks at its tip."""
    bench = make_bench(begin="outside")
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    expect(bench.page.get_by_role("dialog")).to_be_visible()
    bench.type("Torvik Fastnet 3.0 V6").press("Tab", "ArrowRight", "ArrowRight", "Enter")
    walk_round(bench)
    supply(bench)
    hold(bench)
    lamp_and_coils(bench)
    bursts(bench)
    heading(bench, "Tip leak")
    bench.press(*"dddd", "w", "d")
    bench.says("Injector 5 weeps").saved()
    bench.press("v")
    heading(bench, "Verdict")
    for words in ("Replace 5: leaks at the tip.", "Clean and repeat 4:", "Four are sound."):
        expect(bench.page.locator("main")).to_contain_text(words)
    expect(bench.page.get_by_label("What the set says", exact=True)).to_contain_text("Ruled out")
    again = make_bench(begin="outside")
    again.page.goto(bench.page.url)
    expect(again.page.locator("main")).to_contain_text("Replace 5: leaks at the tip.")


def test_the_other_three_sheets_by_keyboard(make_bench: MakeBench, engine: Engine) -> None:
    """Loaded coils, running balance, flow bench: begun over the API's route, typed at the screen."""
    load_demo(engine)
    bench = make_bench()
    bench.go("/jobs/316/v").says("too high")
    bench.entry("drop").focus()
    bench.press("ArrowDown", "ArrowDown", "r").burst("6.72")
    expect(bench.row("3")).to_contain_text("mean of 2")
    bench.press("Control+z")
    expect(bench.row("3")).not_to_contain_text("mean of 2")
    bench.turn_to("/jobs/321/g").says("Injector 3 gives")
    bench.press("ArrowDown", "ArrowDown", "r").burst("20.5")
    expect(bench.row("3")).to_contain_text("mean of 5")
    bench.turn_to("/jobs/318/f").says("All four are in plumb")
    bench.press("r", "s", "s").burst("61")
    expect(bench.row("1")).to_contain_text("spray even, spray streaky")


def test_the_shelf_in_two_keys(make_bench: MakeBench, engine: Engine) -> None:
    """W, G and U open window, gauge and rule; Alt and a digit takes one from the shelf."""
    load_demo(engine)
    bench = make_bench()
    bench.begun()
    for figures in ("50 26", "50 26", "50 30", "50 26"):
        bench.burst(figures)
    bench.says("Injector 3 gives").saved()
    bench.press("g")
    expect(bench.page.get_by_text("dial B, coarse")).to_be_visible()
    bench.press("Alt+2")
    bench.says("not settled")
    expect(bench.page.locator("[role=dialog]")).to_be_hidden()
    bench.press("u")
    expect(bench.page.get_by_text("Saltmere, mean 2 psi")).to_be_visible()
    bench.press("Alt+2")
    bench.says("than the mean of all")
    expect(bench.page.locator("[role=dialog]")).to_be_hidden()
    bench.press("w")
    expect(bench.page.get_by_text("60 pulses of 9 ms")).to_be_visible()
    bench.press("Alt+1")
    expect(bench.page.get_by_role("button", name="Expected 23.5 psi")).to_be_visible()


def test_the_shelf_is_kept_and_changed(bench: Bench) -> None:
    """A gauge and a window added, a slip named, one taken off."""
    bench.go("/shelf")
    bench.page.get_by_role("region", name="Gauges").get_by_role("button", name="Add").click()
    bench.page.get_by_label("Name").fill("meter")
    bench.page.get_by_label("Unit").select_option("ohm")
    bench.page.get_by_label("Smallest step").fill("a bit")
    bench.page.get_by_role("button", name="Keep").click()
    expect(bench.page.get_by_role("dialog")).to_contain_text("a figure is typed with digits")
    bench.page.get_by_label("Smallest step").fill("0.1")
    bench.page.get_by_role("button", name="Keep").click()
    expect(bench.page.get_by_text("reads to 0.1 ohm")).to_be_visible()
    bench.page.get_by_role("region", name="Windows").get_by_role("button", name="Add").click()
    bench.page.get_by_label("Name").fill("card 3")
    expect(bench.page.get_by_label("Key on: lower limit")).to_be_visible()
    bench.page.get_by_label("For the sheet").select_option("Coils")
    bench.page.get_by_label("Lower limit, ohm").fill("11")
    bench.page.get_by_role("button", name="Keep").click()
    expect(bench.page.get_by_text("Coils: low 11")).to_be_visible()
    bench.page.get_by_role("button", name="Take card 3 off the shelf").click()
    expect(bench.page.get_by_text("Coils: low 11")).to_be_hidden()


def test_a_step_is_set_aside_with_a_reason(bench: Bench) -> None:
    """It stays on the route, crossed out."""
    bench.begun()
    bench.page.get_by_role("button", name="Set Tip leak aside").click()
    bench.page.get_by_label("Why not").fill("manifold stays on")
    bench.press("Enter")
    expect(bench.page.get_by_role("navigation", name="Route")).to_contain_text("manifold stays on")


def test_the_next_step_is_one_key_away(bench: Bench, engine: Engine) -> None:
    """From the verdict to the sheet that it asks for, which is begun."""
    load_demo(engine)
    bench.go("/jobs/321/verdict")
    bench.page.get_by_role("button", name="Go there").click()
    heading(bench, "Coils")


PHONE = {
    "311/w": ("heading", "Walk-round"), "311/p": ("textbox", "pressure"),
    "311/h": ("textbox", "pressure"), "311/n": ("button", "blinks"), "311/c": ("textbox", "coil"),
    "316/v": ("textbox", "drop"), "311/s1": ("textbox", "first"), "321/g": ("textbox", "drop"),
    "311/t": ("button", "weeps"), "318/f": ("textbox", "volume"), "311/verdict": ("heading", "Verdict"),
}  # fmt: skip


def test_every_sheet_on_a_phone_and_a_tablet(make_bench: MakeBench, engine: Engine) -> None:
    """Nothing wider than the screen; what is pressed or typed with is there, 48 px high."""
    load_demo(engine)
    bench = make_bench(820, 844, has_touch=True, is_mobile=True).go()
    for path, (role, name) in PHONE.items():
        bench.turn_to(f"/jobs/{path}")
        there = bench.page.get_by_role(role, name=re.compile(name)).first  # type: ignore[arg-type]
        expect(there).to_be_visible()
        bench.fits(820).fits(390)
        expect(there).to_be_visible()
        if role == "button":
            # Laid out anew for a smaller screen it may not stand anywhere for a moment.
            box = eventually(there.bounding_box)
            assert box is not None
            assert box["height"] >= 47.5


def test_every_sheet_is_typed_into_on_a_phone(make_bench: MakeBench, engine: Engine) -> None:
    """By touch alone: a lamp, a coil by the pad, a moment of a hold, a choice of the walk-round."""
    load_demo(engine)
    bench = make_bench(390, 844, has_touch=True, is_mobile=True)
    bench.go("/jobs/325/w")
    bench.page.get_by_role("button", name="surges").tap()
    bench.says("Fuel stands")
    expect(bench.page.get_by_role("button", name="surges")).to_have_attribute(
        "aria-pressed", "true"
    )
    bench.turn_to("/jobs/317/n").says("Command 3 is dark")
    bench.page.get_by_role("button", name="Enter injector 3").tap()
    bench.page.get_by_role("button", name="B blinks").tap()
    bench.says("All blink")
    bench.turn_to("/jobs/316/c").says("Injector 3 reads too high")
    bench.page.get_by_role("button", name="Enter injector 1", exact=True).tap()
    bench.page.get_by_role("button", name="R repeat").tap()
    pad = bench.page.get_by_role("group", name="Number pad")
    for key in ("1", "3", "point", "5", "next"):
        pad.get_by_role("button", name=key, exact=True).tap()
    expect(bench.row("1")).to_contain_text("13.45")


def test_a_second_hold_is_laid_over_the_first(bench: Bench, engine: Engine) -> None:
    """Taken again: a curve of its own, the one before dashed under it and told to those who hear it."""
    load_demo(engine)
    bench.go("/jobs/312/h")
    curve = bench.page.get_by_role("main").locator("svg[role=img]").first
    expect(curve.locator("[data-before]")).to_have_count(0)
    bench.page.get_by_role("button", name="Take it again").click()
    expect(curve.locator("[data-before] circle").first).to_be_visible()
    expect(bench.page.get_by_text("the attempt before this one")).to_be_visible()
    expect(curve).to_have_attribute("aria-label", "No reading yet")
    bench.burst("50").saved()
    expect(curve).to_have_attribute("aria-label", re.compile(r"^50\.0 psi at 0 s.*; before: "))
