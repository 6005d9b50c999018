"""A page on a running application; anything it complains of fails the test."""

import contextlib
import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import (
    Browser,
    BrowserContext,
    ConsoleMessage,
    Error,
    Page,
    Request,
    expect,
)
from tests.conftest import Live
from tests.drivers import Bench, eventually

MakeBench = Callable[..., Bench]

PATIENCE_MS = 40_000
"""A busy machine may stand still for seconds; what holds is seen at once all the same."""
expect.set_options(timeout=PATIENCE_MS)


AXE = Axe().axe_script
CONTRAST = "color-contrast"
_KEPT = {"preload": False, "resultTypes": ["violations"]}
"""It would fetch a style sheet that is slow to come, and put it into the page, where none may stand."""
_NEW = """(seen) => {
  document.querySelectorAll("[data-looked]").forEach((e) => e.removeAttribute("data-looked"));
  const known = new Set(seen), states = ["aria-pressed", "aria-current", "aria-disabled", "aria-checked", "data-state"];
  const paint = (e) => (e.getAttribute("style") ?? "").split(";").filter((s) => /color|back|opac|fill|filter/.test(s)).join(";");
  const sign = (e) => !e || e === document.documentElement ? "" : [
    e.tagName, e.getAttribute("class") ?? "", paint(e), e.disabled === true,
    ...states.map((s) => e.getAttribute(s)), sign(e.parentElement),
  ].join("|");
  const fresh = [];
  for (const e of document.body.querySelectorAll("*")) {
    const says = [...e.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim() !== "") || e.matches("input, select, textarea");
    const mine = says ? sign(e) : "";
    if (!says || known.has(mine) || e.getClientRects().length === 0) continue;
    known.add(mine);
    fresh.push(mine);
    e.setAttribute("data-looked", "");
  }
  return fresh;
}"""
"""Marks what says something and is styled, and stands in what is styled, as nothing was that was looked at before."""


DRAWN = """new Promise((r) => {
  requestAnimationFrame(() => requestAnimationFrame(() => setTimeout(r, 0, true)));
  setTimeout(r, 1000, true);
})"""
"""Once the page has drawn what it has; one that the browser does not draw at the moment is not waited for."""


class Asked:
    """What a page has asked for and not got yet."""

    def __init__(self, page: Page) -> None:
        self._page = page
        self._waits: set[Request] = set()
        self._begun = 0
        page.on("request", self._asks)
        page.on("requestfinished", self._is_done)
        page.on("requestfailed", self._is_done)

    def _asks(self, request: Request) -> None:
        self._begun += 1
        self._waits.add(request)

    def _is_done(self, request: Request) -> None:
        self._waits.discard(request)

    def all_came(self) -> None:
        """Wait until it has all, has drawn it, and asked for nothing more."""
        begun = -1

        def all_is_there() -> bool:
            nonlocal begun
            was, begun = begun, self._begun
            self._page.evaluate(DRAWN)
            return not self._waits and was == self._begun

        try:
            eventually(all_is_there)
        except AssertionError as never:
            never.add_note(f"waits for {[request.url for request in self._waits]}")
            raise


class Obstacles:
    """What keeps somebody from using a page, by axe-core; what is styled alike is looked at for its colours once."""

    def __init__(self) -> None:
        self._seen: list[str] = []

    def on(self, page: Page) -> list[tuple[str, list[str]]]:
        """By all that it knows; colours by the light and by the dark."""
        if not page.evaluate("typeof window.axe === 'object'"):
            page.evaluate(AXE)
        found = self._run(page, None, {"rules": {CONTRAST: {"enabled": False}}})
        fresh = page.evaluate(_NEW, self._seen)
        self._seen += fresh
        if fresh:
            for theme in ("light", "dark"):
                page.emulate_media(color_scheme=theme)  # type: ignore[arg-type]
                # A link is coloured in a step of its own: whoever looks before that sees the other theme's.
                page.evaluate(DRAWN)
                if not page.locator("[data-looked]").count():
                    # What moved on meanwhile, as a picture that is being made, stands there no more.
                    continue
                only = {"runOnly": {"type": "rule", "values": [CONTRAST]}}
                found += self._run(page, {"include": [["[data-looked]"]]}, only)
            page.emulate_media(color_scheme="light")
        return found

    def _run(
        self, page: Page, context: object, options: dict[str, object]
    ) -> list[tuple[str, list[str]]]:
        run = "([context, options]) => axe.run(context ?? document, options).then((r) => r.violations)"
        found = page.evaluate(run, [context, {**_KEPT, **options}])
        return [
            (v["id"], [f"{n['html'][:160]} {n.get('failureSummary', '')}" for n in v["nodes"]])
            for v in found
        ]


