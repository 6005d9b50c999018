"""A whole job by keyboard alone; slips, repeats, corrections, undo; kept after a reload."""

import re

from playwright.sync_api import expect
from sqlalchemy import Engine
from tests.drivers import Bench, load_demo
from tests.web.conftest import MakeBench


def test_a_whole_job_by_keyboard_and_it_is_all_there_after_a_reload(bench: Bench) -> None:
    """New job, six bursts, one repeat, verdict; reload; found again from today's list."""
    bench.go().new_job("Torvik Fastnet 3.0 V6", cylinders=6)
    for figures in ("52 29.5", "51.5 29", "51.5 26.5", "52.5 30", "52 35.5", "51.5 29.5"):
        bench.burst(figures)
    bench.says("Injector 5 gives 29 % less").saved()
    expect(bench.row("5")).to_contain_text("gives less")
    expect(bench.hangs("5")).to_have_attribute(
        "aria-label", re.compile("29.* % less than the reference")
    )
    before = bench.page.get_by_role("table").first.inner_text()
    bench.page.reload()
    bench.says("Injector 5 gives 29 % less")
    assert bench.page.get_by_role("table").first.inner_text() == before
    bench.press("/")
    expect(bench.page.get_by_placeholder(re.compile("Number, plate"))).to_be_focused()
    bench.type("fastnet")
    expect(bench.page.get_by_role("link", name=re.compile("Fastnet"))).to_be_visible()
    bench.press("ArrowDown")
    bench.press("Enter")
    bench.says("Injector 5 gives 29 % less")


def test_space_and_enter_both_lead_on(bench: Bench) -> None:
    """50 Enter 26 Enter is 50 26; the cursor goes to the next injector."""
    bench.begun()
    bench.type("50").press("Enter").type("26").press("Enter")
    expect(bench.row("1")).to_contain_text("24.0")
    expect(bench.row("2")).to_have_attribute("aria-current", "true")
    expect(bench.entry("first")).to_have_value("")


def test_slips_are_asked_about_and_nothing_is_stored(bench: Bench) -> None:
    """26 50 turned round; 5026 split; 500 typed again after Esc; 50.3 kept as typed."""
    bench.begun()
    bench.burst("26 50")
    expect(bench.asked()).to_contain_text("Injector 1, 26 50: The pressure cannot rise")
    expect(bench.row("1")).to_contain_text("is asked about")
    bench.press("Control+Enter")
    expect(bench.asked()).to_be_visible()
    bench.press("Alt+Enter")
    expect(bench.row("1")).to_contain_text("24.0")
    bench.burst("5026")
    expect(bench.asked()).to_contain_text("50 and 26")
    bench.press("Alt+Enter")
    expect(bench.row("2")).to_contain_text("24.0")
    bench.burst("500 26")
    expect(bench.asked()).to_contain_text("Did you mean 50?")
    bench.press("Escape")
    expect(bench.asked()).to_be_hidden()
    expect(bench.entry("first")).to_have_value("500")
    bench.press("Backspace", "Enter")
    expect(bench.row("3")).to_contain_text("24.0")
    bench.burst("50.3 26")
    expect(bench.asked()).to_contain_text("reads to 0.5 psi")
    bench.press("Control+Enter")
    expect(bench.row("4")).to_contain_text("50.3")
    bench.saved()


def test_a_question_is_never_answered_by_the_next_reading(bench: Bench) -> None:
    """Slips, typed on without looking: each waits with its own question, the others are kept."""
    bench.begun(8)
    bench.burst("50 26").saved()
    for figures in ("97 31", "26 50", "5026", "1e3 26", "50 26", "-50 26", "50.5 26.5"):
        bench.burst(figures)
    for label in "168":
        expect(bench.row(label)).to_contain_text("24.0")
    for label in "23457":
        expect(bench.row(label)).to_contain_text("is asked about")
    expect(bench.asked()).to_contain_text("Injector 2, 97 31:")
    expect(bench.asked()).to_contain_text("1 of 5 questions")
    expect(bench.asked()).not_to_contain_text("kept")
    bench.type("49").press("Escape")
    expect(bench.asked()).to_contain_text("Injector 2, 97 31:")
    bench.page.reload()
    expect(bench.asked()).to_contain_text("Injector 2, 97 31:")
    bench.press("Control+Enter")
    expect(bench.row("2")).to_contain_text("66.0")
    expect(bench.asked()).to_contain_text("Injector 3, 26 50:")
    bench.press("Alt+Enter")
    expect(bench.asked()).to_contain_text("Injector 4, 5026:")
    bench.press("Alt+Enter")
    expect(bench.row("4")).to_contain_text("24.0")
    expect(bench.asked()).to_contain_text('Injector 5, 1e3 26: "1e3" is not a figure')
    bench.press("Escape")
    expect(bench.entry("first")).to_have_value("1e3")
    bench.press("Escape").burst("50 26")
    expect(bench.row("5")).to_contain_text("24.0")
    expect(bench.asked()).to_contain_text("Injector 7, -50 26:")
    bench.press("Alt+Enter").saved()
    expect(bench.row("7")).to_contain_text("24.0")


