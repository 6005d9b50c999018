"""A mechanical and a common-rail job driven whole by keyboard; traces brought in, stopped, moved."""

import re
from pathlib import Path

import numpy as np
from playwright.sync_api import Route, expect
from sqlalchemy import Engine
from tests.conftest import Live
from tests.drivers import Bench, load_demo
from tests.web.conftest import MakeBench
from tests.web.test_petrol_job import fill, focus_choice, heading, window

from plumb.bench.traces import Crank, Log, crank_trace, pressure_log


def new_job(bench: Bench, vehicle: str, system: int, cylinders: int) -> None:
    """N, the name, cylinders and fuel system by arrows, Enter."""
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    expect(bench.page.get_by_role("dialog")).to_be_visible()
    bench.type(vehicle).press("Tab")
    steps = [3, 4, 5, 6, 8].index(cylinders) - 1
    bench.press(*["ArrowRight" if steps > 0 else "ArrowLeft"] * abs(steps))
    bench.press("Tab", "Tab", *["ArrowRight"] * system, "Enter")


def go_there(bench: Bench) -> None:
    """The next step's own key."""
    bench.saved() if bench.page.get_by_role("status").count() else None
    bench.page.get_by_role("button", name="Go there").focus()
    bench.press("Enter")


def knob(bench: Bench, name: str, texts: list[str]) -> None:
    """A condition by its button: its first fields, Enter."""
    bench.page.get_by_role("button", name=re.compile(f"^{name}")).focus()
    fill(bench.press("Enter"), texts)


def nozzle(
    bench: Bench, label: str, shim: str, *bars: str, seat: str = "d", looks: str = "cs"
) -> None:
    """Three strokes, sound and spray, then the seat."""
    row = nozzle_row(bench, label)
    expect(row).to_have_attribute("aria-current", "true")
    bench.burst(f"{bars[0]} {shim}")
    for figure in bars[1:]:
        bench.burst(figure)
    bench.press(*looks)
    bench.press("t")
    expect(bench.page.get_by_role("region", name="Seat")).to_contain_text(f"Hold {label} at")
    bench.press(seat)
    bench.saved()


def nozzle_row(bench: Bench, label: str):  # type: ignore[no-untyped-def]  # noqa: ANN201  a locator
    """A nozzle's row."""
    return bench.row(label)


def test_a_whole_mechanical_job_by_keyboard(make_bench: MakeBench) -> None:
    """Walk-round, cranking balance, nozzles; one re-shimmed, one that wets, the verdict, kept."""
    bench = make_bench(begin="outside")
    new_job(bench, "Brannock field tractor", 4, 3)
    heading(bench, "Walk-round")
    expect(bench.page.get_by_text("Vacuum hose")).to_have_count(0)
    focus_choice(bench, "white smoke")
    expect(bench.page.get_by_text("Connectors and clips")).to_have_count(0)
    bench.says("Next: Cranking balance")
    go_there(bench)
    heading(bench, "Cranking balance")
    for height in ("100", "99", "101"):
        bench.burst(height)
    bench.says("All three are in plumb").says("1, 2 and 3")
    go_there(bench)
    heading(bench, "Opening pressure")
    window(bench, ["122", "132", "5", "card 12"])
    knob(bench, "Shims", ["0.02 0.05 0.10 0.20"])
    bench.entry("opens").focus()
    nozzle(bench, "1", "1.00", "116", "116.5", "116")
    expect(nozzle_row(bench, "1")).to_contain_text("opens early")
    expect(nozzle_row(bench, "1")).to_contain_text("add 2 × 0.02 mm: 125.6 bar")
    nozzle(bench, "2", "1.02", "126", "126.5", "126")
    nozzle(bench, "3", "1.02", "124", "124", "124", seat="w", looks="cccsss")
    expect(nozzle_row(bench, "3")).to_contain_text("wets in")
    bench.says("1: opens early").says("3: seat leaks")
    # The cursor waits on the nozzle that is planned; the shim goes in, and it is stroked again.
    nozzle(bench, "1", "1.05", "127", "127.5", "127")
    expect(nozzle_row(bench, "1")).to_contain_text("0.05 mm added, +11.0 bar")
    bench.says("3: seat leaks").press("v")
    heading(bench, "Verdict")
    main = bench.page.locator("main")
    expect(main).to_contain_text("Clean and repeat 3: seat leaks. Two are sound.")
    again = make_bench()
    again.page.goto(bench.page.url)
    expect(again.page.locator("main")).to_contain_text("Clean and repeat 3")


