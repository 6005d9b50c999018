"""What the opening pressures say."""

import math
from collections import Counter
from typing import Final

from plumb.core.compare.renewed import note as renewed_note
from plumb.core.compare.said import class_note
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KPA_PER, show_pressure
from plumb.core.measure.text import NOTHING_YET, Span, by_word, counted, listed
from plumb.core.measure.uncertainty import KNOWN_TO, reach
from plumb.core.procedures.opening.analysis import LOOKS, OpeningResult
from plumb.core.procedures.opening.shims import (
    MM_PER_THOU,
    REASSEMBLY_KPA,
    Plan,
    show_shim,
    to_step,
)

_STATES: Final = {
    State.LOW: "opens early",
    State.HIGH: "opens late",
    State.IN_PLUMB: "in plumb",
    State.UNSETTLED: "not settled",
    State.SPLIT: "set is split",
    State.NO_RESPONSE: "no pressure builds",
}
_FAULTS: Final = {
    "seat_wet": "seat leaks",
    "seat_damp": "seat damp",
    "spray_bad": "bad spray",
    "loses": "loses pressure",
}
_SPRAYS: Final = {
    "pintle": "A pintle nozzle sprays evenly when it makes one straight cone.",
    "hole": "A hole nozzle sprays evenly when all its jets are alike.",
}
"""What an even spray is, by the form of the nozzle; common practice, no source."""
SAYS: Final = (*_STATES.values(), *_FAULTS.values(), "no window given")
_CURES: Final = {
    "seat_wet": "setting it will not cure a wet seat",
    "seat_damp": "clean it and hold it again before it is set",
    "spray_bad": "setting it will not cure a bad spray",
    "loses": "setting it will not cure a needle that lets by",
}


def state(finding: Finding, result: OpeningResult) -> str:
    """A fault that no shim cures comes before the pressure."""
    fault = result.nozzle(finding.injector).fault
    if fault:
        return _FAULTS[fault]
    if finding.state is State.NOT_JUDGED:
        return "no window given" if finding.passes else ""
    return _STATES[finding.state]


def headline(result: OpeningResult, _unit: str) -> tuple[Span, ...]:
    """One sentence on the set."""
    named = by_word((f.injector, state(f, result)) for f in result.findings if f.passes)
    if not named:
        return NOTHING_YET
    odd = {w: k for w, k in named.items() if w not in {"in plumb", "no window given"}}
    left = sum(1 for f in result.findings if not f.passes)
    if not odd:
        if "no window given" in named:
            return (Span(text="No window given, and nothing to compare with."),)
        good = len(named["in plumb"])
        rest = f"; {counted(left)} to go" if left else ""
        return (Span(text=f"{counted(good).capitalize()} in plumb{rest}."),)
    said = "; ".join(f"{listed(labels)}: {word}" for word, labels in odd.items())
    low = list(odd) == ["opens early"]
    settled = set(odd) != {"not settled"}
    return (Span(text=f"{said}.", tone="open" if not settled else "low" if low else "high"),)


def under(finding: Finding, result: OpeningResult, unit: str) -> str:
    """What to do with one nozzle: the shims planned, or why a shim does not help."""
    nozzle = result.nozzle(finding.injector)
    if nozzle.fault:
        return _CURES[nozzle.fault]
    if nozzle.plan is not None:
        return plan_words(nozzle.plan, result, unit)
    if nozzle.wanted_mm is None:
        return last_change(finding.injector, result, unit)
    side = "more" if nozzle.wanted_mm > 0 else "less"
    length = result.sheet.length
    size = f"{show_shim(to_step(abs(nozzle.wanted_mm), length), length)} {length} {side}"
    if not result.sheet.drawer:
        return f"wants {size}; no shims noted in the drawer"
    if nozzle.wanted_mm < 0 and not (nozzle.settings and nozzle.settings[-1].shim_mm):
        return f"wants {size}: note the thickness of what is inside"
    if nozzle.nearest is None:
        return f"wants {size}: nothing in the drawer brings it nearer"
    return f"wants {size}; the drawer's nearest: {plan_words(nozzle.nearest, result, unit)}, not inside"


def plan_words(plan: Plan, result: OpeningResult, unit: str) -> str:
    """The stack to fit and what it should give."""
    step = result.sheet.step
    length = result.sheet.length
    counts = Counter(plan.added)
    pieces = " and ".join(
        f"{n} × {show_shim(x, length)}" if n > 1 else show_shim(x, length)
        for x, n in sorted(counts.items())
    )
    what = f"add {pieces} {length}" if plan.stays else f"fit {pieces} {length} instead"
    low, now, high = (
        show_pressure(max(0.0, p), unit, step) for p in (plan.low, plan.predicted, plan.high)
    )
    return f"{what}: {now} {unit} ({low} to {high}, {KNOWN_TO})"


