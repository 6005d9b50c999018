"""How a sheet that compares injectors was worked out: every figure, to be redone by hand."""

import math

from plumb.core.compare.bursts import Injected
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.flow import tolerance_in_pressure
from plumb.core.compare.flow_rule import FlowView
from plumb.core.compare.held import calls_at
from plumb.core.compare.rules import RULES
from plumb.core.measure.decision import effective_degrees
from plumb.core.measure.lines import STEP_SOURCE, Line, Working, decision_lines, step_line
from plumb.core.measure.quantities import KPA_PER, rounded, show_pressure
from plumb.core.measure.uncertainty import KNOWN_TO, PRIOR_RELATIVE, reach


def working(result: DropResult, unit: str) -> Working:
    """All figures of a result, pressures in ``unit``."""
    bursts = result.bursts
    views = {v.injector: v for v in result.flow.views}
    return Working(
        shared=(*_shared(result, unit), *_chosen(result, unit)),
        injectors=tuple(
            (i.label, _injector(i, views[i.label], result, unit)) for i in bursts.injected
        ),
    )


def _shared(result: DropResult, unit: str) -> tuple[Line, ...]:
    step = result.sheet.step
    s = result.flow.repeatability
    lines = [
        Line(
            label="gauge step",
            figure=show_pressure(step, unit, step),
            unit=unit,
            formula="u = step / \u221a12",
            source=STEP_SOURCE,
        ),
        Line(
            label="burst to burst",
            figure=rounded(100 * s.relative, 2),
            unit="%",
            formula=f"prior {PRIOR_RELATIVE:.0%} (4 degrees) pooled with "
            f"{s.own_degrees} from passes",
            source="docs/methods.md",
        ),
    ]
    return (*lines, *_group(result, unit), *_tolerance(result, unit))


def _group(result: DropResult, unit: str) -> tuple[Line, ...]:
    """Who agrees, and the reference that follows."""
    flow, root = result.flow, math.sqrt(KPA_PER[unit])
    if flow.group is None or flow.reference is None:
        return ()
    if flow.alone:
        return (_alone(result, rounded(flow.reference / root, 4), f"\u221a{unit}"),)
    return (
        Line(
            label="who agrees",
            figure=", ".join(flow.agreeing),
            formula=f"largest group within \u00b1{rounded(100 * flow.group.half_width, 1)} % "
            "of one centre",
            source="docs/methods.md",
        ),
        Line(
            label="reference",
            figure=rounded(flow.reference / root, 4),
            unit=f"\u221a{unit}",
            formula="mean of those that agree",
        ),
        Line(
            label="u of the reference",
            figure=rounded(100 * flow.u_reference / flow.reference, 2),
            unit="%",
            formula="\u221a(\u03a3u\u00b2) / M",
        ),
    )


def _alone(result: DropResult, figure: str, unit: str) -> Line:
    """What the engine's only injector is held against."""
    expected = result.sheet.expected
    return Line(
        label="held against", figure=figure, unit=unit, formula="what is expected of it",
        source=expected.source if expected is not None else "",
    )  # fmt: skip


def _tolerance(result: DropResult, unit: str) -> tuple[Line, ...]:
    """The tolerance in flow and in pressure, and what the workshops' limit means in flow."""
    in_pressure = ""
    if result.median_pressures is not None and result.flow.reference is not None:
        kpa = tolerance_in_pressure(*result.median_pressures, result.tolerance)
        places = 2 if unit == "bar" else 1
        in_pressure = (
            f"about \u00b1{rounded(kpa / KPA_PER[unit], places)} {unit} of the second reading here"
        )
    lines = [
        Line(
            label="tolerance",
            figure=f"\u00b1{rounded(100 * result.tolerance, 1)}",
            unit="% of flow",
            formula=in_pressure,
            source=result.sheet.rule.source or "rule's default",
        )
    ]
    if result.limit_in_flow is not None and math.isfinite(result.limit_in_flow):
        limit = rounded(1.5 * KPA_PER["psi"] / KPA_PER[unit], 1 if unit != "bar" else 2)
        lines.append(
            Line(
                label=f"\u00b1{limit} {unit} on this rail",
                figure=f"\u00b1{rounded(100 * result.limit_in_flow, 1)}",
                unit="% of flow",
                formula="half the change of f when p\u2082 moves by it",
            )
        )
    return tuple(lines)


