"""What the walk-round says."""

from plumb.core.measure.finding import Finding
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.measure.text import Span, listed
from plumb.core.procedures.walk.analysis import WalkResult


def headline(result: WalkResult, _unit: str) -> tuple[Span, ...]:
    """What must be put right first, else what was noted."""
    sheet = result.sheet
    if sheet.hose == "wet":
        return (Span(text="Fuel stands in the vacuum hose: ", tone="high"),
                Span(text="the regulator’s diaphragm is torn."))  # fmt: skip
    if sheet.connectors in {"loose", "broken"}:
        return (Span(text=f"Connectors {sheet.connectors}: ", tone="open"),
                Span(text="one that is not home falls off on the road."))  # fmt: skip
    if not result.begun:
        return (Span(text="Nothing noted yet."),)
    if sheet.hose == "damp":
        return (Span(text="The hose is a little damp: tell the customer, go on."),)
    said = [COMPLAINTS[c] for c in sheet.complaint if c != "none"]
    if sheet.codes:
        # A controller that complains is a complaint of its own.
        said.append(f"code{'s' * (len(sheet.codes) > 1)} {listed(sheet.codes)}")
    text = listed(said) if said else "no complaint"
    # Who has written something down has seen something.
    clean = result.passed and not sheet.note
    told = f", {sheet.note.rstrip('.')}" if sheet.note else ""
    return (Span(text=f"Noted: {text}{told}{', nothing wrong seen outside' if clean else ''}."),)


def state(_finding: Finding, _result: WalkResult) -> str:
    """There are no rows."""
    return ""


def because(_finding: Finding, _result: WalkResult, _unit: str) -> str:
    """There are no rows."""
    return ""


def later(result: WalkResult) -> tuple[str, ...]:
    """What the owner is told to watch: what was seen that holds for now."""
    if result.sheet.hose != "damp":
        return ()
    return (
        (
            "The hose at the pressure regulator was slightly damp. It holds for now; have it looked at "
            "with the next service, or at once if you smell fuel."
        ),
    )
