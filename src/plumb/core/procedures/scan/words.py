"""What the scan says."""

from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import rounded
from plumb.core.measure.text import NOTHING_YET, Span, listed
from plumb.core.procedures.scan.analysis import BEYOND, ScanResult

SAYS: Final = ("in plumb", "lean", "rich", "misfires", "quiet")
_HEAD: Final = {
    "good": "The trims lie within a tenth",
    "lean_at_idle": "Lean at idle and better at speed: air that nobody measured",
    "lean_with_load": "Lean, and worse at speed: the supply, or all injectors clogged alike",
    "lean": "Lean at idle and at speed alike",
    "rich_at_idle": "Rich at idle and better at speed: fuel that comes by another way",
    "rich": "Rich at idle and at speed alike",
}


def headline(result: ScanResult, _unit: str) -> tuple[Span, ...]:
    """How the trims lie, and which cylinders misfire."""
    if not result.begun:
        return NOTHING_YET
    spans = []
    if result.pattern:
        tone = "" if result.pattern == "good" else "low" if "lean" in result.pattern else "high"
        bank = f", bank {result.one_bank} only" if result.one_bank else ""
        spans.append(Span(text=f"{_HEAD[result.pattern]}{bank}. ", tone=tone))
    if result.many:
        spans.append(Span(text="Most cylinders misfire: that is none of them alone.", tone="open"))
    elif result.counted:
        whose = listed([row.removeprefix("misfires ") for row in result.counted])
        s = "s" if len(result.counted) > 1 else ""
        verb = "" if len(result.counted) > 1 else "s"
        spans.append(Span(text=f"Cylinder{s} {whose} misfire{verb}.", tone="open"))
    elif result.counts:
        spans.append(Span(text="No cylinder misfires more than the others."))
    return tuple(spans)


def notes(result: ScanResult, _unit: str) -> tuple[str, ...]:
    """What neither trims nor counts can say."""
    made = []
    if result.counted:
        made.append(
            "A count points at a cylinder, never at its injector: ignition, compression, command and "
            "injector misfire alike."
        )
    if result.one_bank:
        made.append(f"Only bank {result.one_bank} is off: look first at what it has for itself.")
    if result.sheet.frame:
        made.append(f"Freeze frame: {result.sheet.frame}")
    return tuple(made)


def state(finding: Finding, result: ScanResult) -> str:
    """A trim's side, or whether the cylinder misfires."""
    if not finding.passes:
        return ""
    if finding.place in {row for row, _, _ in result.sheet.counts}:
        return "misfires" if finding.state is State.HIGH else "quiet"
    words = {State.HIGH: "lean", State.LOW: "rich"}
    return words.get(finding.state, "in plumb")


def because(finding: Finding, result: ScanResult, _unit: str) -> str:
    """How far a trim lies from nought; what a count is held against."""
    if finding.value is None:
        return "not read"
    if finding.place in {row for row, _, _ in result.sheet.counts}:
        over = f" over {rounded(result.sheet.over_s, 0)} s" if result.sheet.over_s else ""
        return f"{finding.value:g} misfires{over}, held against the other cylinders"
    return f"{rounded(finding.value, 1)} %; beyond ±{BEYOND:g} % a long trim is looked into"
