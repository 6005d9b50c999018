"""The opening pressures on the screen: figures, trails, plans, the drawer of shims."""

from itertools import pairwise
from typing import Any, Final

from sqlalchemy import Connection

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import decimals_shown, rounded, show_pressure
from plumb.core.procedures.kind import Setting
from plumb.core.procedures.opening.analysis import KIND, SEAT_BELOW_KPA, OpeningResult
from plumb.core.procedures.opening.words import plan_words
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds.capturing import STROKES
from plumb.service.kinds.kind import CORRIDOR, TONES, At, RowOf, ScreenKind
from plumb.service.kinds.knobs import (
    LOW_HIGH,
    SOURCE,
    SPREAD,
    WHEN,
    Field,
    Knob,
    or_none,
    window_words,
)
from plumb.service.kinds.shims import shim_unit, shown_shim
from plumb.service.kinds.shown import Noted
from plumb.service.stored.gauges import Gauge
from plumb.service.views.sheet import GhostView, NozzleView, ScaleView, TrailView
from plumb.store import sheets as store
from plumb.store.records import WholeSheet

FEW: Final = 20
"""So many sheets back a drawer of shims is looked for."""


def newest(connection: Connection) -> list[WholeSheet]:
    """The shop's last few opening sheets, newest first."""
    return store.newest_of_kind(connection, KIND, FEW)[::-1]


def begins_with(connection: Connection, _setting: Setting) -> dict[str, Any]:
    """The shims in the drawer as the shop last noted them, and the unit they are told in."""
    for whole in newest(connection):
        kept = whole.sheet.conditions
        if kept.get("shims_mm"):
            return {k: kept[k] for k in ("shims_mm", "shim_unit") if k in kept}
    return {}


def cells(row: Noted, result: OpeningResult) -> list[str]:
    """The mean of the strokes with the stack inside, and that stack as it was typed."""
    settings = result.nozzle(row.label).settings
    typed = next((r.shim_typed for r in reversed(row.readings) if r.shim_typed is not None), None)
    shims = shown_shim(typed, row.length)
    if not settings:
        return ["none" if row.readings else "", shims]
    now = settings[-1]
    places = decimals_shown(row.unit, row.step) + (now.strokes > 1)
    return [rounded(now.mean / factor_of(row.unit), places), shims]


def hangs(finding: Finding, _result: OpeningResult, unit: str) -> At:
    """By the pressure itself."""
    factor = factor_of(unit)
    if finding.value is None or finding.u is None:
        return None, None
    return finding.value / factor, finding.u / factor


def scale(result: OpeningResult, unit: str) -> ScaleView:
    """The pressures themselves with the window as corridor, as wide as the bobs and plans need."""
    factor = factor_of(unit)
    window, values = result.sheet.window, []
    for nozzle in result.nozzles:
        values += [s.mean for s in nozzle.settings]
        values += [nozzle.plan.low, nozzle.plan.high] if nozzle.plan else []
    middle = result.compared.reference or 15_000.0
    low, high = window.low, window.high
    if low is None and high is None and result.compared.tolerance:
        low, high = middle - result.compared.tolerance, middle + result.compared.tolerance
    ends = [x for x in (low, high) if x is not None]
    centre = sum(ends) / len(ends) if ends else middle
    reach = max([abs(v - centre) for v in (*values, *ends)] or [0.1 * centre]) * 1.45
    return ScaleView(
        relative=False, unit=unit, centre=centre / factor,
        low=None if low is None else low / factor, high=None if high is None else high / factor,
        decimals=max(0, decimals_shown(unit, result.sheet.step) - 1),
        reach=max(reach, 0.04 * centre) / factor,
    )  # fmt: skip


def tone(finding: Finding, result: OpeningResult) -> str:
    """A fault that no shim cures stands out, whatever the pressure."""
    return "high" if result.nozzle(finding.injector).fault else TONES.get(finding.state, "")


def more_of_row(row: RowOf, result: OpeningResult) -> dict[str, Any]:
    """The nozzle with its trail and its plan."""
    return {"nozzle": _nozzle_view(result, row.label, row.unit, shim_unit(row.whole))}


