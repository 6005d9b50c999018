"""The verdict of a job in words: one sentence, what was ruled out, what is only assumed."""

from collections.abc import Sequence
from typing import Final

from plumb.core.measure.text import Advice, Span, be, counted, listed
from plumb.core.measure.text import everyone as all_of
from plumb.core.procedures.kind import PETROL
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.suspicions import CAUSES, NOT_RULED_OUT, SUSPICIONS
from plumb.core.weigh.verdict import LEAVE, Verdict

CONDITION_WORDS: Final = {
    "sound": "sound",
    "gives_less": "gives less, clogged or sticking",
    "gives_more": "gives more",
    "leaks_at_tip": "leaks at the tip",
    "stuck_open": "stuck open",
    "no_response": "no response",
    "opens_weakly": "opens weakly",
    "intermittent": "intermittent",
    "coil_open": "coil open",
    "coil_shorted": "coil shorted",
    "coil_out_of_window": "coil out of its window",
    "no_command": "no command",
    "bad_spray": "bad spray",
    "returns_too_much": "returns too much",
    "opens_early": "opens early",
    "opens_late": "opens late",
    "seat_leaks": "seat leaks",
    "not_the_injector": "not the injector",
    "off_alike": "off alike",
    "not_settled": "not settled",
    "not_measured": "not measured",
}
ACTION_WORDS: Final = {
    "keep": "keep",
    "repeat": "repeat",
    "measure": "measure",
    LEAVE: "leave as it stands",
    "clean_and_repeat": "clean, then repeat",
    "reshim": "re-shim",
    "bench_test": "bench test or rebuild",
    "replace": "replace",
    "check_first": "check first",
}
TONE: Final = {
    "gives_less": "low",
    "opens_weakly": "low",
    "no_response": "open",
    "not_settled": "open",
    "not_measured": "open",
    "intermittent": "open",
    "no_command": "open",
    "not_the_injector": "open",
    "off_alike": "open",
    "coil_open": "open",
    "gives_more": "high",
    "leaks_at_tip": "high",
    "stuck_open": "high",
    "coil_shorted": "low",
    "coil_out_of_window": "high",
    "bad_spray": "high",
    "returns_too_much": "high",
    "opens_early": "low",
    "opens_late": "high",
    "seat_leaks": "high",
}
OPEN_OR_SOUND: Final = frozenset({"sound", "off_alike", "not_settled", "not_measured"})
"""Conditions that condemn nobody."""
COMES_AFTER: Final = frozenset({*OPEN_OR_SOUND, "not_the_injector"})
"""Conditions that say by themselves that something else comes first."""
NO_PRESSURE: Final = "no pump, no pressure"
"""The row of the table for injectors that nothing can be told of."""
_DO: Final = {
    "replace": "Replace",
    "clean_and_repeat": "Clean and repeat",
    "reshim": "Re-shim",
    "bench_test": "Bench test",
    "repeat": "Repeat",
    "measure": "Measure",
}
_ORDER: Final = (
    "replace", "bench_test", "clean_and_repeat", "reshim", "check_first", "repeat", "measure", LEAVE,
)  # fmt: skip


_CARE: Final = (
    "Work from the maker’s procedure and your local rules; a licensed workshop comes before what Plumb "
    "says. Relieve pressure, eye protection on, extinguisher at hand, no sparks near open fuel."
)


def care(fuel_system: str) -> str:
    """What stands beside the verdict, whichever it is."""
    if fuel_system in PETROL:
        return (
            f"{_CARE} Lean cylinders matter most on boosted and heavily loaded engines: a lean "
            "cylinder melts its piston."
        )
    return (
        f"{_CARE} Fuel at injection pressure goes through skin: never feel for a leak, any jet wound is a "
        "hospital matter at once."
    )


def sentence(result: JobResult) -> tuple[Span, ...]:
    """What to do with which injector, and what on the engine comes first."""
    verdicts = result.verdicts
    if not verdicts:
        # Who has found it by hand has nothing to measure.
        found = any(c.sighted for c in result.diagnosis.found)
        return () if found else (Span(text="Nothing measured yet."),)
    spans: list[Span] = []
    if result.causes:
        first = listed([words.partition(":")[0] for _, words in result.causes])
        spans.append(Span(text=f"Check first: {first}. ", tone="open"))
    unjudged = [label for label, v in verdicts if v.row == NO_PRESSURE]
    if len(unjudged) == len(verdicts):
        return (*spans, Span(text="No injector can be judged without pressure."))
    groups: dict[tuple[str, str], list[str]] = {}
    for label, verdict in verdicts:
        if verdict.condition != "sound" and label not in unjudged:
            clash = "contradiction" if verdict.contradictions else verdict.condition
            groups.setdefault((verdict.action, clash), []).append(label)
    for (action, condition), labels in sorted(
        groups.items(), key=lambda item: (_ORDER.index(item[0][0]), item[0][1])
    ):
        spans += _of_group(action, condition, labels)
    if unjudged:
        spans.append(
            Span(text=f"Without pressure {listed(unjudged)} cannot be judged. ", tone="open")
        )
    sound = [label for label, v in verdicts if v.condition == "sound"]
    if sound:
        everyone = len(sound) == len(verdicts)
        text = f"{all_of(len(sound))} sound." if everyone else (
            f"{counted(len(sound)).capitalize()} {be(len(sound))} sound."
        )  # fmt: skip
        spans.append(Span(text=text))
    return tuple(spans)


