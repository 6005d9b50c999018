"""A sheet's readings as CSV, in and out.  In: a preview first, then all or nothing."""

from typing import Any

from pydantic import BaseModel
from sqlalchemy import Engine

from plumb.core.measure.problems import PlumbError, Problem, told
from plumb.jobfile.csvfile import Target, entry_model, parse_csv, write_csv
from plumb.jobfile.kinds.kind import cylinder_slot, moment_slot
from plumb.jobfile.models import SheetPart
from plumb.jobfile.reading import sheet_problems
from plumb.jobfile.to_core import entries_of
from plumb.service.stored.known import known_sheet
from plumb.service.stored.parts import (
    checked,
    engine_of,
    ids_of,
    own_slots,
    part_of,
    reading_columns,
    sheet_json,
)
from plumb.service.views.job import ImportView
from plumb.store import sheets as sheet_store
from plumb.store.records import WholeSheet
from plumb.store.session import retried, transaction


def _target(whole: WholeSheet) -> Target:
    engine = engine_of(whole)
    return Target(
        job=whole.job_number,
        sheet=whole.sheet.key,
        unit=whole.sheet.unit,
        injectors=tuple(i.label for i in whole.injectors),
        kind=whole.sheet.kind,
        cylinders={engine.at(n) or cylinder_slot(n): n for n in engine.numbers()},
        slots=own_slots(whole),
    )


@retried
def export_csv(engine: Engine, sheet_id: int) -> str:
    """A sheet's readings as CSV."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    entry = _model(whole)
    readings = [e for e in entries_of(part_of(whole)) if isinstance(e, entry)]
    return write_csv(_target(whole), readings)


def _model(whole: WholeSheet) -> type[BaseModel]:
    """What a row becomes; :class:`PlumbError` for a sheet without readings."""
    model = entry_model(whole.sheet.kind)
    if model is None:
        raise PlumbError(
            Problem(
                path="sheet", rule="this sheet has no readings", value=whole.sheet.kind,
                code="no_readings",
            )
        )  # fmt: skip
    return model


@retried
def import_csv(engine: Engine, sheet_id: int, text: bytes, *, store_it: bool) -> ImportView:
    """Readings from CSV onto a sheet: a preview, or all of them stored at once."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id, lock=store_it)
        try:
            readings, part = _checked(text, whole)
        except PlumbError as error:
            if store_it:
                raise
            return ImportView(
                fits=False,
                stored=False,
                summary="Nothing can be taken in.",
                job_number=whole.job_number,
                readings=0,
                problems=[p.text() for p in told(error.problems)],
            )
        if store_it and readings:
            ids = ids_of(whole.injectors)
            start = max((r.sequence for r in whole.readings), default=0) + 1
            sheet_store.add_readings(
                connection,
                [
                    reading_columns(r, n, part, (sheet_id, whole.sheet.vehicle_id), ids)
                    for n, r in enumerate(readings, start)
                ],
            )
            sheet_store.touch_sheet(connection, sheet_id)
    names = len({_place(r) for r in readings})
    summary = f"{len(readings)} readings in {names} rows."
    return ImportView(
        fits=True,
        stored=store_it,
        summary=summary,
        job_number=whole.job_number,
        readings=len(readings),
        problems=[],
    )


def _checked(text: bytes, whole: WholeSheet) -> tuple[list[BaseModel], SheetPart]:
    """The readings of a CSV, checked against the sheet and against what is on it already."""
    try:
        decoded = text.decode("utf-8")
    except UnicodeDecodeError as error:
        raise PlumbError(
            Problem(path=f"byte {error.start}", rule="the file is UTF-8 text", code="not_utf8")
        ) from error
    _model(whole)
    target = _target(whole)
    readings = parse_csv(decoded, target)
    data: dict[str, Any] = sheet_json(whole)
    name = next(iter(target.file_kind.entries))
    part = checked({**data, name: [r.model_dump(by_alias=True) for r in readings]})
    problems = list(sheet_problems(part, engine_of(whole), "file"))
    labels = {i.id: i.label for i in whole.injectors}
    there = {(labels.get(r.injector_id or 0) or r.slot, r.number) for r in whole.readings}
    there |= {
        (cylinder_slot(i.cylinder), r.number)
        for r in whole.readings
        for i in whole.injectors
        if i.id == r.injector_id
    }
    problems += [
        Problem(
            path=f"{_place(r)}, pass {getattr(r, 'pass_', 1)}",
            code="slot_taken",
            rule="this sheet has that reading already; give it another pass number",
        )
        for r in readings
        if (_place(r), getattr(r, "pass_", 1)) in there
    ]
    if problems:
        raise PlumbError(problems)
    return readings, part


def _place(reading: BaseModel) -> str:
    """The row of a reading: its injector, its state, its moment."""
    moment = getattr(reading, "t_s", None)
    if moment is not None:
        return moment_slot(f"{moment:f}")
    cylinder = getattr(reading, "cylinder", None)
    if cylinder is not None:
        return cylinder_slot(cylinder)
    return str(getattr(reading, "injector", None) or getattr(reading, "state", ""))
