"""What goes with a repair, so that it is not forgotten: seals, torque, the look for leaks, and more.

Common practice, no source; the maker's procedure says how each of these is done.

>>> [thing.code for thing in goes_with(Work(fuel_system="port", out=("4",)))][:2]
['seals', 'torque']
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.measure.text import listed
from plumb.core.mend.repairs import TAKEN_OUT, Repair
from plumb.core.procedures.kind import PETROL

_FLOODS: Final = frozenset({"leaks_at_tip", "stuck_open"})
_FOULS: Final = frozenset({*_FLOODS, "gives_more", "no_response", "no_command", "intermittent"})
_DIRTY: Final = frozenset({"gives_less", "opens_weakly", "bad_spray", "intermittent"})


@dataclass(frozen=True, slots=True, kw_only=True)
class Work:
    """What was done and found: injectors that were taken out, new ones, conditions by injector."""

    fuel_system: str
    out: tuple[str, ...] = ()
    new: tuple[str, ...] = ()
    wired: tuple[str, ...] = ()
    conditions: tuple[tuple[str, str], ...] = ()
    codes: tuple[str, ...] = ()

    def with_any(self, wanted: frozenset[str]) -> tuple[str, ...]:
        """The injectors that were found with one of these conditions."""
        return tuple(label for label, condition in self.conditions if condition in wanted)

    @property
    def petrol(self) -> bool:
        """Whether it burns petrol: it has plugs."""
        return self.fuel_system in PETROL


@dataclass(frozen=True, slots=True, kw_only=True)
class Thing:
    """One thing that goes with the work: its code and how it is said."""

    code: str
    words: str


def work_of(
    repairs: Sequence[Repair],
    conditions: Sequence[tuple[str, str]],
    fuel_system: str,
    codes: Sequence[str],
) -> Work:
    """What was done, gathered; ``conditions`` are those found, by injector."""
    order = {label: n for n, (label, _) in enumerate(conditions)}
    return Work(
        fuel_system=fuel_system,
        out=_of(repairs, TAKEN_OUT, order),
        new=_of(repairs, frozenset({"replaced", "rebuilt"}), order),
        wired=_of(repairs, frozenset({"wired"}), order),
        conditions=tuple(conditions),
        codes=tuple(codes),
    )


def _of(
    repairs: Sequence[Repair], done: frozenset[str], order: Mapping[str, int]
) -> tuple[str, ...]:
    """Who it was done to, in the order of reach."""
    places = dict.fromkeys(p for r in repairs if r.done in done for p in r.places)
    return tuple(sorted(places, key=lambda label: order.get(label, len(order))))


def goes_with(work: Work) -> tuple[Thing, ...]:
    """What goes with it, in the order of the work."""
    return tuple(
        Thing(code=code, words=words) for code, say in THINGS.items() if (words := say(work))
    )


def _seals(work: Work) -> str:
    if not work.out:
        return ""
    what = "seals" if work.fuel_system in {"port", "throttle_body"} else "washers and seals"
    return f"new {what} on {listed(work.out)}, and the bores clean"


def _torque(work: Work) -> str:
    if not work.out:
        return ""
    return "rail, clamps and unions to the maker’s torque"


def _clips(work: Work) -> str:
    if not (work.out or work.wired) or work.fuel_system == "mechanical_diesel":
        return ""
    return f"plugs and clips home on {listed(work.out or work.wired)}"


def _leaks(work: Work) -> str:
    if not work.out:
        return ""
    if work.petrol:
        return "rail looked at for leaks under pressure, before the engine is started"
    return "unions looked at for leaks from a distance, never felt for with a hand"


def _bled(work: Work) -> str:
    return "fuel system bled as the maker says" if work.out and not work.petrol else ""


def _plugs(work: Work) -> str:
    fouled = work.with_any(_FOULS)
    return f"plug and its wire looked at on {listed(fouled)}" if work.petrol and fouled else ""


def _oil(work: Work) -> str:
    flooded = work.with_any(_FLOODS)
    return f"oil and filter changed: {listed(flooded)} let fuel into the sump" if flooded else ""


def _filter(work: Work) -> str:
    dirty = work.with_any(_DIRTY)
    if not dirty and (work.petrol or not work.out):
        return ""
    return "fuel filter renewed: what clogged one clogs the next"


def _coded(work: Work) -> str:
    if not work.new or work.fuel_system not in {"common_rail", "direct"}:
        return ""
    return f"adjustment code of {listed(work.new)} written to the controller, where it has one"


def _adaptation(work: Work) -> str:
    if not work.out or work.fuel_system == "mechanical_diesel":
        return ""
    return "adaptation of the mixture cleared, and learnt anew on the road"


def _codes(work: Work) -> str:
    return f"codes cleared, and not back: {', '.join(work.codes)}" if work.codes else ""


THINGS: Final[dict[str, Callable[[Work], str]]] = {
    "seals": _seals,
    "torque": _torque,
    "clips": _clips,
    "leak_check": _leaks,
    "bled": _bled,
    "plugs": _plugs,
    "oil": _oil,
    "filter": _filter,
    "coded": _coded,
    "adaptation": _adaptation,
    "codes": _codes,
}
"""What can go with a repair, by code, each with how it is said; an empty sentence: not here."""
