"""How the rail pressure was worked out."""

from plumb.core.measure.lines import COMMON, Line, Working, decision_lines
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.rail.analysis import BEYOND, NAMES, READ_TO, SHARE, RailResult
from plumb.core.procedures.rail.rest import PERIODS
from plumb.core.procedures.rail.together import GOES
from plumb.core.procedures.rail.words import told_in


def working(result: RailResult, unit: str) -> Working:
    """All figures of the rail: those of the trace, and those that were read."""
    return Working(
        shared=_of_trace(result, unit) if result.sheet.series else _by_eye(result, unit),
        injectors=tuple(
            (
                NAMES[f.place],
                (
                    Line(label="wanted", figure=told_in(f.reference or 0.0, unit)),
                    Line(label="actual", figure=told_in(f.value, unit)),
                    Line(label="off", figure=rounded(100 * (f.deviation or 0.0), 1), unit="%",
                         formula=f"allowed ±{100 * BEYOND:g} %", source=COMMON),
                    Line(label="u of a figure", figure=f"{100 * READ_TO:g}", unit="% of wanted",
                         source=COMMON),
                    *decision_lines(result.thresholds, f.probability_out),
                ),
            )
            for f in result.findings
            if f.value is not None
        ),
    )  # fmt: skip


def _by_eye(result: RailResult, unit: str) -> tuple[Line, ...]:
    """What somebody saw it go between."""
    if result.sheet.seen is None:
        return ()
    low, high = result.sheet.seen
    return (
        Line(label="lowest seen", figure=told_in(low, unit)),
        Line(label="highest seen", figure=told_in(high, unit)),
        Line(label="wanted", figure=told_in(result.wanted, unit),
             formula="as it was read at idle, else the middle of both"),
        Line(label="half of its swing", figure=rounded(50 * result.swing / result.wanted, 1) if result.wanted else "?",
             unit="% of wanted", formula=f"above {100 * BEYOND:g} % it surges", source=COMMON),
    )  # fmt: skip


def _of_trace(result: RailResult, unit: str) -> tuple[Line, ...]:
    beyond = f"more than {100 * BEYOND:g} % of wanted away"
    named = "none stands out" if result.frequency_hz is None else rounded(result.frequency_hz, 2)
    return (
            Line(label="wanted", figure=told_in(result.wanted, unit), formula="median where it rests"),
            Line(label="bias", figure=told_in(result.bias, unit), formula="median of the difference"),
            Line(label="swing", figure=told_in(result.swing, unit),
                 formula="width of the middle 90 % of actual less wanted"),
            Line(label="strongest frequency", figure=named, unit="Hz",
                 formula="periodogram, Hann window; named above 30 % of the power"),
            Line(label="time beyond", figure=rounded(100 * result.beyond, 1), unit="%",
                 formula=beyond, source=COMMON),
            Line(label="time beyond, bias taken off", figure=rounded(100 * result.swings_beyond, 1),
                 unit="%", formula=f"above {100 * SHARE:g} % and to and fro {PERIODS} times it surges",
                 source=COMMON),
            Line(label="to and fro", figure=rounded(result.periods, 1), unit="times",
                 formula=f"beyond {100 * BEYOND / 2:g} % of wanted on either side"),
            Line(label="watched", figure=rounded(result.duration_s, 1), unit="s"),
            *(
                Line(label=f"correction of {x.injector}", figure=rounded(x.swing, 1), unit="from low to high",
                     formula=f"goes with the rail: {rounded(x.with_rail, 2)}; from {GOES:g} on it is the rail's",
                     source=COMMON)
                for x in result.sheet.together
            ),
    )  # fmt: skip
