"""Application and database are killed at random while eight people type; so is a browser."""

import os
import random
import signal
import time
from contextlib import ExitStack, suppress
from pathlib import Path
from typing import Any

import psutil
import pytest
from playwright.sync_api import Playwright, expect

from tests.conftest import CHROMIUM, CHROMIUM_ARGS, Live
from tests.drivers import ASK, Bench
from tests.faults.people import LONG, back_after, begin, ended, kept, say, there
from tests.shops import Opens, database_of, serving

KILLS = 30
ENOUGH = 1000
"""So many readings are acknowledged at least."""
BACK_S = 15.0
"""Everybody's figures are taken again so long after a kill."""


def _kill(application: int, database: int | None, what: str) -> None:
    """End the application, its database, or both in either order, as a power cut would."""
    victims = {
        "application": [application], "database": [database],
        "both": [application, database], "both, the database first": [database, application],
    }[what]  # fmt: skip
    for pid in victims:
        if pid is not None:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)


@pytest.mark.skipif(not LONG, reason="the long form; tests/cli/test_again.py is the short one")
def test_nothing_is_lost_or_doubled_whatever_is_killed(opens: Opens) -> None:
    """Each start is a plain one, as systemd makes it; a database alone is started again by the application."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    luck = random.Random(16)
    kinds = ["application", "database", "both", "both, the database first"]
    luck.shuffle(kinds)
    pauses: dict[str, list[float]] = {}
    with ExitStack() as stack:
        process = stack.enter_context(serving(env))
        people = begin(8, [address], pause_s=0.05)
        for n in range(KILLS):
            before = kept(people)
            while kept(people) < before + ENOUGH // KILLS:
                time.sleep(0.05)
            time.sleep(luck.uniform(0.0, 1.0))
            what = kinds[n % len(kinds)]
            moment = time.monotonic()
            _kill(process.pid, database_of(env), what)
            if what != "database":
                process.wait()
                process = stack.enter_context(serving(env))
            pauses.setdefault(what, []).append(back_after(people, moment))
        acknowledged = ended(people)

        def ask(path: str) -> Any:
            return ASK.get(address + path, timeout=60).raise_for_status().json()

        found = there(ask, people)
        journal = ask("/api/journal/check")
    say(f"{len(acknowledged)} readings; back after (s) {pauses}")
    assert len(acknowledged) >= ENOUGH
    assert sorted(found.elements()) == sorted(acknowledged)
    assert max(s for each in pauses.values() for s in each) <= BACK_S
    assert journal["wrong"] == ""
    assert journal["entries"] > len(acknowledged)


def test_a_browser_is_killed_with_figures_that_wait(
    playwright: Playwright, live: Live, tmp_path: Path
) -> None:
    """The server is away, the browser ends as in a power cut; opened again it sends all of them, once."""
    for n in range(5 if LONG else 1):
        profile = tmp_path / f"profile-{n}"
        bench = _browser(playwright, profile, live)
        bench.go().new_job(f"Torvik Lundy {n}", cylinders=4)
        bench.burst("50 26").burst("50 26.5")
        bench.saved()
        where = bench.page.url.removeprefix(live.address)
        live.stop()
        bench.burst("50 25.5").burst("50 26")
        expect(bench.page.get_by_role("status").filter(has_text="2")).to_be_visible()
        _end_browser(profile)
        live.start()
        again = _browser(playwright, profile, live)
        again.go(where)
        again.saved()
        sheet = ASK.get(f"{live.address}/api/jobs").json()[0]["number"]
        (knot,) = (
            k for k in ASK.get(f"{live.address}/api/jobs/{sheet}").json()["route"] if k["sheet_id"]
        )
        rows = f"{live.address}/api/sheets/{knot['sheet_id']}/rows"
        figures = [ASK.get(f"{rows}/{n}/readings").json() for n in range(1, 5)]
        assert [len(f) for f in figures] == [1, 1, 1, 1]
        assert [f[0]["second_typed"] for f in figures] == ["26", "26.5", "25.5", "26"]
        again.page.context.close()


def _browser(playwright: Playwright, profile: Path, live: Live) -> Bench:
    """A browser that keeps what it keeps in a folder of its own."""
    context = playwright.chromium.launch_persistent_context(
        str(profile), executable_path=CHROMIUM, args=CHROMIUM_ARGS, viewport={"width": 1280, "height": 800},
    )  # fmt: skip
    context.add_init_script("localStorage['plumb.prefs'] ??= '{\"begin\": \"straight\"}'")
    return Bench(context.pages[0], live.address)


def _end_browser(profile: Path) -> None:
    """End every process of a browser at once."""
    mine = [
        p
        for p in psutil.process_iter(["cmdline"])
        if str(profile) in " ".join(p.info["cmdline"] or ())
    ]
    assert mine
    for process in mine:
        with suppress(psutil.NoSuchProcess):
            process.kill()
    psutil.wait_procs(mine, 20)
