"""How the hold was worked out."""

from plumb.core.measure.lines import STEP_SOURCE, Line, Working, class_lines
from plumb.core.measure.quantities import KPA_PER, rounded
from plumb.core.measure.uncertainty import KNOWN_TO, step_uncertainty
from plumb.core.procedures.hold.analysis import HoldResult


def working(result: HoldResult, unit: str) -> Working:
    """Readings, the leak constant with its interval, and the pressure at each limit."""
    factor, root = KPA_PER[unit], KPA_PER[unit] ** 0.5
    lines = [
        Line(label="readings", figure=str(len(result.sheet.series))),
        Line(label="u of a reading", figure=rounded(step_uncertainty(result.sheet.step) / factor, 3),
             unit=unit, formula="step / √12", source=STEP_SOURCE),
    ]  # fmt: skip
    lines += class_lines(result.sheet.u_class, factor, unit)
    if result.peak is not None:
        lines.append(
            Line(label="rose to", figure=rounded(result.peak[1] / factor, 2), unit=unit,
                 formula=f"at {result.peak[0]:g} s; heat soak, left out of the slope")
        )  # fmt: skip
    line = result.leak_line
    if line is not None:
        lines.append(
            Line(
                label="leak constant",
                figure=f"{rounded(line.k * 60 / root, 4)} ({rounded(line.low * 60 / root, 4)} to "
                f"{rounded(line.high * 60 / root, 4)})",
                unit=f"√{unit} a minute",
                formula=f"√p = √p₀ − k t over {line.points} readings; median of all pairs",
                source="Theil 1950, Sen 1968; Torricelli",
            )
        )
    for j in result.judged:
        how = "read" if j.then.read else "foretold"
        lines += [
            Line(label=f"{how} at {j.at_s:g} s", figure=rounded(j.then.value / factor, 2), unit=unit,
                 formula=f"between {rounded(j.then.low / factor, 2)} and {rounded(j.then.high / factor, 2)} ({KNOWN_TO})"),
            Line(label="must be left", figure=rounded(j.least_left / factor, 2), unit=unit,
                 source=result.sheet.limits.source or "this sheet"),
        ]  # fmt: skip
    return Working(shared=tuple(lines))
