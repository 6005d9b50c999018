"""The job file, version 1, as Pydantic models; the JSON Schema is made from them.

Unknown keys are refused with their path, ``x-...`` keys are kept.
"""

from typing import TYPE_CHECKING, Annotated, Literal, Union

from pydantic import Field

from plumb.jobfile.finishing import (
    AskedAfter,
    ChoicePart,
    PricesPart,
    RepairPart,
    SightingPart,
    SignedPart,
    ThingPart,
)
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.models import JobPart, Part, SheetPart, VehiclePart

if TYPE_CHECKING:
    AnySheet = SheetPart
else:
    AnySheet = Annotated[
        Union[tuple(kind.model for kind in FILE_KINDS.values())],  # noqa: UP007  made of a list
        Field(discriminator="kind"),
    ]
"""A sheet of any kind, told by its ``kind``."""


class JobFile(Part):
    """A whole job: what it is about, what was measured, and what was done about it."""

    plumb: Literal[1]
    job: JobPart = JobPart()
    vehicle: VehiclePart
    sheets: list[AnySheet] = Field([], max_length=200)
    prices: PricesPart | None = None
    choices: list[ChoicePart] = Field([], max_length=50)
    sightings: list[SightingPart] = Field([], max_length=40)
    repairs: list[RepairPart] = Field([], max_length=200)
    things: list[ThingPart] = Field([], max_length=40)
    asked_after: AskedAfter = Field({})
    signed: list[SignedPart] = Field([], max_length=20)
