"""The corrections on the screen."""

from typing import Final

from plumb.core.compare.renewed import only_renewed
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import decimals_for
from plumb.core.procedures.correction.analysis import KIND, CorrectionResult
from plumb.core.procedures.correction.words import beside_words
from plumb.service.kinds.kind import At, ScreenKind, cell_of_value
from plumb.service.kinds.knobs import ENGINE, SOURCE, Field, Knob, or_none
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import ScaleView


def hangs(finding: Finding, _result: CorrectionResult, _unit: str) -> At:
    """By the correction itself."""
    return finding.value, finding.u


def scale(result: CorrectionResult, _unit: str) -> ScaleView:
    """Points round those that agree; round nought, which all of them sum to, where new ones alone were read."""
    alone = bool(only_renewed(result.findings))
    centre = 0.0 if alone else result.compared.reference or 0.0
    return ScaleView(
        relative=False, unit={"percent": "%", "mm3": "mm³"}.get(result.sheet.unit, "ms"),
        centre=round(centre, 3), low=round(centre - result.apart, 3),
        high=round(centre + result.apart, 3), decimals=decimals_for(result.sheet.step) - 1,
    )  # fmt: skip


BESIDE: Final = Knob(
    "Beside it",
    (
        Field("beside.values", "Second figures, in the order of the rows, a space between", "numbers"),
        Field("beside.unit", "Their unit", "choice",
              (("ms", "ms"), ("mm3", "mm³"), ("percent", "%"))),
        Field("beside.step", "Shown to (empty: as usual)"),
    ),
    lambda get: get("beside.values") or "none",
    "What the controller shows next to each correction: on-times beside quantities, say.",
)  # fmt: skip


def cell(finding: Finding, result: CorrectionResult) -> str:
    """The figure, and the second one beside it."""
    mine, second = cell_of_value(finding, result), beside_words(finding.injector, result)
    return f"{mine} · {second}" if mine and second else mine


CORRECTION = ScreenKind(
    code=KIND,
    gauge=Gauge(name="controller", unit="mm3", step="0.1"),
    knobs=(
        Knob(
            "Apart",
            (Field("window.apart", "At most from those that agree, {unit}"), SOURCE),
            lambda get: or_none(get("window.apart"), "{unit}", "4 points"),
            "Common practice: within 3 or 4 points of each other.",
            window=True,
        ),
        BESIDE,
        ENGINE,
    ),
    columns=("correction",),
    hangs=hangs,
    scale=scale,
    cell=cell,
    rank=6,
)
