"""From a checked sheet of the file to what the core analyses: kPa, ohm, V, ml, fractions."""

from collections.abc import Iterator
from dataclasses import replace
from datetime import datetime
from typing import Any, cast

from pydantic import BaseModel

from plumb.core.measure.codes import written
from plumb.core.measure.readings import Noted
from plumb.core.measure.spoken import starts, words_in
from plumb.core.mend.finish import Finished, finish
from plumb.core.mend.repairs import Repaired, outdated_for, renewed_for
from plumb.core.procedures import Sheet
from plumb.core.weigh.job import Job, analyse_sheet
from plumb.jobfile.carried import NOTHING, Carried, Earlier, carried_over, worked_on
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
        count=vehicle.cylinder_count,
        firing_order=tuple(vehicle.firing_order),
        sets={i.id: i.set for i in vehicle.injectors if i.set},
        retired=frozenset(i.id for i in vehicle.injectors if i.retired),
        banks={i.id: i.bank for i in vehicle.injectors if i.bank},
    )


def engine_for(part: SheetPart, engine: Engine) -> Engine:
    """The engine as one sheet has it: its set, without retired injectors that it never read."""
    read = {getattr(entry, "injector", None) for entry in entries_of(part)}
    return engine.of_set(part.set).without(engine.retired - read)


def core_sheet(part: SheetPart, engine: Engine) -> Sheet:
    """A sheet of the file for the core."""
    return core_of(part, _rows(part, engine), engine, NOTHING)


def core_of(part: SheetPart, rows: tuple[Noted, ...], engine: Engine, carried: Carried) -> Sheet:
    """A part and its rows for the core, with what is carried over from earlier sheets."""
    sheet: Any = FILE_KINDS[part.kind].core(part, (*rows, *carried.rows), engine)
    if carried is NOTHING:
        return cast("Sheet", sheet)
    told = {
        "carried": carried.labels, "read_before": carried.read_before, "renewed": carried.renewed,
    }  # fmt: skip
    # A kind whose sheets stand for themselves takes nothing over, one that sees words knows no new part.
    return cast("Sheet", replace(sheet, **{k: v for k, v in told.items() if hasattr(sheet, k)}))


def _rows(part: SheetPart, engine: Engine) -> tuple[Noted, ...]:
    unit = str(getattr(part, "unit", ""))
    return tuple(noted(entry, unit, engine) for entry in entries_of(part))


def earlier(part: SheetPart, rows: tuple[Noted, ...]) -> Earlier | None:
    """A sheet as those after it see it; None for a kind whose sheets stand for themselves."""
    method = FILE_KINDS[part.kind].method
    if method is None:
        return None
    taken = datetime.fromisoformat(part.taken) if part.taken else None
    return Earlier(key=part.id, taken=taken, method=(part.set, method(part)), rows=rows)


def _core_sheets(file: JobFile, engine: Engine) -> Iterator[tuple[str, Sheet]]:
    """Every sheet for the core; a repeat takes over what the ones before it read."""
    before: dict[str, list[Earlier]] = {}
    done = repaired_of(file)
    kinds = {s.id: s.kind for s in file.sheets}
    for part in file.sheets:
        rows = _rows(part, engine)
        mine = earlier(part, rows)
        carried = NOTHING
        if mine is not None:
            outdated = outdated_for(part.id, kinds, done)
            carried = carried_over(mine, before.get(part.kind, ()), outdated)
        carried = worked_on(carried, renewed_for(part.id, part.kind, done))
        if mine is not None:
            before.setdefault(part.kind, []).append(mine)
        yield part.id, core_of(part, rows, engine_for(part, engine), carried)


def repaired_of(file: JobFile) -> Repaired:
    """What was done and asked since the fault was found."""
    return Repaired(
        repairs=tuple(r.core() for r in file.repairs),
        after={s.id: s.after for s in file.sheets if s.after},
        taken={s.id: datetime.fromisoformat(s.taken) for s in file.sheets if s.taken},
        asked_after=dict(file.asked_after),
    )


def finished(file: JobFile) -> Finished:
    """A checked job file analysed: what was found, what was done, how it stands now."""
    job = core_job(file)
    results = tuple((key, analyse_sheet(sheet)) for key, sheet in job.sheets)
    return finish(job, results, repaired_of(file))


def core_job(file: JobFile) -> Job:
    """The whole job for the core."""
    walked = [noted for s in file.sheets if (noted := getattr(s, "complaint", None)) is not None]
    engine = engine_of(
        file.vehicle, starts=starts(file.job.complaint, walked[-1] if walked else ())
    )
    return Job(
        injectors=engine.without(engine.retired).labels,
        sheets=tuple(_core_sheets(file, engine)),
        fuel_system=file.vehicle.fuel_system,
        feeds={i.id: i.feed for i in file.vehicle.injectors if i.feed},
        banks={i.id: i.bank for i in file.vehicle.injectors if i.bank},
        set_aside=frozenset(s.kind for s in file.job.set_aside),
        said=words_in(file.job.complaint),
        codes=tuple(code for typed in file.job.codes if (code := written(typed))),
        cylinders={i.id: i.cylinder for i in file.vehicle.injectors if i.cylinder},
        sightings=tuple(s.core() for s in file.sightings),
        boosted=file.vehicle.boosted,
        accepted={a.injector: a.reason for a in file.job.accepted},
    )
