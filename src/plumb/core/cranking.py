"""Cranking balance, typed by hand: how high each cylinder's hump of starter current stands.

The engine is kept from starting and cranked for a couple of seconds with a clamp round all starter
cables; each compression makes a hump.  Even humps mean even compression.  Typed in per cent of the
usual hump: a cylinder beyond -15 % is mechanically weak (common practice, no source).

>>> sheet = CrankingSheet(cylinders=(("1", 98.0), ("2", 101.0), ("3", 79.0), ("4", 100.0)), step=1.0)
>>> [f.state.value for f in analyse_cranking(sheet).findings]
['in_plumb', 'in_plumb', 'low', 'in_plumb']
"""

from dataclasses import dataclass
from statistics import median
from typing import Final

from plumb.core.decision import State, Thresholds, normal_below
from plumb.core.finding import Finding
from plumb.core.uncertainty import step_uncertainty

KIND: Final = "cranking_balance"
LIMIT: Final = 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class CrankingSheet:
    """What is put in: height of each cylinder's hump by injector label, None where not read."""

    cylinders: tuple[tuple[str, float | None], ...]
    step: float
    limit: float = LIMIT


@dataclass(frozen=True, slots=True, kw_only=True)
class CrankingResult:
    """What the sheet says: low is a mechanically weak cylinder; ``reference`` the median hump."""

    sheet: CrankingSheet
    findings: tuple[Finding, ...]
    reference: float | None
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def passed(self) -> bool:
        """Every cylinder was read and none is weak."""
        return bool(self.findings) and all(f.state is State.IN_PLUMB for f in self.findings)


def analyse_cranking(sheet: CrankingSheet, thresholds: Thresholds = Thresholds()) -> CrankingResult:
    """Judge each hump against the median of all; fewer than three say nothing."""
    values = [v for _, v in sheet.cylinders if v is not None]
    middle = median(values) if len(values) > 2 else None
    return CrankingResult(
        sheet=sheet,
        findings=tuple(_finding(k, v, middle, sheet, thresholds) for k, v in sheet.cylinders),
        reference=middle,
        thresholds=thresholds,
    )


def _finding(
    label: str,
    value: float | None,
    middle: float | None,
    sheet: CrankingSheet,
    thresholds: Thresholds,
) -> Finding:
    deviation, u, out, state = None, None, None, State.NOT_JUDGED
    if value is not None and middle:
        deviation = value / middle - 1.0
        u = step_uncertainty(sheet.step) / middle
        out = normal_below((-sheet.limit - deviation) / u)
        state = (
            State.LOW if out >= thresholds.call
            else State.IN_PLUMB if out <= thresholds.clear else State.UNSETTLED
        )  # fmt: skip
    return Finding(
        injector=label,
        quantity="hump",
        state=state,
        value=value,
        reference=middle,
        deviation=deviation,
        u=u,
        tolerance=sheet.limit,
        probability_out=out,
        passes_to_settle=None,
        passes=0 if value is None else 1,
        agrees=False,
    )
