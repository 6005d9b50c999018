"""What a person at a hidden engine sees, hears and reads off, in the words and figures that go on a sheet.

>>> import numpy as np
>>> from plumb.bench.engines.hidden import draw
>>> engine = draw(np.random.default_rng(3), "port", ("command",), count=4)
>>> [look.text for look in looked(Bench(engine, np.random.default_rng(1)), "command")] == engine.lamp
True
"""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any, Final

import numpy as np

from plumb.bench.engines.gauges import Bench
from plumb.bench.engines.hidden import PETROL
from plumb.bench.standins.instruments import LEADS_OHM
from plumb.core.compare.drops.sheet import DropSheet
from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.quantities import KPA_PER, decimals_for
from plumb.core.measure.readings import Mark, Noted, Value, Window
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.procedures import FLOW_BENCH, HOLD
from plumb.core.procedures.coils.analysis import CoilSheet
from plumb.core.procedures.correction.analysis import CorrectionSheet
from plumb.core.procedures.cranking.analysis import CrankingSheet
from plumb.core.procedures.hold.analysis import HoldSheet
from plumb.core.procedures.hold.isolation import STEPS
from plumb.core.procedures.opening.analysis import OpeningSheet
from plumb.core.procedures.rail.analysis import RailSheet
from plumb.core.procedures.returns.analysis import ReturnSheet
from plumb.core.procedures.scan.analysis import ScanSheet
from plumb.core.procedures.supply.analysis import NAMES, SupplySheet
from plumb.core.procedures.walk.analysis import WalkSheet

PSI: Final = "psi"
BAR: Final = "bar"
MAKER: Final = "maker"
"""The row of what the maker says."""


@dataclass(frozen=True, slots=True)
class Look:
    """One thing seen: at which row (empty: of the engine), its words, and a file where one was recorded."""

    row: str
    text: str
    file: str = ""


def steps_of(rail: str) -> dict[str, str]:
    """What can be tried to find where a hold goes: titles by code; ``rail`` is low or high."""
    return {s.code: s.title for s in STEPS[rail]}


def minutes_of(rail: str, step: str) -> float:
    """How long a step of the board takes."""
    return next(s.minutes for s in STEPS[rail] if s.code == step)


def looked(bench: Bench, kind: str, rows: Sequence[str] = ()) -> list[Look]:
    """Read or look once more: at these rows, or at all; what comes of it, row by row."""
    who = tuple(rows) or bench.labels
    bench.take(kind, who)
    sheet: Any = next(s for s in reversed(bench.sheets) if s.kind == kind)
    return list(_SHOWN[type(sheet)](sheet, who, unit_on(bench.engine.system)))


def tried(bench: Bench, step: str) -> Look:
    """One step of the board, on a hold that was watched before."""
    if not any(s.kind == HOLD.code for s in bench.sheets):
        bench.take(HOLD.code, ())
    bench.take("", (), isolation=step)
    sheet: Any = next(s for s in reversed(bench.sheets) if s.kind == HOLD.code)
    _, seen = sheet.isolation[-1]
    return Look(steps_of(sheet.rail)[step], seen)


def unit_on(system: str) -> str:
    """What a gauge on that fuel system reads in."""
    return PSI if system in PETROL else BAR


def pressure(kpa: float, unit: str, step: float) -> str:
    """A pressure as a gauge with that step (in its unit) shows it."""
    value = round(kpa / KPA_PER[unit] / step) * step
    return f"{value:.{decimals_for(step)}f} {unit}"


def _between(window: Window, shown: Callable[[float], str]) -> str:
    low, high = window.low, window.high
    if low is not None and high is not None:
        return f"{shown(low)} to {shown(high)}"
    return f"at least {shown(low)}" if low is not None else f"at most {shown(high or 0.0)}"


