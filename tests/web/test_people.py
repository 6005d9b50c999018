"""People on screens: coming in, pairing, changing at a tablet, who changed what; by touch and by keyboard."""

import json
from collections.abc import Callable, Iterator

import pytest
from playwright.sync_api import Page, expect
from sqlalchemy import Engine
from tests.conftest import Live
from tests.drivers import Bench
from tests.web.conftest import Pages, Windows, obstacles

from plumb.service.people import coming_in, staff, tablets

PASSWORD = "six cold anvils hum"
Screen = Callable[..., Page]


@pytest.fixture
def screen(pages: Pages, workshop: Live) -> Iterator[Screen]:
    """A browser at the workshop's server; what it complains of fails the test."""
    windows = Windows(pages, workshop.address)

    def made(path: str = "/", *, width: int = 1280, height: int = 800, touch: bool = False) -> Page:
        # The authority of the tests is trusted by telling the browser so.
        page = windows.open(
            ignore_https_errors=True, viewport={"width": width, "height": height}, has_touch=touch
        )
        page.goto(workshop.address + path)
        return page

    yield made
    windows.close()


@pytest.fixture
def ines(engine: Engine) -> str:
    """The owner's name; a password and a PIN are chosen."""
    code = coming_in.owner_code(engine) or ""
    first = coming_in.FirstTime(name="Ines K.", code=code, password=PASSWORD, pin="2580")
    coming_in.first_time(engine, first, coming_in.Place())
    return first.name


@pytest.fixture
def wen(ines: str, engine: Engine) -> str:
    """A technician with a PIN."""
    assert ines
    _, code, _ = staff.add(engine, "Wen L.", "technician")
    first = coming_in.FirstTime(name="Wen L.", code=code, pin="7391")
    coming_in.first_time(engine, first, coming_in.Place())
    return first.name


def paired(screen: Screen, engine: Engine) -> Page:
    """A tablet of the shop, held upright, with its names."""
    code, _ = tablets.pairing_code(engine)
    page = screen(f"/pair#{code}", width=820, height=1180, touch=True)
    page.get_by_label("What this tablet is called").fill("bay 2")
    page.get_by_role("button", name="Pair it").tap()
    expect(page.get_by_role("heading", name="Who is it?")).to_be_visible()
    return page


def come_in(page: Page, name: str, pin: str) -> None:
    """Tap a name, tap the PIN."""
    page.get_by_role("button", name=name).tap()
    for digit in pin:
        page.get_by_role("button", name=digit, exact=True).tap()
    page.get_by_role("button", name="Enter").tap()
    expect(page.get_by_role("button", name=name)).to_have_attribute("aria-haspopup", "dialog")


def test_the_first_owner_comes_in_by_keyboard(screen: Screen, engine: Engine) -> None:
    """Name, code, PIN, password; then Today stands there with the name on its head."""
    code = coming_in.owner_code(engine) or ""
    page = screen()
    expect(page.get_by_role("heading", name="This shop has no owner yet")).to_be_visible()
    assert obstacles(page) == []
    page.get_by_label("Your name").focus()
    for text in ("Ines K.", code.lower(), "2580"):
        page.keyboard.type(text)
        page.keyboard.press("Tab")
    page.keyboard.press("Tab")
    page.keyboard.type(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="Today")).to_be_visible()
    expect(page.get_by_role("button", name="Ines K.")).to_be_visible()
    page.reload()
    expect(page.get_by_role("heading", name="Today")).to_be_visible()


def test_an_owner_adds_somebody_and_pairs_a_tablet(
    screen: Screen, engine: Engine, ines: str
) -> None:
    """The code from one screen, typed at another; the first time a PIN is chosen."""
    page = screen("/people")
    page.get_by_role("textbox", name="Name").fill(ines)
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.keyboard.press("Enter")
    expect(page.get_by_role("heading", name="People", level=1)).to_be_visible()
    page.get_by_role("textbox", name="Somebody new").fill("Wen L.")
    page.get_by_role("button", name="Add").click()
    code = page.get_by_role("dialog").locator("p.figure").inner_text()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Pair a tablet").click()
    expect(page.get_by_role("img", name="QR code")).to_be_visible()
    assert obstacles(page) == []
    tablet = paired(screen, engine)
    assert obstacles(tablet) == []
    tablet.get_by_role("button", name="Wen L.").tap()
    tablet.get_by_label("Code").fill(code)
    tablet.get_by_label("A PIN").fill("7391")
    tablet.get_by_role("button", name="Come in").tap()
    expect(tablet.get_by_role("heading", name="Today")).to_be_visible()
    page.keyboard.press("Escape")
    page.reload()
    expect(page.get_by_role("region", name="Tablets")).to_contain_text("bay 2")
    expect(page.get_by_role("region", name="Signed in now")).to_contain_text("Wen L.")


