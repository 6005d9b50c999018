"""A sheet on which injectors are compared by what they gave: bursts, or volumes.

The sheet's rule decides; all the other rules can be asked about the same readings.

>>> from plumb.core.measure.quantities import KPA_PER
>>> psi = KPA_PER["psi"]
>>> readings = tuple(
...     Noted(injector=str(n), number=1, first=50.0 * psi, second=s * psi)
...     for n, s in enumerate((26.0, 26.5, 31.5, 26.0), 1))
>>> sheet = DropSheet(kind="any", injectors=tuple("1234"), readings=readings, step=0.5 * psi)
>>> [f.state.value for f in analyse_drop(sheet).findings]
['in_plumb', 'in_plumb', 'low', 'in_plumb']
"""

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Final, NamedTuple

from plumb.core.compare.bursts import BurstSet, Decision, Injected, Outcome, Row
from plumb.core.compare.drops.driven import WEAK_SUPPLY_V, counted, lowest_volts
from plumb.core.compare.drops.expected import Expected, against, expected_flow
from plumb.core.compare.flow import flow_of, linear_flow, second_for, tolerance_in_flow
from plumb.core.compare.flow_rule import FlowJudgement, FlowView, judge_by_flow
from plumb.core.compare.renewed import Renewed, held_by_others
from plumb.core.compare.rules import PSI, RULES, RuleChoice, outcome_of_flow, rule
from plumb.core.measure.decision import State, Thresholds, decide, probability_out
from plumb.core.measure.finding import (
    SHARE,
    SHARE_OF_FLOW,
    SHARE_OF_PRESSURE,
    Finding,
    Scale,
    all_in_plumb,
    with_carried,
)
from plumb.core.measure.readings import Mark, Noted
from plumb.core.measure.uncertainty import PRIOR_RELATIVE

WORKSHOP_LIMIT: Final = 1.5 * PSI
"""The +-1.5 psi of the workshop rules, shown on every sheet as what it means in flow."""


@dataclass(frozen=True, slots=True, kw_only=True)
class DropSheet:
    """What is put in: injectors in reach order, readings, the gauge's step in kPa, the rule.

    A reading is one burst of one injector: ``first`` and ``second`` are the pressures before and after
    it, None where not a number.  On a linear sheet ``first`` is the quantity itself (ml) and ``second``
    is zero.  ``fires_at`` is the pressure to which the rail had to bleed before a weak one opened.

    ``kind`` and ``linear`` let the running balance and the flow bench be compared in the same way;
    ``outside`` are the reasons why the readings were taken outside their conditions, in words;
    ``supply_v`` is the tester's supply, where a reading does not tell its own, ``driven_by`` what opened them; ``when`` is before_cleaning, after_cleaning or empty.
    ``carried`` are injectors whose readings come from an earlier sheet, and from which; ``read_before``
    those that were read on one taken in another way; ``renewed`` were worked on before it was taken;
    ``prior`` is how this test scatters, ``usual`` its own tolerance where the rule states none.
    """

    kind: str
    injectors: tuple[str, ...]
    readings: tuple[Noted, ...]
    step: float
    rule: RuleChoice = RuleChoice()
    expected: Expected | None = None
    neighbour_proven: bool = False
    linear: bool = False
    outside: tuple[str, ...] = ()
    supply_v: float | None = None
    driven_by: str = ""
    when: str = ""
    carried: tuple[tuple[str, str], ...] = ()
    read_before: tuple[str, ...] = ()
    renewed: Renewed = ()
    prior: float = PRIOR_RELATIVE
    usual: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class DropResult:
    """What the sheet says: findings in reach order and everything they rest on.

    ``limit_in_flow`` is what +-1.5 psi means in flow on this rail; ``against_expected`` the set's
    own deviation from the expected drop as (deviation, u), None where nothing is expected; ``chosen``
    is the outcome of the sheet's own rule,
    ``bursts`` is what the rules were given.
    """

    sheet: DropSheet
    findings: tuple[Finding, ...]
    flow: FlowJudgement
    chosen: Outcome
    median_pressures: tuple[float, float] | None
    limit_in_flow: float | None
    tolerance: float
    against_expected: tuple[float, float] | None
    thresholds: Thresholds
    bursts: BurstSet

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return self.sheet.kind

    @property
    def volts(self) -> dict[str, float]:
        """What drove each injector that was read: of several readings that count the lowest volts."""
        return lowest_volts(self.sheet.readings, self.sheet.supply_v)

    @property
    def driven_weakly(self) -> tuple[str, ...]:
        """Whom the tester's supply was too low to tell stuck from good, in reach order."""
        volts = self.volts
        return tuple(x for x in self.sheet.injectors if volts.get(x, math.inf) < WEAK_SUPPLY_V)

    def strays(self, injector: str) -> int:
        """How many of its passes lie apart from the others; 1 may be a slip."""
        return next((i.strays for i in self.bursts.injected if i.label == injector), 0)

    @property
    def set_state(self) -> State:
        """How the whole set lies against the expected drop; not judged where nothing is expected."""
        if self.against_expected is None or self.split:
            return State.NOT_JUDGED
        deviation, u = self.against_expected
        return decide(deviation, u, self.tolerance, self.thresholds)

    @property
    def begun(self) -> bool:
        """Whether anything was noted."""
        return bool(self.sheet.readings)

    @property
    def split(self) -> bool:
        """The set falls into halves and cannot say which is right."""
        return self.flow.split

    @property
    def measured(self) -> int:
        """How many injectors were answered on this sheet, "no response" included."""
        return sum(1 for f in self.findings if f.read)

    @property
    def passed(self) -> bool:
        """Every injector was measured and is in plumb."""
        return all_in_plumb(self.findings)

    def drop_from(self, start: float | None) -> float | None:
        """The drop (kPa, or the linear quantity) that its group would give from another start pressure.

        None for ``start``: from its own.  None is told where no group is.
        """
        if self.flow.reference is None or self.sheet.linear:
            return self.flow.reference
        if start is None:
            start = self.median_pressures[0] if self.median_pressures else 0.0
        return start - second_for(start, self.flow.reference)

    def mean_drop_of_agreeing(self) -> float | None:
        """Mean drop (kPa, or the linear quantity) of those that agree, None where nobody does."""
        members = set(self.flow.agreeing)
        drops = [i.drop for i in self.bursts.injected if i.label in members]
        return sum(drops) / len(drops) if drops else None

    def rules(self) -> tuple[Outcome, ...]:
        """What every rule makes of the same bursts, the sheet's own among them.

        Worked out when asked: a verdict rests on the sheet's own rule alone.
        """
        return tuple(
            self.chosen
            if code == self.chosen.rule
            else _outcome(code, self.sheet, self.bursts, self.flow)
            for code in RULES
        )


