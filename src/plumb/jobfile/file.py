"""The job file, version 1, as Pydantic models; the JSON Schema is made from them.

Unknown keys are refused with their path, ``x-...`` keys are kept.
"""

from typing import Annotated, Literal, get_args

from pydantic import Field

from plumb.jobfile.diesel import (
    CorrectionPart,
    CrankingPart,
    OpeningPart,
    RailPart,
    ReturnPart,
)
from plumb.jobfile.models import DropSheetPart, JobPart, Part, SheetKind, VehiclePart
from plumb.jobfile.sheets import (
    CoilPart,
    CoilVoltagePart,
    CommandPart,
    FlowBenchPart,
    HoldPart,
    RunningPart,
    SupplyPart,
    TipPart,
    WalkPart,
)

SheetPart = (
    WalkPart
    | SupplyPart
    | HoldPart
    | CommandPart
    | CoilPart
    | CoilVoltagePart
    | DropSheetPart
    | RunningPart
    | TipPart
    | FlowBenchPart
    | CorrectionPart
    | CrankingPart
    | ReturnPart
    | RailPart
    | OpeningPart
)
"""A sheet of any kind."""

AnySheet = Annotated[SheetPart, Field(discriminator="kind")]

PARTS: dict[str, type[SheetPart]] = {
    get_args(model.model_fields["kind"].annotation)[0]: model for model in get_args(SheetPart)
}
"""The model of each kind."""

KINDS: tuple[str, ...] = get_args(SheetKind)


class JobFile(Part):
    """A whole job."""

    plumb: Literal[1]
    job: JobPart = JobPart()
    vehicle: VehiclePart
    sheets: list[AnySheet] = Field([], max_length=200)
