"""How long a report takes, from the job file to the PDF."""

import json
import time
from pathlib import Path
from typing import Final

from rich.console import Console

from plumb import demo, finishing

SHEETS: Final = 12


def _of_sheets(count: int) -> bytes:
    """The demo's finished job with so many sheets: its drop sheet is repeated under other names."""
    file = json.loads((Path(demo.__file__).parent / "341.json").read_text(encoding="utf-8"))
    again = next(s for s in file["sheets"] if s["kind"] == "pressure_drop" and not s.get("after"))
    more = count - len(file["sheets"])
    file["sheets"] = [*({**again, "id": f"more{n}"} for n in range(more)), *file["sheets"]]
    return json.dumps(file).encode()


def papers(console: Console) -> None:
    """Print what a report of twelve sheets takes, the first of a process and those after it."""
    text = _of_sheets(SHEETS)
    times = []
    for _ in range(4):
        begin = time.perf_counter()
        finishing.report(text)
        times.append(time.perf_counter() - begin)
    console.print(
        f"a report of {SHEETS} sheets as PDF: the first [bold]{times[0]:.1f} s[/], then "
        f"[bold]{sorted(times[1:])[1]:.1f} s[/]  (asked: at most 3)"
    )
