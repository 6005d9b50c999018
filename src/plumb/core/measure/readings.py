"""What is typed on the sheets: whatever was noted on a row, one figure, one word."""

from collections.abc import Iterable
from dataclasses import dataclass
from enum import StrEnum


class Mark(StrEnum):
    """What stands in place of a figure, or beside it."""

    NONE = "none"
    NOT_READ = "not_read"
    READ_LATE = "read_late"
    OVER = "over"


@dataclass(frozen=True, slots=True, kw_only=True)
class Value:
    """One figure of one injector in the core's unit (kPa, ohm, V, ml), None where not a number."""

    injector: str
    number: int
    value: float | None
    mark: Mark | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Seen:
    """One word of one injector: how its command looked, how its tip looked."""

    injector: str
    word: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Noted:
    """Whatever was noted on one row of a sheet of any kind, in the core's units.

    ``injector`` is empty where the row is a ``slot`` of the sheet: a state of the engine, a step of
    the isolation board, a moment (``at_s``).  Pressures are kPa, shims mm, ``supply_v`` is what drove the injector; what the kind of sheet
    does not have stays None.
    """

    injector: str
    number: int = 1
    slot: str = ""
    at_s: float | None = None
    first: float | None = None
    second: float | None = None
    value: float | None = None
    word: str | None = None
    mark: Mark | None = None
    sound: str | None = None
    fires_at: float | None = None
    spray: str | None = None
    seat: str | None = None
    shim_mm: float | None = None
    supply_v: float | None = None

    def __hash__(self) -> int:
        """By what nearly always tells two apart: rows of readings are looked up while one is typed."""
        return hash((self.injector, self.number, self.first, self.second, self.value))


def values_of(rows: Iterable[Noted]) -> tuple[Value, ...]:
    """The rows of a sheet that takes one figure an injector."""
    return tuple(
        Value(injector=r.injector, number=r.number, value=r.value, mark=r.mark) for r in rows
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """A lower and an upper limit in the core's unit with who says so; None where there is none.

    ``spread`` is the largest difference allowed across the set.
    """

    low: float | None = None
    high: float | None = None
    spread: float | None = None
    source: str = ""

    @property
    def stated(self) -> bool:
        """Whether there is any limit on the value itself."""
        return self.low is not None or self.high is not None
