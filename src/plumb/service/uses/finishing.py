"""What a person does from the verdict on: choose a way, note repairs, tick, ask again, close and sign."""

from dataclasses import dataclass
from datetime import date, timedelta
from decimal import Decimal
from typing import Any, Final

from pydantic import ValidationError
from sqlalchemy import Connection, Engine

import plumb
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import NotThere, PlumbError, Problem
from plumb.core.mend.finish import Finished
from plumb.core.mend.told import says
from plumb.core.mend.words import chosen_words
from plumb.jobfile.exact import dumps
from plumb.jobfile.finishing import ChoicePart, RepairPart, SightingPart, ThingPart
from plumb.jobfile.models import FittedPartPart
from plumb.jobfile.reading import check, problems_of
from plumb.jobfile.results import result_json
from plumb.service.screens.finishing import distance_shown, reason_for
from plumb.service.stored.analysis import weighed
from plumb.service.stored.commonness import common_here
from plumb.service.stored.finishing import (
    after_of,
    choice_values,
    part_values,
    prices_here,
    repair_values,
    sighting_values,
    utc,
)
from plumb.service.stored.known import known_job, known_labels, still_open
from plumb.service.stored.others import all_with_others
from plumb.service.stored.parts import instant, noted_now, now, now_typed
from plumb.service.uses.jobs import km_of, show_job
from plumb.service.uses.transfer import job_json
from plumb.service.views.finishing import LookAgainView
from plumb.service.views.job import JobView
from plumb.store import causes, sightings
from plumb.store import finishing as store
from plumb.store import jobs as job_store
from plumb.store import sheets as sheet_store
from plumb.store.actor import signed
from plumb.store.finishing import Kept
from plumb.store.records import InjectorRecord, JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import retried, transaction

_A_SECOND: Final = timedelta(seconds=1)


def _checked(model: Any, values: dict[str, Any]) -> Any:  # noqa: ANN401  a model of the file
    """A part of the file from what came; :class:`PlumbError` with every problem."""
    try:
        return model.model_validate({k: v for k, v in values.items() if v is not None})
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error


def _open_job(connection: Connection, number: str) -> tuple[JobRecord, VehicleRecord]:
    """A job that is still open, held until the transaction ends."""
    job, vehicle = known_job(connection, number, lock=True)
    still_open(closed=job.closed_at is not None, number=number)
    return job, vehicle


@retried
def _choose(engine: Engine, number: str, choice_id: str, values: dict[str, Any]) -> None:
    with transaction(engine) as connection:
        job, vehicle = _open_job(connection, number)
        km = km_of(values.get("look_at"), vehicle.distance_unit)
        again = {"on": values.get("look_on"), "distance_km": km and Decimal(km)}
        look = {k: v for k, v in again.items() if v} or None
        part: ChoicePart = _checked(
            ChoicePart,
            {n: values.get(n) for n in ("option", "injectors", "reason")}
            | {"by": signed(values.get("by") or ""), "look_again": look},
        )
        known_labels(connection, vehicle.id, tuple(part.injectors))
        row = choice_values(part, job.id, noted_now(job, "milliseconds"))
        store.add_choice(connection, {"id": choice_id, **row})


def choose(
    engine: Engine, number: str, choice_id: str, values: dict[str, Any], thresholds: Thresholds
) -> JobView:
    """Choose a way to put it right; every choice stays in the record."""
    _choose(engine, number, choice_id, values)
    return show_job(engine, number, thresholds)


@retried
def _repair(engine: Engine, number: str, repair_id: str, values: dict[str, Any]) -> None:
    part: RepairPart = _checked(RepairPart, values | {"by": signed(values.get("by") or "")})
    with transaction(engine) as connection:
        job, vehicle = _open_job(connection, number)
        if store.repair_by_id(connection, repair_id) is not None:
            return
        labels = tuple(x for x in (part.injector, part.with_) if x)
        ids = known_labels(connection, vehicle.id, labels)
        at = part.at or _when(connection, job, [ids[x] for x in labels])
        row = repair_values(part, (job.id, vehicle.id), ids, at)
        fitted = part_values(part.part or FittedPartPart()) if part.done == "replaced" else None
        if part.part is not None:
            fitted = part_values(part.part)
        store.add_repair(connection, {"id": repair_id, **row}, fitted)
        sheet_store.touch_sheets_of(connection, job.id)


