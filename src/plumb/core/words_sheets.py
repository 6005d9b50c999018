"""What the sheets that are not a comparison of drops say, in plain workshop English.

>>> from plumb.core.walk import WalkSheet, analyse_walk
>>> "".join(s.text for s in headline_of(analyse_walk(WalkSheet(hose="wet")), ""))
'Fuel stands in the vacuum hose: the regulator’s diaphragm is torn.'
"""

from typing import Final

from plumb.core import coil, drop, hold, opening, rail, seen, supply, walk, words
from plumb.core.decision import State
from plumb.core.evidence import Result
from plumb.core.finding import Finding
from plumb.core.isolation import SOURCES, step_of
from plumb.core.quantities import decimals_for, rounded, show_pressure
from plumb.core.words import Span, counted, listed
from plumb.core.words_diesel import (
    Diesel,
    diesel_because,
    diesel_headline,
    diesel_notes,
    state_of,
)
from plumb.core.words_opening import (
    opening_because,
    opening_headline,
    opening_notes,
    opening_state,
)
from plumb.core.words_rail import rail_headline, rail_notes

SUPPLY_NAMES: Final = {"key_on": "Key on", "running": "Running", "hose_off": "Hose off"}


def headline_of(result: Result, unit: str) -> tuple[Span, ...]:
    """One sentence on any sheet; pressures in ``unit``."""
    if isinstance(result, drop.DropResult):
        return words.headline(result)
    if isinstance(result, coil.CoilResult):
        return _coil_headline(result)
    if isinstance(result, supply.SupplyResult):
        return _supply_headline(result)
    if isinstance(result, hold.HoldResult):
        return _hold_headline(result, unit)
    if isinstance(result, seen.SeenResult):
        return _seen_headline(result)
    if isinstance(result, walk.WalkResult):
        return _walk_headline(result)
    if isinstance(result, opening.OpeningResult):
        return opening_headline(result)
    if isinstance(result, rail.RailResult):
        return rail_headline(result, unit)
    return diesel_headline(result)


def notes_of(result: Result, unit: str) -> tuple[str, ...]:
    """What else must be known before the sheet is believed."""
    if isinstance(result, drop.DropResult):
        return words.notes(result, unit)
    if isinstance(result, coil.CoilResult):
        return _coil_notes(result)
    if isinstance(result, supply.SupplyResult):
        return _supply_notes(result)
    if isinstance(result, hold.HoldResult):
        return _hold_notes(result, unit)
    if isinstance(result, walk.WalkResult | seen.SeenResult):
        return ()
    if isinstance(result, opening.OpeningResult):
        return opening_notes(result)
    if isinstance(result, rail.RailResult):
        return rail_notes(result)
    return diesel_notes(result)


def state_words(finding: Finding, result: Result) -> str:
    """The state of one row in this sheet's own words; empty where nothing was noted."""
    if isinstance(result, seen.SeenResult):
        return dict(result.words).get(finding.injector, "")
    if isinstance(result, Diesel):
        return state_of(finding, result)
    if isinstance(result, opening.OpeningResult):
        return opening_state(finding, result)
    if finding.state is State.NOT_JUDGED:
        return "" if not finding.passes else _NOT_JUDGED.get(result.kind, "nothing to compare")
    if isinstance(result, coil.CoilResult):
        if finding.injector in result.shorted:
            return "shorted"
        return _COIL_WORDS[finding.state]
    if isinstance(result, supply.SupplyResult):
        return _WINDOW_WORDS[finding.state]
    return words.STATE_WORDS[finding.state]


_NOT_JUDGED: Final = {"supply_pressure": "no window given", "pressure_drop": "not measured"}
_WINDOW_WORDS: Final = {
    State.IN_PLUMB: "in plumb",
    State.LOW: "too low",
    State.HIGH: "too high",
    State.UNSETTLED: "not settled",
}
_COIL_WORDS: Final = {**_WINDOW_WORDS, State.OPEN: "open", State.SPLIT: "set is split"}


def because_of(finding: Finding, result: Result) -> str:
    """One sentence on why a row reads as it does."""
    if isinstance(result, drop.DropResult):
        return words.because(finding, result)
    if isinstance(result, coil.CoilResult):
        return _coil_because(finding, result)
    if isinstance(result, Diesel):
        return diesel_because(finding, result)
    if isinstance(result, opening.OpeningResult):
        return opening_because(finding, result)
    said = state_words(finding, result)
    if isinstance(result, hold.HoldResult):
        return "".join(s.text for s in _hold_headline(result, "kPa"))
    return said or "not measured"