def test_two_passes_with_figures_and_enter_alone(bench: Bench) -> None:
    """The cursor goes on in the order of reach, whatever pass it is: no other key."""
    bench.begun(4)
    for figures in ("50 26", "50 26.5", "51 27", "50 26") * 2:
        bench.burst(figures).saved()
    for n in range(1, 5):
        expect(bench.row(str(n))).to_contain_text("mean of 2")


def test_repeat_correct_and_undo(bench: Bench) -> None:
    """R adds a pass; typing over asks; Ctrl+Z takes back, once more brings the old one back."""
    bench.begun()
    for figures in ("50 26", "50 26.5", "50 31", "50 26"):
        bench.burst(figures)
    bench.says("Injector 3").saved()
    bench.press("ArrowDown", "ArrowDown", "r").burst("50 30")
    expect(bench.row("3")).to_contain_text("mean of 2")
    bench.press("Control+z")
    expect(bench.row("3")).not_to_contain_text("mean of 2")
    bench.burst("50 26")
    expect(bench.asked()).to_contain_text("Pass 1 is there already")
    bench.press("Alt+Enter")
    bench.says("All four are in plumb")
    bench.press("Control+z")
    bench.says("Injector 3 gives")
    bench.saved()


def test_no_response_late_buzz_and_note(bench: Bench) -> None:
    """X, L, B, N; the row says them."""
    bench.begun()
    bench.press("x")
    expect(bench.row("1")).to_contain_text("no response")
    bench.press("l", "b").burst("50 26")
    expect(bench.row("2")).to_contain_text("late, buzz heard")
    bench.press("n")
    bench.type("hose kinked").press("Enter")
    bench.burst("50 26")
    expect(bench.row("3")).to_contain_text("hose kinked")
    bench.press("?")
    expect(bench.page.get_by_role("dialog")).to_contain_text("no drop, no click")
    bench.press("Escape")
    expect(bench.page.get_by_role("dialog")).to_be_hidden()


def test_the_order_of_reach_by_keyboard_and_by_dragging(bench: Bench) -> None:
    """Space, arrow, space; then with the mouse; kept for the vehicle."""
    bench.begun()
    handle = bench.page.get_by_label("Move injector 1 in the order of reach")
    handle.focus()
    told = bench.page.locator("[id^=DndLiveRegion]")
    bench.press("Space")
    expect(told).to_contain_text("moved over droppable area 1")
    bench.press("ArrowDown")
    expect(told).to_contain_text("moved over droppable area 2")
    bench.press("Space")
    order = bench.page.get_by_text("Order of reach: 2, 1, 3, 4")
    expect(order).to_be_visible()
    source = bench.page.get_by_label("Move injector 4 in the order of reach").bounding_box()
    target = bench.page.get_by_label("Move injector 2 in the order of reach").bounding_box()
    assert source is not None
    assert target is not None
    bench.page.mouse.move(source["x"] + 10, source["y"] + 20)
    bench.page.mouse.down()
    bench.page.mouse.move(target["x"] + 10, target["y"] + 40, steps=8)
    bench.page.mouse.move(target["x"] + 10, target["y"] + 10, steps=4)
    bench.page.mouse.up()
    expect(bench.page.get_by_text("Order of reach: 4, 2, 1, 3")).to_be_visible()
    bench.page.reload()
    expect(bench.page.get_by_text("Order of reach: 4, 2, 1, 3")).to_be_visible()


