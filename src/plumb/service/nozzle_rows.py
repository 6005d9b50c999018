"""The rows of the opening pressures: their figures, the scale they hang on, trails and plans."""

from itertools import pairwise

from plumb.core import opening
from plumb.core.evidence_diesel import plan_words
from plumb.core.quantities import decimals_shown, rounded, show_pressure
from plumb.service.nozzles import shown_shim
from plumb.service.parts import factor_of
from plumb.service.views import GhostView, NozzleView, ScaleView, TrailView
from plumb.store.records import ReadingRecord


def nozzle_cells(
    nozzle: opening.Nozzle, mine: list[ReadingRecord], unit: str, step: float, length: str
) -> list[str]:
    """The mean of the strokes with the stack inside, and that stack as it was typed."""
    typed = next((r.shim_typed for r in reversed(mine) if r.shim_typed is not None), None)
    shims = shown_shim(typed, length)
    if not nozzle.settings:
        return ["none" if mine else "", shims]
    now = nozzle.settings[-1]
    places = decimals_shown(unit, step) + (now.strokes > 1)
    return [rounded(now.mean / factor_of(unit), places), shims]


def opening_scale(result: opening.OpeningResult, unit: str) -> ScaleView:
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


def nozzle_view(result: opening.OpeningResult, label: str, unit: str, length: str) -> NozzleView:
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
    below = max(0.0, inside.mean - opening.SEAT_BELOW_KPA) if inside else 0.0
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
            text=plan_words(plan, result),
        ),
    )  # fmt: skip