def written(path: Path, head: str, columns: list[np.ndarray]) -> Path:
    """A CSV of columns."""
    np.savetxt(path, np.column_stack(columns), fmt="%.4f", delimiter=",", header=head, comments="")
    return path


def bring_in(bench: Bench, name: str, path: Path) -> None:
    """A trace: the button by keyboard, the file, Enter."""
    bench.page.get_by_role("button", name=name).focus()
    bench.press("Enter")
    dialog = bench.page.get_by_role("dialog")
    dialog.locator("input[type=file]").set_input_files(path)
    take = dialog.get_by_role("button", name="Take it in")
    expect(take).to_be_enabled()
    take.focus()
    bench.press("Enter")
    expect(dialog).to_be_hidden()


def test_a_whole_common_rail_job_by_keyboard(make_bench: MakeBench, tmp_path: Path) -> None:
    """Corrections with their sign, rail and clamp as traces, return volumes, the verdict."""
    bench = make_bench()
    new_job(bench, "Torvik Dogger 2.2 diesel", 3, 4)
    heading(bench, "Corrections")
    for figure in ("5.1", "-1.6", "-1.7", "-1.8"):
        bench.burst(figure)
    bench.says("1: weak cylinder").says("Next: Rail pressure")
    expect(bench.row("2")).to_contain_text("-1.6")
    go_there(bench)
    heading(bench, "Rail pressure")
    t = np.arange(0.0, 12.0, 0.05)
    rail = written(tmp_path / "rail.csv", "t [s],wanted [bar],actual [bar]",
                   [t, 300 + 0 * t, 298 + 2 * np.sin(9 * t)])  # fmt: skip
    bring_in(bench, "Bring in a trace of the rail", rail)
    bench.says("The rail follows what is wanted").says("Next: Cranking balance")
    go_there(bench)
    heading(bench, "Cranking balance")
    clamp = written(tmp_path / "clamp.csv", "t [s],clamp [A],sync [V]",
                    list(crank_trace(Crank(heights=(1.0,) * 4, noise_a=1.0))))  # fmt: skip
    bring_in(bench, "Bring in a trace of the starter current", clamp)
    bench.says("All four humps are even").says("Next: Return volumes")
    expect(bench.page.get_by_role("img", name=re.compile("3 .* %, even"))).to_be_visible()
    go_there(bench)
    heading(bench, "Return volumes")
    knob(bench, "Spell", ["", "15 15"])
    bench.entry("volume").focus()
    for volume in ("52", "12", "13", "12"):
        bench.burst(volume)
    bench.says("1: returns too much").saved()
    bench.press("v")
    heading(bench, "Verdict")
    expect(bench.page.locator("main")).to_contain_text("Bench test 1: returns too much.")
    expect(bench.page.get_by_label("What the set says", exact=True)).to_contain_text(
        "the rail follows"
    )


