"""The pressure drop sheet: one burst an injector, first and second reading, who leans.

Also called the balance test.  Conditions: engine off, the rail at a steady pressure, pump off, the
same burst for each.  The sheet's rule decides; all the other rules run on the same readings.

>>> psi = KPA_PER["psi"]
>>> readings = tuple(
...     DropReading(injector=str(n), number=1, first=50.0 * psi, second=s * psi)
...     for n, s in enumerate((26.0, 26.5, 31.5, 26.0), 1))
>>> sheet = DropSheet(injectors=("1", "2", "3", "4"), readings=readings, step=0.5 * psi)
>>> [f.state.value for f in analyse_drop(sheet).findings]
['in_plumb', 'in_plumb', 'low', 'in_plumb']
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from typing import Final

from plumb.core.bursts import BurstSet, Decision, Injected, Outcome, Row
from plumb.core.decision import State, Thresholds, probability_out
from plumb.core.flow import flow_index, flow_of, tolerance_in_flow
from plumb.core.flow_rule import FlowJudgement, FlowView, judge_by_flow
from plumb.core.quantities import KPA_PER
from plumb.core.rules import PSI, RULES, RuleChoice, outcome_of_flow, rule

KIND: Final = "pressure_drop"
WORKSHOP_LIMIT: Final = 1.5 * PSI
"""The +-1.5 psi of the workshop rules, shown on every sheet as what it means in flow."""


class Mark(StrEnum):
    """What stands in place of a figure, or beside it."""

    NONE = "none"
    NOT_READ = "not_read"
    READ_LATE = "read_late"


@dataclass(frozen=True, slots=True, kw_only=True)
class DropReading:
    """One burst of one injector: pressures before and after in kPa, None where not a number."""

    injector: str
    number: int
    first: float | None
    second: float | None
    mark: Mark | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """The drop (kPa) that a window or an earlier sheet foretells, and who says so."""

    drop: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DropSheet:
    """What is put in: injectors in reach order, readings, the gauge's step in kPa, the rule."""

    injectors: tuple[str, ...]
    readings: tuple[DropReading, ...]
    step: float
    rule: RuleChoice = RuleChoice()
    expected: Expected | None = None
    neighbour_proven: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """What the sheet's rule says of one injector.

    ``value`` and ``reference`` are in the rule's quantity (kPa, or sqrt(kPa) for the flow index);
    ``deviation``, ``u``, ``tolerance`` are fractions, positive gives more.  ``passes`` counts the
    measured bursts, ``answered_late`` says that an earlier burst was marked "no response".
    """

    injector: str
    quantity: str
    state: State
    value: float | None
    reference: float | None
    deviation: float | None
    u: float | None
    tolerance: float | None
    probability_out: float | None
    passes_to_settle: int | None
    passes: int
    agrees: bool
    bound: bool = False
    answered_late: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class DropResult:
    """What the sheet says: findings in reach order and everything they rest on.

    ``limit_in_flow`` is what +-1.5 psi means in flow on this rail; ``against_expected`` the set's
    own deviation from the expected drop as (deviation, u), None where nothing is expected.
    """

    sheet: DropSheet
    findings: tuple[Finding, ...]
    flow: FlowJudgement
    rules: tuple[Outcome, ...]
    median_pressures: tuple[float, float] | None
    limit_in_flow: float | None
    tolerance: float
    against_expected: tuple[float, float] | None
    spans: tuple[tuple[float, float], ...]
    thresholds: Thresholds

    @property
    def split(self) -> bool:
        """The set falls into halves and cannot say which is right."""
        return self.flow.split

    @property
    def measured(self) -> int:
        """How many injectors have an answer, "no response" included."""
        return sum(1 for f in self.findings if f.state is not State.NOT_JUDGED or f.passes)

    @property
    def passed(self) -> bool:
        """Every injector was measured and is in plumb."""
        return bool(self.findings) and all(f.state is State.IN_PLUMB for f in self.findings)

    def chosen(self) -> Outcome:
        """The outcome of the sheet's own rule."""
        return next(o for o in self.rules if o.rule == self.sheet.rule.name)


def burst_set(sheet: DropSheet) -> BurstSet:
    """Gather the measured bursts of each injector, and who last answered with nothing."""
    measured: list[Injected] = []
    silent: list[str] = []
    for label in sheet.injectors:
        mine = sorted((r for r in sheet.readings if r.injector == label), key=lambda r: r.number)
        flows = tuple(
            flow_of(r.first, r.second, sheet.step, read_late=r.mark is Mark.READ_LATE)
            for r in mine
            if r.first is not None and r.second is not None
        )
        told = [r for r in mine if r.mark is not Mark.NOT_READ]
        if told and told[-1].mark is Mark.NONE:
            silent.append(label)
        elif flows:
            measured.append(Injected(label, flows))
    return BurstSet(injected=tuple(measured), step=sheet.step, silent=tuple(silent))


def _tolerance(sheet: DropSheet, bursts: BurstSet) -> float:
    """The flow index's tolerance: a stated fraction, or a stated pressure put into flow (M2)."""
    limits = sheet.rule.limits
    if sheet.rule.name == "flow_index":
        if limits.tolerance is not None:
            return limits.tolerance
        if limits.limit is not None and bursts.injected:
            first, second = bursts.median_pressures()
            fraction = tolerance_in_flow(first, second, limits.limit)
            if math.isfinite(fraction):
                return fraction
    return RULES["flow_index"].defaults.tolerance or 0.10


