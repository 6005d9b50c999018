"""How the cranking balance was worked out."""

from plumb.core.compare.said import away_lines, working_of_rows
from plumb.core.measure.finding import Finding
from plumb.core.measure.lines import COMMON, Line, Working, step_line
from plumb.core.measure.quantities import rounded
from plumb.core.measure.uncertainty import reach
from plumb.core.procedures.cranking.analysis import CrankingResult
from plumb.core.procedures.cranking.words import because


def working(result: CrankingResult, _unit: str) -> Working:
    """The middle hump, the limit, and each cylinder."""
    shared = [step_line(result.sheet.step, "%")]
    if result.reference is not None:
        shared += [
            Line(label="middle hump", figure=rounded(result.reference, 1), unit="%",
                 formula="median"),
            Line(label="limit", figure=f"−{100 * result.sheet.limit:g}", unit="%", source=COMMON),
        ]  # fmt: skip
    return working_of_rows(shared, result.findings, result.thresholds, lambda f: _row(f, result))


def _row(finding: Finding, result: CrankingResult) -> tuple[Line, ...]:
    share = (
        rounded(100.0 * (finding.deviation or 0.0), 1),
        rounded(reach(100.0 * (finding.u or 0.0)), 1),
    )
    return (
        Line(label="read", figure=f"{finding.value:g}", unit="%"),
        *away_lines(finding, share, "%"),
        Line(label="because", figure=because(finding, result, "%")),
    )