def test_a_log_is_dropped_taken_and_moved(make_bench: MakeBench, tmp_path: Path) -> None:
    """Four bursts become eight readings; one mark is moved by its field and read again."""
    bench = make_bench()
    bench.begun()
    bursts = ((342.0, 178.0), (344.0, 181.0), (341.0, 205.0), (343.0, 179.0))
    time_s, pressure, _ = pressure_log(Log(bursts=bursts))
    log = written(tmp_path / "log.csv", "t [s],p [kPa]", [time_s, pressure])
    bring_in(bench, "Bring in a pressure log", log)
    trace = bench.page.get_by_role("region", name="Trace")
    expect(trace.get_by_role("row")).to_have_count(5)
    take = trace.get_by_role("button", name="Take these 4 readings")
    take.focus()
    bench.press("Enter")
    bench.says("Injector 3 gives")
    expect(trace.get_by_text("4, taken")).to_be_visible()
    second = bench.row("2").inner_text()
    trace.get_by_role("button", name="Move burst 2").focus()
    bench.press("Enter")
    ends = trace.get_by_label("Ends, s")
    ends.focus()
    for _ in range(30):
        bench.press("ArrowDown")
    bench.press("Enter")
    expect(trace.get_by_text("set by hand")).to_be_visible()
    expect(bench.row("2")).not_to_have_text(second)
    trace.get_by_role("button", name="Add a burst").focus()
    bench.press("Enter")
    begins = trace.get_by_label("Begins, s")
    before = begins.input_value()
    trace.get_by_role("img").click(position={"x": 120, "y": 60})
    expect(begins).not_to_have_value(before)
    trace.get_by_role("button", name="Read it", exact=True).focus()
    bench.press("Enter")
    expect(trace.get_by_role("row")).to_have_count(6)
    expect(trace.get_by_role("row").last).to_contain_text("set by hand")


def test_two_logs_on_one_sheet(make_bench: MakeBench, tmp_path: Path) -> None:
    """The newer is drawn; the older can be drawn again."""
    bench = make_bench()
    bench.begun()
    for name, count in (("one.csv", 1), ("two.csv", 2)):
        time_s, pressure, _ = pressure_log(Log(bursts=((342.0, 178.0),) * count))
        log = written(tmp_path / name, "t [s],p [kPa]", [time_s, pressure])
        bring_in(bench, "Bring in " + ("a pressure log" if count == 1 else "another trace"), log)
        trace = bench.page.get_by_role("region", name="Trace")
        expect(trace.get_by_role("row")).to_have_count(count + 1)
    trace.get_by_label("Logs on this sheet").select_option("1: one.csv")
    expect(trace.get_by_role("row")).to_have_count(2)
    expect(trace).to_contain_text("one.csv, ")


def test_cranking_spells_are_timed_and_add_up(make_bench: MakeBench, engine: Engine) -> None:
    """K begins and ends a spell; the starter rests; the next spell is added; the help names K."""
    load_demo(engine)
    # A page whose clock was set keeps it.
    bench = make_bench(again=False)
    bench.page.clock.install()
    bench.go("/jobs/331/s3")
    spells = bench.page.get_by_role("region", name="Spells")
    expect(spells).to_contain_text("3 spells, 30 s in all")
    bench.press("k")
    expect(spells).to_contain_text("Cranking.")
    bench.page.clock.fast_forward(31_000)
    expect(spells).to_contain_text("Long enough for one spell")
    bench.press("k")
    expect(spells).to_contain_text(re.compile(r"Rest the starter.*4 spells, 6\d s in all"))
    expect(bench.page.get_by_role("button", name=re.compile("^Spell"))).to_contain_text(
        re.compile(r"cranking 6\d s")
    )
    bench.page.clock.fast_forward(120_000)
    expect(spells).to_contain_text("The starter has rested.")
    bench.press("k", "k")
    expect(spells).to_contain_text("4 spells")
    bench.press("?")
    expect(bench.page.get_by_role("dialog")).to_contain_text("a cranking spell begins or ends")


