"""What the rail pressure says."""

from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KPA_PER, rounded
from plumb.core.measure.text import NOTHING_YET, Span
from plumb.core.procedures.rail.analysis import RailResult


def told_in(kpa: float, unit: str) -> str:
    """A pressure of the rail in ``unit`` with three telling digits."""
    value = kpa / KPA_PER.get(unit, 1.0)
    return f"{rounded(value, 0 if abs(value) >= 20 else 1)} {unit}"


def headline(result: RailResult, unit: str) -> tuple[Span, ...]:
    """One sentence on the rail."""
    if not result.state:
        return NOTHING_YET
    if result.state == "too_short":
        return (Span(text="Too short to tell: at least 5 s and 25 moments."),)
    if result.state == "surges":
        often = (
            f" at {rounded(result.frequency_hz, 1)} Hz" if result.frequency_hz is not None else ""
        )
        text = f"The rail surges{often}, {told_in(result.swing, unit)} from low to high."
        return (Span(text=text, tone="high"),)
    if result.state in {"low", "high"}:
        side = "below" if result.state == "low" else "above"
        text = f"The rail stays {told_in(abs(result.bias), unit)} {side} what is wanted."
        return (Span(text=text, tone=result.state),)
    return (Span(text="The rail follows what is wanted."),)


def notes(result: RailResult, _unit: str) -> tuple[str, ...]:
    """What follows for the other sheets."""
    if result.state in {"surges", "low", "high"}:
        text = "Settle the rail first: it moves every correction, so none is judged until then."
        return (text,)
    return ()


def state(_finding: Finding, _result: RailResult) -> str:
    """There are no rows."""
    return ""


def because(_finding: Finding, _result: RailResult, _unit: str) -> str:
    """There are no rows."""
    return ""
