"""A newer Plumb is taken in a quiet moment."""

import json
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import expect
from tests.conftest import Live
from tests.web.conftest import MakeBench, kept, until

from plumb.api.app import PAGES, make_app
from plumb.api.settings import Settings


@pytest.fixture
def newer(live: Live, tmp_path: Path) -> Iterator[Live]:
    """The same server, whose pages can be exchanged for a newer build."""
    pages = tmp_path / "dist"
    shutil.copytree(PAGES, pages)
    live.stop()
    usual, live.app = live.app, make_app(live.app.state.engine, Settings(), pages=pages)
    live.pages = pages
    live.start()
    yield live
    live.stop()
    live.app, live.pages = usual, None


LATER = """() => {
  const now = Date.now, look = document.querySelectorAll;
  Date.now = () => now() + 20_000;
  window.plumbLooks = 0;
  document.querySelectorAll = function (what) {
    if (what === "input, textarea") window.plumbLooks += 1;
    return look.call(document, what);
  };
}"""
"""It is twenty seconds later for the page; counts how often it looks whether a figure is half typed."""


def test_a_newer_plumb_is_taken_when_nobody_is_in_the_middle(
    make_bench: MakeBench, newer: Live
) -> None:
    """Not while a figure is half typed; then by itself, with all that was typed."""
    bench = make_bench(keeps=True)
    bench.go().new_job("Torvik Lundy 1.8")
    kept(bench.page)
    expect(bench.entry("first")).to_be_focused()
    bench.type("50 2")
    assert newer.pages is not None
    worker = newer.pages / "sw.js"
    worker.write_text(worker.read_text() + "\n// newer\n")
    bench.page.evaluate("window.plumbMark = 1")
    bench.page.evaluate("navigator.serviceWorker.ready.then((r) => r.update()).then(() => true)")
    waits = "navigator.serviceWorker.getRegistration().then((r) => r?.waiting !== null)"
    until(bench.page, waits)
    bench.page.evaluate(LATER)
    until(bench.page, "window.plumbLooks > 1")
    assert bench.page.evaluate("window.plumbMark") == 1
    bench.type("6").press("Enter").saved()
    bench.page.evaluate(LATER)
    until(bench.page, "window.plumbMark === undefined")
    expect(bench.row("1")).to_contain_text("24")
    stored = json.loads(bench.page.evaluate("localStorage['plumb.prefs']"))
    assert stored["begin"] == "straight"
