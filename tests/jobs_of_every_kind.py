"""Made-up job files of every kind of sheet, the same ones from the same seed."""

from typing import Any, Final

from plumb.core.procedures import route
from tests.sheets_of_every_kind import SHEETS, Draw, Sheet

SYSTEMS: Final = ("port", "throttle_body", "direct", "common_rail", "mechanical_diesel")


def job_file(seed: int) -> dict[str, Any]:
    """One job file: an engine, and one to all of its route's sheets, a few of them twice."""
    draw = Draw(seed)
    system = draw.choice(SYSTEMS)
    codes = [kind.code for kind in route(system)]
    often = draw.choice((0.3, 0.55, 0.9))
    kinds = [k for k in codes if draw.maybe(often)] or [draw.choice(codes)]
    kinds += [k for k in kinds if draw.maybe(0.08)]
    half = (len(draw.labels) + 1) // 2
    feeds, banks = draw.maybe(0.5), draw.maybe(0.3)
    aside = [k for k in codes if draw.maybe(0.05)]
    return {
        "plumb": 1,
        "job": {
            "number": str(9000 + seed), "complaint": "rough idle",
            "opened": "2026-05-12T09:00:00+02:00",
            "set_aside": [{"kind": k, "reason": "stays on"} for k in aside],
        },
        "vehicle": {
            "name": "Torvik Lundy 1.8", "fuel_system": system,
            "injectors": [
                {
                    "id": x, "cylinder": int(x),
                    **({"feed": f"F{n % 2 + 1}"} if feeds else {}),
                    **({"bank": "AB"[n >= half]} if banks else {}),
                }
                for n, x in enumerate(draw.labels)
            ],
        },
        "sheets": [
            {
                "kind": kind, "id": f"s{n}", "taken": f"2026-05-12T10:{n:02d}:00+02:00",
                **_fitting(SHEETS[kind](draw), system),
            }
            for n, kind in enumerate(kinds, 1)
        ],
    }  # fmt: skip


def _fitting(sheet: Sheet, system: str) -> Sheet:
    """Without what that engine does not have: a diesel has no trims."""
    return {k: v for k, v in sheet.items() if k != "trims" or system != "common_rail"}