def test_people_change_at_a_tablet_in_eight_touches(
    screen: Screen, engine: Engine, ines: str, wen: str
) -> None:
    """From one person's screen to the other's, by touch, which takes three seconds; a wrong PIN is told and tried again."""
    page = paired(screen, engine)
    come_in(page, wen, "7391")
    page.evaluate(
        "addEventListener('pointerdown', () => (window.touches = (window.touches ?? 0) + 1), true)"
    )
    page.get_by_role("button", name=wen).tap()
    page.get_by_role("button", name="Somebody else").tap()
    come_in(page, ines, "2580")
    assert page.evaluate("window.touches") == 8
    page.get_by_role("button", name=ines).tap()
    page.get_by_role("button", name="Somebody else").tap()
    page.get_by_role("button", name=wen).tap()
    assert obstacles(page) == []
    page.keyboard.type("7392")
    page.keyboard.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("not the PIN")
    page.keyboard.type("7391")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name=wen)).to_be_visible()


def test_what_one_typed_goes_up_under_their_name_only(
    screen: Screen, engine: Engine, ines: str, wen: str, workshop: Live
) -> None:
    """Typed without the server, then somebody else comes in: it waits for who typed it, and says so."""
    page = paired(screen, engine)
    come_in(page, wen, "7391")
    bench = Bench(page, workshop.address)
    bench.new_job("Torvik Lundy 1.8")
    bench.burst("50 26").saved()
    workshop.stop()
    bench.burst("50 26.5")
    expect(page.get_by_role("status").filter(has_text="1 waits in this browser")).to_be_visible()
    # The session ends meanwhile; what is in the browser stays.
    with engine.begin() as connection:
        connection.exec_driver_sql("UPDATE sign_in SET ended_at = UTC_TIMESTAMP(6)")
    workshop.start()
    expect(page.get_by_role("heading", name="Who is it?")).to_be_visible()
    expect(page.get_by_role("status")).to_contain_text("1 entry of Wen L. wait")
    come_in(page, ines, "2580")
    expect(page.get_by_role("status").filter(has_text="1 waits for Wen L.")).to_be_visible()
    page.get_by_role("button", name=ines).tap()
    page.get_by_role("button", name="Somebody else").tap()
    come_in(page, wen, "7391")
    bench.saved()
    with engine.connect() as connection:
        rows = (
            connection.exec_driver_sql("SELECT extras FROM reading WHERE live = 1").scalars().all()
        )
    assert [json.loads(r)["x-by"] for r in rows] == ["Wen L.", "Wen L."]


def test_the_journal_is_narrowed_and_looked_over(screen: Screen, engine: Engine, ines: str) -> None:
    """By word; every entry against its seal."""
    staff.add(engine, "Tomas R.", "reader")
    page = screen("/journal", width=390, height=844)
    page.get_by_role("textbox", name="Name").fill(ines)
    page.get_by_label("Password", exact=True).fill(PASSWORD)
    page.keyboard.press("Enter")
    changes = page.get_by_role("list", name="Changes")
    expect(changes).to_contain_text("Tomas R.")
    page.get_by_label("A word or figure").fill("Tomas R.")
    expect(changes.get_by_role("listitem")).to_have_count(1)
    page.get_by_role("button", name="Look over every entry").click()
    expect(page.get_by_role("status").filter(has_text="none changed, none missing")).to_be_visible()
    assert obstacles(page) == []


def test_the_page_to_trust_by_fits_a_phone(screen: Screen, workshop: Live) -> None:
    """Fingerprint and certificate, without signing in."""
    page = screen("/trust", width=390, height=844)
    assert workshop.papers is not None
    expect(page.locator("code")).to_contain_text(workshop.papers.fingerprint)
    assert page.evaluate("document.documentElement.scrollWidth") <= 390
    assert obstacles(page) == []
