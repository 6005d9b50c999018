"""The scan on the screen: a row a trim, and a row a cylinder that may misfire."""

from typing import Any, Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.procedures.scan.analysis import BEYOND, KIND, ScanResult
from plumb.service.kinds.entry import Figures, NewReading, refuse, value
from plumb.service.kinds.kind import At, ScreenKind
from plumb.service.kinds.knobs import Field, Knob, or_none
from plumb.service.kinds.shown import Noted
from plumb.service.views.sheet import ScaleView
from plumb.store.records import WholeSheet

_MOST_TRIM: Final = 100.0


def cells(row: Noted, _result: ScanResult) -> list[str]:
    """The figure as it was typed: a count has no decimals."""
    return [row.readings[-1].value_typed or ""] if row.readings else [""]


def hangs(finding: Finding, _result: ScanResult, _unit: str) -> At:
    """A trim by itself; a count hangs nowhere."""
    return finding.deviation, None


def scale(_result: ScanResult, _unit: str) -> ScaleView:
    """Per cent round nought."""
    return ScaleView(relative=False, unit="%", centre=0.0, low=-BEYOND, high=BEYOND, decimals=0)


def read(reading: NewReading, whole: WholeSheet) -> Figures:
    """A trim between -100 and 100 per cent, or a count, which is a whole number."""
    figures = value(reading, whole)
    read_as = figures.columns.get("value")
    if read_as is None:
        return figures
    if reading.injector.startswith("misfires"):
        if read_as < 0.0 or read_as != int(read_as):
            raise refuse("value", "a count is a whole number from 0", reading.value or "")
    elif abs(read_as) > _MOST_TRIM:
        raise refuse("value", "a trim lies between -100 and 100 %", reading.value or "")
    return figures


def tone(finding: Finding, result: ScanResult) -> str:
    """Lean and rich lean to a side; a cylinder that misfires does not."""
    if finding.place in {row for row, _, _ in result.sheet.counts}:
        return "open" if finding.state is State.HIGH else ""
    return {State.HIGH: "low", State.LOW: "high"}.get(finding.state, "")


def more(_whole: Any, result: ScanResult, _unit: str) -> dict[str, Any]:  # noqa: ANN401
    """How many figures were read."""
    return {"measured": sum(bool(f.passes) for f in result.findings)}


SCAN = ScreenKind(
    code=KIND,
    gauge=None,
    read=read,
    knobs=(
        Knob(
            "Counted over",
            (Field("over_s", "Misfires were counted over, s"),),
            lambda get: or_none(get("over_s"), "s"),
        ),
        Knob(
            "Freeze frame",
            (Field("frame", "What the freeze frame says", "text"),),
            lambda get: get("frame") or "none",
        ),
    ),
    columns=("reads",),
    cells=cells,
    hangs=hangs,
    scale=scale,
    tone=tone,
    more=more,
)
