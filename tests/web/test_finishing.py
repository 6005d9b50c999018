"""From the complaint to the signed report at the screen; on a phone with a photo; a year later."""

import io
import re
from typing import Any

import pikepdf
from PIL import Image
from playwright.sync_api import Locator, Route, expect
from sqlalchemy import Engine, text
from tests.drivers import ASK, Bench, eventually, load_demo, new_id
from tests.web.conftest import Asked, MakeBench
from tests.web.test_petrol_job import focus_choice

from plumb.store.session import transaction


def tab_to(bench: Bench, target: Locator) -> Bench:
    """Tab until it has the focus, as somebody without a mouse does."""
    expect(target).to_be_visible()
    for _ in range(120):
        if target.evaluate("e => e === document.activeElement"):
            return bench
        bench.press("Tab")
    message = "the Tab key does not come by"
    raise AssertionError(message)


def do(bench: Bench, name: str, role: Any = "button", key: str = "Enter") -> Bench:
    """Tab to a button of that name, and press it."""
    target = bench.page.get_by_role(role, name=name, exact=True).first
    return tab_to(bench, target).press(key)


def test_what_was_found_by_eye_ends_the_search(make_bench: MakeBench) -> None:
    """By keyboard: a bent push rod noted on the verdict; it explains the smoke, and nothing is next."""
    bench = make_bench()
    wanted = {
        "request_id": new_id(), "vehicle_name": "Brannock field tractor", "cylinders": 3,
        "fuel_system": "mechanical_diesel", "begin_with": "walk_round", "complaint": "black smoke",
    }  # fmt: skip
    made = ASK.post(f"{bench.address}/api/jobs", json=wanted).raise_for_status().json()
    page = bench.go(f"/jobs/{made['job_number']}/verdict").page
    do(bench, "I found something by eye or hand")
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("What was found").select_option("in my own words")
    tab_to(bench, dialog.get_by_label("What it is", exact=True)).type("a bent push rod")
    tab_to(bench, dialog.get_by_label("How it was seen")).type("valve cover off")
    tab_to(bench, dialog.get_by_role("button", name="black smoke")).press("Enter")
    tab_to(bench, dialog.get_by_role("button", name="Keep")).press("Enter")
    expect(dialog).to_have_count(0)
    expect(page.get_by_text("The black smoke is explained: a bent push rod.")).to_be_visible()
    found = page.get_by_role("region", name="Found by eye or hand")
    expect(found).to_contain_text("valve cover off")
    do(bench, "Take back: a bent push rod")
    expect(found).not_to_contain_text("valve cover off")
    expect(page.get_by_text("What explains the black smoke is still open.")).to_be_visible()


def test_from_the_complaint_to_the_signed_report_by_keyboard(make_bench: MakeBench) -> None:
    """A rough idle, one clogged; cleaned, measured again, asked again, ticked, signed, printed."""
    bench = make_bench(begin="outside")
    page = bench.go().page
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    bench.press("n")
    expect(page.get_by_role("dialog")).to_be_visible()
    bench.type("Torvik Lundy 1.8").press("Enter")
    expect(page.get_by_role("heading", name="Walk-round")).to_be_visible()
    focus_choice(bench, "rough idle")
    bench.says("rough idle")
    number = re.search(r"/jobs/(\d+)", page.url).group(1)  # type: ignore[union-attr]
    page.goto(f"{bench.address}/jobs/{number}/pressure_drop")
    expect(bench.entry("first")).to_be_focused()
    for figures in ("50 26", "50 26.5", "50 26", "50 31.5"):
        bench.burst(figures)
    bench.says("Injector 4 gives 2").saved()
    bench.press("v")
    ways = page.get_by_role("region", name="Ways to put it right")
    expect(ways).to_contain_text("Clean 4, then replace what stays")
    _price(bench)
    expect(ways).to_contain_text("220 EUR")
    do(bench, "Choose: Clean 4, then replace what stays")
    expect(page.get_by_role("dialog")).to_be_visible()
    bench.type("the others are fine").press("Enter")
    expect(page.get_by_role("list", name="Chosen")).to_contain_text("the others are fine")
    _repair(bench)
    _measure_again(bench)
    _sign(bench)
    report = ASK.get(f"{bench.address}/api/jobs/{number}/report.pdf")
    with pikepdf.open(io.BytesIO(report.content)) as pdf:
        assert f"job-{number}.plumb.json" in pdf.attachments
    link = page.get_by_role("link", name="Report for the customer")
    assert str(link.get_attribute("href")).endswith(f"/api/jobs/{number}/report.pdf")


