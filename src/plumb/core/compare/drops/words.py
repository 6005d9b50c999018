"""What a sheet that compares injectors says, in plain workshop English.

The figures come from the result alone.
"""

from collections.abc import Iterator, Sequence
from typing import Final

from plumb.core.compare.drops.doubt import Doubt, doubt_of
from plumb.core.compare.drops.expected import Expected
from plumb.core.compare.drops.sheet import DropResult
from plumb.core.compare.renewed import note as renewed_note
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KPA_PER, decimals_shown, rounded, show_pressure
from plumb.core.measure.text import (
    NOTHING_YET,
    STATE_WORDS,
    Span,
    be,
    counted,
    everyone,
    listed,
    percent,
)
from plumb.core.measure.uncertainty import KNOWN_TO, reach


def _plural(labels: Sequence[str], verb: str) -> str:
    one = len(labels) == 1
    return f"Injector{'' if one else 's'} {listed(labels)} {verb}{'s' if one else ''}"


def agreeing_words(result: DropResult) -> str:
    """Who the others are compared with: "the four that agree"."""
    if result.flow.alone:
        return "expected"
    chosen = result.sheet.rule.name
    if chosen != "flow_index":
        return {
            "suspect_left_out": "the mean of the others",
            "plain_mean": "the mean of all",
            "ends_left_out": "the mean without its ends",
            "commonest_drop": "the commonest drop",
        }.get(chosen, "the middle of the set")
    return f"the {counted(len(result.flow.agreeing))} that agree"


def _with_state(result: DropResult, *states: State) -> list[Finding]:
    return [f for f in result.findings if f.state in states]


def headline(result: DropResult, _unit: str) -> tuple[Span, ...]:
    """One sentence: what the set says."""
    low, high = _with_state(result, State.LOW), _with_state(result, State.HIGH)
    dead = _with_state(result, State.NO_RESPONSE)
    unsettled = _with_state(result, State.UNSETTLED)
    odd = _with_state(result, State.INTERMITTENT)
    measured = [
        f for f in result.findings if (f.passes or f.state is State.NO_RESPONSE) and f not in odd
    ]
    if not measured and not odd:
        return NOTHING_YET
    if result.split:
        camps = [result.flow.agreeing, *result.flow.against]
        return (
            Span(text="Split: ", tone="open"),
            Span(
                text="; ".join(
                    f"{listed(c)} agree" if len(c) > 1 else f"{listed(c)} alone" for c in camps
                )
                + ". The set cannot say which is right."
            ),
        )
    spans: list[Span] = []
    if dead:
        spans.append(
            Span(text=_plural([f.injector for f in dead], "give") + " no drop at all", tone="open")
        )
    for group, word, tone in ((low, "less", "low"), (high, "more", "high")):
        if group:
            spans.append(Span(text=_leaning(group, word, first=not spans), tone=tone))
    told = () if odd and not measured else _finish(result, spans, measured, unsettled)
    return (*_disagreeing(odd), *told) if odd else told


def _disagreeing(odd: list[Finding]) -> tuple[Span, ...]:
    labels = [f.injector for f in odd]
    one = len(odd) == 1
    text = f"Injector{'' if one else 's'} {listed(labels)} {'is' if one else 'are'} intermittent"
    return Span(text=text, tone="open"), Span(
        text=f": {'its' if one else 'their'} passes disagree. "
    )


def _leaning(group: list[Finding], word: str, *, first: bool) -> str:
    sizes = sorted(abs(f.deviation or 0.0) for f in group)
    low, high = percent(sizes[0]), percent(sizes[-1])
    size = low if low == high else f"{low} to {high}"
    text = f"{_plural([f.injector for f in group], 'give')} {size} % {word}"
    return text if first else text[0].lower() + text[1:]


def _finish(
    result: DropResult, spans: list[Span], measured: list[Finding], unsettled: list[Finding]
) -> tuple[Span, ...]:
    if spans:
        joined: list[Span] = []
        for n, span in enumerate(spans):
            joined += [Span(text=", " if n < len(spans) - 1 else " and ")] if n else []
            joined.append(span)
        leans = any(s.tone in {"low", "high"} for s in spans)
        tail = f" than {agreeing_words(result)}." if leans else "."
        return (*joined, Span(text=tail))
    if unsettled:
        labels = [f.injector for f in unsettled]
        verb = "is" if len(labels) == 1 else "are"
        head = f"Injector{'' if len(labels) == 1 else 's'} {listed(labels)} {verb} not settled"
        rest = "; the others are in plumb." if len(unsettled) < len(measured) else "."
        return (Span(text=head, tone="open"), Span(text=rest))
    if all(f.state is State.NOT_JUDGED for f in measured):
        return (Span(text=_nothing_to_compare(result, measured)),)
    odd = len(_with_state(result, State.INTERMITTENT))
    if len(measured) + odd < len(result.findings):
        left = len(result.findings) - len(measured) - odd
        return (
            Span(
                text=f"The {counted(len(measured))} measured so far {be(len(measured))} in plumb; "
                f"{counted(left)} to go."
            ),
        )
    whom = f"The other{'s are' if len(measured) > 1 else ' is'}" if odd else everyone(len(measured))
    if result.set_state in {State.LOW, State.HIGH}:
        who = "The others" if odd else everyone(len(measured)).removesuffix(" are")
        return _all_alike(who, result)
    return (Span(text=f"{whom} in plumb."),)


