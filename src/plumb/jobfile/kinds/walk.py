"""The walk-round in the job file."""

from typing import Literal

from pydantic import Field

from plumb.core.measure.readings import Noted
from plumb.core.procedures.walk.analysis import LOOKED_AT, WalkSheet
from plumb.jobfile.kinds.kind import Engine, FileKind
from plumb.jobfile.models import Code, SheetPart

Complaint = Literal[
    "rough_idle",
    "misfire",
    "long_crank",
    "no_start",
    "hard_start_cold",
    "hard_start_hot",
    "fuel_smell",
    "smoke_black",
    "smoke_white",
    "smoke_blue",
    "rich",
    "bogs",
    "fine_above_idle",
    "surges",
    "none",
]


class WalkPart(SheetPart):
    """The walk-round."""

    kind: Literal["walk_round"]
    complaint: list[Complaint] = Field([], max_length=15)
    codes: list[Code] = Field([], max_length=40)
    hose: Literal["", "dry", "damp", "wet"] = ""
    connectors: Literal["", "good", "loose", "broken"] = ""
    note: str = Field("", max_length=500)


def core(part: WalkPart, _rows: tuple[Noted, ...], engine: Engine) -> WalkSheet:
    """Its ticks."""
    return WalkSheet(
        complaint=tuple(part.complaint),
        codes=tuple(part.codes),
        hose=part.hose,
        connectors=part.connectors,
        looked_at=LOOKED_AT[engine.fuel_system],
        note=part.note.strip(),
    )


WALK = FileKind(model=WalkPart, core=core)
