"""How an exercise was worked so far: minutes, hints, incidents, what was put right; kept with the run.

Minutes are those of the procedures (:class:`plumb.core.procedures.kind.Effort`), not of the clock: whoever
thinks longer pays nothing.  A sheet that is begun is paid once, for all injectors where it is done on
all or not at all; every row beyond that is paid for itself.

>>> worked = Progress()
>>> worked.sheet("s1", "pressure_drop", count=4)
>>> worked.rows("pressure_drop", ["1", "2", "1"])
>>> [(c.what, c.minutes) for c in worked.charges]
[('Drop per injector', 9.0), ('Drop per injector: 1 again', 1.5)]
"""

from collections.abc import Sequence
from typing import Final

from pydantic import BaseModel, ConfigDict

from plumb.core.procedures import BY_CODE
from plumb.practice.marks import Incident

REPAIR_MIN: Final = 30.0
"""Minutes of putting something right on the engine; invented."""


class _Kept(BaseModel):
    """Kept as JSON."""

    model_config = ConfigDict(extra="ignore")


class Charge(_Kept):
    """Minutes that were spent on something."""

    what: str
    minutes: float


class Happened(_Kept):
    """What could have hurt someone, and at which minute of the job."""

    what: str
    minute: float


class Told(_Kept):
    """Something seen: where, in words, and the file of what was recorded."""

    row: str
    text: str
    file: str = ""


class Marked(_Kept):
    """One line of the marks."""

    what: str
    got: float
    of: float
    why: str
    minute: float | None


class Progress(_Kept):
    """All that is kept of a run beside its job.

    ``done`` are the rows done on the newest sheet of a kind; ``told`` is what was seen last, ``about`` on which
    sheet; ``hint`` is the last one.
    """

    charges: list[Charge] = []
    sheets: list[str] = []
    done: dict[str, dict[str, int]] = {}
    incidents: list[Happened] = []
    hints: int = 0
    hint: str = ""
    repaired: list[str] = []
    lifted: bool = False
    about: str = ""
    told: list[Told] = []
    marks: list[Marked] = []
    truth: list[str] = []
    money: float = 0.0

    @property
    def minutes(self) -> float:
        """All of them."""
        return sum(c.minutes for c in self.charges)

    def pay(self, what: str, minutes: float) -> None:
        """Minutes for something."""
        if minutes > 0.0:
            self.charges.append(Charge(what=what, minutes=minutes))

    def sheet(self, key: str, kind: str, *, count: int) -> None:
        """A sheet is there: paid when it is seen for the first time."""
        if key in self.sheets:
            return
        self.sheets.append(key)
        self.done[kind] = {}
        card = BY_CODE[kind]
        self.pay(card.title, card.effort.minutes(count if card.effort.whole_set else 0))

    def rows(self, kind: str, rows: Sequence[str]) -> None:
        """Rows of a kind were done: paid where the sheet did not pay for them, and when done again."""
        card = BY_CODE[kind]
        done = self.done.setdefault(kind, {})
        for row in rows:
            done[row] = done.get(row, 0) + 1
            again = done[row] > 1
            if again or not card.effort.whole_set:
                self.pay(f"{card.title}: {row}{' again' if again else ''}", card.effort.each)

    def danger(self, what: str) -> None:
        """Something that could have hurt someone."""
        self.incidents.append(Happened(what=what, minute=round(self.minutes, 1)))

    def as_incidents(self) -> tuple[Incident, ...]:
        """The same for the marks."""
        return tuple(Incident(i.what, i.minute) for i in self.incidents)
