"""How the sheets that are not a comparison of drops were worked out, figure by figure."""

from typing import Final

from plumb.core import coil, drop, hold, opening, rail, seen, supply, walk
from plumb.core.decision import Thresholds
from plumb.core.evidence import Result
from plumb.core.explain import Line, Working
from plumb.core.quantities import KPA_PER, rounded, show_pressure
from plumb.core.readings import Window
from plumb.core.uncertainty import step_uncertainty
from plumb.core.words_diesel import explain_diesel
from plumb.core.words_opening import explain_opening
from plumb.core.words_rail import explain_rail
from plumb.core.words_sheets import SUPPLY_NAMES

_STEP: Final = "JCGM 100:2008, F.2.2.1"
_COPPER: Final = "IEC 60028"


def explain_sheet(result: Result, unit: str) -> Working:
    """All figures of a sheet, pressures in ``unit``; sheets of words have the word only."""
    if isinstance(result, coil.CoilResult):
        return _coils(result)
    if isinstance(result, supply.SupplyResult):
        return _supply(result, unit)
    if isinstance(result, hold.HoldResult):
        return Working(shared=_hold(result, unit), injectors=())
    if isinstance(result, seen.SeenResult):
        words = tuple(
            (label, (Line(label="seen", figure=word),)) for label, word in result.words if word
        )
        return Working(shared=(), injectors=words)
    if isinstance(result, drop.DropResult):
        return _volumes(result, unit)
    if isinstance(result, opening.OpeningResult):
        return explain_opening(result, unit)
    if isinstance(result, rail.RailResult):
        return explain_rail(result, unit)
    return _walk(result) if isinstance(result, walk.WalkResult) else explain_diesel(result)


def _decision(thresholds: Thresholds, out: float | None) -> tuple[Line, ...]:
    if out is None:
        return ()
    return (
        Line(
            label="probability outside",
            figure=rounded(out, 3),
            formula=f"normal distribution; {thresholds.call:g} calls, {thresholds.clear:g} clears",
            source="JCGM 106:2012",
        ),
    )


def _window_line(window: Window, unit: str, where: str = "") -> tuple[Line, ...]:
    if not window.stated:
        return ()
    low = "" if window.low is None else f"{window.low:g}"
    high = "" if window.high is None else f"{window.high:g}"
    return (
        Line(
            label="window", figure=f"{low}–{high}", unit=unit, formula=where,
            source=window.source or "this sheet",
        ),
    )  # fmt: skip


def _coils(result: coil.CoilResult) -> Working:
    sheet, compared = result.sheet, result.compared
    ohm = sheet.kind == coil.RESISTANCE
    unit = "Ω" if ohm else "V"
    shared = [
        Line(label="meter step", figure=f"{sheet.meter.step:g}", unit=unit, formula="u = step / √12",
             source=_STEP),
        Line(label="leads", figure=f"{sheet.meter.lead:g}", unit=unit, formula="taken off each reading"),
    ]  # fmt: skip
    if sheet.corrects and sheet.temperature_c is not None:
        shared.append(
            Line(
                label="coil temperature",
                figure=f"{sheet.temperature_c:g} ±{sheet.temperature_half_width:g}",
                unit="°C",
                formula="R₂₀ = R / (1 + 0.00393 (T − 20))",
                source=_COPPER,
            )
        )
    at = f"compared at {result.held_at_c:g} °C" if result.held_at_c is not None else ""
    shared += _window_line(sheet.window, unit, at)
    if compared.reference is not None:
        shared += [
            Line(label="who agrees", figure=", ".join(compared.agreeing),
                 formula=f"largest group within ±{rounded(compared.group.half_width, 2)} {unit}"
                 if compared.group else ""),
            Line(label="reference", figure=rounded(compared.reference, 3), unit=unit),
        ]  # fmt: skip
    if compared.spread is not None:
        shared.append(
            Line(label="spread of the set", figure=rounded(compared.spread, 2), unit=unit)
        )
    out = {f.injector: f.probability_out for f in result.findings}
    return Working(
        shared=tuple(shared),
        injectors=tuple(
            (
                c.injector,
                (*_coil_lines(c, result, unit), *_decision(result.thresholds, out[c.injector])),
            )
            for c in result.coils
        ),
    )


