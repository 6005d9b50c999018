"""What a drop sheet says, in plain workshop English; the figures come from the result alone.

>>> counted(4), listed(("3", "1", "2"))
('four', '3, 1 and 2')
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.decision import State
from plumb.core.drop import WEAK_SUPPLY_V, DropResult
from plumb.core.finding import Finding
from plumb.core.quantities import KPA_PER, decimals_shown, rounded, show_pressure

_NUMBERS: Final = (
    "none",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
)

STATE_WORDS: Final = {
    State.IN_PLUMB: "in plumb",
    State.LOW: "gives less",
    State.HIGH: "gives more",
    State.NO_RESPONSE: "no response",
    State.UNSETTLED: "not settled",
    State.SPLIT: "set is split",
    State.OPEN: "open",
    State.NOT_JUDGED: "not measured",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Span:
    """A piece of a sentence; ``tone`` is low, high, open or empty."""

    text: str
    tone: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """One thing to do, with its reason."""

    title: str
    text: str


def counted(number: int) -> str:
    """Small numbers as words."""
    return _NUMBERS[number] if 0 <= number < len(_NUMBERS) else str(number)


def listed(labels: Sequence[str]) -> str:
    """``1``, ``1 and 2``, ``1, 2 and 3``."""
    if len(labels) < 2:
        return "".join(labels)
    return ", ".join(labels[:-1]) + " and " + labels[-1]


def percent(fraction: float, decimals: int = 0) -> str:
    """The size of a fraction in per cent."""
    return rounded(abs(fraction) * 100.0, decimals)


def _plural(labels: Sequence[str], verb: str) -> str:
    one = len(labels) == 1
    return f"Injector{'' if one else 's'} {listed(labels)} {verb}{'s' if one else ''}"


def agreeing_words(result: DropResult) -> str:
    """Who the others are compared with: "the four that agree"."""
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


def headline(result: DropResult) -> tuple[Span, ...]:
    """One sentence: what the set says."""
    low, high = _with_state(result, State.LOW), _with_state(result, State.HIGH)
    dead = _with_state(result, State.NO_RESPONSE)
    unsettled = _with_state(result, State.UNSETTLED)
    measured = [f for f in result.findings if f.passes or f.state is State.NO_RESPONSE]
    if not measured:
        return (Span(text="Nothing measured yet."),)
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
    return _finish(result, spans, measured, unsettled)


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
        return (Span(text="One injector alone has nothing to be compared with."),)
    if len(measured) < len(result.findings):
        left = len(result.findings) - len(measured)
        return (
            Span(
                text=f"The {counted(len(measured))} measured so far are in plumb; "
                f"{counted(left)} to go."
            ),
        )
    return (Span(text=f"All {counted(len(measured))} are in plumb."),)


def under_state(finding: Finding) -> str:
    """The small line under the state: what it may be, or what would settle it."""
    if finding.state is State.UNSETTLED:
        if finding.bound:
            return "rail ran empty: shorter burst"
        more = finding.passes_to_settle
        if more is None:
            # Twice u beyond half of the band: no mean would be told from the limit.
            coarse = 2.0 * (finding.u or 0.0) > 0.5 * (finding.tolerance or 0.0)
            where = "gauge too coarse" if coarse else "on the edge"
            return f"{where}: finer gauge or longer burst"
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


def because(finding: Finding, result: DropResult) -> str:
    """One sentence on why an injector of a compared set reads as it does."""
    name = STATE_WORDS[finding.state]
    if finding.state is State.NO_RESPONSE:
        return "no drop that the gauge could tell from none"
    if finding.deviation is None or finding.u is None:
        return "not measured" if not finding.passes else "nothing to compare it with"
    side = "less" if finding.deviation < 0 else "more"
    text = (
        f"{name}: {percent(finding.deviation, 1)} % {side} than {agreeing_words(result)}, "
        f"known to \u00b1{percent(2 * finding.u, 1)} %; allowed "
        f"\u00b1{percent(finding.tolerance or 0.0, 1)} %"
    )
    if finding.state is State.UNSETTLED and under_state(finding):
        text += f"; {under_state(finding)}"
    return text


def notes(result: DropResult, unit: str) -> tuple[str, ...]:
    """What else must be known before the sheet is believed."""
    made: list[str] = []
    if result.sheet.outside and any(f.passes for f in result.findings):
        made.append(
            "Read outside its conditions: " + "; ".join(result.sheet.outside) + ". Put that right "
            "and repeat."
        )
    volts = result.sheet.supply_v
    if volts is not None and volts < WEAK_SUPPLY_V:
        made.append(
            f"The tester's supply was {rounded(volts, 1)} V: a weak one makes good injectors look "
            "stuck. Repeat what is low or dead on a battery."
        )
    flow = result.flow
    live = [v for v in flow.views if v.votes]
    if flow.split:
        made.append(
            "Which half is right must come from a window, an expected drop, an earlier "
            "sheet of this vehicle, or another procedure."
        )
    if flow.settled_by_expected:
        made.append("The set was split; the expected drop decided which half to trust.")
    few = len(flow.agreeing) < 3 or 2 * len(flow.agreeing) < len(live)
    complete = all(f.passes or f.state is State.NO_RESPONSE for f in result.findings)
    if complete and flow.reference is not None and not flow.split and few and len(live) > 1:
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
    if result.against_expected is None or result.sheet.expected is None or result.split:
        return []
    deviation, u = result.against_expected
    source = result.sheet.expected.source
    if abs(deviation) - 1.645 * u > result.tolerance:
        side = "less" if deviation < 0 else "more"
        return [f"The set as a whole gives {percent(deviation)} % {side} than expected ({source})."]
    return [f"The set gives what is expected of it ({source})."]


def _rail_notes(result: DropResult, unit: str) -> list[str]:
    """Bursts that emptied the rail, and starts that wander so far that plain drops mislead."""
    made: list[str] = []
    empty = [v.injector for v in result.flow.views if v.bound]
    if empty:
        made.append(
            f"The rail ran empty on {listed(empty)}: its flow is only a lower bound. "
            "Use a shorter burst."
        )
    starts = [first for first, _ in result.spans]
    if len(starts) > 1 and result.median_pressures is not None:
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
    chosen = result.chosen()
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