def test_conditions_change_what_the_set_says(bench: Bench) -> None:
    """A coarse gauge, then another rule, then another unit to show."""
    bench.begun()
    for figures in ("50 26", "50 26", "50 30", "50 26"):
        bench.burst(figures)
    bench.says("Injector 3 gives").saved()
    bench.page.get_by_role("button", name="Gauge").click()
    bench.page.get_by_label("Smallest step you can read").fill("2")
    bench.press("Enter")
    bench.says("not settled")
    bench.page.get_by_role("button", name="Rule", exact=False).first.click()
    bench.page.get_by_label("Rule that decides").select_option("plain_mean")
    bench.page.get_by_role("button", name="Keep", exact=True).click()
    bench.says("than the mean of all")
    bench.page.get_by_label("Show pressures in").select_option("kPa")
    expect(bench.row("1")).to_contain_text("345")
    bench.page.get_by_role("button", name="How it was worked out").click()
    expect(bench.page.get_by_role("dialog")).to_contain_text("JCGM 100")


def test_two_people_on_one_job_see_each_other(make_bench: MakeBench) -> None:
    """The second screen shows the first one's burst without a reload."""
    one, two = make_bench(), make_bench()
    one.go().new_job("Van")
    one.burst("50 26").saved()
    two.go(one.page.url.removeprefix(one.address))
    expect(two.row("1")).to_contain_text("24.0")
    one.burst("50 26.5")
    expect(two.row("2")).to_contain_text("23.5")


def test_after_the_fix_and_closing(bench: Bench, engine: Engine) -> None:
    """A job of the demo: both sheets on the route; a third; closed, and gone from today."""
    load_demo(engine)
    bench.go("/jobs/309/s1").says("Injector 3 gives 29 % less")
    bench.page.get_by_role("link", name=re.compile("injector, 2nd")).click()
    bench.says("All four are in plumb")
    bench.page.get_by_role("button", name="Repeat after the fix").click()
    bench.says("Nothing measured yet")
    bench.page.get_by_role("link", name="Close the job").click()
    expect(bench.page.get_by_role("dialog")).to_contain_text("What was decided is kept")
    bench.press("Escape")
    expect(bench.page.get_by_role("heading", name="Repair")).to_be_visible()
    bench.page.get_by_role("button", name="Close and sign").click()
    sign = bench.page.get_by_role("dialog").get_by_role("button", name="Close and sign")
    expect(sign).to_be_disabled()
    bench.page.get_by_label("Signed by").fill("Ines K.")
    sign.click()
    expect(bench.page.get_by_role("region", name="Signed")).to_contain_text("Signed by Ines K.")
    expect(bench.page.get_by_role("banner")).to_contain_text("Job 309, closed")
    bench.go("/jobs/309/s1")
    closed = bench.page.get_by_role("region", name="Closed")
    expect(closed).to_contain_text("takes no figures")
    expect(bench.page.get_by_role("region", name="Entry")).to_have_count(0)
    closed.get_by_role("button", name="Open the job again").click()
    expect(bench.page.get_by_role("region", name="Entry")).to_be_visible()
    bench.page.get_by_role("link", name="Close the job").click()
    # Who signed one job has not signed the next.
    expect(bench.page.get_by_label("Signed by")).to_have_value("")
    bench.page.get_by_label("Signed by").fill("Wen L.")
    sign.click()
    expect(bench.page.get_by_role("region", name="Signed")).to_have_count(2)
    bench.go()
    expect(bench.page.get_by_text("SM-11 mail van")).to_be_visible()
    expect(bench.page.get_by_text("SM-09 net store van")).to_be_hidden()


def test_files_in_and_out(bench: Bench, engine: Engine) -> None:
    """A saved job file with another number comes in again; CSV with a mistake shows its line."""
    load_demo(engine)
    bench.go("/jobs/301")
    with bench.page.expect_download() as download:
        bench.page.get_by_role("link", name="Save the job file").click()
    text = download.value.path().read_text().replace('"number": "301"', '"number": "777"')
    bench.go()
    bench.page.get_by_role("button", name="Bring in a job file").click()
    bench.page.get_by_role("dialog").locator("input[type=file]").set_input_files(
        {"name": "a.plumb.json", "mimeType": "application/json", "buffer": text.encode()}
    )
    expect(bench.page.get_by_role("dialog")).to_contain_text("Job 777: Torvik Fastnet 3.0 V6")
    bench.page.get_by_role("button", name="Take it in").click()
    bench.says("Injector 4 gives 29 % less")
    bench.page.get_by_role("button", name="Bring in readings from CSV").click()
    bench.page.get_by_role("dialog").locator("input[type=file]").set_input_files(
        {"name": "a.csv", "mimeType": "text/csv", "buffer": b"injector,quantity,value\n9,first,x\n"}
    )
    expect(bench.page.get_by_role("dialog")).to_contain_text("line 2, injector")
    expect(bench.page.get_by_role("button", name="Take it in")).to_be_disabled()