def test_a_trace_on_its_way_can_be_stopped(make_bench: MakeBench, tmp_path: Path) -> None:
    """Stopped, nothing is stored; sent again, it is there; the page answers meanwhile."""
    bench = make_bench()
    bench.begun()
    time_s, pressure, _ = pressure_log(Log(bursts=((342.0, 178.0),), rate_hz=500.0))
    log = written(tmp_path / "log.csv", "t [s],p [kPa]", [time_s, pressure])
    held: list[Route] = []

    def hold_back(route: Route) -> None:
        held.append(route)

    bench.page.route("**/trace?*", hold_back)
    bench.page.get_by_role("button", name="Bring in a pressure log").click()
    dialog = bench.page.get_by_role("dialog")
    dialog.locator("input[type=file]").set_input_files(log)
    dialog.get_by_role("button", name="Take it in").click()
    dialog.get_by_role("button", name="Stop").click()
    expect(dialog).to_contain_text("Stopped. Nothing was stored.")
    bench.page.unroute("**/trace?*")
    assert len(held) == 1
    dialog.get_by_role("button", name="Take it in").click()
    expect(dialog).to_be_hidden()
    expect(bench.page.get_by_role("region", name="Trace").get_by_role("row")).to_have_count(2)


def test_a_file_that_is_no_trace_says_why(make_bench: MakeBench, tmp_path: Path) -> None:
    """Before it is sent, and where a unit is missing it is asked for."""
    bench = make_bench()
    bench.begun()
    bench.page.get_by_role("button", name="Bring in a pressure log").click()
    dialog = bench.page.get_by_role("dialog")
    wrong = tmp_path / "photo.csv"
    wrong.write_text("1,2\n3,4\n")
    dialog.locator("input[type=file]").set_input_files(wrong)
    expect(dialog).to_contain_text("the first line names the columns")
    expect(dialog.get_by_role("button", name="Take it in")).to_be_disabled()
    time_s, pressure, _ = pressure_log(Log(bursts=((342.0, 178.0),)))
    bare = written(tmp_path / "bare.csv", "t,p", [time_s, pressure])
    dialog.locator("input[type=file]").set_input_files(bare)
    expect(dialog.get_by_role("button", name="Take it in")).to_be_disabled()
    dialog.get_by_label("unit of pressure").select_option("kPa")
    dialog.get_by_role("button", name="Take it in").click()
    expect(dialog).to_be_hidden()


def test_nozzles_on_a_phone(make_bench: MakeBench, engine: Engine) -> None:
    """Pad, sound, seat by touch; nothing is wider than the screen."""
    load_demo(engine)
    bench = make_bench(390, 844, has_touch=True, is_mobile=True)
    bench.go("/jobs/330/s3").says("2: opens early")
    pad = bench.page.get_by_role("group", name="Number pad")
    for key in ("1", "2", "7", "next"):
        pad.get_by_role("button", name=key, exact=True).tap()
    bench.page.get_by_role("button", name="T seat").tap()
    bench.page.get_by_role("button", name="D dry").tap()
    expect(bench.row("2")).to_contain_text("seat dry")
    assert bench.page.evaluate("document.documentElement.scrollWidth") <= 390


def test_nozzles_while_the_server_is_away(
    make_bench: MakeBench, engine: Engine, live: Live
) -> None:
    """Strokes, sound and seat wait in the browser, each on the stroke before it, and go up in order."""
    load_demo(engine)
    bench = make_bench()
    bench.go("/jobs/330/s3").says("2: opens early")
    live.stop()
    bench.burst("127 1.06").burst("127.5").burst("127")
    bench.press("c", "c", "s").press("t", "d")
    expect(bench.page.get_by_role("status").first).to_contain_text("in this browser")
    live.start()
    bench.saved()
    expect(bench.row("2")).to_contain_text("mean of 3 · seat dry · weak · spray even")
    expect(bench.row("2")).to_contain_text("0.06 mm added")


def test_a_slip_in_an_opening_pressure_is_asked_about(bench: Bench, engine: Engine) -> None:
    """The point forgotten, and a figure between two steps of the gauge."""
    load_demo(engine)
    bench.go("/jobs/330/s3").says("2: opens early")
    bench.burst("1275 1.06")
    expect(bench.asked()).to_contain_text("Did you mean 127.5?")
    bench.press("Alt+Enter")
    expect(bench.asked()).to_be_hidden()
    expect(bench.row("2")).to_contain_text("127.5")
    bench.burst("127.3")
    expect(bench.asked()).to_contain_text("this gauge reads to 0.5 bar")