def _chosen(result: DropResult, unit: str) -> tuple[Line, ...]:
    """The centre of the sheet's own rule, where it is not the flow index."""
    outcome = result.chosen
    if outcome.rule == "flow_index" or outcome.centre is None:
        return ()
    spec = RULES[outcome.rule]
    return (
        Line(
            label=f"centre of \u201c{spec.title}\u201d",
            figure=rounded(outcome.centre / KPA_PER[unit], 3),
            unit=unit,
            formula=spec.decides,
            source=result.sheet.rule.source or spec.source,
        ),
    )


def _injector(one: Injected, view: FlowView, result: DropResult, unit: str) -> tuple[Line, ...]:
    factor, root = KPA_PER[unit], math.sqrt(KPA_PER[unit])
    lines = [
        Line(
            label=f"pass {n}",
            figure=rounded(f.value / root, 4),
            unit=f"\u221a{unit}",
            formula=f"\u221a{show_pressure(f.first, unit, result.sheet.step)} \u2212 "
            f"\u221a{show_pressure(f.second, unit, result.sheet.step)}"
            f" (drop {rounded(f.drop / factor, 2)} {unit})",
            source="Torricelli; Kreyszig, 10th ed., 1.3",
        )
        for n, f in enumerate(one.flows, 1)
    ]
    if result.flow.reference is None:
        return tuple(lines)
    return (*lines, *_deviation(one, view, result, root))


def _deviation(one: Injected, view: FlowView, result: DropResult, root: float) -> tuple[Line, ...]:
    """From the mean flow to the decision: deviation, uncertainty by source, probability."""
    reference = result.flow.reference or 1.0
    own = "; own part \u00d7 \u221a(1 \u2212 2/M), as it is in the reference"
    lines = [
        Line(
            label="deviation",
            figure=f"{100 * view.deviation:+.2f}",
            unit="%",
            formula=f"{rounded(one.flow / root, 4)} / {rounded(reference / root, 4)} \u2212 1",
        ),
        *(
            Line(label=f"u from {c.source}", figure=rounded(100 * c.relative, 2), unit="%")
            for c in view.contributions
        ),
        Line(
            label="u of the deviation",
            figure=rounded(100 * view.u, 2),
            unit="%",
            formula="root of the sum of squares" + (own if view.agrees else ""),
            source="JCGM 100:2008, 5.1.2",
        ),
        *_held(view, result),
    ]
    if view.passes_to_settle is not None:
        lines.append(
            Line(
                label="passes to settle",
                figure=str(view.passes_to_settle),
                formula="fewest further passes if the mean stayed",
            )
        )
    return tuple(lines)


def _held(view: FlowView, result: DropResult) -> tuple[Line, ...]:
    """What decides: against the others that agree, itself left out."""
    held, thresholds = view.held, result.thresholds
    if held is None:
        return ()
    degrees = effective_degrees(held.parts())
    by = (
        "normal distribution"
        if math.isinf(degrees)
        else f"Student's t, {rounded(degrees, 0)} degrees"
    )
    calls = calls_at(thresholds, held.passes)
    whom = "the expected flow" if result.flow.alone else "the others that agree, itself left out"
    return (
        Line(
            label="what decides",
            figure=f"{100 * held.deviation:+.2f} ± {rounded(reach(100 * held.u()), 2)}",
            unit="%",
            formula=f"against {whom}; {KNOWN_TO}",
        ),
        Line(
            label="probability out of tolerance",
            figure=rounded(view.probability_out, 3),
            formula=f"{by} beyond \u00b1{rounded(100 * result.tolerance, 1)} %; {calls:.6g} on one side calls, "
            f"{thresholds.clear:g} clears",
            source="JCGM 106:2012; JCGM 100:2008, G.4.1; O'Brien and Fleming 1979",
        ),
    )


def working_of_volumes(result: DropResult, unit: str) -> Working:
    """All figures of a sheet whose quantity is what passed, a volume."""
    flow = result.flow
    shared = [step_line(result.sheet.step, unit)]
    if flow.reference is not None and flow.alone:
        shared.append(_alone(result, rounded(flow.reference, 2), unit))
    elif flow.reference is not None:
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
                *decision_lines(result.thresholds, v.probability_out),
            ),
        )
        for v in flow.views
    )
    return Working(shared=tuple(shared), injectors=rows)
