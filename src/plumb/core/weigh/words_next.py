"""The next step of a sheet or of a job, and what stands before condemning an injector, in words.

>>> REASONS["pump_first"][0]
'Pump before injector'
"""

from collections.abc import Callable, Sequence
from typing import Final

from plumb.core.causes.table import FAULTS
from plumb.core.measure.step import NextStep
from plumb.core.measure.text import Advice, counted, listed, percent
from plumb.core.measure.uncertainty import KNOWN_TO, reach
from plumb.core.procedures import BY_CODE, Result
from plumb.core.procedures.kind import PETROL, Setting
from plumb.core.weigh.suspicions import NOT_RULED_OUT
from plumb.core.weigh.verdict import Verdict
from plumb.core.weigh.words_faults import named
from plumb.core.weigh.words_verdict import OPEN_OR_SOUND

REASONS: Final = {
    "not_measured": ("Measure", ""),
    "silent_once": ("Repeat", ""),
    "woken": ("Repeat", ""),
    "split_again": ("Repeat", ""),
    "graded_again": ("Repeat", ""),
    "another_start": ("Repeat", ""),
    "reference": ("Repeat", ""),
    "unsettled": ("Repeat", ""),
    "once_more": ("Once more", ""),
    "worth": ("Worth its minutes", ""),
    "repair": ("Put right first", ""),
    "edge": ("Repeat", ""),
    "disagree": ("Repeat", ""),
    "look": ("Look at them too", ""),
    "left_out": (
        "Not read yet",
        "No sheet has read these: a set on a rail of its own takes a sheet of its own.",
    ),
    "neighbour": (
        "A neighbour to compare with",
        "The others were read in another way; one that was in plumb is enough.",
    ),
    "beside_new": (
        "Those that stayed as they were",
        "What was worked on is held against them: new ones are no measure of each other.",
    ),
    "alone": (
        "Say what it should give",
        (
            "One injector alone has nothing to be compared with: note a maker’s figure or window, or "
            "what it gave when it was good."
        ),
    ),
    "outside_first": ("Outside first", "What can be seen, heard and smelt costs nothing."),
    "pump_first": (
        "Pump before injector",
        "Without the right pressure no injector can be judged, and no pump sound ends the search.",
    ),
    "rail_first": (
        "Rail before injector",
        "An engine does not start without its rail pressure, and it is read while it is cranked.",
    ),
    "cold_first": (
        "Cold work first",
        "Coils are best read on a cold engine, and this one is cold now.",
    ),
    "compression_first": (
        "Compression before nozzles",
        "Even humps of starter current mean even compression, and cost less than nozzles taken out.",
    ),
    "stroke_again": (
        "Stroke it again",
        "The mean lies too near a limit for this gauge; that many more strokes settle it if it stays.",
    ),
    "hold_due": ("The hold is not decided", "The readings so far allow both; the next is due."),
    "isolate": (
        "Where does it go",
        "This step leaves the fewest places for each minute of work.",
    ),
    "contradiction": ("Two sheets contradict each other", ""),
    "doubt": ("Rule it out", ""),
    "after_fix": (
        "After the repair",
        (
            "Taken in the same way as {sheet}, so that the two can be compared; before everything is "
            "closed up, where that can be done."
        ),
    ),
    "put_right": (
        "",
        "It was found, and it explains the complaint: nothing has to be measured before that.",
    ),
    "ask_after": (
        "Ask for the complaint again",
        "After a road test, word by word: gone, less than before, or still there.",
    ),
}
"""The codes of a next step's reason, with a title and a sentence; empty ones are made from figures."""

_ON_THE_BENCH: Final = frozenset(
    {
        "split_again",
        "graded_again",
        "another_start",
        "reference",
        "silent_once",
        "woken",
        "unsettled",
        "edge",
        "disagree",
    }
)


_USUAL: Final = Setting()


def step_words(step: NextStep, result: Result | None, setting: Setting = _USUAL) -> Advice:
    """The next step as a title and its reason; ``result`` is the sheet it is on, where there is one."""
    if step.reason == "not_measured" or step.reason in _ON_THE_BENCH:
        return _bench_words(step, result, setting)
    if step.repairs:
        return _repair_words(step)
    if step.reason in _SAID:
        return _SAID[step.reason](step, _name(step, setting))
    title, text = REASONS[step.reason]
    return Advice(title=_name(step, setting), text=f"{title}. {text}")


def _name(step: NextStep, setting: Setting) -> str:
    """What the sheet is called, and that it is taken while cranking where it usually is not."""
    if not step.measures:
        return ""
    kind = BY_CODE[step.kind]
    cranking = " while cranking" if kind.cranks and not setting.starts else ""
    return f"{kind.title}{cranking}"


