"""What a person found without a sheet: by eye, hand or ear, on the engine or at one injector.

>>> push_rod = Sighting(fault="other", words="a bent push rod", explains=("smoke_black",))
>>> push_rod.as_fault().words, push_rod.as_fault().brings
('a bent push rod', {'smoke_black': 0.6})
"""

from dataclasses import dataclass, replace
from datetime import datetime
from typing import Final

from plumb.core.causes.fault import ENGINE, OFTEN, Fault
from plumb.core.causes.shows import Shows
from plumb.core.causes.table import FAULTS

OWN_WORDS: Final = FAULTS["other"].code
"""The fault under which stands what the table has no name for."""
_MISTAKEN: Final = 1e-6
"""A person who says that he has it in his hand is believed; not more than the arithmetic can bear."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Sighting:
    """One cause that a person found.

    ``fault`` is its code in the table, ``other`` for words of one's own; ``place`` the injector it is
    at (``""``: the engine); ``words`` what was found, ``how`` how it was seen; ``explains`` the words of
    the complaint that it is said to explain, beside those that the table knows; ``at`` when it was.
    """

    fault: str
    place: str = ""
    words: str = ""
    how: str = ""
    explains: tuple[str, ...] = ()
    at: datetime | None = None

    @property
    def needs_place(self) -> bool:
        """Whether it is of an injector, its cylinder or its feed: then it has a place."""
        return FAULTS[self.fault].of != ENGINE

    @property
    def own(self) -> bool:
        """Whether it stands in words of one's own."""
        return self.fault == OWN_WORDS

    def as_fault(self) -> Fault:
        """The fault as it is told: with its own words, and with what it is said to explain."""
        fault = FAULTS[self.fault]
        if self.own:
            told = self._brings(fault)
            return replace(fault, words=self.words, brings=told, outside=frozenset())
        return self.over(fault)

    def over(self, fault: Fault) -> Fault:
        """A fault with what this one is said to explain laid over what the table says it brings."""
        return replace(fault, brings={**fault.brings, **self._brings(fault)})

    def _brings(self, fault: Fault) -> dict[str, float]:
        return {word: max(OFTEN, fault.brings.get(word, 0.0)) for word in self.explains}

    def shows(self) -> Shows:
        """How much it weighs: as good as certain."""
        name = f"found by a person: {self.fault}"
        return Shows(
            name=name,
            columns=("", name),
            sound=(1.0 - _MISTAKEN, _MISTAKEN),
            rows={self.fault: (_MISTAKEN, 1.0 - _MISTAKEN)},
        )

    def told(self) -> str:
        """What was found and how it was seen, for a person."""
        found = self.words or FAULTS[self.fault].words
        return f"{found}, {self.how}" if self.how else f"{found}, found by a person"