def _all_alike(who: str, result: DropResult) -> tuple[Span, ...]:
    """A set that agrees with itself, and not with what is expected of it."""
    deviation = result.against_expected[0] if result.against_expected else 0.0
    side = "less" if deviation < 0.0 else "more"
    said = result.sheet.expected
    then = f"on {said.since:%-d %b %Y}" if said is not None and said.since else "expected"
    return (
        Span(text=f"{who} agree, but give "),
        Span(text=f"{percent(deviation)} % {side}", tone=result.set_state.value),
        Span(text=f" than {then}."),
    )


def _nothing_to_compare(result: DropResult, measured: list[Finding]) -> str:
    if all(f.bound for f in measured):
        return "Every burst emptied the rail: there is nothing to compare. Use a shorter burst."
    if len(measured) == 1:
        if len(result.findings) == 1:
            return "One injector alone: note what it should give, under Expected."
        return "One injector alone has nothing to be compared with."
    return "None of them has anything to be compared with."


SAYS: Final = (
    *(
        STATE_WORDS[s]
        for s in (
            State.IN_PLUMB, State.LOW, State.HIGH, State.NO_RESPONSE, State.UNSETTLED,
            State.INTERMITTENT, State.SPLIT,
        )
    ),
    "nothing to compare",
)  # fmt: skip
"""What a row of a compared set can carry."""

_DOUBTS: Final = {
    Doubt.RAN_EMPTY: "rail ran empty: shorter burst",
    Doubt.TOO_COARSE: "gauge too coarse: finer gauge or longer burst",
    Doubt.ON_THE_EDGE: "on the edge: finer gauge or longer burst",
    Doubt.GRADED: "set spread evenly: expected drop or bench",
}


def under(finding: Finding, result: DropResult, _unit: str) -> str:
    """The small line under the state: what it may be, or what would settle it."""
    if doubt := doubt_of(finding):
        # What two of eight say of each other asks for the other six, and for no other gauge.
        early = doubt is not Doubt.RAN_EMPTY and not all(f.told for f in result.findings)
        return "the others come first" if early else _DOUBTS[doubt]
    if finding.state is State.INTERMITTENT:
        return "passes disagree: a slip? else it sticks"
    if finding.state is State.UNSETTLED:
        more = finding.passes_to_settle or 1
        return f"{counted(more)} more pass{'' if more == 1 else 'es'} settle{'s' * (more == 1)} it"
    if finding.state is State.LOW:
        return "clogged or sticking?"
    if finding.state is State.HIGH:
        return "leaking or worn?"
    if finding.state is State.NO_RESPONSE:
        return "dead, no command or stuck?"
    if finding.state is State.NOT_JUDGED and finding.passes:
        return "alone: nothing to compare"
    return "answered after a silent burst" if finding.answered_late else ""


def state(finding: Finding, _result: DropResult) -> str:
    """The state of one row; "not measured" stands only where a burst could not be judged."""
    if finding.state is State.NOT_JUDGED:
        return "nothing to compare" if finding.passes else ""
    return STATE_WORDS[finding.state]


def because(finding: Finding, result: DropResult, unit: str) -> str:
    """One sentence on why an injector of a compared set reads as it does."""
    name = STATE_WORDS[finding.state]
    if finding.state is State.NO_RESPONSE:
        return "no drop that the gauge could tell from none"
    if finding.state is State.INTERMITTENT:
        return "its passes disagree by more than their scatter and twice the band: no mean of them counts"
    if finding.deviation is None or finding.u is None:
        return "not measured" if not finding.passes else "nothing to compare it with"
    side = "less" if finding.deviation < 0 else "more"
    text = (
        f"{name}: {percent(finding.deviation, 1)} % {side} than {agreeing_words(result)}, "
        f"known to \u00b1{percent(reach(finding.u), 1)} % ({KNOWN_TO}); allowed "
        f"\u00b1{percent(finding.tolerance or 0.0, 1)} %"
    )
    if finding.state is State.UNSETTLED and (more := under(finding, result, unit)):
        text += f"; {more}"
    return text


def _spread_notes(result: DropResult) -> Iterator[str]:
    """What tells where the set itself cannot say who is right."""
    if result.flow.split:
        yield (
            "Which half is right must come from a window, an expected drop, an earlier "
            "sheet of this vehicle, or another procedure."
        )
    if result.flow.graded:
        yield (
            "The set is spread evenly: one more or one less among those that agree, and others would be called. "
            "An expected drop, an earlier sheet of this vehicle or the flow bench tells who is off."
        )


