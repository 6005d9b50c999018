"""What was done to an injector, or to the engine, and which readings it makes out of date.

>>> Repair(injector="4", done="cleaned").outdates("coil_resistance"), Repair(injector="4", done="cleaned").outdates("pressure_drop")
(False, True)
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import datetime
from typing import Final

from plumb.core.causes.sighting import Sighting
from plumb.core.procedures import BY_CODE

DONE: Final = {
    "cleaned": "cleaned",
    "replaced": "replaced",
    "swapped": "swapped",
    "reshimmed": "re-shimmed",
    "rebuilt": "rebuilt",
    "wired": "wiring put right",
    "nothing": "nothing done",
    "put_right": "put right",
}
"""What can be done, in words; ``put_right`` is said of the engine, all others of an injector."""
ENGINE_ONLY: Final = "put_right"
TAKEN_OUT: Final = frozenset({"cleaned", "replaced", "swapped", "reshimmed", "rebuilt"})
_SAME_COIL: Final = frozenset({"cleaned", "reshimmed"})
"""Work that leaves the coil and its wiring as they were."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """The part that was put in: what is known of it; all of it may be empty.

    ``code`` is what its maker measured it at, for the controller to be told (adjustment or class code).
    """

    make: str = ""
    number: str = ""
    serial: str = ""
    mark: str = ""
    note: str = ""
    code: str = ""

    @property
    def words(self) -> str:
        """What it is called: make, number, serial number, adjustment code, mark."""
        serial = f"serial {self.serial}" if self.serial else ""
        code = f"code {self.code}" if self.code else ""
        return ", ".join(x for x in (self.make, self.number, serial, code, self.mark) if x)


@dataclass(frozen=True, slots=True, kw_only=True)
class Repair:
    """One thing that was done: to an injector, or to the engine where ``injector`` is empty.

    ``swapped_with`` is the injector whose place it took; ``cause`` the code of what was put right on
    the engine; ``part`` what was put in, where it was replaced.
    """

    injector: str
    done: str
    at: datetime | None = None
    swapped_with: str = ""
    cause: str = ""
    part: Part | None = None
    by: str = ""
    note: str = ""

    @property
    def places(self) -> tuple[str, ...]:
        """The injectors that it was done to."""
        return tuple(x for x in (self.injector, self.swapped_with) if x)

    def outdates(self, kind: str) -> bool:
        """Whether what a sheet of this kind read of the injector before no longer holds."""
        if not self.injector or self.done in {"nothing", ENGINE_ONLY}:
            return False
        return self.done not in _SAME_COIL or not BY_CODE[kind].electrical


@dataclass(frozen=True, slots=True, kw_only=True)
class Repaired:
    """What was done, and asked, since the fault was found.

    ``after`` are the ids of sheets taken after a repair with those that they are compared with;
    ``taken`` when each sheet was taken, where that is known; ``asked_after`` is (word of the complaint: answer).
    """

    repairs: tuple[Repair, ...] = ()
    after: Mapping[str, str] = field(default_factory=dict)
    taken: Mapping[str, datetime] = field(default_factory=dict)
    asked_after: Mapping[str, str] = field(default_factory=dict)

    @property
    def begun(self) -> bool:
        """Whether anything was repaired, or measured again."""
        return bool(self.repairs or self.after)

    def was_before(self, key: str, repair: Repair) -> bool:
        """Whether a sheet was taken before a repair.

        By their times; where either has none, or both are of the same moment, every sheet counts as before
        that is not one *after*.
        """
        if repair.at is not None and key in self.taken and self.taken[key] != repair.at:
            return self.taken[key] < repair.at
        return key not in self.after

    def is_later(self, key: str) -> bool:
        """Whether a sheet was taken after a repair: it says so, or its time does."""
        return key in self.after or any(
            not self.was_before(key, r) for r in self.repairs if r.at and key in self.taken
        )


def gone(done: Repaired, sheets: Mapping[str, str]) -> frozenset[tuple[str, str]]:
    """(sheet, injector) whose readings a repair has made out of date; ``sheets`` are kinds by id."""
    return frozenset(
        (key, label)
        for repair in done.repairs
        for key, kind in sheets.items()
        if repair.outdates(kind) and done.was_before(key, repair)
        for label in repair.places
    )


def mended(sighting: Sighting, repairs: Sequence[Repair]) -> bool:
    """Whether what a person found was put right since: at its place, or by its name on the engine."""
    return any(
        (r.cause == sighting.fault or (sighting.place in r.places and r.done != "nothing"))
        and not (r.at and sighting.at and r.at < sighting.at)
        for r in repairs
    )


def renewed_for(key: str, kind: str, done: Repaired) -> tuple[tuple[str, str], ...]:
    """Who was worked on before a sheet of a kind was taken, and how, where that changes what it reads."""
    made = {
        label: repair.done
        for repair in done.repairs
        if repair.outdates(kind) and not done.was_before(key, repair)
        for label in repair.places
    }
    return tuple(made.items())


def outdated_for(key: str, sheets: Mapping[str, str], done: Repaired) -> frozenset[tuple[str, str]]:
    """What is out of date for one sheet: what repairs that were made before it have changed."""
    mine = tuple(r for r in done.repairs if not done.was_before(key, r))
    return gone(replace(done, repairs=mine), sheets) if mine else frozenset()