def sensitivity_words(result: OpeningResult, unit: str) -> str:
    """What a hundredth of a millimetre buys, with its range."""
    s = result.sensitivity
    small, said = (MM_PER_THOU, "1 thou") if result.sheet.length == "thou" else (0.01, "0.01 mm")
    # Two digits of the range, in whatever unit it is told.
    factor = KPA_PER[unit]
    step = factor * 10.0 ** (math.floor(math.log10(max(reach(s.u) * small / factor, 1e-9))) - 1)
    return (
        f"{show_pressure(s.kpa_per_mm * small, unit, step)} ± "
        f"{show_pressure(reach(s.u) * small, unit, step)} {unit} ({KNOWN_TO}) for {said}"
    )


def last_change(injector: str, result: OpeningResult, unit: str) -> str:
    """The last change of shims on a nozzle and what it brought; empty where there was none."""
    mine = [c for label, c in result.changes if label == injector]
    if not mine:
        return ""
    c = mine[-1]
    step = result.sheet.step
    what = "added" if c.shim_mm > 0 else "taken out"
    sign = "+" if c.after >= c.before else "−"
    moved = show_pressure(abs(c.after - c.before), unit, step)
    size = f"{show_shim(abs(c.shim_mm), result.sheet.length)} {result.sheet.length}"
    return f"{size} {what}, {sign}{moved} {unit}"


def held_words(result: OpeningResult, unit: str) -> tuple[str, ...]:
    """What each lost while it was held, and who loses far more than the others where no maker says what is allowed."""
    held = result.sheet.held
    if held is None:
        return ()
    step = result.sheet.step
    told = ", ".join(f"{x} {show_pressure(lost, unit, step)}" for x, lost in held.lost)
    text = f"Held {held.for_s:g} s, lost in {unit}: {told}"
    if held.at_most is not None:
        return (f"{text}; at most {show_pressure(held.at_most, unit, step)}.",)
    if not held.apart:
        return (f"{text}.",)
    lose = "loses" if len(held.apart) == 1 else "lose"
    text += (
        f". {listed(held.apart)} {lose} over twice what the middle of the set does: a needle that lets by, or "
        "dirt at its seat. What is allowed, its maker says."
    )
    return (text,)


def notes(result: OpeningResult, unit: str) -> tuple[str, ...]:
    """What else must be known before the sheet is believed."""
    made = list(renewed_note(result.findings))
    if any(n.plan is not None for n in result.nozzles):
        made.append(
            f"Planned with {sensitivity_words(result, unit)}, and "
            f"{show_pressure(REASSEMBLY_KPA, unit, result.sheet.step)} "
            f"{unit} of scatter for taking it apart."
        )
    made += class_note(result.findings, result.sheet.u_class, unit)
    made += held_words(result, unit)
    if any(n.sound == "silent" and not n.fault for n in result.nozzles):
        made.append(
            "A nozzle that does not chatter may stroke too fast, or drag: stroke it slowly."
        )
    if result.sheet.form and any(not n.spray for n in result.nozzles):
        made.append(_SPRAYS[result.sheet.form])
    if all(n.settings for n in result.nozzles) and (unseen := unseen_words(result)):
        made.append(f"Not seen yet: {unseen}.")
    spread = result.sheet.window.spread
    if spread is not None and (result.compared.spread_out or 0.0) >= result.thresholds.call:
        made.append("The set lies further apart than it may: set all of them to one value.")
    if result.split:
        made.append("Two halves stand against each other; a window must say which is right.")
    return tuple(made)


def unseen_words(result: OpeningResult, labels: tuple[str, ...] = ()) -> str:
    """What was not looked at, and on whom: ``the seat of 1 and 2; the spray of 3``."""
    missing = {
        look: [
            n.injector
            for n in result.nozzles
            if n.settings and look in n.unseen and (not labels or n.injector in labels)
        ]
        for look in LOOKS
    }
    return "; ".join(f"the {look} of {listed(mine)}" for look, mine in missing.items() if mine)


def because(finding: Finding, result: OpeningResult, unit: str) -> str:
    """One sentence on why a nozzle reads as it does."""
    word = state(finding, result) or "not measured"
    if finding.value is None:
        return word
    text = f"{word}: opens at {show_pressure(finding.value, unit, result.sheet.step)} {unit}"
    more = under(finding, result, unit)
    return f"{text}; {more}" if more else text
