"""The walk-round: complaint, codes, hoses, connectors; what can be seen before a gauge is fitted."""

from dataclasses import dataclass
from typing import Final

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.finding import Finding
from plumb.core.procedures.kind import PETROL

KIND: Final = "walk_round"


LOOKED_AT: Final = {
    **dict.fromkeys(PETROL, ("hose", "connectors")),
    "common_rail": ("connectors",),
    "mechanical_diesel": (),
}
"""What is looked at by fuel system: a diesel has no regulator that a vacuum hose leads to."""


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkSheet:
    """What is put in: words of the complaint, codes, the vacuum hose, the connectors.

    ``looked_at`` are those of the two that this engine has; ``note`` is what was seen beside them.
    """

    complaint: tuple[str, ...] = ()
    codes: tuple[str, ...] = ()
    hose: str = ""
    connectors: str = ""
    looked_at: tuple[str, ...] = ("hose", "connectors")
    note: str = ""

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class WalkResult:
    """What was seen; nothing is measured, so there are no findings."""

    sheet: WalkSheet
    findings: tuple[Finding, ...] = ()

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether anything was noted."""
        s = self.sheet
        return bool(s.complaint or s.codes or s.hose or s.connectors or s.note)

    @property
    def passed(self) -> bool:
        """Looked at, and nothing seen that must be put right first."""
        good = {"hose": {"dry", "damp"}, "connectors": {"good"}}
        return self.begun and all(getattr(self.sheet, x) in good[x] for x in self.sheet.looked_at)


def analyse_walk(sheet: WalkSheet, _thresholds: Thresholds = Thresholds()) -> WalkResult:
    """The walk-round as it was noted."""
    return WalkResult(sheet=sheet)
