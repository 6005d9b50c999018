"""How the rail pressure was worked out."""

from plumb.core.measure.lines import COMMON, Line, Working
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.rail.analysis import BEYOND, SHARE, RailResult
from plumb.core.procedures.rail.words import told_in


def working(result: RailResult, unit: str) -> Working:
    """All figures of the rail."""
    beyond = f"more than {100 * BEYOND:g} % of wanted away"
    named = "none stands out" if result.frequency_hz is None else rounded(result.frequency_hz, 2)
    return Working(
        shared=(
            Line(label="wanted", figure=told_in(result.wanted, unit), formula="median"),
            Line(label="bias", figure=told_in(result.bias, unit), formula="median of the difference"),
            Line(label="swing", figure=told_in(result.swing, unit),
                 formula="width of the middle 90 % of actual less wanted"),
            Line(label="strongest frequency", figure=named, unit="Hz",
                 formula="periodogram, Hann window; named above 30 % of the power"),
            Line(label="time beyond", figure=rounded(100 * result.beyond, 1), unit="%",
                 formula=beyond, source=COMMON),
            Line(label="time beyond, bias taken off", figure=rounded(100 * result.swings_beyond, 1),
                 unit="%", formula=f"above {100 * SHARE:g} % it surges",
                 source=COMMON),
            Line(label="watched", figure=rounded(result.duration_s, 1), unit="s"),
        ),
    )  # fmt: skip