def _coil_because(finding: Finding, result: coil.CoilResult) -> str:
    if finding.state is State.OPEN:
        return "no current passes: the coil is open"
    one = next((c for c in result.coils if c.injector == finding.injector), None)
    if one is None:
        return "not measured"
    sheet = result.sheet
    unit = "Ω" if sheet.kind == coil.RESISTANCE else "V"
    places = decimals_for(sheet.meter.step) + 1
    text = f"{state_words(finding, result) or 'nothing to compare'}: {rounded(one.at_20, places)} {unit}"
    text += " at 20 °C" if sheet.corrects else ""
    if finding.injector in result.shorted:
        text += ", less than half of what it should be"
    elif sheet.window.stated and result.held_at_c is not None:
        text += f", {rounded(one.held, places)} {unit} at {result.held_at_c:g} °C, where the window holds"
    if finding.deviation is not None:
        text += f"; {words.percent(finding.deviation, 1)} % from those that agree"
    return text


def _name(labels: list[str], singular: str, plural: str) -> str:
    return f"Injector{'' if len(labels) == 1 else 's'} {listed(labels)} {singular if len(labels) == 1 else plural}"


def _coil_headline(result: coil.CoilResult) -> tuple[Span, ...]:
    by_state: dict[str, list[str]] = {}
    for f in result.findings:
        word = state_words(f, result)
        if word:
            by_state.setdefault(word, []).append(f.injector)
    if not by_state:
        return (Span(text="Nothing measured yet."),)
    if "set is split" in by_state:
        return (Span(text="Split: ", tone="open"), Span(text="two halves of the set differ."))
    volts = result.sheet.kind == coil.VOLTAGE
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
            Span(text=f"The {counted(good)} measured so far are in plumb; {counted(left)} to go."),
        )
    what = "voltage drops" if volts else "coils"
    return (Span(text=f"All {counted(good)} {what} are in plumb."),)


def _coil_notes(result: coil.CoilResult) -> tuple[str, ...]:
    made = []
    sheet, compared = result.sheet, result.compared
    if sheet.kind == coil.RESISTANCE and sheet.temperature_c is None and result.coils:
        made.append(
            "No coil temperature noted: compared as read. Copper rises by 4 % for each 10 °C."
        )
    if compared.spread is not None and sheet.window.spread is not None and len(result.coils) > 1:
        unit = "Ω" if sheet.kind == coil.RESISTANCE else "V"
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


def _supply_headline(result: supply.SupplyResult) -> tuple[Span, ...]:
    pump = result.sheet.pump
    if pump == "clicks_only":
        return (Span(text="The relay clicks, the pump does not run: ", tone="open"),
                Span(text="pump or its feed. The injector work stops here."))  # fmt: skip
    if pump == "silent":
        return (Span(text="Neither relay nor pump is heard: ", tone="open"),
                Span(text="fuse, relay and feed first. The injector work stops here."))  # fmt: skip
    if result.no_pressure:
        return (Span(text="No pressure with the key on: ", tone="open"),
                Span(text="the pump or its feed. The injector work stops here."))  # fmt: skip
    read = [f for f in result.findings if f.value is not None]
    if not read:
        return (Span(text="Nothing measured yet."),)
    out = [f for f in read if f.state in {State.LOW, State.HIGH, State.UNSETTLED}]
    if out:
        said = "; ".join(
            f"{SUPPLY_NAMES[f.injector].lower()} {_WINDOW_WORDS[f.state]}" for f in out
        )
        tone = (
            "low" if out[0].state is State.LOW else "high" if out[0].state is State.HIGH else "open"
        )
        return (Span(text=f"{said[0].upper()}{said[1:]}.", tone=tone),)
    if all(f.state is State.NOT_JUDGED for f in read):
        return (Span(text="Noted. Without a window nothing says what it should be."),)
    return (Span(text="The supply is inside its window."),)


def _supply_notes(result: supply.SupplyResult) -> tuple[str, ...]:
    if result.regulator_answers is False:
        return (
            (
                "The pressure does not rise when the vacuum hose comes off: a regulator that does "
                "not answer, a blocked hose, or a system without a vacuum regulator."
            ),
        )
    if result.regulator_answers:
        return ("It rises when the vacuum hose comes off: the regulator answers.",)
    return ()


def _clock(seconds: float) -> str:
    if seconds < 120:
        return f"{seconds:g} s"
    return f"{seconds / 60:g} min"