def _of_group(action: str, condition: str, labels: Sequence[str]) -> tuple[Span, ...]:
    """What to do with those of one condition, and why."""
    words = CONDITION_WORDS.get(condition, "two sheets contradict each other")
    if action == "check_first":
        lead = _lead(labels, condition, words)
        return (
            Span(text=lead[0].upper() + lead[1:], tone=TONE.get(condition, "")),
            Span(text="check first what is open. "),
        )
    if action == LEAVE:
        text = f"{words.capitalize()}, and nothing left to do would tell more: {listed(labels)}. "
        return (Span(text=text, tone="open"),)
    if action == "measure":
        return (Span(text=f"{words.capitalize()} yet: {listed(labels)}. ", tone="open"),)
    return (
        Span(text=f"{_DO[action]} {listed(labels)}: ", tone=TONE.get(condition, "")),
        Span(text=f"{words}. "),
    )


def _lead(labels: Sequence[str], condition: str, words: str) -> str:
    """Who, and what it looks like, before what is to be checked first."""
    if condition == "not_the_injector":
        return f"On {listed(labels)} it is not the injector: "
    if condition in {"gives_less", "gives_more"}:
        verb = "give" if len(labels) > 1 else "gives"
        return f"{listed(labels)} {words.replace('gives', verb)}: "
    return f"{listed(labels)} {_be(labels)} {words}: "


def _be(labels: Sequence[str]) -> str:
    return "is" if len(labels) == 1 else "are"


def one_or_all(verdicts: Sequence[tuple[str, Verdict]]) -> str:
    """One injector or the set: shared labour, dear parts, flow that stays even; empty where moot."""
    out = [label for label, v in verdicts if v.action in {"replace", "bench_test"}]
    if not out or len(verdicts) < 2:
        return ""
    if 2 * len(out) >= len(verdicts):
        return (
            f"{counted(len(out)).capitalize()} of {counted(len(verdicts))} go: with everything "
            "open the labour is shared, and a whole set keeps the flow even."
        )
    return (
        "A single new one must match its neighbours: compare it with one of them before everything "
        "is closed again. Those that share a feed, a bank or their years wear together."
    )


def ruled_out(result: JobResult) -> tuple[Advice, ...]:
    """What the sheets have ruled out, and by what."""
    made = []
    codes = {f.code for f in result.facts}
    texts = {f.code: f.text for f in reversed(result.facts)}
    count = len(result.verdicts)
    for suspicion in SUSPICIONS.values():
        if suspicion.found_by & codes:
            continue
        by = sorted(suspicion.cleared_by & codes)
        whole = [c for c in by if any(f.code == c and not f.injector for f in result.facts)]
        named = {f.injector for f in result.facts if f.code in suspicion.cleared_by and f.injector}
        if whole:
            made.append(
                Advice(title=suspicion.words, text=texts.get(whole[0]) or _SAID.get(whole[0], ""))
            )
        elif named and len(named) == count:
            made.append(Advice(title=suspicion.words, text="on every injector"))
        elif named:
            made.append(Advice(title=suspicion.words, text=f"on {listed(sorted(named))}"))
    return tuple(made)


_SAID: Final = {
    "driven_by_tester": "a tester at its plug opened it",
    "neighbour_answered": "a neighbour answered the same tester",
    "a_coil_reads": "other coils read",
    "set_as_expected": "the set gives what is expected",
    "injectors_tight": "by the isolation board",
    "all_tips_dry": "every tip stays dry",
}


def assumed(result: JobResult) -> tuple[str, ...]:
    """What was not ruled out for the injectors that are not sound, each once."""
    seen: dict[str, list[str]] = {}
    for label, verdict in result.verdicts:
        if verdict.condition not in OPEN_OR_SOUND:
            for code in verdict.not_ruled_out:
                seen.setdefault(code, []).append(label)
    return tuple(f"{NOT_RULED_OUT[code]} ({listed(labels)})" for code, labels in seen.items())


__all__ = ["ACTION_WORDS", "CAUSES", "CONDITION_WORDS", "TONE", "assumed", "ruled_out", "sentence"]