def _when(connection: Connection, job: JobRecord, injectors: list[int]) -> str:
    """When it was done, where nobody says: now, or just before the sheet that was taken after it.

    Who measures first and notes the repair then has not repaired it after measuring.
    """
    done = [
        r.at for r in store.repairs_of(connection, job.id)
        if {r.injector_id, r.with_id} & set(injectors)
    ]  # fmt: skip
    for whole in sheet_store.sheets_of(connection, job.id):
        read = {r.injector_id for r in whole.readings}
        later = not done or whole.sheet.taken_at > max(done)
        if after_of(whole) and later and (not injectors or read & set(injectors)):
            return (utc(whole.sheet.taken_at) - _A_SECOND).isoformat(timespec="seconds")
    return noted_now(job)


def repair(
    engine: Engine, number: str, repair_id: str, values: dict[str, Any], thresholds: Thresholds
) -> JobView:
    """Note what was done; the same id twice is once."""
    _repair(engine, number, repair_id, values)
    return show_job(engine, number, thresholds)


def _not_there(path: str, rule: str, value: str) -> NotThere:
    """That a job has no such thing."""
    return NotThere(Problem(path=path, rule=rule, value=value, code=f"no_such_{path}"))


@retried
def _take_back(engine: Engine, number: str, repair_id: str) -> None:
    with transaction(engine) as connection:
        job, _ = _open_job(connection, number)
        there = store.repair_by_id(connection, repair_id)
        if there is None or there.job_id != job.id:
            raise _not_there("repair", "there is no such repair on this job", repair_id)
        store.take_back(connection, repair_id)
        sheet_store.touch_sheets_of(connection, job.id)


def take_back(engine: Engine, number: str, repair_id: str, thresholds: Thresholds) -> JobView:
    """Take a repair back that was noted by mistake; it stays in the store."""
    _take_back(engine, number, repair_id)
    return show_job(engine, number, thresholds)


@retried
def _find(engine: Engine, number: str, sighting_id: str, values: dict[str, Any]) -> None:
    part: SightingPart = _checked(SightingPart, values | {"by": signed(values.get("by") or "")})
    with transaction(engine) as connection:
        job, vehicle = _open_job(connection, number)
        ids = known_labels(connection, vehicle.id, (part.injector,) if part.injector else ())
        row = sighting_values(part, (job.id, vehicle.id), ids, noted_now(job, "milliseconds"))
        sightings.add_sighting(connection, {"id": sighting_id, **row})
        sheet_store.touch_sheets_of(connection, job.id)


def find(
    engine: Engine, number: str, sighting_id: str, values: dict[str, Any], thresholds: Thresholds
) -> JobView:
    """Note a cause that a person found by eye, hand or ear; the same id twice is once."""
    _find(engine, number, sighting_id, values)
    return show_job(engine, number, thresholds)


@retried
def _take_sighting_back(engine: Engine, number: str, sighting_id: str) -> None:
    with transaction(engine) as connection:
        job, _ = _open_job(connection, number)
        if not sightings.take_sighting_back(connection, job.id, sighting_id):
            raise _not_there("sighting", "nothing of that name was found on this job", sighting_id)
        sheet_store.touch_sheets_of(connection, job.id)


def take_sighting_back(
    engine: Engine, number: str, sighting_id: str, thresholds: Thresholds
) -> JobView:
    """Take back what was noted as found by mistake; it stays in the store."""
    _take_sighting_back(engine, number, sighting_id)
    return show_job(engine, number, thresholds)


@retried
def _tick(engine: Engine, number: str, values: dict[str, Any], *, clear: bool) -> None:
    part: ThingPart = _checked(ThingPart, values)
    with transaction(engine) as connection:
        job, _ = _open_job(connection, number)
        if clear:
            store.drop_thing(connection, job.id, part.what)
            return
        row = part.model_dump(include={"what", "done", "reason"})
        store.put_thing(
            connection,
            {"job_id": job.id, **row, "by_whom": signed(part.by), "at_typed": now_typed()},
        )


def tick(
    engine: Engine, number: str, values: dict[str, Any], thresholds: Thresholds, *, clear: bool
) -> JobView:
    """Tick something that goes with the repair, set it aside with a reason, or take that back."""
    _tick(engine, number, values, clear=clear)
    return show_job(engine, number, thresholds)


@retried
def _answer(engine: Engine, number: str, word: str, answer: str, by: str) -> None:
    with transaction(engine) as connection:
        job, _ = _open_job(connection, number)
        if not answer:
            store.drop_answer(connection, job.id, word)
            return
        row = {
            "job_id": job.id,
            "word": word,
            "answer": answer,
            "by_whom": signed(by),
            "at_typed": now_typed(),
        }
        store.put_answer(connection, row)