def _isolate(step: NextStep, name: str) -> Advice:
    text = REASONS["isolate"][1]
    return Advice(title=f"{name}: {step.tried[0].lower()}{step.tried[1:]}", text=text)


def _doubt(step: NextStep, name: str) -> Advice:
    doubt = NOT_RULED_OUT.get(step.doubt, step.doubt)
    return Advice(
        title=f"{name}{_whose(step)}",
        text=f"Not ruled out yet: {doubt}. Nothing else settles more for each minute.",
    )


def _once_more(step: NextStep, _name: str) -> Advice:
    return Advice(
        title=f"Repeat {_all_or(step)} {_times(step.passes)}",
        text="What sticks now and then shows only in further passes.",
    )


def _contradiction(step: NextStep, name: str) -> Advice:
    return Advice(
        title=f"{name} again{_whose(step)}",
        text=f"{step.doubt[0].upper()}{step.doubt[1:]}. One of the two is wrong.",
    )


def _stroke_again(step: NextStep, _name: str) -> Advice:
    return Advice(
        title=f"Stroke {listed(step.injectors)} {_times(step.passes)} more",
        text=REASONS["stroke_again"][1],
    )


def _look(step: NextStep, _name: str) -> Advice:
    return Advice(
        title=f"Look at {listed(step.injectors)} on the pump",
        text=f"Not seen yet: {step.doubt}. Without them no nozzle is sound.",
    )


_SAID: Final[dict[str, Callable[[NextStep, str], Advice]]] = {
    "isolate": _isolate,
    "doubt": _doubt,
    "worth": lambda step, name: Advice(title=f"{name}{_whose(step)}", text=_would_tell(step)),
    "once_more": _once_more,
    "contradiction": _contradiction,
    "stroke_again": _stroke_again,
    "alone": lambda _step, _name: Advice(title=REASONS["alone"][0], text=REASONS["alone"][1]),
    "look": _look,
    "after_fix": lambda step, name: Advice(
        title=f"{name} again{_whose(step)}", text=REASONS["after_fix"][1].format(sheet=step.doubt)
    ),
    "ask_after": lambda _step, _name: Advice(
        title=REASONS["ask_after"][0], text=REASONS["ask_after"][1]
    ),
    "put_right": lambda step, _name: Advice(
        title=f"Put right: {step.doubt}", text=REASONS["put_right"][1]
    ),
    "left_out": lambda step, name: Advice(
        title=f"{name} of {listed(step.injectors)}", text=REASONS["left_out"][1]
    ),
    "beside_new": lambda step, _name: Advice(
        title=f"Measure {listed(step.injectors)} as well", text=REASONS["beside_new"][1]
    ),
    "neighbour": lambda step, _name: Advice(
        title=f"Measure a neighbour as well: {step.injectors[0]}", text=REASONS["neighbour"][1]
    ),
}
"""Reasons that are told with who, what and how often."""


def _times(passes: int) -> str:
    return {1: "once", 2: "twice"}.get(passes, f"{counted(passes)} times")


def _all_or(step: NextStep) -> str:
    return listed(step.injectors) if len(step.injectors) < 5 else "all that were in plumb"


def _repair_words(step: NextStep) -> Advice:
    """What is put right first, and which sheet is then repeated."""
    fault = FAULTS[step.cause]
    sheet = f", then repeat {BY_CODE[step.doubt].title.lower()}" if step.doubt else ""
    return Advice(
        title=f"Put right: {fault.put_right}{sheet}",
        text="What is measured before that would have to be measured again.",
    )


def _would_tell(step: NextStep) -> str:
    """Which faults it would tell, the likeliest first, with their shares."""
    shares: dict[str, tuple[float, tuple[str, ...]]] = {}
    for code, place, share in step.moves:
        known, places = shares.get(code, (0.0, ()))
        shares[code] = (min(1.0, known + share), (*places, *([place] if place else [])))
    told = [
        f"{named(FAULTS[code], places)}: {percent(share)} %"
        for code, (share, places) in shares.items()
    ]
    tells = f"Would tell {'; '.join(told)}. " if told else ""
    return f"{tells}Nothing else changes more for each minute."


def _whose(step: NextStep) -> str:
    return f" of {listed(step.injectors)}" if 0 < len(step.injectors) < 4 else ""


def _how_to_measure(code: str, setting: Setting) -> str:
    told = BY_CODE[code].told(setting)
    return told.measure or f"{told.how[0].upper()}{told.how[1:]}."


