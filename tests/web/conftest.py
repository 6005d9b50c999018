"""A page on a running application; anything it complains of fails the test."""

import json
from collections.abc import Callable, Iterator
from typing import Any

import pytest
from playwright.sync_api import Browser, BrowserContext, expect
from tests.conftest import Live
from tests.drivers import Bench

MakeBench = Callable[..., Bench]

PATIENCE_MS = 40_000
"""A busy machine may stand still for seconds; what holds is seen at once all the same."""
expect.set_options(timeout=PATIENCE_MS)


@pytest.fixture
def make_bench(browser: Browser, live: Live) -> Iterator[MakeBench]:
    """A technician at a screen of their own; several may be made."""
    contexts: list[BrowserContext] = []
    faults: list[str] = []

    def make(
        width: int = 1280, height: int = 800, begin: str = "straight", *,
        keeps: bool = False, **options: Any,
    ) -> Bench:  # fmt: skip
        # What a service worker asks for no test sees: it is let in where it is what is tested.
        context = browser.new_context(
            viewport={"width": width, "height": height}, reduced_motion="reduce",
            service_workers="allow" if keeps else "block", **options,
        )  # fmt: skip
        context.set_default_timeout(PATIENCE_MS)
        contexts.append(context)
        prefs = json.dumps(json.dumps({"begin": begin}))
        context.add_init_script(
            f"if (!localStorage['plumb.prefs']) localStorage['plumb.prefs'] = {prefs}"
        )
        page = context.new_page()
        page.on("pageerror", lambda error: faults.append(str(error)))
        # What the page may not load it does not try to load either.
        page.on(
            "console",
            lambda m: (
                faults.append(f"{m.text} {m.location}") if "Content Security" in m.text else None
            ),
        )
        return Bench(page, live.address)

    yield make
    for context in contexts:
        context.close()
    assert not faults, "\n".join(faults)


@pytest.fixture
def bench(make_bench: MakeBench) -> Bench:
    """One technician."""
    return make_bench()