def notes(result: DropResult, unit: str) -> tuple[str, ...]:
    """What else must be known before the sheet is believed."""
    made = list(renewed_note(result.findings))
    if result.sheet.outside and any(f.passes for f in result.findings):
        made.append(
            "Read outside its conditions: " + "; ".join(result.sheet.outside) + ". Put that right "
            "and repeat."
        )
    if weak := result.driven_weakly:
        volts = min(result.volts.values())
        whom = "" if len(weak) == len(result.volts) else f" at {listed(weak)}"
        made.append(
            f"The tester's supply was {rounded(volts, 1)} V{whom}: a weak one makes good injectors look "
            "stuck. Repeat what is low or dead on a battery."
        )
    flow = result.flow
    live = [v for v in flow.views if v.votes]
    made += _spread_notes(result)
    if flow.alone and result.sheet.expected is not None:
        why = (
            "Alone on its engine: held against what is expected"
            if len(flow.views) == 1
            else "One half above what is expected, one below, none near it: each is held against that"
        )
        made.append(f"{why} ({result.sheet.expected.source}).")
    elif flow.settled_by_expected:
        made.append("The set was split; the expected drop decided which half to trust.")
    few = len(flow.agreeing) < 3 or 2 * len(flow.agreeing) < len(live)
    complete = all(f.passes or f.state is State.NO_RESPONSE for f in result.findings)
    compared = flow.reference is not None and not flow.split and not flow.alone
    if complete and compared and few and len(live) > 1:
        made.append(
            f"Rests on few: only {counted(len(flow.agreeing))} of {counted(len(live))} agree."
        )
    if result.passed and result.sheet.expected is None:
        made.append("A fault shared by all would not show: nothing says what this set should give.")
    made += _expected_notes(result)
    made += _rail_notes(result, unit)
    made += _rule_notes(result)
    return tuple(made)


def _expected_notes(result: DropResult) -> list[str]:
    state, expected = result.set_state, result.sheet.expected
    if state is State.NOT_JUDGED or result.against_expected is None or expected is None:
        return []
    deviation, _ = result.against_expected
    side = "less" if deviation < 0 else "more"
    if expected.since is not None:
        return [_since_then(result, f"{percent(deviation)} % {side}", expected)]
    if state is State.IN_PLUMB:
        return [f"The set gives what is expected of it ({expected.source})."]
    said = (
        f"The set as a whole gives {percent(deviation)} % {side} than expected ({expected.source})"
    )
    return [f"{said}; not settled." if state is State.UNSETTLED else f"{said}."]


def _since_then(result: DropResult, change: str, expected: Expected) -> str:
    """What became of a set since an earlier visit: all of it, or those that still agree."""
    then = f"{expected.since:%-d %b %Y}"
    who = "All" if result.passed else "Those that agree"
    if result.set_state is State.IN_PLUMB:
        return f"{who} give what was given on {then} ({expected.source})."
    if result.set_state is State.UNSETTLED:
        return f"Against {then} ({expected.source}): {change}; not settled."
    if result.set_state is State.LOW:
        return f"{who} have faded alike since {then}: {change} than then ({expected.source})."
    return f"{who} give {change} than on {then} ({expected.source})."


def _rail_notes(result: DropResult, unit: str) -> list[str]:
    """Bursts that emptied the rail, and starts that wander so far that plain drops mislead."""
    made: list[str] = []
    empty = [v.injector for v in result.flow.views if v.bound]
    if empty:
        made.append(
            f"The rail ran empty on {listed(empty)}: its flow is only a lower bound. "
            "Use a shorter burst."
        )
    starts = [s for i in result.bursts.injected for s in i.starts]
    if starts and result.median_pressures is not None:
        low, high = min(starts), max(starts)
        first, second = result.median_pressures
        drop = first - second
        # At one flow the drop goes about with the root of the start pressure.
        shift = drop * ((high / first) ** 0.5 - (low / first) ** 0.5)
        if shift > 2.0 * result.sheet.step:
            step = result.sheet.step
            made.append(
                f"Starts wander from {show_pressure(low, unit, step)} to "
                f"{show_pressure(high, unit, step)} {unit}: that alone moves a plain drop "
                f"by {rounded(shift / KPA_PER[unit], decimals_shown(unit, step))} {unit}."
            )
    return made


def _rule_notes(result: DropResult) -> list[str]:
    chosen = result.chosen
    made = []
    if not chosen.applies and chosen.reason and not result.split:
        made.append(f"The chosen rule does not apply: {chosen.reason}.")
    if chosen.caution:
        made.append(chosen.caution[0].upper() + chosen.caution[1:] + ".")
    if chosen.rule != "flow_index":
        doubt = [
            f.injector
            for f in result.findings
            if f.probability_out is not None
            and result.thresholds.clear < f.probability_out < result.thresholds.call
        ]
        if doubt:
            made.append(f"The gauge cannot tell {listed(doubt)} from this rule's limit.")
    return made