def burst_set(sheet: DropSheet) -> BurstSet:
    """Gather the measured bursts of each injector, and who last answered with nothing."""
    by_injector: dict[str, list[Noted]] = {label: [] for label in sheet.injectors}
    for r in sheet.readings:
        if r.injector in by_injector:
            by_injector[r.injector].append(r)
    made = [
        (label, *_bursts_of(label, tuple(mine), sheet.step, linear=sheet.linear))
        for label, mine in by_injector.items()
        if mine
    ]
    return BurstSet(
        injected=tuple(one for _, one, _ in made if one is not None),
        step=sheet.step,
        silent=tuple(label for label, _, silent in made if silent),
        prior=sheet.prior,
    )


@lru_cache(maxsize=1 << 11)
def _bursts_of(
    label: str, readings: tuple[Noted, ...], step: float, *, linear: bool
) -> tuple[Injected | None, bool]:
    """One injector's measured bursts, and whether its last answer was nothing.

    Kept: while somebody types, all rows of a sheet but one are the same as before, and what a
    further reading costs must not grow with the passes that are there.
    """
    mine = sorted(readings, key=lambda r: r.number)
    told = [r for r in mine if r.mark is not Mark.NOT_READ]
    if told and told[-1].mark is Mark.NONE:
        return None, True
    flows = tuple(
        linear_flow(r.first, step)
        if linear
        else flow_of(r.first, r.second, step, read_late=r.mark is Mark.READ_LATE)
        for r in mine
        if r.first is not None and r.second is not None
    )
    return (Injected(label, flows) if flows else None), False


def _tolerance(sheet: DropSheet, bursts: BurstSet) -> float:
    """The flow index's tolerance: a stated fraction, or a stated pressure put into flow (M2)."""
    limits = sheet.rule.limits
    if sheet.rule.name == "flow_index":
        if limits.tolerance is not None:
            return limits.tolerance
        if limits.limit is not None and bursts.injected:
            first, second = bursts.median_pressures()
            if sheet.linear:
                fraction = limits.limit / first if first > 0.0 else math.inf
            else:
                fraction = tolerance_in_flow(first, second, limits.limit)
            if math.isfinite(fraction):
                return fraction
    return sheet.usual or RULES["flow_index"].defaults.tolerance or 0.10


