"""What the screens of all sheets share whose injectors are compared by what they gave."""

import math
from dataclasses import replace
from functools import lru_cache
from typing import Any, Final

from plumb.core.compare.bursts import Limits, Outcome
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.rules import RULES
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KPA_PER, rounded
from plumb.core.procedures import kind_of
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds.shown import show
from plumb.service.stored.parts import setting_of
from plumb.service.views.next import next_view
from plumb.service.views.sheet import FieldView, RuleView, ScaleView
from plumb.store.records import WholeSheet


def scale(result: DropResult, _unit: str) -> ScaleView:
    """Per cent of the reference, with the tolerance as corridor."""
    limits = [f.tolerance for f in result.findings if f.tolerance is not None]
    half = round(100.0 * (max(limits) if limits else result.tolerance), 2)
    return ScaleView(
        relative=True, unit="%", centre=0.0, low=-half, high=half, decimals=0, gives=True
    )


def corridor(result: DropResult) -> float:
    """Half the width of the corridor in per cent."""
    return round(100.0 * result.tolerance, 2)


def bob(finding: Finding, _result: DropResult) -> float | None:
    """By the deviation, in per cent."""
    return None if finding.deviation is None else 100.0 * finding.deviation


def waits(result: DropResult) -> bool:
    """Whether the sheet still asks for a pass."""
    kind = kind_of(result)
    return kind.asks(kind, result, frozenset()) is not None


def more(whole: WholeSheet, result: DropResult, unit: str) -> dict[str, Any]:
    """Every rule on the same readings, who agrees, and the next step on this sheet."""
    kind = kind_of(result)
    reference = result.flow.reference
    return {
        "rules": [_rule_view(o, result, unit) for o in result.rules()],
        "next": next_view(kind.asks(kind, result, frozenset()), result, setting_of(whole)),
        "agreeing": list(result.flow.agreeing),
        "agreeing_shown": _agreeing_shown(result, unit),
        "split": result.split,
        "measured": result.measured,
        "reference": None
        if reference is None or result.sheet.linear
        else reference / math.sqrt(factor_of(whole.sheet.unit)),
        "limit_in_flow": _limit_in_flow(result, unit),
    }


@lru_cache(maxsize=256)
def limit_words(limits: Limits, unit: str, sign: str = "\u00b1") -> str:
    """The limits of a rule in short: +-1.5 psi."""
    factor = factor_of(unit)
    places = {"psi": 1, "kPa": 1, "bar": 2, "MPa": 3}.get(unit, 2)
    if limits.limit is not None and limits.reject is not None:
        return (
            f"over {rounded(limits.limit / factor, places)} repeat, "
            f"{rounded(limits.reject / factor, places)} {unit} reject"
        )
    if limits.limit is not None:
        return f"{sign}{rounded(limits.limit / factor, places)} {unit}"
    if limits.tolerance is not None:
        return f"\u00b1{limits.tolerance * 100:g} %"
    if limits.score is not None:
        return f"beyond {limits.score:g}"
    return f"\u03b1 {limits.alpha:g}" if limits.alpha is not None else ""


def _rule_view(outcome: Outcome, result: DropResult, unit: str) -> RuleView:
    spec = RULES[outcome.rule]
    chosen = outcome.rule == result.sheet.rule.name
    limits = result.sheet.rule.effective() if chosen else spec.defaults
    if spec.code == "flow_index" and limits.limit is None:
        # Each test has its own: what a burst may differ by is not what an idling engine may.
        limits = replace(limits, tolerance=result.tolerance)
    shown = "psi" if unit not in KPA_PER and not chosen else unit
    return RuleView(
        code=spec.code,
        title=spec.title,
        decides=spec.decides,
        limits=limit_words(
            limits, shown, "at most " if spec.code == "within_each_other" else "\u00b1"
        ),
        source=(result.sheet.rule.source if chosen else "") or spec.source,
        applies=outcome.applies,
        reason=outcome.reason,
        caution=outcome.caution,
        reject=list(outcome.reject),
        repeat=list(outcome.repeat),
        chosen=chosen,
        fields=rule_fields(spec.code, unit),
    )


_LIMITS: Final = {
    "tolerance": ("tolerance_percent", "Tolerance, % of what it compares with"),
    "limit": ("limit", "Limit, {unit}"),
    "reject": ("reject", "This or more: reject, {unit}"),
    "suspect": ("suspect", "Suspect (empty: the farthest)"),
    "score": ("score", "Score"),
    "alpha": ("alpha", "α"),
}
"""The limits of rules: their key in the job file, and what they are called."""


def rule_fields(code: str, unit: str = "{unit}") -> list[FieldView]:
    """The limits that may be set for a rule; pressures in ``unit``."""
    spec = RULES[code]
    named = {**_LIMITS, "limit": ("limit", "More than this: repeat, {unit}")} if (
        "reject" in spec.editable
    ) else _LIMITS  # fmt: skip
    return [
        FieldView(
            key=named[name][0], label=named[name][1].replace("{unit}", unit),
            kind="text" if name == "suspect" else "number", value="", options=[],
        )
        for name in spec.editable
    ]  # fmt: skip


def _limit_in_flow(result: DropResult, unit: str) -> str:
    if result.limit_in_flow is None or not math.isfinite(result.limit_in_flow):
        return ""
    limit = limit_words(Limits(limit=RULES["plain_mean"].defaults.limit), unit)
    return f"{limit} on this rail is \u00b1{rounded(100 * result.limit_in_flow, 1)} % of flow."


def _agreeing_shown(result: DropResult, unit: str) -> str:
    """The mean drop of those that agree."""
    mean = None if result.split else result.mean_drop_of_agreeing()
    return "" if mean is None else f"{show(mean, unit, result.sheet.step)} {unit}"
