"""What the opening pressures say, in plain workshop English, and how they were worked out."""

from typing import Final

from plumb.core import opening
from plumb.core.decision import State
from plumb.core.evidence_diesel import plan_words, sensitivity_words
from plumb.core.explain import Line, Working
from plumb.core.finding import Finding
from plumb.core.quantities import rounded, show_pressure
from plumb.core.shims import MM_PER_THOU, PRIOR_SHARE, REASSEMBLY_KPA, show_shim
from plumb.core.words import Span, counted, listed

STATES: Final = {
    State.LOW: "opens early",
    State.HIGH: "opens late",
    State.IN_PLUMB: "in plumb",
    State.UNSETTLED: "not settled",
    State.SPLIT: "set is split",
    State.NO_RESPONSE: "no pressure builds",
}
FAULTS: Final = {
    "seat_wet": "seat leaks",
    "seat_damp": "seat damp",
    "spray_bad": "bad spray",
}
SPRAYS: Final = {
    "pintle": "A pintle nozzle sprays evenly when it makes one straight cone.",
    "hole": "A hole nozzle sprays evenly when all its jets are alike.",
}
"""What an even spray is, by the form of the nozzle; common practice, no source."""
CURES: Final = {
    "seat_wet": "setting it will not cure a wet seat",
    "seat_damp": "clean it and hold it again before it is set",
    "spray_bad": "setting it will not cure a bad spray",
}


def opening_state(finding: Finding, result: opening.OpeningResult) -> str:
    """A fault that no shim cures comes before the pressure."""
    fault = result.nozzle(finding.injector).fault
    if fault:
        return FAULTS[fault]
    if finding.state is State.NOT_JUDGED:
        return "no window given" if finding.passes else ""
    return STATES[finding.state]


def opening_headline(result: opening.OpeningResult) -> tuple[Span, ...]:
    """One sentence on the set."""
    named: dict[str, list[str]] = {}
    for f in result.findings:
        if f.passes:
            named.setdefault(opening_state(f, result), []).append(f.injector)
    if not named:
        return (Span(text="Nothing measured yet."),)
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


def opening_under(finding: Finding, result: opening.OpeningResult) -> str:
    """What to do with one nozzle: the shims planned, or why a shim does not help."""
    nozzle = result.nozzle(finding.injector)
    if nozzle.fault:
        return CURES[nozzle.fault]
    if nozzle.plan is not None:
        return plan_words(nozzle.plan, result)
    if nozzle.wanted_mm is None:
        return last_change(finding.injector, result)
    side = "more" if nozzle.wanted_mm > 0 else "less"
    size = f"{show_shim(abs(nozzle.wanted_mm), result.sheet.length)} {result.sheet.length} {side}"
    if not result.sheet.drawer:
        return f"wants {size}; no shims noted in the drawer"
    if nozzle.wanted_mm < 0 and not (nozzle.settings and nozzle.settings[-1].shim_mm):
        return f"wants {size}: note the thickness of what is inside"
    return f"wants {size}: no stack from the drawer lands where it should"


def last_change(injector: str, result: opening.OpeningResult) -> str:
    """The last change of shims on a nozzle and what it brought; empty where there was none."""
    mine = [c for label, c in result.changes if label == injector]
    if not mine:
        return ""
    c = mine[-1]
    unit, step = result.sheet.unit, result.sheet.step
    what = "added" if c.shim_mm > 0 else "taken out"
    sign = "+" if c.after >= c.before else "−"
    moved = show_pressure(abs(c.after - c.before), unit, step)
    size = f"{show_shim(abs(c.shim_mm), result.sheet.length)} {result.sheet.length}"
    return f"{size} {what}, {sign}{moved} {unit}"


