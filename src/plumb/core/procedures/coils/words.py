"""What the coils say."""

from typing import Final

from plumb.core.compare.renewed import note as renewed_note
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import decimals_for, rounded
from plumb.core.measure.text import (
    NOTHING_YET,
    WINDOW_WORDS,
    Span,
    be,
    by_word,
    counted,
    everyone,
    listed,
    percent,
)
from plumb.core.procedures.coils.analysis import RESISTANCE, VOLTAGE, CoilResult

_WORDS: Final = {**WINDOW_WORDS, State.OPEN: "open", State.SPLIT: "set is split"}
SAYS: Final = (*_WORDS.values(), "shorted", "nothing to compare")


def state(finding: Finding, result: CoilResult) -> str:
    """How a coil lies in its window, or what is wrong with it."""
    if finding.state is State.NOT_JUDGED:
        return "nothing to compare" if finding.passes else ""
    return "shorted" if finding.injector in result.shorted else _WORDS[finding.state]


def because(finding: Finding, result: CoilResult, _unit: str) -> str:
    """The reading, at 20 °C and where the window holds, and how far from the set."""
    if finding.state is State.OPEN:
        return "no current passes: the coil is open"
    one = next((c for c in result.coils if c.injector == finding.injector), None)
    if one is None:
        return "not measured"
    sheet = result.sheet
    unit = "Ω" if sheet.kind == RESISTANCE else "V"
    places = decimals_for(sheet.meter.step) + 1
    text = f"{state(finding, result) or 'nothing to compare'}: {rounded(one.at_20, places)} {unit}"
    if sheet.kind == RESISTANCE:
        text += " at 20 °C" if sheet.corrects else " as read"
    if finding.injector in result.shorted:
        text += ", less than half of what it should be"
    elif sheet.window.stated and result.held_at_c is not None:
        text += f", {rounded(one.held, places)} {unit} at {result.held_at_c:g} °C, where the window holds"
    if finding.deviation is not None:
        text += f"; {percent(finding.deviation, 1)} % from those that agree"
    return text


def under(finding: Finding, _result: CoilResult, _unit: str) -> str:
    """How far it lies from the set."""
    if finding.deviation is None:
        return ""
    side = "above" if finding.deviation > 0 else "below"
    return f"{percent(finding.deviation, 1)} % {side} the set"


def _name(labels: list[str], singular: str, plural: str) -> str:
    return f"Injector{'' if len(labels) == 1 else 's'} {listed(labels)} {singular if len(labels) == 1 else plural}"


def headline(result: CoilResult, _unit: str) -> tuple[Span, ...]:
    """Which coils are out, and how."""
    by_state = by_word((f.injector, state(f, result)) for f in result.findings)
    if not by_state:
        return NOTHING_YET
    if "set is split" in by_state:
        return (Span(text="Split: ", tone="open"), Span(text="two halves of the set differ."))
    volts = result.sheet.kind == VOLTAGE
    phrases = (
        ("open", "has an open coil", "have open coils", "open"),
        ("shorted", "has shorted turns", "have shorted turns", "low"),
        ("too low", "reads too low", "read too low", "low"),
        ("too high", "reads too high", "read too high", "high"),
        ("not settled", "is not settled", "are not settled", "open"),
    )
    spans = [
        Span(text=_name(by_state[word], one, many), tone=tone)
        for word, one, many, tone in phrases
        if word in by_state
    ]
    if spans:
        joined: list[Span] = []
        for n, span in enumerate(spans):
            joined += [Span(text="; ")] if n else []
            joined.append(span)
        return (*joined, Span(text="."))
    good = len(by_state.get("in plumb", []))
    left = sum(1 for f in result.findings if not f.passes)
    if not good:
        return (Span(text="Nothing says what these should read."),)
    if left:
        return (
            Span(
                text=f"The {counted(good)} measured so far {be(good)} in plumb; {counted(left)} to go."
            ),
        )
    what = "voltage drops" if volts else "coils"
    return (Span(text=f"{everyone(good, what)} in plumb."),)


def notes(result: CoilResult, _unit: str) -> tuple[str, ...]:
    """Temperature, spread, the tester's range, and partners of a shorted coil."""
    made = list(renewed_note(result.findings))
    sheet, compared = result.sheet, result.compared
    if sheet.kind == RESISTANCE and sheet.temperature_c is None and result.coils:
        made.append(
            "No coil temperature noted: compared as read. Copper rises by 4 % for each 10 °C."
        )
    if compared.spread is not None and sheet.window.spread is not None and len(result.coils) > 1:
        unit = "Ω" if sheet.kind == RESISTANCE else "V"
        places = decimals_for(sheet.meter.step)
        over = (compared.spread_out or 0.0) >= result.thresholds.call
        made.append(
            f"The set spreads by {rounded(compared.spread, places)} {unit}; "
            f"{'more than' if over else 'at most'} {rounded(sheet.window.spread, places)} {unit}"
            f"{' is allowed.' if not over else ', the largest difference allowed.'}"
        )
    if result.range == "high":
        made.append("Tester: the high range, 4 A, current-regulated (coils up to 1.8 Ω).")
    elif result.range == "low":
        made.append("Tester: the low range, 0.5 to 2.5 A (coils above 1.8 Ω).")
    if result.shorted:
        made.append(
            f"A coil far too low can pull down all that share its driver: judge the partners of "
            f"{listed(result.shorted)} again after it is out."
        )
    return tuple(made)
