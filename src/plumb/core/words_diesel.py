"""What corrections, cranking balance and return volumes say, in plain workshop English."""

from typing import Final

from plumb.core import correction, cranking, returns
from plumb.core.decision import State
from plumb.core.explain import Line, Working
from plumb.core.finding import Finding
from plumb.core.quantities import decimals_for, rounded
from plumb.core.words import Span, counted, listed

Diesel = correction.CorrectionResult | cranking.CrankingResult | returns.ReturnResult

WORDS: Final[dict[str, dict[State, str]]] = {
    correction.KIND: {
        State.HIGH: "weak cylinder",
        State.LOW: "strong cylinder",
        State.SPLIT: "set is split",
    },
    cranking.KIND: {State.LOW: "weak hump"},
    returns.KIND: {State.HIGH: "returns too much", State.NO_RESPONSE: "no return"},
}
_COMMON: Final = {State.IN_PLUMB: "in plumb", State.UNSETTLED: "not settled"}


def state_of(finding: Finding, result: Diesel) -> str:
    """The state of one row in this sheet's own words."""
    if isinstance(result, cranking.CrankingResult) and result.humps and finding.value is None:
        return "even" if finding.state is State.IN_PLUMB else "whose is not known"
    if finding.state is State.NOT_JUDGED:
        return "nothing to compare" if finding.passes else ""
    return WORDS[result.kind].get(finding.state) or _COMMON.get(finding.state, finding.state.value)


def diesel_headline(result: Diesel) -> tuple[Span, ...]:
    """One sentence on the sheet."""
    if isinstance(result, cranking.CrankingResult) and result.humps:
        return _trace_headline(result)
    named: dict[str, list[str]] = {}
    for f in result.findings:
        word = state_of(f, result)
        if word:
            named.setdefault(word, []).append(f.injector)
    if not named:
        return (Span(text="Nothing measured yet."),)
    odd = [
        (w, labels) for w, labels in named.items() if w not in {"in plumb", "nothing to compare"}
    ]
    if not odd:
        good = len(named.get("in plumb", []))
        left = sum(1 for f in result.findings if not f.passes)
        if not good:
            return (Span(text="Too few to compare."),)
        if left:
            text = f"The {counted(good)} read so far are in plumb; {counted(left)} to go."
            return (Span(text=text),)
        return (Span(text=f"All {counted(good)} are in plumb."),)
    said = "; ".join(f"{listed(labels)}: {word}" for word, labels in odd)
    settled = any(word != "not settled" for word, _ in odd)
    return (Span(text=f"{said}.", tone="high" if settled else "open"),)


def _trace_headline(result: cranking.CrankingResult) -> tuple[Span, ...]:
    """What the humps of a trace say; without a sync nobody knows whose they are."""
    low = [h for h in result.humps if h.state is State.LOW]
    open_ = [h for h in result.humps if h.state is State.UNSETTLED]
    if not low and not open_:
        return (Span(text=f"All {counted(len(result.humps))} humps are even."),)
    spans = []
    for humps, word, tone in ((low, "weak hump", "low"), (open_, "not settled", "open")):
        if not humps:
            continue
        if humps[0].label:
            said = f"{listed([h.label for h in humps])}: {word}. "
        else:
            said = f"{counted(len(humps)).capitalize()} of {counted(len(result.humps))} humps: {word}. "
        spans.append(Span(text=said, tone=tone))
    return tuple(spans)


def diesel_notes(result: Diesel) -> tuple[str, ...]:
    """What else must be known before the sheet is believed."""
    made: list[str] = []
    if isinstance(result, returns.ReturnResult):
        made += _return_notes(result)
    if isinstance(result, correction.CorrectionResult):
        if any(f.state in {State.HIGH, State.LOW} for f in result.findings):
            made.append(
                "A weak cylinder is not yet an injector: cranking balance and rail pressure first."
            )
        if result.split:
            made.append("Two halves stand against each other; comparing cannot say which is right.")
    if (
        isinstance(result, cranking.CrankingResult)
        and result.reference is None
        and any(f.passes for f in result.findings)
    ):
        made.append("At least three humps are needed to compare.")
    if isinstance(result, cranking.CrankingResult):
        made += _trace_notes(result)
    return tuple(made)


def _return_notes(result: returns.ReturnResult) -> list[str]:
    made = []
    if result.rests_on_one:
        made.append(
            f"Rests on one: only {result.low_group[0]} returns little; measure that one again."
        )
    if result.sheet.clamped is False:
        made.append("The common return was not clamped: what comes back may be the pump's.")
    if result.sheet.duration_s is None:
        made.append("No time noted: volumes are compared with each other only.")
    if result.sheet.rail_kpa is not None:
        made.append(f"The rail reached {rounded(result.sheet.rail_kpa / 100.0, 0)} bar meanwhile.")
    if result.sheet.state == "cranking" and result.sheet.longest_s > returns.LONGEST_SPELL_S:
        made.append("Cranked for long: rest the starter between spells, and note each of them.")
    if result.over:
        made.append(
            f"The tube of {listed(result.over)} ran over: empty it and measure for a shorter time."
        )
    return made