def analyse_drop(sheet: DropSheet, thresholds: Thresholds = Thresholds()) -> DropResult:
    """Judge a drop sheet by its rule; what all others would say is asked of the result.

    Raises :class:`~plumb.core.measure.problems.PlumbError` for a rule that is not known.
    """
    rule(sheet.rule.name)
    # Nobody is judged, or told of, by a burst that a weak supply has spoilt and a good one made good.
    sheet = replace(sheet, readings=counted(sheet.readings, sheet.supply_v))
    bursts = burst_set(sheet)
    tolerance = _tolerance(sheet, bursts)
    pressures = bursts.median_pressures() if bursts.injected and not sheet.linear else None
    expected = expected_flow(sheet.expected, pressures, linear=sheet.linear)
    flow = judge_by_flow(
        bursts,
        tolerance,
        thresholds,
        expected,
        alone=len(sheet.injectors) == 1,
        renewed=sheet.renewed,
    )
    # Rules compare injectors: one that is alone is held against what is expected, whichever is chosen.
    code = "flow_index" if flow.alone else sheet.rule.name
    chosen = _outcome(code, sheet, bursts, flow)
    return DropResult(
        sheet=sheet,
        findings=with_carried(
            held_by_others(
                _findings(sheet, bursts, flow, chosen),
                sheet.renewed,
                anchored=flow.alone or expected is not None,
            ),
            sheet.carried,
        ),
        flow=flow,
        chosen=chosen,
        median_pressures=pressures,
        limit_in_flow=tolerance_in_flow(*pressures, WORKSHOP_LIMIT) if pressures else None,
        tolerance=tolerance,
        against_expected=against(flow, expected, sheet.expected),
        thresholds=thresholds,
        bursts=bursts,
    )


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
    sprays = {r.injector: r.spray for r in sheet.readings if r.spray}
    counts = {i.label: i.passes for i in bursts.injected}
    told = _Told("volume" if sheet.linear else chosen.quantity, _scale(sheet, chosen.quantity))
    found = []
    for label in sheet.injectors:
        view, row, passes = by_flow.get(label), by_rule.get(label), counts.get(label, 0)
        if view is not None and row is not None and flow.reference is not None:
            make = _from_flow if chosen.rule == "flow_index" else _from_rule
            one = make(view, row, chosen, passes, told)
            found.append(replace(one, answered_late=True) if label in late else one)
        else:
            silent = label in bursts.silent or (
                view is not None and view.state is State.NO_RESPONSE
            )
            odd = view is not None and view.state is State.INTERMITTENT
            state = State.NO_RESPONSE if silent else State.NOT_JUDGED
            state = State.INTERMITTENT if odd and not silent else state
            flow_told = view is not None and chosen.quantity == "flow_index"
            value = view.flow if view is not None and flow_told else None
            found.append(_bare(label, state, view, passes, told, value=value))
    bad = {label for label, spray in sprays.items() if spray != "even"}
    return tuple(replace(f, ails="spray_bad") if f.injector in bad else f for f in found)


class _Told(NamedTuple):
    """What a finding's figures are: the quantity, and what a deviation is a share of."""

    quantity: str
    scale: Scale


def _scale(sheet: DropSheet, quantity: str) -> Scale:
    """Whatever is compared is a share of the reference: of a volume, a flow, or a pressure."""
    if sheet.linear:
        return SHARE
    return SHARE_OF_FLOW if quantity == "flow_index" else SHARE_OF_PRESSURE


def _bare(
    label: str,
    state: State,
    view: FlowView | None,
    passes: int,
    told: _Told,
    *,
    value: float | None,
) -> Finding:
    """A finding without a comparison: not measured, alone, or no response marked."""
    return Finding(
        injector=label,
        quantity=told.quantity,
        scale=told.scale,
        state=state,
        value=value,
        reference=None,
        deviation=None,
        u=None,
        tolerance=None,
        probability_out=None,
        passes_to_settle=None,
        passes=passes,
        agrees=False,
        bound=view is not None and view.bound,
    )


def _from_flow(view: FlowView, row: Row, chosen: Outcome, passes: int, told: _Told) -> Finding:
    return Finding(
        injector=view.injector,
        quantity=told.quantity,
        scale=told.scale,
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
        graded=view.graded,
    )


def _from_rule(view: FlowView, row: Row, chosen: Outcome, passes: int, told: _Told) -> Finding:
    """A workshop rule decides as it is taught; the gauge's doubt is told beside it."""
    state: State
    if view.state in {State.NO_RESPONSE, State.INTERMITTENT}:
        state = view.state
    elif row.decision is Decision.KEEP:
        state = State.IN_PLUMB
    elif row.decision is Decision.REPEAT:
        state = State.UNSETTLED
    else:
        state = State.LOW if row.deviation < 0.0 else State.HIGH
    return Finding(
        injector=view.injector,
        quantity=told.quantity,
        scale=told.scale,
        state=state,
        value=row.value,
        reference=chosen.centre,
        deviation=row.deviation,
        u=row.u,
        tolerance=row.limit,
        probability_out=probability_out(row.deviation, row.u, row.limit),
        passes_to_settle=1 if state in {State.UNSETTLED, State.INTERMITTENT} else None,
        passes=passes,
        agrees=view.agrees,
        bound=view.bound,
    )
