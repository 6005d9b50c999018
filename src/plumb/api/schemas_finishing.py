"""What the API takes in of a job from its verdict on."""

from typing import Annotated, Literal

from pydantic import Field

from plumb.api.schemas import Body, Typed
from plumb.jobfile.finishing import Answer, Cause, Done, Hand, Option, Thing, Word
from plumb.jobfile.models import MOST_INJECTORS, Label

By = Annotated[str, Field(max_length=40, description="who it is, as typed", examples=["Ines K."])]
Note = Annotated[str, Field(max_length=500)]


class ChoiceIn(Body):
    """The way that is chosen, why, and when to look again where it is to wait."""

    option: Option
    injectors: list[Label] = Field([], max_length=MOST_INJECTORS)
    reason: Note = ""
    by: By = ""
    look_on: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")] | None = None
    look_at: Typed | None = Field(None, description="distance, in the vehicle’s unit")


class PartIn(Body):
    """What is known of a part."""

    make: Annotated[str, Field(max_length=60)] = ""
    number: Annotated[str, Field(max_length=60)] = ""
    serial: Annotated[str, Field(max_length=60)] = ""
    mark: Annotated[str, Field(max_length=60)] = ""
    note: Annotated[str, Field(max_length=200)] = ""
    code: Annotated[str, Field(max_length=60)] = ""


class RepairIn(Body):
    """What was done to an injector; with ``cause``, on the engine.  Without ``at`` it was just now."""

    injector: Label | None = None
    done: Done
    swapped_with: Label | None = None
    cause: Annotated[str, Field(max_length=30)] = ""
    at: Annotated[str, Field(max_length=40)] | None = None
    part: PartIn | None = None
    by: By = ""
    note: Note = ""


class SightingIn(Body):
    """A cause that a person found: one of the list, or ``other`` with words of one's own."""

    fault: Cause
    injector: Label | None = None
    words: Annotated[str, Field(max_length=120)] = ""
    how: Annotated[str, Field(max_length=200)] = ""
    explains: list[Word] = Field([], max_length=20)
    by: By = ""


class ThingIn(Body):
    """Something that goes with the repair; ``state`` empty takes back what was noted."""

    what: Thing
    state: Literal["", "done", "aside"]
    reason: Annotated[str, Field(max_length=200)] = ""
    by: By = ""


class AnswerIn(Body):
    """What became of a word of the complaint; empty takes it back."""

    answer: Answer | Literal[""]
    by: By = ""


class ClosingIn(Body):
    """Who closes the job; a reason where something is left, and strokes of a finger."""

    by: Annotated[str, Field(min_length=1, max_length=40, pattern=r"\S")]
    reason: Note = ""
    hand: Hand = ""


class ShopIn(Body):
    """The shop as its papers name it."""

    name: Annotated[str, Field(max_length=120)] = ""
    address: Annotated[str, Field(max_length=500)] = ""
    currency: Annotated[str, Field(pattern=r"^([A-Z]{3})?$")] = ""


class PhotoIn(Body):
    """What is on a photo, and whether it goes into the report; what is left out stays."""

    note: Annotated[str, Field(max_length=200)] | None = None
    in_report: bool | None = None