def _price(bench: Bench) -> None:
    """What is missing is asked for in place."""
    do(bench, "Say what it costs")
    dialog = bench.page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    tab_to(bench, dialog.get_by_label("Currency, three letters"))
    for text_ in ("EUR", "90", "60", "10", "120", "25"):
        bench.type(text_).press("Tab")
    bench.press("Enter")
    expect(dialog).to_be_hidden()


def _repair(bench: Bench) -> None:
    """J, the injector, what was done, Keep."""
    page = bench.page
    page.locator("body").press("j")
    expect(page.get_by_role("heading", name="Repair", level=1)).to_be_visible()
    do(bench, "4", key="Space")
    do(bench, "cleaned", key="Space")
    do(bench, "Keep")
    expect(page.get_by_role("region", name="What was done").first).to_contain_text("4 cleaned")


def _measure_again(bench: Bench) -> None:
    """The next step leads to the sheet, on 4; then the complaint is asked for."""
    page = bench.page
    panel = page.get_by_label("What the set says", exact=True)
    expect(panel).to_contain_text("Next: Drop per injector again of 4")
    page.locator("body").press("Shift+Enter")
    expect(page.get_by_role("heading", name="Drop per injector, 2nd")).to_be_visible()
    expect(bench.entry("first")).to_be_focused()
    bench.burst("50 26.5").says("in plumb").saved()
    expect(panel).to_contain_text("Ask for the complaint again")
    page.locator("body").press("Shift+Enter")
    pairs = page.get_by_role("region", name="Before and after")
    expect(pairs).to_contain_text("put right")
    do(bench, "gone", key="Space")
    expect(page.locator("main")).to_contain_text("everything that was worked on is put right")


def _sign(bench: Bench) -> None:
    """Everything is ticked but one, which is set aside; the name; Enter."""
    page = bench.page
    things = page.get_by_role("region", name="What goes with it")
    boxes = things.get_by_role("checkbox")
    for n in range(boxes.count() - 1):
        tab_to(bench, boxes.nth(n)).press("Space")
        expect(boxes.nth(n)).to_be_checked()
    last = things.get_by_role("button", name=re.compile("^Not done: ")).last
    tab_to(bench, last).press("Enter").type("not asked for").press("Enter")
    expect(things).to_contain_text("set aside: not asked for")
    do(bench, "Close and sign")
    dialog = page.get_by_role("dialog")
    expect(dialog).to_be_visible()
    expect(dialog).not_to_contain_text("Left open")
    tab_to(bench, dialog.get_by_label("Signed by"))
    bench.type("Ines K.").press("Enter")
    expect(page.get_by_role("region", name="Signed")).to_contain_text("Signed by Ines K.")


def test_a_photo_from_a_phone_goes_into_the_report(make_bench: MakeBench, engine: Engine) -> None:
    """Taken beneath the sheet, noted, ticked; the job is signed with a finger."""
    load_demo(engine)
    bench = make_bench(390, 844, has_touch=True, is_mobile=True)
    page = bench.go("/jobs/311/t").page
    photos = page.get_by_role("region", name="Photos")
    out = io.BytesIO()
    Image.new("RGB", (900, 1200), "red").save(out, "JPEG")
    shot = {"name": "IMG_1.jpg", "mimeType": "image/jpeg", "buffer": out.getvalue()}
    photos.locator("input[type=file]").set_input_files(shot)
    expect(photos.get_by_role("img")).to_be_visible()
    photos.get_by_placeholder("what is on it").fill("wet tip of 5")
    photos.get_by_label("in the report").tap()
    expect(photos.get_by_label("in the report")).to_be_checked()
    html = ASK.get(f"{bench.address}/api/jobs/311/report.html").text
    assert "wet tip of 5" in html
    page.goto(f"{bench.address}/jobs/311/repair?sign")
    dialog = page.get_by_role("dialog")
    field = dialog.get_by_role("img", name="No signature yet")
    field.scroll_into_view_if_needed()
    box = field.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 10, box["y"] + 20)
    page.mouse.down()
    page.mouse.move(box["x"] + 120, box["y"] + 60)
    page.mouse.up()
    expect(dialog.get_by_role("img", name="Signature")).to_be_visible()
    dialog.get_by_label("Why it is closed all the same").fill("only looked at today")
    dialog.get_by_label("Signed by").fill("Wen L.")
    dialog.get_by_role("button", name="Close and sign").tap()
    expect(page.get_by_role("img", name="Signature of Wen L.")).to_be_visible()
    assert page.evaluate("document.documentElement.scrollWidth") <= 390