def _walk(sheet: WalkSheet, _who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    said = ", ".join(COMPLAINTS[w] for w in sheet.complaint)
    yield Look("complaint", said)
    if sheet.hose:
        yield Look("vacuum hose", sheet.hose)
    if sheet.connectors:
        yield Look("connectors", sheet.connectors)


def _supply(sheet: SupplySheet, _who: tuple[str, ...], unit: str) -> Iterator[Look]:
    step = 0.5 if unit == PSI else 0.02
    yield Look("pump", sheet.pump)
    for state, kpa in sheet.readings:
        yield Look(NAMES[state], pressure(kpa, unit, step))
    for state, window in sheet.windows:
        said = _between(window, lambda kpa: pressure(kpa, unit, step))
        yield Look(MAKER, f"{NAMES[state].lower()}: {said}")


def _hold(sheet: HoldSheet, _who: tuple[str, ...], unit: str) -> Iterator[Look]:
    step = 0.5 if unit == PSI else 1.0
    for t, kpa in sheet.series:
        yield Look(f"{t:g} s", pressure(kpa, unit, step))
    limits = sheet.limits
    if limits.lost_at_most is not None and limits.within_s is not None:
        lost = pressure(limits.lost_at_most, unit, step)
        yield Look(MAKER, f"at most {lost} lost in {limits.within_s / 60.0:g} min")
    if limits.left_at_least is not None and limits.after_s is not None:
        left = pressure(limits.left_at_least, unit, step)
        yield Look(MAKER, f"at least {left} left after {limits.after_s:g} s")


def _seen(sheet: SeenSheet, who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    newest = {s.injector: s.word for s in sheet.readings}
    for row in who:
        yield Look(row, newest[row].replace("_", " "))


def _coils(sheet: CoilSheet, who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    ohms = sheet.temperature_c is not None
    sign, leads = ("Ω", LEADS_OHM) if ohms else ("V", 0.0)
    for v in sheet.readings:
        if v.injector in who:
            yield Look(v.injector, "OL" if v.value is None else f"{v.value + leads:.2f} {sign}")
    yield Look(MAKER, _between(sheet.window, lambda v: f"{v:.1f} {sign}"))
    if ohms:
        told = f"coils at {sheet.temperature_c:g} °C; {leads:.2f} Ω with the leads held together"
        yield Look("", told)


def _newest(readings: Sequence[Noted], row: str) -> Noted:
    return next(r for r in reversed(readings) if r.injector == row)


def _drops(sheet: DropSheet, who: tuple[str, ...], unit: str) -> Iterator[Look]:
    flow = sheet.kind == FLOW_BENCH.code
    step = 0.5 if unit == PSI else 1.0
    for row in who:
        r = _newest(sheet.readings, row)
        if r.mark is Mark.NONE or r.first is None or r.second is None:
            yield Look(row, "nothing came" if flow else "no drop")
        elif flow:
            yield Look(row, f"{r.first:.0f} ml, spray {r.spray}")
        else:
            yield Look(
                row, f"{pressure(r.first, unit, step)}, then {pressure(r.second, unit, step)}"
            )
    expected = sheet.expected
    if flow and expected is not None and expected.drop is not None:
        yield Look(MAKER, f"{expected.drop:.0f} ml each")


def _values(values: Sequence[Value], who: tuple[str, ...], text: str) -> Iterator[Look]:
    for v in values:
        if v.injector in who and v.value is not None:
            yield Look(v.injector, text.format(v.value))


def _correction(sheet: CorrectionSheet, who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    yield from _values(sheet.readings, who, "{:+.1f} mm³")


def _cranking(sheet: CrankingSheet, who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    for row, hump in sheet.cylinders:
        if row in who and hump is not None:
            yield Look(row, f"{hump:.0f} % of a good hump")


def _returns(sheet: ReturnSheet, who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    yield Look("", f"tubes under every return, {sheet.duration_s:g} s, engine: {sheet.state}")
    yield from _values(sheet.readings, who, "{:.0f} ml")


def _rail(sheet: RailSheet, _who: tuple[str, ...], unit: str) -> Iterator[Look]:
    def shown(kpa: float) -> str:
        return pressure(kpa, unit, 1.0)

    for state, wanted, actual in sheet.read:
        yield Look(state, f"wanted {shown(wanted)}, is {shown(actual)}")
    if not sheet.series:
        return
    low, high = np.percentile([a for _, _, a in sheet.series], (5, 95))
    told = f"wanted {shown(sheet.series[0][1])}; mostly {shown(low)} to {shown(high)}"
    lines = ["time_s,rail_wanted_kPa,rail_actual_kPa"]
    lines += [f"{t:.2f},{w:.0f},{a:.0f}" for t, w, a in sheet.series]
    yield Look(f"{sheet.engine}, 20 s recorded", told, "\n".join(lines) + "\n")


def _scan(sheet: ScanSheet, _who: tuple[str, ...], _unit: str) -> Iterator[Look]:
    for trim in sheet.trims:
        if trim.long is not None:
            yield Look(f"{trim.state}, long", f"{round(trim.long, 1) + 0.0:+.1f} %")
    for name, _, count in sheet.counts:
        if count is not None:
            yield Look(name, f"{count:.0f}")
    if sheet.over_s is not None:
        yield Look("", f"counted over {sheet.over_s:g} s")


def _opening(sheet: OpeningSheet, who: tuple[str, ...], unit: str) -> Iterator[Look]:
    for row in who:
        strokes = [s for s in sheet.strokes if s.injector == row]
        last = strokes[-1]
        read = ", ".join(pressure(s.value, unit, 1.0) for s in strokes[-3:] if s.value is not None)
        yield Look(row, f"{read}; seat {last.seat}; {last.sound}; spray {last.spray}")
    if sheet.window is not None:
        yield Look(MAKER, _between(sheet.window, lambda kpa: pressure(kpa, unit, 1.0)))


_SHOWN: Final[dict[type, Callable[[Any, tuple[str, ...], str], Iterator[Look]]]] = {
    WalkSheet: _walk,
    SupplySheet: _supply,
    HoldSheet: _hold,
    SeenSheet: _seen,
    CoilSheet: _coils,
    DropSheet: _drops,
    CorrectionSheet: _correction,
    CrankingSheet: _cranking,
    ReturnSheet: _returns,
    RailSheet: _rail,
    ScanSheet: _scan,
    OpeningSheet: _opening,
}
"""How each kind of sheet is told."""