def _nozzle_view(result: OpeningResult, label: str, unit: str, length: str) -> NozzleView:
    """One nozzle for the screen: what was seen, its trail, and the plan as a ghost."""
    nozzle, factor, step = result.nozzle(label), factor_of(unit), result.sheet.step
    settings = nozzle.settings
    trail = [
        TrailView(
            at=a.mean / factor,
            shown=show_pressure(a.mean, unit, step),
            change=""
            if a.shim_mm is None or b.shim_mm is None
            else f"{'+' if b.shim_mm > a.shim_mm else '−'}"
            f"{shown_shim(abs(b.shim_mm - a.shim_mm), length)} {length}",
        )
        for a, b in pairwise(settings)
    ]
    inside = settings[-1] if settings else None
    plan = nozzle.plan
    below = max(0.0, inside.mean - SEAT_BELOW_KPA) if inside else 0.0
    return NozzleView(
        seat=nozzle.seat,
        sound=nozzle.sound,
        spray=nozzle.spray,
        shim=shown_shim(inside.shim_mm, length) if inside else "",
        strokes=inside.strokes if inside else 0,
        seat_at=f"{show_pressure(below, unit, step)} {unit}" if inside else "",
        trail=trail,
        plan=None
        if plan is None
        else GhostView(
            at=plan.predicted / factor, low=plan.low / factor, high=plan.high / factor,
            text=plan_words(plan, result, unit),
        ),
    )  # fmt: skip


def bob(finding: Finding, result: OpeningResult) -> float | None:
    """Tenths of the window to each side of its middle."""
    window = result.sheet.window
    if finding.value is None or window.low is None or window.high is None:
        return None
    half = (window.high - window.low) / 2.0
    return CORRIDOR * (finding.value - window.low - half) / half


def cell(finding: Finding, result: OpeningResult) -> str:
    """The pressure in the sheet's own unit."""
    if finding.state is State.NO_RESPONSE:
        return "no response"
    unit, step = result.sheet.unit, result.sheet.step
    return "" if finding.value is None else f"{show_pressure(finding.value, unit, step)} {unit}"


OPENING = ScreenKind(
    code=KIND,
    gauge=Gauge(name="bench pump", unit="bar", step="0.5"),
    own_gauge=True,
    capture=STROKES,
    begins_with=begins_with,
    knobs=(
        Knob("Window", (*LOW_HIGH, SPREAD, SOURCE), window_words, window=True),
        Knob(
            "Nozzle",
            (
                Field("nozzle.name", "Type of the nozzles", "text"),
                Field(
                    "nozzle.form",
                    "Form",
                    "choice",
                    (
                        ("", "not said"),
                        ("pintle", "pintle: one straight cone"),
                        ("hole", "hole: even jets"),
                    ),
                ),
                Field("nozzle.torque_nm", "Torque of the body, N·m"),
                Field("strokes", "Strokes of each nozzle", "whole"),
                WHEN.fields[0],
            ),
            lambda get: get("nozzle.name") or get("nozzle.form") or "?",
            "What a shim buys is learnt for each type by its name. Tighten the body to its torque: "
            "too much moves the pressure.",
        ),
        Knob(
            "Held",
            (
                Field(
                    "held.lost", "Lost by each, in the order they were stroked, {unit}", "numbers"
                ),
                Field("held.for_s", "Held for, s (empty: 10)"),
                Field("held.at_most", "At most by their maker, {unit}"),
            ),
            lambda get: or_none(get("held.lost"), "{unit}", "not timed"),
            "Pump each to a little below its opening pressure, let go, and note what the gauge has lost after that time.",
        ),
        Knob(
            "Shims",
            (
                Field("shims_mm", "In the drawer, with a space between, {shim}", "shims"),
                Field(
                    "shim_unit",
                    "Told in",
                    "choice",
                    (("mm", "mm"), ("thou", "thousandths of an inch")),
                ),
                Field("nozzle.shim_mm", "The maker’s figure: a shim of, {shim}", "shim"),
                Field("nozzle.buys", "… changes the opening pressure by, {unit}"),
                Field("nozzle.shim_of", "What the shims are of", "text"),
            ),
            lambda get: or_none(get("shims_mm"), get("shim_unit") or "mm", "none noted"),
            "The plan is made from these, and from what is inside.",
        ),
    ),
    columns=("opens at", "shims"),
    cells=cells,
    hangs=hangs,
    scale=scale,
    tone=tone,
    more_of_row=more_of_row,
    cell=cell,
    rank=1,
    bob=bob,
)
