"""How the return volumes were worked out."""

from plumb.core.compare.said import away_lines, working_of_rows
from plumb.core.measure.finding import Finding
from plumb.core.measure.lines import COMMON, Line, Working, step_line
from plumb.core.measure.quantities import rounded
from plumb.core.measure.uncertainty import reach
from plumb.core.procedures.returns.analysis import DROPS_ML, REPEATS_TO, ReturnResult
from plumb.core.procedures.returns.words import because


def working(result: ReturnResult, _unit: str) -> Working:
    """The low group, the limit, the rates, and each injector."""
    shared = [step_line(result.sheet.step, "ml"), *_rests_on(result)]
    return working_of_rows(shared, result.findings, result.thresholds, lambda f: _row(f, result))


def _rests_on(result: ReturnResult) -> list[Line]:
    """What the volumes are compared with."""
    if result.reference is None:
        return []
    limit = result.sheet.high
    return [
        Line(label="low group", figure=", ".join(result.low_group),
             formula="the lowest and all within 1.5 times of it"),
        Line(label="reference", figure=rounded(result.reference, 2), unit="ml"),
        Line(label="limit", figure=f"{limit:g} ml" if limit else f"{result.sheet.ratio:g} times",
             source=result.sheet.source or COMMON),
        Line(label="u of a volume", figure=f"{100 * REPEATS_TO:g} % and {DROPS_ML:g}", unit="ml",
             formula="how it repeats, what clings and drips; and the step", source=COMMON),
        *(Line(label=f"rate of {k}", figure=rounded(v, 1), unit="ml a minute")
          for k, v in result.rates),
    ]  # fmt: skip


def _row(finding: Finding, result: ReturnResult) -> tuple[Line, ...]:
    share = (
        rounded(100.0 * (finding.deviation or 0.0), 1),
        rounded(reach(100.0 * (finding.u or 0.0)), 1),
    )
    return (
        Line(label="read", figure=f"{finding.value:g}", unit="ml"),
        *away_lines(finding, share, "%"),
        Line(label="because", figure=because(finding, result, "ml")),
    )