_AGAIN: Final = {
    "silent_once": (
        "Repeat {names} on a good 12 V supply",
        "A weak supply makes a good injector look stuck. Listen for the click.",
    ),
    "split_again": (
        "Repeat {names}, once",
        "The set falls into halves. One more pass of all often tells a split from a slip.",
    ),
    "graded_again": (
        "Repeat {names}, once",
        "The set is spread evenly: who is called hangs on who agrees. One more pass of all tells that from scatter.",
    ),
    "another_start": (
        "Repeat {names}, once, from a step higher",
        (
            "From the same mark the gauge rounds the same way each time, and a further pass tells nothing new. "
            "Begin a step or more away from where it was read before."
        ),
    ),
    "reference": (
        "Repeat {names}, once",
        (
            "{doubt} cannot be settled alone: what it is compared with has to be known better, so "
            "those that agree are measured again as well."
        ),
    ),
    "woken": (
        "Repeat injector{s} {names}, once",
        "It was silent before it answered; once more tells whether it stays awake.",
    ),
    "disagree": (
        "Repeat injector{s} {names}, once",
        (
            "Its passes disagree. Open the row and correct a slip; if there was none, one more burst "
            "tells whether it sticks now and then."
        ),
    ),
}
"""Why a row is read again, where no figure is told with it."""


def _bench_words(step: NextStep, result: Result | None, setting: Setting) -> Advice:
    times = _times(step.passes)
    names = listed(step.injectors)
    several = "s" if len(step.injectors) > 1 else ""
    if step.reason == "not_measured":
        return Advice(title=f"Measure {names}", text=_how_to_measure(step.kind, setting))
    if step.reason in _AGAIN:
        title, text = _AGAIN[step.reason]
        return Advice(
            title=title.format(names=names, s=several), text=text.format(doubt=step.doubt)
        )
    finding = next(
        (f for f in (result.findings if result else ()) if f.injector == step.injectors[0]), None
    )
    text = ""
    if finding is not None and finding.deviation is not None and finding.u is not None:
        side = "low" if finding.deviation < 0 else "high"
        text = (
            f"{finding.injector} reads {percent(finding.deviation)} % {side}, known to "
            f"\u00b1{percent(reach(finding.u))} % ({KNOWN_TO}); the band ends at "
            f"{percent(finding.tolerance or 0.0)} %. "
        )
    rest = (
        "It hangs on the edge: one more pass may move it; a finer gauge or a longer burst "
        "would tell for sure."
        if step.reason == "edge"
        else "That many passes settle it if the mean stays."
    )
    return Advice(title=f"Repeat injector{several} {names}, {times}", text=text + rest)


_DO: Final = {
    "clean_and_repeat": "Clean it, then repeat this sheet.",
    "bench_test": "Repeat without delay after the burst; then look at the tip, or bench it.",
    "check_first": "Check those first.",
    "replace": "The rest has been ruled out.",
    "repeat": "Repeat it first.",
}


_LEAN: Final = frozenset({"gives_less", "opens_weakly", "no_response"})


def lean_first(verdicts: Sequence[tuple[str, Verdict]], setting: Setting) -> tuple[Advice, ...]:
    """On a boosted petrol engine: who runs lean comes before everything else."""
    lean = [label for label, v in verdicts if v.condition in _LEAN]
    if not lean or not setting.boosted or setting.fuel_system not in PETROL:
        return ()
    whose = "its piston" if len(lean) == 1 else "their pistons"
    return (
        Advice(
            title=f"Boosted, and lean on {listed(lean)}",
            text=f"That first, and no load before: under boost a lean mixture melts {whose}.",
        ),
    )


def before_condemning(
    verdicts: Sequence[tuple[str, Verdict]], fuel_system: str = "port"
) -> tuple[Advice, ...]:
    """For injectors that are not sound: what has not been ruled out yet, what to do; the same once."""
    by_words: dict[str, list[str]] = {}
    for label, verdict in verdicts:
        if verdict.condition in OPEN_OR_SOUND or not verdict.not_ruled_out:
            continue
        open_ = listed([NOT_RULED_OUT[c] for c in verdict.not_ruled_out])
        do = _DO.get(verdict.action, "")
        if verdict.action == "reshim":
            do = "A nozzle that is set right does not put that right."
        by_burst = verdict.condition == "gives_more" and fuel_system in PETROL
        if verdict.action == "bench_test" and not by_burst:
            do = "Have it tested on a bench before it is replaced."
        by_words.setdefault(f"Not ruled out: {open_}. {do}".strip(), []).append(label)
    return tuple(
        Advice(title=f"Before condemning {listed(labels)}", text=text)
        for text, labels in by_words.items()
    )