def analyse_drop(sheet: DropSheet, thresholds: Thresholds = Thresholds()) -> DropResult:
    """Judge a drop sheet by its rule, and run all other rules beside it.

    Raises :class:`~plumb.core.problems.PlumbError` for a rule that is not known.
    """
    rule(sheet.rule.name)
    bursts = burst_set(sheet)
    tolerance = _tolerance(sheet, bursts)
    pressures = bursts.median_pressures() if bursts.injected else None
    expected = _expected_flow(sheet, pressures)
    flow = judge_by_flow(bursts, tolerance, thresholds, expected)
    rules = tuple(_outcome(code, sheet, bursts, flow) for code in RULES)
    chosen = next(o for o in rules if o.rule == sheet.rule.name)
    return DropResult(
        sheet=sheet,
        findings=_findings(sheet, bursts, flow, chosen),
        flow=flow,
        rules=rules,
        median_pressures=pressures,
        limit_in_flow=tolerance_in_flow(*pressures, WORKSHOP_LIMIT) if pressures else None,
        tolerance=tolerance,
        against_expected=(
            (flow.reference / expected - 1.0, flow.u_reference / expected)
            if expected and flow.reference
            else None
        ),
        spans=tuple((f.first, f.second) for i in bursts.injected for f in i.flows),
        thresholds=thresholds,
    )


def _expected_flow(sheet: DropSheet, pressures: tuple[float, float] | None) -> float | None:
    """The flow index that the expected drop means from this rail's start pressure."""
    if sheet.expected is None or pressures is None or sheet.expected.drop >= pressures[0]:
        return None
    return flow_index(pressures[0], pressures[0] - sheet.expected.drop)


def _outcome(code: str, sheet: DropSheet, bursts: BurstSet, flow: FlowJudgement) -> Outcome:
    if code == "flow_index":
        return outcome_of_flow(flow, bursts.silent)
    limits = sheet.rule.effective() if code == sheet.rule.name else RULES[code].defaults
    return RULES[code].judge(bursts, limits)


def _findings(
    sheet: DropSheet, bursts: BurstSet, flow: FlowJudgement, chosen: Outcome
) -> tuple[Finding, ...]:
    by_flow = {v.injector: v for v in flow.views}
    by_rule = {r.injector: r for r in chosen.rows}
    late = {r.injector for r in sheet.readings if r.mark is Mark.NONE}
    counts = {i.label: i.passes for i in bursts.injected}
    found = []
    for label in sheet.injectors:
        view, row, passes = by_flow.get(label), by_rule.get(label), counts.get(label, 0)
        if view is not None and row is not None and flow.reference is not None:
            make = _from_flow if chosen.rule == "flow_index" else _from_rule
            found.append(make(view, row, chosen, passes, answered_late=label in late))
        else:
            silent = label in bursts.silent or (
                view is not None and view.state is State.NO_RESPONSE
            )
            state = State.NO_RESPONSE if silent else State.NOT_JUDGED
            found.append(_bare(label, chosen.quantity, state, view, passes))
    return tuple(found)


def _bare(label: str, quantity: str, state: State, view: FlowView | None, passes: int) -> Finding:
    """A finding without a comparison: not measured, alone, or no response marked."""
    return Finding(
        injector=label,
        quantity=quantity,
        state=state,
        value=view.flow if view is not None and quantity == "flow_index" else None,
        reference=None,
        deviation=None,
        u=None,
        tolerance=None,
        probability_out=None,
        passes_to_settle=None,
        passes=passes,
        agrees=False,
    )


def _from_flow(
    view: FlowView, row: Row, chosen: Outcome, passes: int, *, answered_late: bool
) -> Finding:
    return Finding(
        injector=view.injector,
        quantity="flow_index",
        state=view.state,
        value=view.flow,
        reference=chosen.centre,
        deviation=view.deviation,
        u=view.u,
        tolerance=row.limit,
        probability_out=view.probability_out,
        passes_to_settle=view.passes_to_settle,
        passes=passes,
        agrees=view.agrees,
        bound=view.bound,
        answered_late=answered_late,
    )


def _from_rule(
    view: FlowView, row: Row, chosen: Outcome, passes: int, *, answered_late: bool
) -> Finding:
    """A workshop rule decides as it is taught; the gauge's doubt is told beside it."""
    if view.state is State.NO_RESPONSE:
        state = State.NO_RESPONSE
    elif row.decision is Decision.KEEP:
        state = State.IN_PLUMB
    elif row.decision is Decision.REPEAT:
        state = State.UNSETTLED
    else:
        state = State.LOW if row.deviation < 0.0 else State.HIGH
    return Finding(
        injector=view.injector,
        quantity=chosen.quantity,
        state=state,
        value=row.value,
        reference=chosen.centre,
        deviation=row.deviation,
        u=row.u,
        tolerance=row.limit,
        probability_out=probability_out(row.deviation, row.u, row.limit),
        passes_to_settle=1 if state is State.UNSETTLED else None,
        passes=passes,
        agrees=view.agrees,
        bound=view.bound,
        answered_late=answered_late,
    )


__all__ = [
    "KIND",
    "KPA_PER",
    "DropReading",
    "DropResult",
    "DropSheet",
    "Expected",
    "Finding",
    "Mark",
    "analyse_drop",
    "burst_set",
]
