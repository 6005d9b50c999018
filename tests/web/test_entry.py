"""Entry and layout as a technician meets them: passes, units, widths, a way on by key."""

from playwright.sync_api import Locator, expect
from sqlalchemy import Engine
from tests.drivers import Bench, load_demo
from tests.web.conftest import MakeBench


def test_a_row_opens_to_its_passes_and_each_can_be_mended(
    bench: Bench, make_bench: MakeBench
) -> None:
    """By key: opened, marked, noted, corrected; from another browser taken back."""
    bench.begun()
    for figures in ("50 26", "50 26.5", "50 26", "50 26"):
        bench.burst(figures)
    bench.saved().burst("50 27").saved()
    bench.press("ArrowUp", "ArrowRight")
    passes = bench.page.get_by_role("dialog")
    expect(passes).to_contain_text("Injector 1: its passes")
    expect(passes.get_by_role("listitem")).to_have_count(2)
    bench.press("l")
    expect(passes.get_by_role("listitem").first).to_contain_text("read late")
    bench.press("ArrowDown", "n").type("hose kinked").press("Enter")
    expect(passes.get_by_role("listitem").last).to_contain_text("hose kinked")
    bench.press("c")
    expect(passes).to_be_hidden()
    expect(bench.entry("second")).to_have_value("27")
    expect(bench.page.get_by_role("region", name="Entry")).to_contain_text("corrects 2")
    bench.entry("second").fill("26")
    bench.press("Enter").saved()
    expect(bench.row("1")).to_contain_text("26.00")
    elsewhere = make_bench()
    elsewhere.page.goto(bench.page.url)
    elsewhere.page.get_by_role("button", name="Passes of injector 1").click()
    there = elsewhere.page.get_by_role("dialog")
    there.get_by_role("button", name="Take back").last.click()
    expect(there.get_by_role("listitem")).to_have_count(1)
    expect(bench.row("1")).not_to_contain_text("mean of 2")


def test_the_last_thing_of_a_person_is_taken_back_from_another_browser(
    bench: Bench, make_bench: MakeBench
) -> None:
    """Both say that they are Ines; what another person typed stays."""
    bench.begun()
    bench.burst("50 26").saved()
    bench.press("ArrowUp", "ArrowRight")
    who = bench.page.get_by_label("Readings typed in this browser are taken by")
    who.fill("Ines K.")
    bench.press("Escape", "ArrowDown").burst("50 26.5").saved()
    elsewhere = make_bench()
    elsewhere.page.goto(bench.page.url)
    elsewhere.page.get_by_role("button", name="Passes of injector 2").click()
    expect(elsewhere.page.get_by_role("dialog")).to_contain_text("Ines K.")
    elsewhere.page.get_by_label("Readings typed in this browser").fill("Ines K.")
    elsewhere.press("Escape", "Control+z")
    expect(bench.row("2")).not_to_contain_text("23.5")
    expect(bench.row("1")).to_contain_text("24.0")


def test_shown_in_bar_is_typed_in_bar_unless_the_unit_is_typed(bench: Bench) -> None:
    """The gauge's step stays the gauge's; a unit behind a space is read too."""
    bench.begun()
    bench.page.get_by_label("Show pressures in").select_option("bar")
    expect(bench.page.get_by_label("first, bar")).to_be_visible()
    bench.page.get_by_label("first, bar").focus()
    bench.burst("3.45 1.79").burst("50psi 26psi").burst("3.45 bar 1.79 bar").saved()
    for label, drop in (("1", "1.66"), ("2", "1.65"), ("3", "1.66")):
        expect(bench.row(label)).to_contain_text(drop)
    bench.page.get_by_label("Show pressures in").select_option("as read")
    expect(bench.row("1")).to_contain_text("50.04")
    expect(bench.row("2")).to_contain_text("24.0")
    bench.page.get_by_label("first, psi").focus()
    bench.burst("50e 26")
    expect(bench.asked()).to_contain_text('"50e" is not a figure')


SIZES = ((1280, 800), (1024, 768), (768, 1024))


def test_table_and_chart_share_a_row(bench: Bench, engine: Engine) -> None:
    """The chart has at least two fifths of the row, and no figure of it is cut off."""
    load_demo(engine)
    bench.go("/jobs/304").says("Injectors 3 and 7")
    for width, height in SIZES:
        bench.page.set_viewport_size({"width": width, "height": height})
        expect(bench.page.get_by_role("button", name="Move injector 1 in")).to_be_visible()
        _rows_are_whole(bench)


def _rows_are_whole(bench: Bench) -> None:
    for n in range(1, 9):
        row = bench.row(str(n)).bounding_box()
        chart = bench.hangs(str(n))
        box, figure = chart.bounding_box(), chart.locator("text").bounding_box()
        assert row is not None
        assert box is not None
        assert figure is not None
        assert box["width"] >= 0.4 * row["width"]
        assert box["x"] <= figure["x"]
        assert figure["x"] + figure["width"] <= box["x"] + box["width"]


def test_the_verdict_shows_the_culprits_figure_whole(bench: Bench, engine: Engine) -> None:
    """-23.3 never reads 3.3; on a phone every sheet's figure stands under the injector."""
    load_demo(engine)
    main = bench.go("/jobs/304/verdict").page.locator("main")
    for width, height in SIZES:
        bench.page.set_viewport_size({"width": width, "height": height})
        expect(main.locator("svg[role=img]").first).to_be_visible()
        _figures_are_whole(main)
    bench.page.set_viewport_size({"width": 390, "height": 844})
    expect(main.get_by_text("−23.3 %").first).to_be_visible()