def answer(
    engine: Engine, number: str, word: str, answer: str, by: str, thresholds: Thresholds
) -> JobView:
    """Note what became of a word of the complaint; an empty answer takes it back."""
    _answer(engine, number, word, answer, by)
    return show_job(engine, number, thresholds)


@dataclass(frozen=True, slots=True, kw_only=True)
class Signature:
    """Who signs, why where something is left, and what was drawn with a finger."""

    by: str
    reason: str = ""
    hand: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class _There:
    """A job with all that closing looks at."""

    job: JobRecord
    vehicle: VehicleRecord
    injectors: tuple[InjectorRecord, ...]
    sheets: list[WholeSheet]
    kept: Kept
    done: Finished


def _there(connection: Connection, number: str, thresholds: Thresholds) -> _There:
    job, vehicle = _open_job(connection, number)
    injectors = sheet_store.injectors_of(connection, vehicle.id)
    sheets = all_with_others(connection, sheet_store.sheets_of(connection, job.id))
    kept = store.kept_of(connection, job.id)
    common = common_here(connection, vehicle.fuel_system)
    done = weighed(job, vehicle, injectors, sheets, thresholds, common, kept)
    return _There(
        job=job, vehicle=vehicle, injectors=injectors, sheets=sheets, kept=kept, done=done
    )


@retried
def _close(engine: Engine, number: str, signature: Signature, thresholds: Thresholds) -> None:
    with transaction(engine) as connection:
        there = _there(connection, number, thresholds)
        asked = reason_for(there.done, there.kept)
        if asked and not signature.reason.strip():
            raise PlumbError(
                Problem(path="reason", rule=f"a reason is needed: {asked}", code="reason_needed")
            )
        job = there.job
        prices = prices_here(connection, job, there.vehicle, there.kept)
        file = check(job_json(connection, job, there.vehicle))
        result = {**result_json(file, there.done), "says": says(there.done)}
        at = now_typed()
        store.sign(
            connection,
            {
                "job_id": job.id, "by_whom": signed(signature.by.strip()), "at": instant(at), "at_typed": at,
                "reason": signature.reason.strip(), "hand": signature.hand or None,
                "version": plumb.__version__, "result": dumps(result),
            },
        )  # fmt: skip
        job_store.change_job(connection, job.id, {"closed_at": now(), "prices": prices or None})
        sheet_store.touch_sheets_of(connection, job.id)
        _learn(connection, there)


def _learn(connection: Connection, there: _There) -> None:
    """What this job has shown counts from now on: how often cleaning cures, which causes there are."""
    ids = {i.label: i.id for i in there.injectors}
    found = {label: v.condition for label, v in there.done.found.verdicts}
    words = {p.injector: p.word for p in there.done.pairs if p.word != "not_settled"}
    cleaned = {r.injector for r in there.done.repairs if r.done == "cleaned"}
    store.count_cured(
        connection,
        there.job.id,
        [
            (ids[x], found[x], words[x] == "put_right")
            for x in cleaned
            if x in ids and x in words and x in found
        ],
    )
    if not there.done.over:
        return
    repaired = {p for r in there.done.repairs for p in r.places}
    engine = {r.cause for r in there.done.repairs if r.cause}
    for cause in there.done.found.diagnosis.found:
        if cause.place in repaired or (not cause.place and cause.fault.code in engine):
            causes.confirm(connection, there.job.id, cause.fault.code, cause.place)


def close(engine: Engine, number: str, signature: Signature, thresholds: Thresholds) -> JobView:
    """Close a job and sign it: what was decided is kept as it is.

    :class:`PlumbError` without a reason where something is left open.
    """
    _close(engine, number, signature, thresholds)
    return show_job(engine, number, thresholds)


@retried
def look_again(engine: Engine, on: date) -> list[LookAgainView]:
    """Vehicles whose fault was left, and whose day to be looked at again has come."""
    with transaction(engine) as connection:
        return [
            LookAgainView(
                number=number, vehicle_id=vehicle.id, vehicle=vehicle.name,
                registration=vehicle.registration,
                words=choice.reason or chosen_words(choice.way, choice.injectors),
                look_on=choice.look_on.isoformat() if choice.look_on else "",
                look_at=distance_shown(choice.look_km_typed, vehicle.distance_unit),
            )
            for number, vehicle, choice in store.due_to_look(connection, on)
        ]  # fmt: skip
