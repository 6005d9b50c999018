"""Options, changes and swaps in words.

>>> chosen_words("replace_flagged", ("4",))
'Replace: 4'
"""

from collections.abc import Callable, Sequence
from datetime import date
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import IN_POINTS, SHARE_OF_FLOW, SHARE_OF_PRESSURE, Finding
from plumb.core.measure.quantities import rounded
from plumb.core.measure.text import listed, percent
from plumb.core.measure.uncertainty import KNOWN_TO, reach
from plumb.core.mend.after import CHANGES, Pair
from plumb.core.mend.cured import Cured
from plumb.core.mend.options import OPTIONS, Option
from plumb.core.mend.repairs import DONE, Repair
from plumb.core.mend.swap import WENT, Swap

_IN_A_WORD: Final = frozenset({State.NO_RESPONSE, State.OPEN, State.NOT_JUDGED})
_WHOLE: Final = 100.0
_TENTHS: Final = 10.0
"""From these figures on whole ones, or tenths, are told."""
_NAMED: Final = {
    "replace_flagged": "Replace {names}",
    "reshim": "Re-shim {names}",
    "rebuild": "Bench test and rebuild {names}",
}


def way_words(way: Option) -> str:
    """What an option is called, with whom it is done to."""
    if not way.cleaned:
        return _NAMED.get(way.option, OPTIONS[way.option]).format(names=listed(way.injectors))
    replaced = [x for x in way.injectors if x not in way.cleaned]
    at_once = f", replace {listed(replaced)}" if replaced else ""
    if way.option == "clean_all":
        return f"Clean all but {listed(replaced)}{at_once}" if replaced else OPTIONS[way.option]
    return f"Clean {listed(way.cleaned)}{at_once}, then replace what stays"


def chosen_words(option: str, injectors: Sequence[str]) -> str:
    """What was chosen, as the record has it: the way, and whom it was for."""
    names = f": {listed(injectors)}" if injectors else ""
    return f"{OPTIONS[option]}{names}"


def chance_words(chance: Cured) -> str:
    """How often cleaning cures: ``cures 3 of 5 (19 to 93 %, 95 % sure), common practice``."""
    low, high = chance.interval()
    of_own = f"{chance.own} of your own" if chance.own else "common practice"
    return (
        f"cures {round(5 * chance.mean, 1):g} of 5 ({round(100 * low)} to {round(100 * high)} %, {KNOWN_TO} sure), "
        f"{of_own}"
    )


def ordered_words(what: str, due: str) -> str:
    """Which parts a job waits for, and when they are due.

    >>> ordered_words("two injectors", "2026-12-04"), ordered_words("a nozzle", "")
    ('Parts on order: two injectors, due 4 Dec 2026', 'Parts on order: a nozzle')
    """
    when = f", due {date.fromisoformat(due):%-d %b %Y}" if due else ""
    return f"Parts on order: {what}{when}"


def repair_words(repair: Repair) -> str:
    """What was done, to whom: ``4 replaced: Torvik 0 280``."""
    what = DONE[repair.done]
    if repair.swapped_with:
        return f"{repair.injector} and {repair.swapped_with} changed places"
    name = repair.injector or repair.cause.replace("_", " ")
    part = repair.part.words if repair.part else ""
    return f"{name} {what}{f': {part}' if part else ''}"


def off_words(finding: Finding, unit: str) -> str:
    """How something stands, for a person: against the others, or the figure itself in the sheet's unit.

    What injectors gave is told against those that agree; what has a window or a limit of its own as it was
    read. Empty where there is no figure, or where a word tells more.
    """
    return _told(finding, unit, _against_others)


def bob_words(finding: Finding, unit: str) -> str:
    """The same beside its bob, where only a figure has room: per cent with its sign, or the figure itself."""
    return _told(finding, unit, lambda f: f"{_signed(100.0 * (f.deviation or 0.0))} %")


def _told(finding: Finding, unit: str, share: Callable[[Finding], str]) -> str:
    """What injectors gave as ``share`` says it, all else by its figure; empty where a word tells more."""
    if finding.state in _IN_A_WORD:
        return ""
    if finding.injector and finding.scale in {SHARE_OF_FLOW, SHARE_OF_PRESSURE}:
        return "" if finding.deviation is None else share(finding)
    return _figure(finding, unit)


def _figure(finding: Finding, unit: str) -> str:
    """The figure in the sheet's unit; of an engine's limit, which a loss or a rest is held against, its word tells more."""
    if finding.value is None or not (finding.injector or finding.deviation is not None):
        return ""
    value = finding.value / finding.scale.per(unit)
    decimals = 0 if abs(value) >= _WHOLE else 1 if abs(value) >= _TENTHS else 2
    told = _signed(value, decimals) if finding.scale == IN_POINTS else rounded(value, decimals)
    return f"{told} {unit}".strip()


def _against_others(finding: Finding) -> str:
    if finding.state is State.IN_PLUMB:
        return "even with the others"
    deviation = finding.deviation or 0.0
    return f"{percent(deviation)} % {'less' if deviation < 0.0 else 'more'}"


def _signed(value: float, decimals: int = 1) -> str:
    """With its sign, and nought without one."""
    text = rounded(value, decimals)
    return text.replace("-", "\u2212") if float(text) <= 0.0 else f"+{text}"


def _stands(finding: Finding, unit: str, state: str) -> str:
    """Its figure, and with it what ails it beside that; else how the sheet calls its state."""
    told = off_words(finding, unit)
    if not finding.ails:
        return told or state
    return f"{told}, {state}" if told else state


def pair_words(pair: Pair, unit: str, before: str, after: str) -> str:
    """A change in a sentence; ``before`` and ``after`` are how the sheet calls the two states."""
    was = _stands(pair.before, unit, before)
    now = _stands(pair.after, unit, after)
    text = f"{was} before, {now} now: {CHANGES[pair.word]}"
    if pair.before.good and pair.after.good:
        return (
            f"{was} both times"
            if was == now
            else f"{was} before, {now} now: as it should be both times"
        )
    if pair.change is not None and pair.u is not None and pair.after.scale == SHARE_OF_FLOW:
        text += (
            f" (changed by {_signed(100.0 * pair.change)} %, known to "
            f"\u00b1{percent(reach(pair.u))} %, {KNOWN_TO})"
        )
    return text


def swap_words(swap: Swap) -> str:
    """What a swap test showed: ``4 and 2 changed places: the fault went with the part``."""
    what = {
        "with_part": f"the injector that was on {swap.place} is at fault",
        "with_cylinder": f"look at cylinder {swap.place}: driver, feed, compression",
    }.get(swap.word, "")
    told = f"{swap.place} and {swap.other} changed places: {WENT[swap.word]}"
    return f"{told}; {what}" if what else told
