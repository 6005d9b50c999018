"""A page on a running application; anything it complains of fails the test."""

import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Browser, BrowserContext, ConsoleMessage, Page, expect
from tests.conftest import Live
from tests.drivers import Bench

MakeBench = Callable[..., Bench]

PATIENCE_MS = 40_000
"""A busy machine may stand still for seconds; what holds is seen at once all the same."""
expect.set_options(timeout=PATIENCE_MS)


def obstacles(page: Page, *rules: str) -> list[tuple[str, list[str]]]:
    """What keeps somebody from using the page, by axe-core: by all that it knows, or by these ``rules``."""
    only = {"runOnly": {"type": "rule", "values": list(rules)}} if rules else {}
    # It would fetch a style sheet that is slow to come, and put it into the page, where none may stand.
    found = (
        Axe()
        .run(page, options={"preload": False, "resultTypes": ["violations"], **only})
        .response["violations"]
    )
    return [(v["id"], [node["html"][:160] for node in v["nodes"]]) for v in found]


class Windows:
    """Opens windows of their own; what any of them complains of fails the test when they are closed."""

    def __init__(self, browser: Browser) -> None:
        self._browser = browser
        self._contexts: list[BrowserContext] = []
        self._faults: list[str] = []

    def open(self, begin: str = "straight", **options: Any) -> Page:
        """A page of a new context with these ``options``, not yet anywhere."""
        context = self._browser.new_context(**options)
        context.set_default_timeout(PATIENCE_MS)
        self._contexts.append(context)
        prefs = json.dumps(json.dumps({"begin": begin}))
        context.add_init_script(
            f"if (!localStorage['plumb.prefs']) localStorage['plumb.prefs'] = {prefs}"
        )
        page = context.new_page()
        page.on("pageerror", lambda error: self._faults.append(str(error)))
        page.on("console", self._heard)
        return page

    def _heard(self, said: ConsoleMessage) -> None:
        # What the page may not load it does not try to load either.
        if "Content Security" in said.text:
            self._faults.append(f"{said.text} {said.location}")

    def close(self) -> None:
        """Close them all."""
        for context in self._contexts:
            context.close()
        assert not self._faults, "\n".join(self._faults)


@pytest.fixture
def make_bench(browser: Browser, live: Live) -> Iterator[MakeBench]:
    """A technician at a screen of their own; several may be made."""
    windows = Windows(browser)

    def make(
        width: int = 1280, height: int = 800, begin: str = "straight", *,
        keeps: bool = False, **options: Any,
    ) -> Bench:  # fmt: skip
        # What a service worker asks for no test sees: it is let in where it is what is tested.
        page = windows.open(
            begin, viewport={"width": width, "height": height}, reduced_motion="reduce",
            service_workers="allow" if keeps else "block", **options,
        )  # fmt: skip
        return Bench(page, live.address)

    yield make
    windows.close()


@pytest.fixture
def bench(make_bench: MakeBench) -> Bench:
    """One technician."""
    return make_bench()