def _hold_headline(result: hold.HoldResult, unit: str) -> tuple[Span, ...]:
    step = result.sheet.step

    def p(kpa: float) -> str:
        return show_pressure(kpa, unit, step) + f" {unit}"

    if not result.sheet.series:
        return (Span(text="Nothing measured yet."),)
    if result.collapsed:
        return (Span(text="The pressure is gone within seconds.", tone="low"),)
    if not result.judged:
        return (Span(text="Noted. Without a limit nothing says whether that is enough."),)
    worst = next(j for j in result.judged if j.state is result.state)
    when, then = _clock(worst.at_s), worst.then
    figure = f"{p(then.value)} {'left' if then.read else 'foretold'} after {when}"
    asked = f"{p(worst.least_left)} asked for"
    if result.state is State.IN_PLUMB and result.rising:
        return (Span(text=f"Holds: the pressure rises, heat soak and no leak; {asked}."),)
    if result.state is State.IN_PLUMB:
        return (Span(text=f"Holds: {figure}, {asked}."),)
    if result.state is State.LOW:
        return (Span(text="Does not hold: ", tone="low"), Span(text=f"{figure}, {asked}."))
    return (
        Span(text="Not decided yet: ", tone="open"),
        Span(text=f"{figure}, between {p(then.low)} and {p(then.high)}; {asked}."),
    )


def _hold_notes(result: hold.HoldResult, unit: str) -> tuple[str, ...]:
    made = []
    step = result.sheet.step
    if result.soaked and result.peak is not None:
        made.append(
            f"The hot engine raised it to {show_pressure(result.peak[1], unit, step)} {unit}: heat "
            "soak. No leak rate is taken from the rising part."
        )
    if result.early:
        made.append("Called before its time: the whole range lies on one side of the limit.")
    if result.collapsed:
        made.append(
            "With a rich idle, a long crank and a smell of raw fuel this points to an injector that "
            "is stuck open."
        )
    board = result.board
    if board.contradiction:
        pairs = "; ".join(
            f"{step_of(a, board.rail).title.lower()} against {step_of(b, board.rail).title.lower()}"
            for a, b in board.against
        )
        made.append(
            f"Contradiction: {pairs}. Either there is more than one leak, or one outcome was misread."
        )
    elif board.found:
        made.append(f"One place is left: {SOURCES[board.rail][board.found]}.")
    elif board.tried:
        left = listed([SOURCES[board.rail][s] for s in board.left])
        made.append(f"Still possible: {left}.")
    return tuple(made)


def _seen_headline(result: seen.SeenResult) -> tuple[Span, ...]:
    named = [(label, word) for label, word in result.words if word]
    if not named:
        return (Span(text="Nothing looked at yet."),)
    good = "blinks" if result.kind == seen.COMMAND else "dry"
    odd: dict[str, list[str]] = {}
    for label, word in named:
        if word != good:
            odd.setdefault(word, []).append(label)
    if odd:
        verb = {"dark": "is dark", "steady": "stays on", "weak": "is weak"}
        said = "; ".join(f"{listed(labels)} {verb.get(word, word)}" for word, labels in odd.items())
        thing = "Command" if result.kind == seen.COMMAND else "Injector"
        return (
            Span(text=f"{thing} {said}.", tone="high" if result.kind != seen.COMMAND else "open"),
        )
    left = len(result.words) - len(named)
    if left:
        return (
            Span(
                text=f"The {counted(len(named))} looked at so far are good; {counted(left)} to go."
            ),
        )
    return (Span(text="All blink." if good == "blinks" else "All tips stay dry."),)


def _walk_headline(result: walk.WalkResult) -> tuple[Span, ...]:
    sheet = result.sheet
    if sheet.hose == "wet":
        return (Span(text="Fuel stands in the vacuum hose: ", tone="high"),
                Span(text="the regulator’s diaphragm is torn."))  # fmt: skip
    if sheet.connectors in {"loose", "broken"}:
        return (Span(text=f"Connectors {sheet.connectors}: ", tone="open"),
                Span(text="one that is not home falls off on the road."))  # fmt: skip
    if not result.begun:
        return (Span(text="Nothing noted yet."),)
    if sheet.hose == "damp":
        return (Span(text="The hose is a little damp: tell the customer, go on."),)
    said = [walk.COMPLAINTS[c] for c in sheet.complaint if c != "none"]
    text = listed(said) if said else "no complaint"
    return (Span(text=f"Noted: {text}{', nothing wrong seen outside' if result.passed else ''}."),)
