"""The rules that can be picked for a pressure drop sheet: one function each, one table.

Every rule is run on the same readings, so that a shop sees what the one it was taught is worth.

>>> sorted(RULES)[:3]
['analysis_of_means', 'commonest_drop', 'end_pressure']
>>> RULES["ends_left_out"].editable
('limit', 'reject')
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Final

from plumb.core.compare import mean_rules, outlier_rules
from plumb.core.compare.bursts import BurstSet, Decision, Limits, Outcome, Row
from plumb.core.compare.flow_rule import FlowJudgement, judge_by_flow
from plumb.core.measure.decision import State
from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER

PSI: Final = KPA_PER["psi"]
COMMON: Final = "common practice, no source"


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleSpec:
    """One rule: its code in files, its title, what it decides, its source and default limits.

    ``editable`` names the fields of :class:`Limits` that a shop may set for it.
    """

    code: str
    title: str
    decides: str
    source: str
    defaults: Limits
    editable: tuple[str, ...]
    judge: Callable[[BurstSet, Limits], Outcome]


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleChoice:
    """The rule picked for a sheet, with the limits the shop changed (None: the rule's own)."""

    name: str = "flow_index"
    limits: Limits = Limits()
    label: str = ""
    source: str = ""

    def effective(self) -> Limits:
        """The limits in force: the rule's defaults with the shop's changes over them."""
        return self.over(rule(self.name).defaults)

    def over(self, defaults: Limits) -> Limits:
        """``defaults`` with every limit that this choice states put in its place."""
        stated = {
            name: value
            for name in ("tolerance", "limit", "reject", "score", "alpha", "suspect")
            if (value := getattr(self.limits, name)) is not None
        }
        thresholds = self.limits.thresholds
        if not stated and thresholds == defaults.thresholds:
            return defaults
        return replace(defaults, thresholds=thresholds, **stated)


_DECISIONS: Final = {
    State.LOW: Decision.REJECT,
    State.HIGH: Decision.REJECT,
    State.NO_RESPONSE: Decision.REJECT,
    State.UNSETTLED: Decision.REPEAT,
    State.INTERMITTENT: Decision.REPEAT,
}


def outcome_of_flow(judged: FlowJudgement, silent: tuple[str, ...]) -> Outcome:
    """The flow index in the shape that all rules share."""
    if judged.reference is None:
        return Outcome(
            rule="flow_index",
            quantity="flow_index",
            applies=False,
            silent=silent,
            reason="no injector with a drop to compare with",
        )
    rows = tuple(
        Row(
            injector=v.injector,
            value=v.flow,
            deviation=v.deviation,
            limit=judged.tolerance,
            u=v.u,
            decision=_DECISIONS.get(v.state, Decision.KEEP),
        )
        for v in judged.views
    )
    if judged.split:
        return Outcome(
            rule="flow_index",
            quantity="flow_index",
            rows=rows,
            silent=silent,
            centre=judged.reference,
            applies=False,
            reason="the set is split: it cannot say which half is right",
        )
    return Outcome(
        rule="flow_index", quantity="flow_index", rows=rows, centre=judged.reference, silent=silent
    )


def _flow_index(burst_set: BurstSet, limits: Limits) -> Outcome:
    judged = judge_by_flow(burst_set, limits.tolerance or 0.10, limits.thresholds)
    return outcome_of_flow(judged, burst_set.silent)


_TABLE: Final = (
    RuleSpec(
        code="flow_index",
        title="Flow index",
        judge=_flow_index,
        decides="Difference of the roots of both pressures, against the injectors that agree; "
        "with the gauge's uncertainty.",
        source="Plumb, docs/methods.md; JCGM 106:2012 for the decision",
        defaults=Limits(tolerance=0.10),
        editable=("tolerance", "limit"),
    ),
    RuleSpec(
        code="plain_mean",
        title="Plain mean",
        judge=mean_rules.plain_mean,
        decides="Rejects a drop that differs from the mean of all by more than the limit.",
        source=COMMON,
        defaults=Limits(limit=1.5 * PSI),
        editable=("limit",),
    ),
    RuleSpec(
        code="ends_left_out",
        title="Ends left out",
        judge=mean_rules.ends_left_out,
        decides="Mean without the highest and the lowest drop; between the limits: repeat.",
        source=COMMON,
        defaults=Limits(limit=1.5 * PSI, reject=2.0 * PSI),
        editable=("limit", "reject"),
    ),
    RuleSpec(
        code="suspect_left_out",
        title="Suspect left out",
        judge=mean_rules.suspect_left_out,
        decides="Mean without the suspect; rejects what lies outside a share of it.",
        source=COMMON,
        defaults=Limits(tolerance=0.20),
        editable=("tolerance", "suspect"),
    ),
    RuleSpec(
        code="commonest_drop",
        title="Commonest drop",
        judge=mean_rules.commonest_drop,
        decides="Rejects what is more than the limit from the drop that occurs most often.",
        source=COMMON,
        defaults=Limits(limit=1.5 * PSI),
        editable=("limit",),
    ),
    RuleSpec(
        code="end_pressure",
        title="End pressure",
        judge=mean_rules.end_pressure,
        decides="Second readings against their median; needs like first readings.",
        source=COMMON,
        defaults=Limits(limit=1.5 * PSI),
        editable=("limit",),
    ),
    RuleSpec(
        code="within_each_other",
        title="Within so much of each other",
        judge=mean_rules.within_each_other,
        decides="Largest minus smallest drop at most the limit, else the farthest goes.",
        source=COMMON,
        defaults=Limits(limit=2.0 * PSI),
        editable=("limit",),
    ),
    RuleSpec(
        code="modified_z",
        title="Modified z",
        judge=outlier_rules.judge_modified_z,
        decides="0.6745 (drop - median) / MAD beyond the score.",
        source="Iglewicz and Hoaglin 1993",
        defaults=Limits(score=3.5),
        editable=("score",),
    ),
    RuleSpec(
        code="extreme_studentized",
        title="Extreme studentised deviate",
        judge=outlier_rules.judge_extreme,
        decides="Rosner's generalised test for outliers.",
        source="Rosner 1983; NIST/SEMATECH e-Handbook 1.3.5.17.3",
        defaults=Limits(alpha=0.05),
        editable=("alpha",),
    ),
    RuleSpec(
        code="analysis_of_means",
        title="Analysis of means",
        judge=outlier_rules.judge_means,
        decides="Each injector's mean drop against decision limits; needs two passes each.",
        source="Nelson 1983",
        defaults=Limits(alpha=0.05),
        editable=("alpha",),
    ),
)

RULES: Final[dict[str, RuleSpec]] = {r.code: r for r in _TABLE}


def rule(code: str, path: str = "rule.name") -> RuleSpec:
    """The rule of that code; :class:`PlumbError` when there is none."""
    found = RULES.get(code)
    if found is None:
        raise PlumbError(
            Problem(
                path=path,
                rule="the rule is one of " + ", ".join(RULES),
                value=code,
                code="unknown_rule",
            )
        )
    return found
