"""A sheet's readings as CSV, in and out.  In: a preview first, then all or nothing."""

from decimal import Decimal

from sqlalchemy import Engine

from plumb.core.problems import PlumbError, Problem
from plumb.jobfile.csvfile import Target, parse_csv, write_csv
from plumb.jobfile.models import DropReadingPart, DropSheetPart, GaugePart
from plumb.jobfile.reading import sheet_problems
from plumb.service.sheets import known_sheet
from plumb.service.transfer import reading_columns, sheet_json
from plumb.service.views import ImportView
from plumb.store import sheets as sheet_store
from plumb.store.records import WholeSheet
from plumb.store.session import transaction


def _target(whole: WholeSheet) -> Target:
    return Target(
        job=whole.job_number,
        sheet=whole.sheet.key,
        unit=whole.sheet.unit,
        injectors=tuple(i.label for i in whole.injectors),
    )


def export_csv(engine: Engine, sheet_id: int) -> str:
    """A sheet's readings as CSV."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
    readings = [DropReadingPart.model_validate(r) for r in sheet_json(whole)["readings"]]
    return write_csv(_target(whole), readings)


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
                problems=[p.text() for p in error.problems],
            )
        if store_it and readings:
            ids = {i.label: i.id for i in whole.injectors}
            start = max((r.sequence for r in whole.readings), default=0) + 1
            sheet_store.add_readings(
                connection,
                [
                    reading_columns(r, n, part, sheet_id, whole.sheet.vehicle_id, ids[r.injector])
                    for n, r in enumerate(readings, start)
                ],
            )
            sheet_store.touch_sheet(connection, sheet_id)
    names = len({r.injector for r in readings})
    summary = f"{len(readings)} readings of {names} injectors."
    return ImportView(
        fits=True,
        stored=store_it,
        summary=summary,
        job_number=whole.job_number,
        readings=len(readings),
        problems=[],
    )


def _checked(text: bytes, whole: WholeSheet) -> tuple[list[DropReadingPart], DropSheetPart]:
    """The readings of a CSV, checked against the sheet and against what is on it already."""
    try:
        decoded = text.decode("utf-8")
    except UnicodeDecodeError as error:
        raise PlumbError(
            Problem(path=f"byte {error.start}", rule="the file is UTF-8 text", code="not_utf8")
        ) from error
    target = _target(whole)
    readings = parse_csv(decoded, target)
    gauge = GaugePart(step=Decimal(whole.sheet.gauge_step_typed))
    part = DropSheetPart(
        kind="pressure_drop",
        id=whole.sheet.key,
        unit=whole.sheet.unit,
        gauge=gauge,
        readings=readings,
    )
    problems = list(sheet_problems(part, set(target.injectors), "file"))
    labels = {i.id: i.label for i in whole.injectors}
    there = {(labels[r.injector_id], r.number) for r in whole.readings}
    problems += [
        Problem(
            path=f"injector {r.injector}, pass {r.pass_}",
            code="slot_taken",
            rule="this sheet has that pass already; give it another pass number",
        )
        for r in readings
        if (r.injector, r.pass_) in there
    ]
    if problems:
        raise PlumbError(problems)
    return readings, part