def _coil_lines(one: coil.Coil, result: coil.CoilResult, unit: str) -> tuple[Line, ...]:
    sheet = result.sheet
    lines = [
        Line(
            label="as read", figure=rounded(one.read, 3), unit=unit, formula=f"mean of {one.passes}"
        ),
        Line(label="without leads", figure=rounded(one.net, 3), unit=unit),
    ]
    if sheet.corrects:
        lines.append(
            Line(label="at 20 °C", figure=rounded(one.at_20, 3), unit=unit,
                 formula=f"{rounded(one.net, 3)} / (1 + 0.00393 × {(sheet.temperature_c or 20) - 20:g})",
                 source=_COPPER)
        )  # fmt: skip
        if result.held_at_c is not None:
            lines.append(
                Line(label=f"at {result.held_at_c:g} °C", figure=rounded(one.held, 3), unit=unit,
                     formula="held against the window")
            )  # fmt: skip
    lines += [
        Line(label="u of its own", figure=rounded(one.u, 3), unit=unit, source=_STEP),
        Line(label="u common to all", figure=rounded(one.u_common, 3), unit=unit,
             formula="meter's class and coil temperature; counts against the window only"),
    ]  # fmt: skip
    return tuple(lines)


def _supply(result: supply.SupplyResult, unit: str) -> Working:
    step, factor = result.sheet.step, KPA_PER[unit]
    windows = dict(result.sheet.windows)
    rows = []
    for f in result.findings:
        if f.value is None:
            continue
        w = windows.get(f.injector, Window())
        scaled = Window(
            low=None if w.low is None else round(w.low / factor, 4),
            high=None if w.high is None else round(w.high / factor, 4),
            source=w.source,
        )
        rows.append(
            (
                SUPPLY_NAMES[f.injector],
                (
                    Line(label="reads", figure=show_pressure(f.value, unit, step), unit=unit),
                    *_window_line(scaled, unit),
                    *_decision(result.thresholds, f.probability_out),
                ),
            )
        )
    u = step_uncertainty(step) / factor
    shared = (
        Line(
            label="u of a reading",
            figure=rounded(u, 3),
            unit=unit,
            formula="step / √12",
            source=_STEP,
        ),
    )
    return Working(shared=shared, injectors=tuple(rows))


def _hold(result: hold.HoldResult, unit: str) -> tuple[Line, ...]:
    factor, root = KPA_PER[unit], KPA_PER[unit] ** 0.5
    lines = [
        Line(label="readings", figure=str(len(result.sheet.series))),
        Line(label="u of a reading", figure=rounded(step_uncertainty(result.sheet.step) / factor, 3),
             unit=unit, formula="step / √12", source=_STEP),
    ]  # fmt: skip
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
                 formula=f"between {rounded(j.then.low / factor, 2)} and {rounded(j.then.high / factor, 2)}"),
            Line(label="must be left", figure=rounded(j.least_left / factor, 2), unit=unit,
                 source=result.sheet.limits.source or "this sheet"),
        ]  # fmt: skip
    return tuple(lines)


def _volumes(result: drop.DropResult, unit: str) -> Working:
    flow = result.flow
    shared = [Line(label="step", figure=f"{result.sheet.step:g}", unit=unit, formula="u = step / √12",
                   source=_STEP)]  # fmt: skip
    if flow.reference is not None:
        shared += [
            Line(label="who agrees", figure=", ".join(flow.agreeing)),
            Line(label="reference", figure=rounded(flow.reference, 2), unit=unit,
                 formula="mean of those that agree"),
            Line(label="tolerance", figure=f"±{rounded(100 * result.tolerance, 1)}", unit="%"),
        ]  # fmt: skip
    rows = tuple(
        (
            v.injector,
            (
                Line(label="mean", figure=rounded(v.flow, 2), unit=unit),
                Line(label="deviation", figure=f"{100 * v.deviation:+.2f}", unit="%"),
                Line(label="u of the deviation", figure=rounded(100 * v.u, 2), unit="%"),
                *_decision(result.thresholds, v.probability_out),
            ),
        )
        for v in flow.views
    )
    return Working(shared=tuple(shared), injectors=rows)


def _walk(result: walk.WalkResult) -> Working:
    s = result.sheet
    lines = [Line(label="complaint", figure=", ".join(walk.COMPLAINTS[c] for c in s.complaint))]
    lines += [
        Line(label="vacuum hose", figure=s.hose),
        Line(label="connectors", figure=s.connectors),
    ]
    return Working(shared=tuple(x for x in lines if x.figure), injectors=())
