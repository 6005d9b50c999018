"""Facts of a sheet that compares injectors: how each gives, what was noted, how the set stands."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.drops.doubt import Doubt, doubt_of
from plumb.core.compare.drops.driven import TESTER
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.renewed import WORKED_ON, of_work
from plumb.core.compare.said import leaning
from plumb.core.measure.decision import State
from plumb.core.measure.fact import Fact
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import rounded
from plumb.core.measure.text import CODE_WORDS, percent


def makes(prefix: str) -> dict[str, str]:
    """The facts that :func:`of_drops` makes, and when."""
    return {
        f"{prefix}_low": "gives less than those that agree",
        f"{prefix}_high": "gives more than those that agree",
        f"{prefix}_in_plumb": "gives what those that agree give",
        f"{prefix}_none": "no response",
        f"{prefix}_unsettled": "not settled",
        f"{prefix}_intermittent": "its passes disagree",
        f"{prefix}_split": "the set falls into halves",
        **WORKED_ON,
        "two_passes": "read more than once",
        "more_than_one_pass_off": "its passes disagree, and on neither side there is but one of them",
        "held_to_expected": "it was held against what is expected, not against others",
        "passes_agree": "read more than once, and every pass says the same",
        **{doubt.value: "no number of passes would settle it" for doubt in Doubt},
        "answered_late": "answered only after a silent burst",
        "fires_late": "opens only once the rail has bled down",
        "spray_bad": "the spray is not even",
        "spray_even": "the spray is even",
        "neighbour_answered": "someone answered the same tester",
        "tester_weak": "the tester's supply was weak",
        "tester_good": "the tester's supply was good",
        "driven_by_tester": "a tester at the plugs drove the injectors",
        "set_low": "the whole set gives less than expected",
        "set_high": "the whole set gives more than expected",
        "set_as_expected": "the whole set gives what is expected",
    }


_DOUBTS: Final = {
    Doubt.RAN_EMPTY: "its burst emptied the rail",
    Doubt.TOO_COARSE: "",
    Doubt.ON_THE_EDGE: "",
    Doubt.GRADED: "its set is spread evenly",
}


def of_drops(prefix: str, where: str, key: str, result: DropResult) -> Iterator[Fact]:
    """The facts of a sheet; ``prefix`` begins their codes, ``where`` ends their sentences."""
    for f in result.findings:
        if doubt := doubt_of(f):
            yield Fact(code=doubt.value, injector=f.injector, sheet=key, text=_DOUBTS[doubt])
        word = CODE_WORDS.get(f.state)
        if word is None:
            continue
        yield Fact(
            code=f"{prefix}_{word}",
            injector=f.injector,
            sheet=key,
            text=_flow_text(f, where),
            leans=leaning(prefix, f),
        )
        yield from of_work(key, f, result.sheet.when)
        if f.state is State.INTERMITTENT and result.strays(f.injector) > 1:
            yield Fact(code="more_than_one_pass_off", injector=f.injector, sheet=key, weighs=False)
        if f.passes > 1:
            yield Fact(code="two_passes", injector=f.injector, sheet=key)
            if f.state is not State.INTERMITTENT:
                yield Fact(code="passes_agree", injector=f.injector, sheet=key, weighs=False)
        if f.answered_late:
            yield Fact(
                code="answered_late", injector=f.injector, sheet=key,
                text="answered only after a silent burst",
            )  # fmt: skip
    if result.flow.alone:
        yield Fact(code="held_to_expected", injector="", sheet=key, weighs=False)
    yield from _of_bursts(key, result)
    yield from _of_set(key, result)


def _flow_text(finding: Finding, where: str) -> str:
    if finding.state is State.NO_RESPONSE:
        return f"no drop at all {where}"
    if finding.state is State.INTERMITTENT:
        return f"its passes disagree {where}"
    if finding.deviation is None:
        return ""
    size = rounded(abs(finding.deviation) * 100.0, 0)
    if finding.state is State.IN_PLUMB:
        return f"in plumb {where}"
    if finding.state is State.UNSETTLED:
        return f"not settled {where}"
    return f"{size} % {'less' if finding.deviation < 0 else 'more'} {where}"


def _of_bursts(key: str, result: DropResult) -> Iterator[Fact]:
    """What was noted beside the figures: the pressure at which it fires, the spray."""
    for r in result.sheet.readings:
        if r.fires_at is not None:
            yield Fact(
                code="fires_late", injector=r.injector, sheet=key,
                text=f"opens only once the rail has bled to {rounded(r.fires_at, 0)} kPa",
            )  # fmt: skip
        if r.spray == "even":
            yield Fact(code="spray_even", injector=r.injector, sheet=key, weighs=False)
        elif r.spray:
            yield Fact(
                code="spray_bad", injector=r.injector, sheet=key, text=f"spray {r.spray}"
            )  # fmt: skip


def _driven(key: str, result: DropResult) -> Iterator[Fact]:
    """What the tester had: of all alike, else of each injector."""
    if result.sheet.driven_by == TESTER and result.begun:
        yield Fact(code="driven_by_tester", injector="", sheet=key, weighs=False)
    volts, weak = result.volts, set(result.driven_weakly)
    whole = len(set(volts.values())) == 1 and result.sheet.supply_v is not None
    for label, had in list(volts.items())[: 1 if whole else None]:
        yield Fact(
            code="tester_weak" if label in weak else "tester_good",
            injector="" if whole else label, sheet=key,
            text=f"the tester's supply was {rounded(had, 1)} V",
        )  # fmt: skip


def _of_set(key: str, result: DropResult) -> Iterator[Fact]:
    answered = any(f.passes and f.state is not State.NO_RESPONSE for f in result.findings)
    if answered or result.sheet.neighbour_proven:
        yield Fact(code="neighbour_answered", injector="", sheet=key)
    yield from _driven(key, result)
    if result.set_state is State.IN_PLUMB:
        yield Fact(code="set_as_expected", injector="", sheet=key)
    elif result.set_state in {State.LOW, State.HIGH} and result.against_expected is not None:
        size = percent(result.against_expected[0])
        less = "less" if result.set_state is State.LOW else "more"
        yield Fact(
            code=f"set_{result.set_state.value}", injector="", sheet=key,
            text=f"the set as a whole gives {size} % {less} than expected",
        )  # fmt: skip