def test_a_picture_dropped_onto_a_row_belongs_to_it(bench: Bench, engine: Engine) -> None:
    """And one that is dropped beside the rows to the sheet; a list asked for before does not hide it."""
    load_demo(engine)
    page, early = bench.page, list[Route]()
    asked = Asked(page)
    page.route("**/api/jobs/311/photos", lambda route: early.append(route))  # noqa: PLW0108 (a method takes no mark)
    bench.go("/jobs/311/s1")
    photos = page.get_by_role("region", name="Photos")
    expect(photos).to_be_visible()
    drop = """(row) => {
      const canvas = document.createElement("canvas");
      canvas.width = canvas.height = 40;
      return new Promise((done) => canvas.toBlob((blob) => {
        const data = new DataTransfer();
        data.items.add(new File([blob], "a.png", { type: "image/png" }));
        const at = row ? document.querySelector(`[data-row="${row}"]`) : document.body;
        at.dispatchEvent(new DragEvent("drop", { bubbles: true, cancelable: true, dataTransfer: data }));
        done();
      }));
    }"""
    with page.expect_response(lambda got: got.request.method == "PUT"):
        page.evaluate(drop, "4")
    expect(photos.get_by_role("img")).to_have_count(1)
    eventually(lambda: early)
    early[0].fulfill(json=[])
    asked.all_came()
    expect(photos.get_by_role("img")).to_have_count(1)
    expect(photos).to_contain_text("row 4")
    page.evaluate(drop, "")
    expect(photos.get_by_role("img")).to_have_count(2)


def test_a_year_later(bench: Bench, engine: Engine) -> None:
    """The clock has moved: history, slope and last figures are there, and the window is on Today."""
    load_demo(engine)
    with transaction(engine) as connection:
        job = connection.scalar(text("SELECT id FROM job WHERE number = '301'"))
        connection.execute(
            text(
                "INSERT INTO choice (id, job_id, way, injectors, reason, by_whom, at, at_typed, look_on)"
                " VALUES ('c', :j, 'wait', '[\"4\"]', 'lean under load only', 'Ines K.',"
                " '2025-11-20', '2025-11-20T10:00:00+00:00', '2026-01-15')"
            ),
            {"j": job},
        )
    page = bench.go().page
    due = page.get_by_role("region", name="To be looked at again")
    expect(due).to_contain_text("lean under load only")
    bench.go("/jobs/311/s1")
    page.get_by_role("link", name="Through the years").click()
    expect(page.get_by_role("heading", name="Through the years")).to_be_visible()
    told = page.get_by_role("list", name="What the lines say")
    expect(told).to_contain_text("5 changed")
    expect(page.get_by_role("region", name="Visits")).to_contain_text("Job 112")
    page.get_by_role("button", name="by part").click()
    expect(page.get_by_role("region", name="Lines")).to_contain_text("first in 4")
    page.get_by_role("button", name="Note the part in 4").click()
    page.get_by_label("Serial number").fill("TK 9")
    page.get_by_role("dialog").get_by_role("button", name="Keep").click()
    expect(page.get_by_role("region", name="Parts in their places")).to_contain_text("serial TK 9")
    bench.go("/jobs/311/s1")
    expect(page.get_by_label(re.compile("last time")).first).to_be_visible()


def test_how_it_is_done_is_a_key_away(bench: Bench, engine: Engine) -> None:
    """H on a sheet; the card tells what it shows, the steps and the slips; Escape goes back."""
    load_demo(engine)
    page = bench.go("/jobs/311/s1").page
    expect(bench.entry("first")).to_be_focused()
    bench.press("h")
    card = page.get_by_role("dialog")
    expect(card).to_contain_text("What it does not show")
    expect(card.get_by_role("listitem")).not_to_have_count(0)
    expect(card.get_by_role("img")).to_be_visible()
    bench.press("Escape")
    expect(card).to_be_hidden()
    bench.type("50")
    expect(bench.entry("first")).to_have_value("50")


def test_a_window_of_the_shops_own_is_offered_and_taken(bench: Bench, engine: Engine) -> None:
    """On a coil sheet without a window, from the coils of the same vans that were sound."""
    load_demo(engine)
    page = bench.go().page
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    made = ASK.post(
        f"{bench.address}/api/jobs",
        json={
            "request_id": "7f0c1c0e-52a0-4a53-9d7e-3f6f0b6e2a11", "cylinders": 6,
            "vehicle_name": "Torvik Fastnet 3.0 V6", "begin_with": "coil_resistance",
        }, timeout=60
    ).json()  # fmt: skip
    bench.go(f"/jobs/{made['job_number']}/{made['key']}")
    offer = page.get_by_role("region", name="A window of your own")
    expect(offer).to_contain_text("sound ones of your own")
    offer.get_by_role("button", name="Take it").click()
    expect(offer).to_be_hidden()
    expect(page.get_by_role("button", name=re.compile("^Window"))).to_contain_text("at 20")