def _trace_notes(result: cranking.CrankingResult) -> list[str]:
    trace = result.sheet.trace
    if trace is None:
        return []
    if not result.humps:
        return [f"Only {counted(len(trace.cycles))} whole cycles: crank a little longer."]
    made = []
    once = sum(h.once for h in result.humps)
    if once:
        made.append("A hump that was low once only is noise: the others of its place are even.")
    if result.uneven:
        made.append("Without a sync nobody knows whose hump it is: a sync tells, or a gauge does.")
    return made


def diesel_because(finding: Finding, result: Diesel) -> str:
    """One sentence on why a row reads as it does."""
    word = state_of(finding, result) or "not measured"
    if finding.value is None or finding.reference is None:
        return word
    if isinstance(result, correction.CorrectionResult):
        places = decimals_for(result.sheet.step)
        return (
            f"{word}: {rounded(finding.value, places)} {result.sheet.unit}, "
            f"{rounded(abs(finding.deviation or 0.0), places)} from those that agree at "
            f"{rounded(finding.reference, places)}; allowed {rounded(result.apart, places)}"
        )
    hump = next((h for h in getattr(result, "humps", ()) if h.label == finding.injector), None)
    if hump is not None:
        return (
            f"{word}: {rounded(100 * hump.median, 0)} % of the middle hump, "
            f"low in {hump.low_cycles} of {hump.cycles} cycles"
        )
    ratio = rounded(finding.value / finding.reference, 2)
    if not isinstance(result, returns.ReturnResult):
        return f"{word}: {ratio} times the middle hump"
    limit = ""
    if result.sheet.high is not None:
        places = decimals_for(result.sheet.step)
        volume, most = (rounded(x, places) for x in (finding.value, result.sheet.high))
        limit = f"{volume} ml, at most {most} are allowed; "
    return f"{word}: {limit}{ratio} times the low group"


def explain_diesel(result: Diesel) -> Working:
    """All figures of the sheet."""
    unit = {correction.KIND: "", cranking.KIND: "%", returns.KIND: "ml"}[result.kind]
    if isinstance(result, correction.CorrectionResult):
        unit = result.sheet.unit
    shared = [Line(label="step", figure=f"{result.sheet.step:g}", unit=unit, formula="u = step / √12",
                   source="JCGM 100:2008, F.2.2.1")]  # fmt: skip
    shared += _rests_on(result, unit)
    rows = tuple(
        (
            f.injector,
            (
                Line(label="read", figure=f"{f.value:g}", unit=unit),
                *_away(f, result, unit),
                Line(label="because", figure=diesel_because(f, result)),
                Line(
                    label="probability outside",
                    figure=rounded(f.probability_out or 0.0, 3),
                    formula=f"normal distribution; {result.thresholds.call:g} calls",
                    source="JCGM 106:2012",
                ),
            ),
        )
        for f in result.findings
        if f.value is not None
    )
    return Working(shared=tuple(shared), injectors=rows)


def _away(finding: Finding, result: Diesel, unit: str) -> list[Line]:
    """How far a figure lies from what it is compared with, and how well that is known."""
    if finding.deviation is None or finding.u is None:
        return []
    points = isinstance(result, correction.CorrectionResult)
    share, places = (1.0, decimals_for(result.sheet.step) + 1) if points else (100.0, 1)
    figure, u = (rounded(share * x, places) for x in (finding.deviation, finding.u))
    return [
        Line(label="from the reference", figure=f"{figure} ± {u}", unit=unit if points else "%",
             formula="u of the figure and of the reference")
    ]  # fmt: skip


def _rests_on(result: Diesel, unit: str) -> list[Line]:
    """What the rows are compared with."""
    if isinstance(result, correction.CorrectionResult):
        reference = result.compared.reference
        return [] if reference is None else [
            Line(label="who agrees", figure=", ".join(result.compared.agreeing)),
            Line(label="reference", figure=rounded(reference, 2), unit=unit,
                 formula="mean of those that agree, never of all"),
            Line(label="allowed", figure=f"±{result.apart:g}", unit=unit,
                 source=result.sheet.source or "common practice, no source"),
        ]  # fmt: skip
    if result.reference is None:
        return []
    if isinstance(result, returns.ReturnResult):
        limit = result.sheet.high
        return [
            Line(label="low group", figure=", ".join(result.low_group),
                 formula="the lowest and all within 1.5 times of it"),
            Line(label="reference", figure=rounded(result.reference, 2), unit=unit),
            Line(label="limit", figure=f"{limit:g} ml" if limit else f"{result.sheet.ratio:g} times",
                 source=result.sheet.source or "common practice, no source"),
            *(Line(label=f"rate of {k}", figure=rounded(v, 1), unit="ml a minute")
              for k, v in result.rates),
        ]  # fmt: skip
    return [
        Line(label="middle hump", figure=rounded(result.reference, 1), unit=unit, formula="median"),
        Line(label="limit", figure=f"−{100 * result.sheet.limit:g}", unit="%",
             source="common practice, no source"),
    ]  # fmt: skip
