"""The pressure drop sheet: one burst an injector, first and second reading, who leans.

Also called the balance test.  Conditions: engine off, the rail at a steady pressure, pump off, the
same burst for each.  The sheet's rule decides; all the other rules run on the same readings.

>>> from plumb.core.quantities import KPA_PER
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
from typing import Final

from plumb.core.bursts import BurstSet, Decision, Injected, Outcome, Row
from plumb.core.decision import State, Thresholds, probability_out
from plumb.core.finding import Finding
from plumb.core.flow import flow_index, flow_of, linear_flow, tolerance_in_flow
from plumb.core.flow_rule import FlowJudgement, FlowView, judge_by_flow
from plumb.core.readings import Mark
from plumb.core.rules import PSI, RULES, RuleChoice, outcome_of_flow, rule

KIND: Final = "pressure_drop"
WEAK_SUPPLY_V: Final = 12.0
"""Below this the tester's supply makes good injectors look stuck; common practice, no source."""
WORKSHOP_LIMIT: Final = 1.5 * PSI
"""The +-1.5 psi of the workshop rules, shown on every sheet as what it means in flow."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DropReading:
    """One burst of one injector: pressures before and after in kPa, None where not a number.

    On a linear sheet ``first`` is the quantity itself (ml) and ``second`` is zero.  ``fires_at``
    (kPa) is the pressure to which the rail had to bleed before a weak one opened.
    """

    injector: str
    number: int
    first: float | None
    second: float | None
    mark: Mark | None = None
    sound: str | None = None
    fires_at: float | None = None
    spray: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Expected:
    """The drop (kPa) that a window or an earlier sheet foretells, and who says so."""

    drop: float
    source: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DropSheet:
    """What is put in: injectors in reach order, readings, the gauge's step in kPa, the rule.

    ``kind`` and ``linear`` let the running balance and the flow bench be compared in the same way;
    ``outside`` are the reasons why the readings were taken outside their conditions, in words;
    ``supply_v`` is the tester's supply; ``when`` is before_cleaning, after_cleaning or empty.
    """

    injectors: tuple[str, ...]
    readings: tuple[DropReading, ...]
    step: float
    rule: RuleChoice = RuleChoice()
    expected: Expected | None = None
    neighbour_proven: bool = False
    kind: str = KIND
    linear: bool = False
    outside: tuple[str, ...] = ()
    supply_v: float | None = None
    when: str = ""


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
    def kind(self) -> str:
        """Which procedure it is."""
        return self.sheet.kind

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

    def mean_drop_of_agreeing(self) -> float | None:
        """Mean drop (kPa, or the linear quantity) of those that agree, None where nobody does."""
        members = set(self.flow.agreeing)
        drops = [i.drop for i in burst_set(self.sheet).injected if i.label in members]
        return sum(drops) / len(drops) if drops else None

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
            linear_flow(r.first, sheet.step)
            if sheet.linear
            else flow_of(r.first, r.second, sheet.step, read_late=r.mark is Mark.READ_LATE)
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
            fraction = (
                limits.limit / first
                if sheet.linear
                else tolerance_in_flow(first, second, limits.limit)
            )
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
    pressures = bursts.median_pressures() if bursts.injected and not sheet.linear else None
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
    if sheet.expected is not None and sheet.linear:
        return sheet.expected.drop
    if sheet.expected is None or pressures is None or sheet.expected.drop >= pressures[0]:
        return None
    return flow_index(pressures[0], pressures[0] - sheet.expected.drop)


def _outcome(code: str, sheet: DropSheet, bursts: BurstSet, flow: FlowJudgement) -> Outcome:
    if code == "flow_index":
        return outcome_of_flow(flow, bursts.silent)
    limits = sheet.rule.effective() if code == sheet.rule.name else RULES[code].defaults
    in_pressure = RULES[code].defaults.limit is not None
    if sheet.linear and in_pressure and not (code == sheet.rule.name and sheet.rule.limits.limit):
        return Outcome(
            rule=code,
            quantity="drop",
            applies=False,
            silent=bursts.silent,
            reason="its limit is a pressure; state one in this sheet's unit to use it",
        )
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
