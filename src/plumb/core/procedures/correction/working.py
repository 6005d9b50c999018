"""How the corrections were worked out."""

from plumb.core.compare.said import away_lines, working_of_rows
from plumb.core.measure.finding import Finding
from plumb.core.measure.lines import COMMON, Line, Working, step_line
from plumb.core.measure.quantities import decimals_for, rounded
from plumb.core.measure.uncertainty import reach
from plumb.core.procedures.correction.analysis import CorrectionResult
from plumb.core.procedures.correction.words import because


def working(result: CorrectionResult, _unit: str) -> Working:
    """Who agrees, the reference, what is allowed, and each cylinder."""
    unit, reference = result.sheet.unit, result.compared.reference
    shared = [step_line(result.sheet.step, unit)]
    if reference is not None:
        shared += [
            Line(label="who agrees", figure=", ".join(result.compared.agreeing)),
            Line(label="reference", figure=rounded(reference, 2), unit=unit,
                 formula="mean of those that agree, never of all"),
            Line(label="allowed", figure=f"±{result.apart:g}", unit=unit,
                 source=result.sheet.source or COMMON),
        ]  # fmt: skip
    return working_of_rows(shared, result.findings, result.thresholds, lambda f: _row(f, result))


def _row(finding: Finding, result: CorrectionResult) -> tuple[Line, ...]:
    places = decimals_for(result.sheet.step) + 1
    figures = rounded(finding.deviation or 0.0, places), rounded(reach(finding.u or 0.0), places)
    return (
        Line(label="read", figure=f"{finding.value:g}", unit=result.sheet.unit),
        *away_lines(finding, figures, result.sheet.unit),
        Line(label="because", figure=because(finding, result, result.sheet.unit)),
    )
