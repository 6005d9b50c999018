"""What the rail pressure says."""

from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.quantities import KPA_PER, rounded
from plumb.core.measure.text import NOTHING_YET, WINDOW_WORDS, Span, listed
from plumb.core.procedures.rail.analysis import BEYOND, NAMES, RailResult

POINTS: Final = 4.0
"""A correction that goes less far to and fro says nothing; common practice, no source."""
NO_MORE: Final = 0.01
"""A hundredth of what is wanted is not told as off: a controller shows no more; common practice, no source."""


def told_in(kpa: float, unit: str) -> str:
    """A pressure of the rail in ``unit`` with three telling digits."""
    value = kpa / KPA_PER.get(unit, 1.0)
    return f"{rounded(value, 0 if abs(value) >= 20 else 1)} {unit}"


def headline(result: RailResult, unit: str) -> tuple[Span, ...]:
    """One sentence on the rail."""
    if not result.state:
        return NOTHING_YET
    if result.state == "too_short":
        return (Span(text="Too short to tell: at least 5 s and 25 moments."),)
    if result.state == "surges":
        often = (
            f" at {rounded(result.frequency_hz, 1)} Hz" if result.frequency_hz is not None else ""
        )
        seen = ", as it was seen" if result.by_eye else ""
        text = f"The rail surges{often}, {told_in(result.swing, unit)} from low to high{seen}{_mean(result, unit)}."
        return (Span(text=text, tone="high"),)
    if result.next_to_nothing:
        return (Span(text=f"Next to nothing builds up in the rail{_when(result)}.", tone="low"),)
    if result.state in {"low", "high"}:
        side = "below" if result.state == "low" else "above"
        wanted, stays = result.wanted_and_actual
        text = (
            f"The rail stays {told_in(abs(stays - wanted), unit)} {side} what is wanted{_when(result)}: "
            f"{told_in(stays, unit).removesuffix(unit)}of {told_in(wanted, unit)}."
        )
        return (Span(text=text, tone=result.state),)
    if result.state == "unsettled" and not result.by_figures:
        share = rounded(100.0 * result.beyond, 0)
        text = (
            f"Not settled: it leaves what is wanted for {share} % of the time, but not to and fro."
        )
        return (Span(text=text, tone="open"),)
    if result.state == "unsettled":
        return (Span(text="Not settled: it lies near the tenth that is allowed.", tone="open"),)
    return (Span(text=f"The rail follows what is wanted{_mean(result, unit)}."),)


def _mean(result: RailResult, unit: str) -> str:
    """How far it lies from what is wanted by its median, where a trace says so."""
    if not result.sheet.series and not result.by_eye:
        return ""
    if abs(result.bias) < NO_MORE * result.wanted:
        return ", round what is wanted" if result.state == "surges" else ""
    return f", {told_in(abs(result.bias), unit)} {'below' if result.bias < 0.0 else 'above'} on average"


def _when(result: RailResult) -> str:
    """The state of the engine, where it is not idling."""
    return " while cranking" if result.off_in == "cranking" else ""


def notes(result: RailResult, unit: str) -> tuple[str, ...]:
    """What follows for the other sheets, and what figures alone do not show."""
    if result.off_in == "cranking" and result.next_to_nothing:
        text = (
            "Fuel at the pump first: tank, lift pump, filter, air. Then the pump and its drive. No injector "
            "opens without pressure."
        )
        return (text,)
    if result.off_in == "cranking" and result.state == "low":
        text = (
            "The pump builds something up, and it goes: what the injectors return while cranking, then the "
            "hold of the high side and what leaks to the outside."
        )
        return (text,)
    if result.off_in == "cranking":
        text = (
            "An engine does not start without its rail pressure: pump, control valve, and what the "
            "injectors return while cranking come before anything that needs it to run."
        )
        return (text,)
    if result.state == "good" and result.by_eye:
        low, high = (told_in(x, unit) for x in result.sheet.seen or (0.0, 0.0))
        text = f"It goes between {low} and {high}: a tenth of what is wanted is allowed to either side."
        return (text,)
    if result.state == "good" and result.by_figures:
        return (
            "Figures that stand still show no surge: where it hunts, note what it goes between, or bring in a trace.",
        )
    made = _together(result)
    if result.state in {"surges", "low", "high"}:
        made.append(
            "Settle the rail first: it moves every correction, so none is judged until then."
        )
    return tuple(made)


def _together(result: RailResult) -> list[str]:
    """Which corrections of the same trace go with the rail, and which by themselves."""
    goes = [x.injector for x in result.sheet.together if x.goes]
    alone = [x.injector for x in result.sheet.together if not x.goes and x.swing > POINTS]
    made = []
    if goes and result.state == "surges":
        every = "Every correction goes" if len(goes) == len(result.sheet.together) else (
            f"The corrections of {listed(goes)} go" if len(goes) > 1 else f"The correction of {goes[0]} goes"
        )  # fmt: skip
        made.append(f"{every} to and fro with the rail: that is one fault, and no cylinder's.")
    if len(alone) == 1:
        made.append(
            f"The correction of {alone[0]} moves by itself, not with the rail: its cylinder is looked at."
        )
    elif alone:
        made.append(
            f"The corrections of {listed(alone)} move by themselves, not with the rail: their cylinders are looked at."
        )
    return made


def state(finding: Finding, _result: RailResult) -> str:
    """How a figure that was read lies round what is wanted."""
    return "" if finding.state is State.NOT_JUDGED else WINDOW_WORDS[finding.state]


def because(finding: Finding, _result: RailResult, unit: str) -> str:
    """How far it is from what is wanted."""
    if finding.value is None or finding.reference is None:
        return "not measured"
    return (
        f"{told_in(finding.value, unit)} of {told_in(finding.reference, unit)} wanted, "
        f"{NAMES[finding.place].lower()}; a tenth ({100 * BEYOND:g} %) is allowed"
    )