def _figures_are_whole(main: Locator) -> None:
    for drawing in main.locator("svg[role=img]").all():
        box, figure = drawing.bounding_box(), drawing.locator("text").bounding_box()
        assert box is not None
        assert figure is not None
        assert box["x"] - 0.5 <= figure["x"]
        assert figure["x"] + figure["width"] <= box["x"] + box["width"] + 0.5


def test_on_a_phone_what_it_says_stands_under_the_entry(
    make_bench: MakeBench, engine: Engine
) -> None:
    """The next step too; the route is one tap away."""
    load_demo(engine)
    bench = make_bench(390, 844, has_touch=True, is_mobile=True)
    bench.go("/jobs/304").says("Injectors 3 and 7")
    says = bench.page.get_by_label("What the set says", exact=True)
    above = bench.page.evaluate(
        "[...document.querySelectorAll('section[aria-label=Entry] + *')].map(e => e.ariaLabel)"
    )
    assert above == ["What the set says"]
    expect(says).to_contain_text("Next:")
    route = bench.page.get_by_role("navigation", name="Route")
    expect(route).to_be_hidden()
    bench.page.locator("summary").tap()
    expect(route).to_be_visible()


def test_at_200_per_cent_three_rows_are_seen(make_bench: MakeBench, engine: Engine) -> None:
    """1280 by 800 at 200 % leaves 640 by 400: rows above the entry, none under it."""
    load_demo(engine)
    bench = make_bench(640, 400)
    bench.go("/jobs/304").says("Injectors 3 and 7")
    bench.press("ArrowDown", "ArrowDown", "ArrowDown")
    entry = bench.page.get_by_role("region", name="Entry").bounding_box()
    assert entry is not None
    boxes = [bench.row(str(n)).bounding_box() for n in range(1, 9)]
    seen = [b for b in boxes if b and b["y"] >= 0 and b["y"] + b["height"] <= entry["y"] + 1]
    assert len(seen) >= 3


def test_the_end_of_the_route_leads_on_by_key(bench: Bench, engine: Engine) -> None:
    """Shift and Enter: where the next step is, the cursor on what it names; at the end the verdict."""
    load_demo(engine)
    bench.go("/jobs/321").says("Next: Coils of 2 and 3")
    bench.press("Shift+Enter")
    expect(bench.page.get_by_role("heading", level=1)).to_have_text("Coils")
    expect(bench.row("2")).to_have_attribute("aria-current", "true")
    bench.turn_to("/jobs/302").says("Nothing left to measure")
    bench.press("Shift+Enter")
    expect(bench.page.get_by_role("heading", level=1)).to_have_text("Verdict")
    expect(bench.page.locator("main")).to_contain_text("nothing left unsettled")


def test_what_is_typed_behind_a_form_is_the_entry_lines(bench: Bench) -> None:
    """Keep gives the keys back at once, and the arrows move the row again."""
    bench.begun()
    bench.press("w")
    limit = bench.page.get_by_role("dialog").get_by_label("Drop of one burst")
    expect(limit).to_be_focused()
    # A digit is part of the limit, also where the shelf offers windows.
    bench.type("23.5").press("Enter").burst("50 26")
    expect(bench.row("1")).to_contain_text("50.0")
    expect(bench.page.get_by_role("button", name="Expected 23.5 psi")).to_be_visible()
    expect(bench.page.get_by_role("dialog")).to_have_count(0)
    bench.press("g", "Escape")
    expect(bench.page.get_by_role("dialog")).to_have_count(0)
    bench.press("ArrowDown")
    expect(bench.row("3")).to_have_attribute("aria-current", "true")


def test_whose_pressure_it_opened_at(bench: Bench) -> None:
    """F behind a burst that was kept: asked, and noted with that one."""
    bench.begun()
    bench.burst("50 45").press("f")
    bench.burst("31")
    expect(bench.asked()).to_contain_text("injector 1, just kept, or injector 2")
    bench.press("Control+Enter").burst("50 26").saved()
    expect(bench.asked()).to_have_count(0)
    expect(bench.row("1")).to_contain_text("fires at 31")
    expect(bench.row("1")).not_to_contain_text("mean of 2")
    expect(bench.row("2")).not_to_contain_text("fires at")


def test_what_is_half_typed_outlives_a_reload(bench: Bench) -> None:
    """The first pressure and the row it is for; once it is kept nothing comes back."""
    bench.begun()
    bench.press("ArrowDown", "ArrowDown").type("50.5")
    bench.page.reload()
    expect(bench.entry("first")).to_have_value("50.5")
    expect(bench.row("3")).to_have_attribute("aria-current", "true")
    bench.type(" 26").press("Enter").saved()
    expect(bench.row("3")).to_contain_text("50.5")
    bench.page.reload()
    expect(bench.entry("first")).to_have_value("")


def test_a_known_plate_under_a_new_name_offers_its_vehicle(bench: Bench, engine: Engine) -> None:
    """Typed without its dash; taken, the name that was typed goes."""
    load_demo(engine)
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    dialog = bench.page.get_by_role("dialog")
    dialog.get_by_label("Vehicle", exact=True).fill("net store van, blue")
    dialog.get_by_label("Plate").fill("sm 26 tender's van")
    expect(dialog).to_contain_text("This plate is known:")
    dialog.get_by_role("list", name="Known vehicles").get_by_role("button").click()
    expect(dialog).to_contain_text("SM-26 tender's van, 4 injectors")
    expect(dialog.get_by_label("Plate")).to_have_count(0)
