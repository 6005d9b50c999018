"""From a checked sheet of the file to what the core analyses: kPa, ohm, V, ml, fractions."""

from collections.abc import Iterator

from pydantic import BaseModel

from plumb.core.measure.spoken import starts, words_in
from plumb.core.procedures import Sheet
from plumb.core.weigh.job import Job
from plumb.jobfile.file import JobFile
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.kinds.kind import Engine, noted
from plumb.jobfile.models import SheetPart, VehiclePart


def entries_of(part: SheetPart) -> Iterator[BaseModel]:
    """Every reading of a sheet, of whichever list."""
    for name in FILE_KINDS[part.kind].entries:
        yield from getattr(part, name)


def engine_of(vehicle: VehiclePart, *, starts: bool = True) -> Engine:
    """The engine that the sheets of a file are for."""
    return Engine(
        labels=tuple(i.id for i in vehicle.injectors),
        cylinders={i.id: i.cylinder for i in vehicle.injectors},
        starts=starts,
        fuel_system=vehicle.fuel_system,
    )


def core_sheet(part: SheetPart, engine: Engine) -> Sheet:
    """A sheet of the file for the core."""
    unit = str(getattr(part, "unit", ""))
    rows = tuple(noted(entry, unit, engine) for entry in entries_of(part))
    return FILE_KINDS[part.kind].core(part, rows, engine)


def core_job(file: JobFile) -> Job:
    """The whole job for the core."""
    walked = [noted for s in file.sheets if (noted := getattr(s, "complaint", None)) is not None]
    engine = engine_of(
        file.vehicle, starts=starts(file.job.complaint, walked[-1] if walked else ())
    )
    return Job(
        injectors=engine.labels,
        sheets=tuple((s.id, core_sheet(s, engine)) for s in file.sheets),
        fuel_system=file.vehicle.fuel_system,
        feeds={i.id: i.feed for i in file.vehicle.injectors if i.feed},
        banks={i.id: i.bank for i in file.vehicle.injectors if i.bank},
        set_aside=frozenset(s.kind for s in file.job.set_aside),
        said=words_in(file.job.complaint),
    )
