"""From an old job book to parts on order: typed as it stands on paper, held against, ordered, accepted, told by eye."""

import re

from playwright.sync_api import expect
from tests.drivers import Bench


def test_an_old_visit_is_what_is_expected_of_today(bench: Bench) -> None:
    """A visit of three years ago, typed under its day; today's set has faded; the parts are on order."""
    page = bench.go().page
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    asked = page.get_by_role("dialog")
    expect(asked).to_be_visible()
    bench.type("Torvik Lundy 1.8")
    asked.get_by_role("button", name="It was on another day").click()
    asked.get_by_label("Day of the visit").fill("2023-05-12")
    asked.get_by_label("Why it is noted later").fill("from the job book")
    bench.press("Enter")
    expect(bench.entry("first")).to_be_focused()
    expect(page.get_by_role("banner")).to_contain_text("visit of 12 May 2023")
    for figures in ("51 27", "50 26", "50 26.5", "50 26"):
        bench.burst(figures)
    bench.saved()
    page.get_by_role("link", name="Through the years").click()
    expect(page.get_by_role("main")).to_contain_text("12 May 2023")
    bench.turn_to("/").press("n")
    expect(asked).to_be_visible()
    bench.type("Torvik Lundy")
    asked.get_by_role("list", name="Known vehicles").get_by_role("button").click()
    asked.get_by_role("button", name="Go").click()
    before = page.get_by_role("region", name="Sound before")
    before.get_by_role("button", name="12 May 2023").click()
    expect(before).to_be_hidden()
    # The button is gone, and who types goes on.
    expect(bench.entry("first")).to_be_focused()
    for figures in ("50 31", "50 31", "50.5 31.5", "50 31"):
        bench.burst(figures)
    bench.says("All four agree, but give 23 % less than on 12 May 2023.")
    expect(bench.row("1")).to_contain_text("then 51 27")
    number = re.search(r"/jobs/(\d+)", page.url)
    assert number is not None
    bench.turn_to(f"/jobs/{number[1]}/repair")
    page.get_by_role("button", name="Parts are on order").click()
    form = page.get_by_role("form", name="Parts on order")
    form.get_by_label("What is on order").fill("a set of four")
    bench.press("Enter")
    panel = page.get_by_label("What the set says", exact=True)
    expect(panel).to_contain_text("Parts on order: a set of four")
    bench.turn_to("/")
    expect(page.get_by_role("link", name=re.compile(f"^{number[1]}"))).to_contain_text(
        "a set of four"
    )
    bench.turn_to(f"/jobs/{number[1]}/repair")
    panel.get_by_role("button", name="They have come").click()
    expect(panel).not_to_contain_text("Parts on order")


def test_a_value_on_the_edge_is_accepted_with_its_reason(bench: Bench) -> None:
    """On the verdict: why, Enter, kept and told; taken back it is open again."""
    bench.begun()
    for figures in ("50 26", "50 26", "50 28.5", "50 26"):
        bench.burst(figures)
    bench.saved().press("v")
    page = bench.page
    page.get_by_role("button", name="Accept 3 as it is").click()
    page.get_by_label("Why 3 is taken as it is").fill("runs well, no finer gauge here")
    bench.press("Enter")
    main = page.get_by_role("main")
    expect(main).to_contain_text("Accepted as it is: runs well, no finer gauge here")
    page.get_by_role("button", name="Take that back").click()
    expect(page.get_by_role("button", name="Accept 3 as it is")).to_be_visible()


def test_humps_by_eye_in_one_key(bench: Bench) -> None:
    """A: all even; or low on one, which takes the other back."""
    bench.go()
    expect(bench.page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    asked = bench.page.get_by_role("dialog")
    expect(asked).to_be_visible()
    bench.type("Torvik Dogger 2.2")
    asked.get_by_text("common rail", exact=True).click()
    asked.get_by_role("button", name="Go").click()
    route = bench.page.get_by_role("navigation", name="Route")
    route.get_by_role("button", name=re.compile("^Cranking balance")).click()
    expect(bench.page.get_by_role("heading", name="Cranking balance", level=1)).to_be_visible()
    even = bench.page.get_by_role("button", name="all even")
    expect(even).to_be_visible()
    bench.press("a")
    expect(even).to_have_attribute("aria-pressed", "true")
    expect(bench.row("3")).to_contain_text("even")
    bench.page.get_by_role("button", name="low on 3").click()
    expect(bench.row("3")).to_contain_text("weak hump")
    expect(even).to_have_attribute("aria-pressed", "false")
