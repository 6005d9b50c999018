"""Fuel trims, read as a pattern over idle and speed; misfire counts, cylinder by cylinder.

A long trim beyond a tenth is looked into.  Lean at idle and better at speed is air that nobody measured;
lean and worse with load is the supply, or injectors that are clogged alike; rich at idle and better at
speed is fuel that comes by another way.  What is off on one bank only is what that bank shares.  Counts
point at a cylinder, never at its injector.

>>> found = analyse_scan(ScanSheet(trims=(
...     Trim(state="idle", long=14.0), Trim(state="raised", long=3.0))))
>>> found.pattern
'lean_at_idle'
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Final

import scipy  # its parts load when first used: all at once cost every start a second

from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.finding import IN_POINTS, Finding, unread

KIND: Final = "scan"
STATES: Final = ("idle", "raised")
NAMES: Final = {"idle": "at idle", "raised": "at about 2500 a minute"}
BEYOND: Final = 10.0
"""A long trim further than this from nought, in per cent, is looked into; common practice, no source."""
BETTER: Final = 0.5
"""A trim that falls to half of it at speed has got better; common practice, no source."""
LEAST_COUNT: Final = 5
"""Fewer misfires than this happen to every engine; common practice, no source."""
CHANCE: Final = 0.001
"""So seldom would so many misfires of one cylinder come about if it were as the others (Poisson)."""
OFTEN: Final = 10
_MANY: Final = 0.5
"""Where more than half of the cylinders misfire so often it is none of them; common practice, no source."""


Place = tuple[str, str, str]
"""Of a trim: its bank, the state of the engine, long or short."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Trim:
    """The trims of one bank in one state of the engine, in per cent; positive: the engine was lean."""

    state: str
    bank: str = ""
    short: float | None = None
    long: float | None = None

    @property
    def total(self) -> float | None:
        """What the controller adds: the long trim, else the short one."""
        return self.short if self.long is None else self.long


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanSheet:
    """What is put in: trims; counts as (row, injectors of the cylinder, count), None where not read.

    ``rows`` are those of the trims, each with its bank, its state, and which of the two it is;
    ``over_s`` is how long was counted, ``frame`` what the freeze frame says.
    """

    trims: tuple[Trim, ...] = ()
    counts: tuple[tuple[str, tuple[str, ...], float | None], ...] = ()
    rows: tuple[tuple[str, Place], ...] = ()
    over_s: float | None = None
    frame: str = ""

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class ScanResult:
    """What the sheet says.

    ``pattern`` is good, lean_at_idle, lean_with_load, lean, rich_at_idle, rich or empty; ``banks`` has
    it for each bank, ``one_bank`` names the bank that alone is off.  ``counted`` are the rows whose
    cylinder misfires, ``many``: so many do that it is none of them.
    """

    sheet: ScanSheet
    findings: tuple[Finding, ...]
    banks: Mapping[str, str]
    pattern: str
    one_bank: str
    counted: tuple[str, ...]
    many: bool
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether any trim or count was noted."""
        return any(f.passes for f in self.findings)

    @property
    def counts(self) -> bool:
        """Whether misfires were counted at all."""
        return any(c is not None for _, _, c in self.sheet.counts)

    @property
    def passed(self) -> bool:
        """Everything that was read is as it should be."""
        read = [f for f in self.findings if f.passes]
        return bool(read) and all(f.state is State.IN_PLUMB for f in read)


def analyse_scan(sheet: ScanSheet, thresholds: Thresholds = Thresholds()) -> ScanResult:
    """Read the trims as a pattern over the states, and find the cylinders that misfire."""
    by_bank: dict[str, dict[str, float]] = {}
    for trim in sheet.trims:
        if trim.total is not None:
            by_bank.setdefault(trim.bank, {})[trim.state] = trim.total
    banks = {bank: _pattern(read) for bank, read in by_bank.items()}
    counted = _counted(sheet)
    read = [c for _, _, c in sheet.counts if c is not None]
    many = len(read) > 1 and sum(c >= OFTEN for c in read) > _MANY * len(read)
    off = {bank: p for bank, p in banks.items() if p != "good"}
    return ScanResult(
        sheet=sheet,
        findings=(*_of_trims(sheet), *_of_counts(sheet, counted)),
        banks=banks,
        pattern=next(iter(off.values()), "good" if banks else ""),
        one_bank=next(iter(off)) if len(off) == 1 and len(banks) > 1 else "",
        counted=() if many else counted,
        many=many,
        thresholds=thresholds,
    )


def _pattern(read: Mapping[str, float]) -> str:
    """What the trims of one bank say."""
    idle, raised = read.get("idle"), read.get("raised")
    lean = {s for s, v in read.items() if v > BEYOND}
    rich = {s for s, v in read.items() if v < -BEYOND}
    if not lean and not rich:
        return "good"
    if idle is None or raised is None:
        return "lean" if lean else "rich"
    if lean:
        if "idle" in lean and raised < BETTER * idle:
            return "lean_at_idle"
        return "lean_with_load" if "raised" in lean and idle < BETTER * raised else "lean"
    return "rich_at_idle" if "idle" in rich and raised > BETTER * idle else "rich"


def _counted(sheet: ScanSheet) -> tuple[str, ...]:
    """The rows whose cylinder misfires more often than the others' counts leave to chance."""
    read = [(row, count) for row, _, count in sheet.counts if count is not None]
    made = []
    for row, count in read:
        others = sorted(c for other, c in read if other != row)
        # The middle of the others: one that misfires as well says nothing of the rest.
        usual = others[(len(others) - 1) // 2] if others else 0.0
        alike = float(scipy.special.pdtrc(count - 1.0, max(1.0, usual))) if count >= 1.0 else 1.0
        if count >= LEAST_COUNT and alike < CHANCE:
            made.append(row)
    return tuple(made)


def _of_trims(sheet: ScanSheet) -> tuple[Finding, ...]:
    """A finding for each trim that is asked for: the long ones are judged, the short ones told."""
    known = {(t.bank, t.state): t for t in sheet.trims}
    made = []
    for row, (bank, state, which) in sheet.rows:
        trim = known.get((bank, state))
        value = None if trim is None else getattr(trim, which)
        made.append(unread(row, IN_POINTS) if value is None else _trim(row, value, which))
    return tuple(made)


def _trim(row: str, value: float, which: str) -> Finding:
    judged = State.HIGH if value > BEYOND else State.LOW if value < -BEYOND else State.IN_PLUMB
    return replace(
        unread(row, IN_POINTS), state=judged if which == "long" else State.IN_PLUMB,
        value=value, reference=0.0, deviation=value, tolerance=BEYOND, passes=1,
    )  # fmt: skip


def _of_counts(sheet: ScanSheet, counted: Sequence[str]) -> tuple[Finding, ...]:
    return tuple(
        unread(row, IN_POINTS)
        if count is None
        else replace(
            unread(row, IN_POINTS), value=count, passes=1,
            state=State.HIGH if row in counted else State.IN_PLUMB,
        )
        for row, _, count in sheet.counts
    )  # fmt: skip
