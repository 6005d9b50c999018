"""What a screen needs of a kind of sheet: its conditions, how its readings are read, its rows.

Whatever most kinds do alike is the default here; a kind's own file says the rest.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from datetime import datetime
from typing import Any, Final, Generic, TypeVar

from sqlalchemy import Connection

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.procedures import BY_CODE, AnyKind, Result
from plumb.core.procedures.kind import Setting
from plumb.service.kinds.capturing import Capturing
from plumb.service.kinds.entry import Figures, NewReading
from plumb.service.kinds.knobs import Field, Knob
from plumb.service.kinds.shown import Noted, hundredths, one_figure
from plumb.service.kinds.tracing import Tracing
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import ScaleView
from plumb.store.records import ReadingRecord, WholeSheet

TONES: Final = {
    State.LOW: "low",
    State.HIGH: "high",
    State.UNSETTLED: "open",
    State.INTERMITTENT: "open",
    State.SPLIT: "open",
    State.NO_RESPONSE: "open",
    State.OPEN: "open",
}
DIAL: Final = Gauge(name="dial", unit="psi", step="0.5")
"""Where a shop has noted no gauge at all."""
CORRIDOR: Final = 10.0
"""Per cent of the small chart that the corridor of a sheet without flow takes to each side."""

R = TypeVar("R", bound=Result)
At = tuple[float | None, float | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class RowOf:
    """A row as a kind adds to it: whose it is, its readings, the unit shown, the engine's last run."""

    whole: WholeSheet
    label: str
    readings: list[ReadingRecord]
    unit: str
    ran_at: datetime | None


def _cells(row: Noted, _result: Any) -> list[str]:  # noqa: ANN401  of any kind
    return one_figure(row)


def hangs_nowhere(_finding: Finding, _result: Any, _unit: str) -> At:  # noqa: ANN401
    """No bob."""
    return None, None


def hangs_by_share(finding: Finding, _result: Any, _unit: str) -> At:  # noqa: ANN401
    """By the deviation, in per cent of the reference."""
    return hundredths(finding.deviation), hundredths(finding.u)


def window_scale(_result: Any, _unit: str) -> ScaleView:  # noqa: ANN401
    """Each row in hundredths of the half-width of a window of its own."""
    return ScaleView(
        relative=True, unit="% of the window", centre=0.0, low=-100.0, high=100.0, decimals=0
    )


def _tone(finding: Finding, _result: Any) -> str:  # noqa: ANN401
    return TONES.get(finding.state, "")


def cell_of_value(finding: Finding, _result: Any) -> str:  # noqa: ANN401
    """The figure itself."""
    if finding.state is State.NO_RESPONSE:
        return "no response"
    return "" if finding.value is None else f"{finding.value:g}".replace("-", "−")


def _cell(finding: Finding, _result: Any) -> str:  # noqa: ANN401
    if finding.state is State.NO_RESPONSE:
        return "no response"
    if finding.deviation is None:
        return ""
    return f"{100 * finding.deviation:+.1f} %".replace("-", "−")


def bob_in_corridor(finding: Finding, _result: Any) -> float | None:  # noqa: ANN401
    """Where a bob hangs on Today: tenths of the sheet's own corridor."""
    if finding.deviation is None or finding.tolerance is None:
        return None
    if finding.tolerance <= 0.0:
        # Even the reference lies beyond a maker's limit: from the corridor's edge on, by the share.
        return CORRIDOR * (1.0 + finding.deviation - finding.tolerance)
    return CORRIDOR * finding.deviation / finding.tolerance


def _begins(_connection: Connection, _setting: Setting) -> dict[str, Any]:
    return {}


def _nothing(_whole: WholeSheet, _result: Any, _unit: str) -> dict[str, Any]:  # noqa: ANN401
    return {}


def _nothing_more(_row: RowOf, _result: Any) -> dict[str, Any]:  # noqa: ANN401
    return {}


@dataclass(frozen=True, slots=True, kw_only=True)
class ScreenKind(Generic[R]):
    """One kind of sheet on the screen.

    ``gauge`` is taken where the shop has none that fits; with ``own_gauge``, or on a fuel system
    that ``gauge_on`` names one for, only another sheet of the kind can lend its gauge.  ``begins_with`` are conditions of a new sheet.

    ``knobs`` are its conditions, ``form`` fields that are ticked on the sheet itself.  ``read`` reads
    a reading where the entry's shape does not say how, ``trace`` what is looked for in one, ``capture``
    how its instrument fills it in.

    Its rows have ``cells`` under ``columns`` (``names`` for rows that are no injectors), a bob that
    ``hangs`` on the ``scale``, a ``tone``, and ``more_of_row``; ``cell`` is what the verdict's matrix
    shows, ``more`` what only this kind's screen has.  ``flows``: its bobs show shares of flow and
    stand for the verdict, ``corridor`` wide.  On Today the kind of the lowest ``rank`` is drawn,
    each bob where ``bob`` says.  ``along`` is what is shown as chosen before
    anybody chose, and kept with the first change.  ``waits``: a begun sheet that is not finished; ``engine_c`` is the
    engine's temperature where the sheet notes it.
    """

    code: str
    gauge: Gauge | None = DIAL
    own_gauge: bool = False
    gauge_on: Mapping[str, Gauge] = field(default_factory=dict)
    begins_with: Callable[[Connection, Setting], dict[str, Any]] = _begins
    knobs: tuple[Knob, ...] = ()
    form: tuple[Field, ...] = ()
    read: Callable[[NewReading, WholeSheet], Figures] | None = None
    trace: Tracing | None = None
    capture: Capturing | None = None
    columns: tuple[str, ...] = ()
    names: Mapping[str, str] = field(default_factory=dict)
    cells: Callable[[Noted, R], list[str]] = _cells
    hangs: Callable[[Finding, R, str], At] = hangs_nowhere
    scale: Callable[[R, str], ScaleView] = window_scale
    tone: Callable[[Finding, R], str] = _tone
    more_of_row: Callable[[RowOf, R], dict[str, Any]] = _nothing_more
    cell: Callable[[Finding, R], str] = _cell
    more: Callable[[WholeSheet, R, str], dict[str, Any]] = _nothing
    flows: bool = False
    corridor: Callable[[R], float] = lambda _result: CORRIDOR
    rank: int | None = None
    bob: Callable[[Finding, R], float | None] = bob_in_corridor
    along: Callable[[WholeSheet], dict[str, str]] = lambda _whole: {}
    waits: Callable[[R], bool] = lambda _result: False
    engine_c: Callable[[R], float | None] = lambda _result: None

    @property
    def kind(self) -> AnyKind:
        """What the core knows of it."""
        return BY_CODE[self.code]


AnyScreenKind = ScreenKind[Any]
