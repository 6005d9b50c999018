"""Facts of the nozzles: how they open, what a shim cannot cure, what is planned."""

from collections.abc import Iterator
from typing import Final

from plumb.core.compare.renewed import WORKED_ON, of_work
from plumb.core.compare.said import facts_of_states
from plumb.core.measure.fact import Fact
from plumb.core.measure.text import listed
from plumb.core.procedures.opening.analysis import OpeningResult
from plumb.core.procedures.opening.words import plan_words

MAKES: Final = {
    "opens_low": "opens early",
    "opens_high": "opens late",
    "opens_in_plumb": "opens inside its window and with the set",
    "opens_none": "no pressure builds",
    "opens_unsettled": "not settled",
    "opens_split": "the set falls into halves",
    "nozzle_seat_wet": "the seat wets within the hold",
    "nozzle_seat_damp": "the seat is damp after the hold",
    "nozzle_spray_bad": "the spray is bad",
    "nozzle_loses": "it loses its pressure faster than is allowed",
    "nozzle_holds": "it holds its pressure as long as it has to",
    "nozzle_seat_dry": "the seat stays dry",
    "nozzle_sprays": "it chatters, and its spray is even",
    "nozzle_unseen": "its seat, sound or spray was not looked at",
    "nozzle_silent": "it does not chatter",
    "set_opens_alike": "all of them are out on one side, by as much",
    "shim_planned": "shims are planned for it",
    **WORKED_ON,
}
_FAULTS: Final = {
    "seat_wet": "its seat wets within the hold",
    "seat_damp": "its seat is damp after the hold",
    "spray_bad": "its spray is bad",
    "loses": "it loses its pressure faster than its maker allows",
}

_OPENS: Final = {
    "low": "opens early",
    "high": "opens late",
    "none": "no pressure builds on it",
    "unsettled": "its opening pressure is not settled",
}


def facts(key: str, result: OpeningResult) -> Iterator[Fact]:
    """How each nozzle opens, what a shim cannot cure, and the shims that are planned."""
    if result.off_alike:
        yield Fact(
            code="set_opens_alike", injector="", sheet=key,
            text="all nozzles are out on one side by as much",
        )  # fmt: skip
    yield from facts_of_states("opens", _OPENS, key, result.findings)
    for f, nozzle in zip(result.findings, result.nozzles, strict=True):
        if nozzle.fault:
            yield Fact(
                code=f"nozzle_{nozzle.fault}", injector=f.injector, sheet=key,
                text=_FAULTS[nozzle.fault],
            )  # fmt: skip
        if nozzle.settings and nozzle.unseen:
            yield Fact(
                code="nozzle_unseen", injector=f.injector, sheet=key,
                text=f"{listed(nozzle.unseen)} not seen yet",
            )  # fmt: skip
        if result.sheet.held is not None and result.sheet.held.too_fast(f.injector) is False:
            yield Fact(code="nozzle_holds", injector=f.injector, sheet=key, weighs=False)
        if nozzle.seat == "dry":
            yield Fact(code="nozzle_seat_dry", injector=f.injector, sheet=key, weighs=False)
        if nozzle.spray == "even" and nozzle.sound == "chatters":
            yield Fact(code="nozzle_sprays", injector=f.injector, sheet=key, weighs=False)
        if nozzle.sound == "silent":
            yield Fact(
                code="nozzle_silent", injector=f.injector, sheet=key, text="it does not chatter"
            )
        if nozzle.plan is not None:
            yield Fact(
                code="shim_planned", injector=f.injector, sheet=key,
                text=plan_words(nozzle.plan, result, result.sheet.unit),
            )  # fmt: skip
        yield from of_work(key, f, result.sheet.when)
