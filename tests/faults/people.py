"""People who type without looking while something fails, and what became of what was acknowledged to them."""

import os
import random
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from typing import Any, Final

import httpx2

from tests.drivers import new_id

LONG: Final = bool(os.environ.get("PLUMB_LONG_TESTS"))
"""Whether the long form was asked for (``./plumb test --faults``)."""
INJECTORS: Final = 8
A_SHEET: Final = INJECTORS * 99
"""So many readings a sheet takes."""
_AGAIN: Final = frozenset({500, 502, 503, 504, 507})
"""What a browser sends again."""


def say(words: str) -> None:
    """What a run has shown, for whoever looks at it (``pytest -s``)."""
    sys.stdout.write(f"\n{words}\n")


class Typist(threading.Thread):
    """Types on a job of their own, and sends each figure again until it is kept; a full sheet is followed by a new job.

    ``addresses`` are applications on the same shop: where one does not answer the next one is asked.
    """

    def __init__(self, addresses: Sequence[str], *, pause_s: float = 0.0, seed: int = 0) -> None:
        super().__init__(daemon=True)
        self.addresses = list(addresses)
        self.kept: dict[str, float] = {}
        self.sheets: list[int] = []
        self.waited: list[float] = []
        self.wrong: list[str] = []
        self.stop = threading.Event()
        self._pause_s, self._dice = pause_s, random.Random(seed)

    def run(self) -> None:
        """Type until told to stop; the last one is still sent until it is kept."""
        with httpx2.Client(timeout=30, verify=False) as client:
            for n, (sheet, body) in enumerate(self._figures(client)):
                begun = time.monotonic()
                if self._sent(client, f"/api/sheets/{sheet}/readings", body) is None:
                    return
                self.waited.append(time.monotonic() - begun)
                self.kept[body["id"]] = time.monotonic()
                if self.stop.wait(self._pause_s * self._dice.uniform(0.5, 1.5) if n else 0):
                    return

    def _figures(self, client: httpx2.Client) -> Iterator[tuple[int, dict[str, str]]]:
        while True:
            wanted = {
                "request_id": new_id(), "vehicle_name": "Torvik Lundy 1.8", "cylinders": INJECTORS,
            }  # fmt: skip
            made = self._sent(client, "/api/jobs", wanted)
            if made is None:
                return
            self.sheets.append(made["id"])
            for n in range(A_SHEET):
                second = f"{26 + 0.5 * self._dice.randrange(2):g}"
                yield made["id"], {
                    "id": new_id(), "injector": str(1 + n % INJECTORS), "first": "50", "second": second,
                }  # fmt: skip

    def _sent(self, client: httpx2.Client, path: str, body: dict[str, Any]) -> Any:
        """The answer once there is one; None where the last word was a refusal."""
        tries = 0
        while True:
            address = self.addresses[tries % len(self.addresses)]
            tries += 1
            try:
                answer = client.post(address + path, json=body)
            except httpx2.HTTPError:
                time.sleep(0.1)
                continue
            if answer.status_code < 300:
                return answer.json()
            if answer.status_code not in _AGAIN:
                self.wrong.append(f"{answer.status_code} {answer.text}")
                return None
            time.sleep(0.1)


def begin(people: int, addresses: Sequence[str], *, pause_s: float = 0.0) -> list[Typist]:
    """So many people begin to type, each at another address first."""
    typists = []
    for n in range(people):
        turned = [*addresses[n % len(addresses) :], *addresses[: n % len(addresses)]]
        typists.append(Typist(turned, pause_s=pause_s, seed=n))
    for typist in typists:
        typist.start()
    return typists


def kept(typists: Sequence[Typist]) -> int:
    """How many figures were acknowledged so far."""
    return sum(len(t.kept) for t in typists)


def back_after(typists: Sequence[Typist], moment: float, within_s: float = 120.0) -> float:
    """Seconds from a moment until every one of them has had a figure acknowledged that was not before it."""
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        newest = [max(t.kept.values(), default=0.0) for t in typists]
        if all(at > moment for at in newest):
            return max(min(at for at in t.kept.values() if at > moment) for t in typists) - moment
        time.sleep(0.05)
    raise AssertionError([t.wrong for t in typists])


def ended(typists: Sequence[Typist]) -> list[str]:
    """They stop; the ids of all that was acknowledged."""
    for typist in typists:
        typist.stop.set()
    for typist in typists:
        typist.join(timeout=90)
        assert not typist.is_alive()
        assert typist.wrong == []
    return [reading for typist in typists for reading in typist.kept]


def there(ask: Callable[[str], Any], typists: Sequence[Typist]) -> Counter[str]:
    """The ids of all readings on their sheets, as the application tells them, and how often."""
    found: Counter[str] = Counter()
    for typist in typists:
        for sheet in typist.sheets:
            for n in range(1, INJECTORS + 1):
                rows = ask(f"/api/sheets/{sheet}/rows/{n}/readings")
                found.update(row["id"] for row in rows)
    return found