def opening_notes(result: opening.OpeningResult) -> tuple[str, ...]:
    """What else must be known before the sheet is believed."""
    made = []
    if any(n.plan is not None for n in result.nozzles):
        made.append(
            f"Planned with {sensitivity_words(result)}, and "
            f"{show_pressure(REASSEMBLY_KPA, result.sheet.unit, result.sheet.step)} "
            f"{result.sheet.unit} of scatter for taking it apart."
        )
    if any(n.sound == "silent" and not n.fault for n in result.nozzles):
        made.append(
            "A nozzle that does not chatter may stroke too fast, or drag: stroke it slowly."
        )
    if result.sheet.form and any(not n.spray for n in result.nozzles):
        made.append(SPRAYS[result.sheet.form])
    seats = [n.injector for n in result.nozzles if n.settings and not n.seat]
    if seats and all(n.settings for n in result.nozzles):
        made.append(f"The seat of {listed(seats)} has not been held yet.")
    spread = result.sheet.window.spread
    if spread is not None and (result.compared.spread_out or 0.0) >= result.thresholds.call:
        made.append("The set lies further apart than it may: set all of them to one value.")
    if result.split:
        made.append("Two halves stand against each other; a window must say which is right.")
    return tuple(made)


def opening_because(finding: Finding, result: opening.OpeningResult) -> str:
    """One sentence on why a nozzle reads as it does."""
    word = opening_state(finding, result) or "not measured"
    if finding.value is None:
        return word
    unit, step = result.sheet.unit, result.sheet.step
    text = f"{word}: opens at {show_pressure(finding.value, unit, step)} {unit}"
    under = opening_under(finding, result)
    return f"{text}; {under}" if under else text


def explain_opening(result: opening.OpeningResult, unit: str) -> Working:
    """All figures of the sheet: strokes, u, window, what a shim buys, and the plan."""
    sheet, s = result.sheet, result.sensitivity
    step = sheet.step / 10.0
    window = sheet.window

    def shown(kpa: float | None) -> str:
        return "none" if kpa is None else show_pressure(kpa, unit, step)

    shared = [
        Line(label="scatter of a stroke", figure=shown(result.scatter), unit=unit,
             formula="pooled over all strokes, from one step of the gauge worth four"),
        Line(label="window", figure=f"{shown(window.low)} to {shown(window.high)}", unit=unit,
             source=window.source),
        Line(label="set spread allowed", figure=shown(window.spread), unit=unit),
        Line(label="0.01 mm buys", figure=f"{shown(s.kpa_per_mm * 0.01)} ± {shown(s.u * 0.01)}",
             unit=unit, formula=f"least squares through the origin, {s.changes} changes, from "
             f"{shown(235.0)} ± {PRIOR_SHARE:.0%}", source="common practice, no source"),
        Line(label="taking it apart", figure=shown(REASSEMBLY_KPA), unit=unit,
             source="common practice, no source"),
        Line(label="0.001 inch", figure=f"{MM_PER_THOU:g}", unit="mm", source="NIST SP 811, B.8"),
    ]  # fmt: skip
    rows = tuple(
        (n.injector, tuple(_of_nozzle(n, result, unit))) for n in result.nozzles if n.settings
    )
    return Working(shared=tuple(shared), injectors=rows)


def _of_nozzle(nozzle: opening.Nozzle, result: opening.OpeningResult, unit: str) -> list[Line]:
    step = result.sheet.step / 10.0
    made = [
        Line(
            label="shims not noted" if x.shim_mm is None else f"with {x.shim_mm:g} mm",
            figure=f"{show_pressure(x.mean, unit, step)} ± {show_pressure(x.u, unit, step)}",
            unit=unit, formula=f"mean of {x.strokes}; u of step and scatter",
            source="JCGM 100:2008, F.2.2.1",
        )
        for x in nozzle.settings
    ]  # fmt: skip
    finding = next(f for f in result.findings if f.injector == nozzle.injector)
    if finding.probability_out is not None:
        made.append(
            Line(label="probability outside", figure=rounded(finding.probability_out, 3),
                 formula=f"normal distribution; {result.thresholds.call:g} calls",
                 source="JCGM 106:2012")
        )  # fmt: skip
    if nozzle.plan is not None:
        aimed = nozzle.plan.window
        low, high = (show_pressure(x or 0.0, unit, step) for x in (aimed.low, aimed.high))
        made.append(
            Line(label="plan", figure=plan_words(nozzle.plan, result),
                 formula=f"lands in {low} to {high} {unit} with {nozzle.plan.probability:.0%}")
        )  # fmt: skip
    made.append(Line(label="because", figure=opening_because(finding, result)))
    return made