def obstacles(page: Page) -> list[tuple[str, list[str]]]:
    """What keeps somebody from using this page."""
    return Obstacles().on(page)


class Pages:
    """Pages with a context each, used again: a page that was open once has the application's scripts at hand.

    What a test left in it (storage, cookies, routes, what it emulates) is gone when the next one gets it.
    """

    def __init__(self, browser: Browser) -> None:
        self._browser = browser
        self._free: dict[str, list[Page]] = {}
        self.faults: list[str] = []

    def take(self, key: str, begin: str, options: dict[str, Any]) -> Page:
        """One that nobody has, not yet anywhere."""
        if self._free.get(key):
            return self._free[key].pop()
        context = self._browser.new_context(**options)
        context.set_default_timeout(PATIENCE_MS)
        prefs = json.dumps(json.dumps({"begin": begin}))
        context.add_init_script(
            # A blank page has no storage.
            f"if (location.origin !== 'null') localStorage['plumb.prefs'] ??= {prefs}"
        )
        context.on("page", self._listen)
        return context.new_page()

    def _listen(self, page: Page) -> None:
        page.on("pageerror", lambda error: self.faults.append(str(error)))
        page.on("console", self._heard)

    def _heard(self, said: ConsoleMessage) -> None:
        # What the page may not load it does not try to load either.
        if "Content Security" in said.text:
            self.faults.append(f"{said.text} {said.location}")

    def give_back(self, key: str, context: BrowserContext, origin: str, options: dict[str, Any]) -> None:  # fmt: skip
        """The next test may have it."""
        page, *others = context.pages or [context.new_page()]
        for other in others:
            other.close()
        page.unroute_all(behavior="ignoreErrors")
        page.goto("about:blank")
        page.emulate_media(media="null", color_scheme="null")
        page.set_viewport_size(options["viewport"])
        session = context.new_cdp_session(page)
        kinds = "cookies,local_storage,indexeddb,cache_storage,file_systems"
        session.send("Storage.clearDataForOrigin", {"origin": origin, "storageTypes": kinds})
        session.detach()
        context.clear_cookies()
        self._free.setdefault(key, []).append(page)


class Windows:
    """Opens windows of their own; what any of them complains of fails the test when they are closed."""

    def __init__(self, pages: Pages, origin: str) -> None:
        self._pages, self._origin = pages, origin
        self._open: list[tuple[BrowserContext, str, dict[str, Any]]] = []

    def open(self, begin: str = "straight", *, again: bool = True, **options: Any) -> Page:
        """A page that is not yet anywhere; with ``again`` not set no other test gets it afterwards."""
        key = json.dumps([begin, options], sort_keys=True) if again else ""
        page = self._pages.take(key, begin, options)
        self._open.append((page.context, key, options))
        return page

    def close(self) -> None:
        """Close them all."""
        for context, key, options in self._open:
            if key:
                self._pages.give_back(key, context, self._origin, options)
            else:
                context.close()
        faults, self._pages.faults = self._pages.faults, []
        assert not faults, "\n".join(faults)


@pytest.fixture(scope="session")
def pages(browser: Browser) -> Pages:
    """The pages of this run."""
    return Pages(browser)


@pytest.fixture
def make_bench(pages: Pages, live: Live) -> Iterator[MakeBench]:
    """A technician at a screen of their own; several may be made."""
    windows = Windows(pages, live.address)

    def make(
        width: int = 1280, height: int = 800, begin: str = "straight", *,
        keeps: bool = False, again: bool = True, **options: Any,
    ) -> Bench:  # fmt: skip
        # What a service worker asks for no test sees: it is let in where it is what is tested.
        page = windows.open(
            begin, again=again and not keeps, viewport={"width": width, "height": height},
            reduced_motion="reduce", service_workers="allow" if keeps else "block", **options,
        )  # fmt: skip
        return Bench(page, live.address)

    yield make
    windows.close()


@pytest.fixture
def bench(make_bench: MakeBench) -> Bench:
    """One technician."""
    return make_bench()


def kept(page: Page) -> None:
    """The service worker has the pages, and answers for this one."""
    page.evaluate("navigator.serviceWorker.ready.then(() => true)")
    page.reload()
    until(page, "navigator.serviceWorker.controller !== null")


def until(page: Page, told: str) -> None:
    """Wait until the page says so; asked from outside, for the page itself runs no text."""

    def says() -> bool:
        # It may be about to load anew.
        with contextlib.suppress(Error):
            return bool(page.evaluate(told))
        return False

    eventually(says)
