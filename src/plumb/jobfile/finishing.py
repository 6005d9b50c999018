"""What the job file says from the verdict on: prices, choices, repairs, what was asked afterwards.

>>> RepairPart.model_validate({"injector": "4", "done": "cleaned"}).core().done
'cleaned'
"""

from datetime import datetime
from typing import TYPE_CHECKING, Annotated, Any, Final, Literal, Self

from pydantic import Field, model_validator

from plumb.core.causes.sighting import Sighting
from plumb.core.causes.table import FAULTS
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.mend.finish import ANSWERS
from plumb.core.mend.goes_with import THINGS
from plumb.core.mend.options import OPTIONS, Prices
from plumb.core.mend.repairs import DONE, ENGINE_ONLY, Repair
from plumb.jobfile.models import Day, FittedPartPart, Instant, Label, NotNegative, Part, Positive

if TYPE_CHECKING:
    Done = str
    Cause = str
    Option = str
    Answer = str
    Word = str
    Thing = str
else:
    Done = Literal[tuple(DONE)]
    Cause = Literal[tuple(FAULTS)]
    Option = Literal[tuple(OPTIONS)]
    Answer = Literal[tuple(ANSWERS)]
    Word = Literal[tuple(COMPLAINTS)]
    Thing = Literal[tuple(THINGS)]

_CURRENCY: Final = r"[A-Z]{3}"
Person = Annotated[str, Field(max_length=40)]


Hand = Annotated[str, Field(max_length=20_000, pattern=r"^[ML0-9 .]*$")]
"""Strokes: M and L with figures, nothing else, so that it can be drawn as it is."""


class PricesPart(Part):
    """What the shop charges; ``currency`` is its code of three letters (ISO 4217)."""

    currency: str = Field("", pattern=f"^({_CURRENCY})?$")
    labour_per_hour: NotNegative | None = None
    reach_minutes: NotNegative | None = None
    each_minutes: NotNegative | None = None
    part: NotNegative | None = None
    cleaning: NotNegative | None = None
    rebuild: NotNegative | None = None

    def core(self) -> Prices:
        """The prices for the core."""
        figures = {n: getattr(self, n) for n in type(self).model_fields if n != "currency"}
        return Prices(
            currency=self.currency,
            **{n: None if v is None else float(v) for n, v in figures.items()},
        )


class RepairPart(Part):
    """What was done to one injector, or (with ``cause``) to the engine."""

    injector: Label | None = None
    done: Done
    with_: Label | None = Field(None, alias="with")
    cause: str = Field("", max_length=30)
    at: Instant | None = None
    part: FittedPartPart | None = None
    by: Person = ""
    note: str = Field("", max_length=500)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.injector is None) != (self.done == ENGINE_ONLY):
            message = (
                "name the injector it was done to; put_right is said of the engine, with its cause"
            )
            raise ValueError(message)
        if self.done == ENGINE_ONLY and self.cause not in FAULTS:
            message = f"a cause of the engine is needed, one of {', '.join(FAULTS)}"
            raise ValueError(message)
        if self.done != ENGINE_ONLY and self.cause:
            message = "only what was put right on the engine names a cause"
            raise ValueError(message)
        if (self.with_ is not None) != (self.done == "swapped"):
            message = "a swap, and only a swap, says with which other injector"
            raise ValueError(message)
        if self.with_ is not None and self.with_ == self.injector:
            message = "an injector is swapped with another one"
            raise ValueError(message)
        if self.part is not None and self.done not in {"replaced", "rebuilt"}:
            message = "a part is named where one was put in: replaced or rebuilt"
            raise ValueError(message)
        return self

    def core(self) -> Repair:
        """The repair for the core."""
        return Repair(
            injector=self.injector or "",
            done=self.done,
            at=datetime.fromisoformat(self.at) if self.at else None,
            swapped_with=self.with_ or "",
            cause=self.cause,
            part=self.part.core() if self.part else None,
            by=self.by,
            note=self.note,
        )


class SightingPart(Part):
    """A cause that a person found: of the table, or (as ``other``) in words of one's own."""

    fault: Cause
    injector: Label | None = None
    words: str = Field("", max_length=120)
    how: str = Field("", max_length=200)
    explains: list[Word] = Field([], max_length=len(COMPLAINTS))
    at: Instant | None = None
    by: Person = ""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        sighting = self.core()
        if sighting.own and not self.words.strip():
            message = "what the list has no name for is told in words of its own"
            raise ValueError(message)
        if not sighting.own and sighting.needs_place and self.injector is None:
            message = "name the injector it was found at"
            raise ValueError(message)
        if not sighting.needs_place and not sighting.own and self.injector is not None:
            message = "that is found on the engine, at no injector"
            raise ValueError(message)
        return self

    def core(self) -> Sighting:
        """What was found, for the core."""
        return Sighting(
            fault=self.fault,
            place=self.injector or "",
            words=self.words.strip(),
            how=self.how.strip(),
            explains=tuple(self.explains),
            at=datetime.fromisoformat(self.at) if self.at else None,
        )


class LookAgainPart(Part):
    """When a fault that was left is looked at again: by a day, a distance, or both."""

    on: Day | None = None
    distance_km: Positive | None = None


class ChoicePart(Part):
    """The way that was chosen, by whom and why."""

    option: Option
    injectors: list[Label] = Field([], max_length=32)
    reason: str = Field("", max_length=500)
    by: Person = ""
    at: Instant | None = None
    look_again: LookAgainPart | None = None


class ThingPart(Part):
    """Something that goes with the repair: done, or set aside with a reason."""

    what: Thing
    done: bool = True
    reason: str = Field("", max_length=200)
    by: Person = ""
    at: Instant | None = None

    @model_validator(mode="after")
    def _told(self) -> Self:
        if not self.done and not self.reason.strip():
            message = "what is set aside says why"
            raise ValueError(message)
        return self


class SignedPart(Part):
    """A signature under the finished job; ``reason`` where nothing was measured after the repair.

    ``plumb`` is the version that decided, ``result`` what it decided, kept as it was; ``hand`` is what was
    drawn with a finger, as the path of a drawing 300 wide and 100 high.
    """

    by: str = Field(min_length=1, max_length=40)
    at: Instant
    reason: str = Field("", max_length=500)
    plumb: str = Field("", max_length=20)
    hand: Hand = ""
    result: dict[str, Any] | None = None


AskedAfter = dict[Word, Answer]
