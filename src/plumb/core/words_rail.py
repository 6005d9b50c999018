"""What the rail pressure says, in plain workshop English, and how it was worked out."""

from plumb.core import rail
from plumb.core.explain import Line, Working
from plumb.core.quantities import KPA_PER, rounded
from plumb.core.words import Span


def _in(kpa: float, unit: str) -> str:
    """A pressure of the rail in ``unit`` with three telling digits."""
    value = kpa / KPA_PER.get(unit, 1.0)
    return f"{rounded(value, 0 if abs(value) >= 20 else 1)} {unit}"


def rail_headline(result: rail.RailResult, unit: str) -> tuple[Span, ...]:
    """One sentence on the rail."""
    if not result.state:
        return (Span(text="Nothing measured yet."),)
    if result.state == "too_short":
        return (Span(text="Too short to tell: at least 5 s and 25 moments."),)
    if result.state == "surges":
        often = (
            f" at {rounded(result.frequency_hz, 1)} Hz" if result.frequency_hz is not None else ""
        )
        text = f"The rail surges{often}, {_in(result.swing, unit)} from low to high."
        return (Span(text=text, tone="high"),)
    if result.state in {"low", "high"}:
        side = "below" if result.state == "low" else "above"
        text = f"The rail stays {_in(abs(result.bias), unit)} {side} what is wanted."
        return (Span(text=text, tone=result.state),)
    return (Span(text="The rail follows what is wanted."),)


def rail_notes(result: rail.RailResult) -> tuple[str, ...]:
    """What follows for the other sheets."""
    if result.state in {"surges", "low", "high"}:
        text = "Settle the rail first: it moves every correction, so none is judged until then."
        return (text,)
    return ()


def explain_rail(result: rail.RailResult, unit: str) -> Working:
    """All figures of the rail."""
    beyond = f"more than {100 * rail.BEYOND:g} % of wanted away"
    named = "none stands out" if result.frequency_hz is None else rounded(result.frequency_hz, 2)
    return Working(
        shared=(
            Line(label="wanted", figure=_in(result.wanted, unit), formula="median"),
            Line(label="bias", figure=_in(result.bias, unit), formula="median of the difference"),
            Line(label="swing", figure=_in(result.swing, unit),
                 formula="width of the middle 90 % of actual less wanted"),
            Line(label="strongest frequency", figure=named, unit="Hz",
                 formula="periodogram, Hann window; named above 30 % of the power"),
            Line(label="time beyond", figure=rounded(100 * result.beyond, 1), unit="%",
                 formula=beyond, source="common practice, no source"),
            Line(label="time beyond, bias taken off", figure=rounded(100 * result.swings_beyond, 1),
                 unit="%", formula=f"above {100 * rail.SHARE:g} % it surges",
                 source="common practice, no source"),
            Line(label="watched", figure=rounded(result.duration_s, 1), unit="s"),
        ),
        injectors=(),
    )  # fmt: skip
