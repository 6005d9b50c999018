"""From what is kept of a job since its verdict to what the core and the job file take."""

import uuid
from collections.abc import Mapping, Sequence
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any, Final

from sqlalchemy import Connection

from plumb.core.causes.sighting import Sighting
from plumb.core.measure.quantities import plain
from plumb.core.mend.cured import USUAL, Cured
from plumb.core.mend.options import Prices
from plumb.core.mend.places import Move, Stay, first_in, stays
from plumb.core.mend.repairs import Part, Repair, Repaired
from plumb.jobfile.exact import dumps, loads
from plumb.jobfile.file import JobFile
from plumb.jobfile.finishing import ChoicePart, PricesPart, RepairPart, SightingPart, SignedPart
from plumb.jobfile.models import FittedPartPart
from plumb.service.stored.commonness import learns
from plumb.service.stored.parts import filled, instant, now_typed
from plumb.store import finishing as store
from plumb.store import jobs as job_store
from plumb.store import sightings
from plumb.store.finishing import Kept, PartRecord, RepairRecord
from plumb.store.records import JobRecord, VehicleRecord, WholeSheet
from plumb.store.sightings import SightingRecord

PRICE_NAMES: Final = tuple(PricesPart.model_fields)
EVERY_VEHICLE: Final = "every vehicle"
"""The name of the prices that hold where no others do."""
_PART: Final = ("make", "number", "serial", "mark", "note", "code")


def utc(moment: datetime) -> datetime:
    """A time of the store with its offset."""
    return moment.replace(tzinfo=UTC)


def sightings_of(kept: Kept, labels: Mapping[int, str]) -> tuple[Sighting, ...]:
    """What persons found, for the core; ``labels`` are those of the injectors by id."""
    return tuple(
        Sighting(
            fault=s.fault, place=labels.get(s.injector_id or 0, ""), words=s.words, how=s.how,
            explains=tuple(s.explains), at=utc(s.at),
        )
        for s in kept.sightings
    )  # fmt: skip


def part_of_record(record: PartRecord) -> Part:
    """A part for the core."""
    return Part(**{name: getattr(record, name) for name in _PART})


def part_values(part: FittedPartPart) -> dict[str, str]:
    """A part of the file as the store keeps it."""
    return {name: getattr(part, name) for name in _PART}


def repair_of(
    record: RepairRecord, labels: Mapping[int, str], parts: Mapping[str | None, PartRecord]
) -> Repair:
    """A repair for the core; ``labels`` are those of the injectors by id."""
    part = parts.get(record.id)
    return Repair(
        injector=labels.get(record.injector_id or 0, ""),
        done=record.done,
        at=utc(record.at),
        swapped_with=labels.get(record.with_id or 0, ""),
        cause=record.cause,
        part=part_of_record(part) if part else None,
        by=record.by_whom,
        note=record.note,
    )


def repaired(kept: Kept, labels: Mapping[int, str], sheets: Sequence[WholeSheet]) -> Repaired:
    """What was done and asked since the fault was found."""
    parts = {p.repair_id: p for p in kept.parts}
    return Repaired(
        repairs=tuple(repair_of(r, labels, parts) for r in kept.repairs),
        after={w.sheet.key: after for w in sheets if (after := after_of(w))},
        taken={w.sheet.key: utc(w.sheet.taken_at) for w in sheets},
        asked_after={a.word: a.answer for a in kept.answers},
    )


def after_of(whole: WholeSheet) -> str:
    """The key of the sheet that this one repeats after a repair; empty for none."""
    return str(whole.sheet.conditions.get("after", ""))


def chances_here(connection: Connection, fuel_system: str) -> dict[str, Cured]:
    """How likely cleaning is to cure, by condition; the usual chance where the shop does not learn."""
    if not learns(connection):
        return {}
    counted = store.cured_on(connection, fuel_system)
    return {c: USUAL.counting(cured=cured, tried=tried) for c, (cured, tried) in counted.items()}


def prices_here(
    connection: Connection, job: JobRecord, vehicle: VehicleRecord, kept: Kept
) -> dict[str, Any]:
    """What is charged for a job: its own prices, else the shelf's.

    On the shelf those of a fitted part's number go before those of the vehicle's name, and these before those
    of every vehicle; figures as typed.
    """
    if job.prices:
        return dict(job.prices)
    shelf = {e.name.casefold(): e.body for e in job_store.shelf(connection, "price")}
    made: dict[str, Any] = filled(currency=store.shop(connection).currency)
    for name in (EVERY_VEHICLE, vehicle.name, *(p.number for p in kept.parts)):
        typed = shelf.get(name.casefold(), {})
        made |= {k: v if k == "currency" else Decimal(str(v)) for k, v in typed.items() if v}
    return made


def prices_of(typed: Mapping[str, Any]) -> Prices:
    """Prices for the core."""
    return PricesPart.model_validate(dict(typed)).core()


def finishing_json(
    kept: Kept, prices: Mapping[str, Any], labels: Mapping[int, str]
) -> dict[str, Any]:
    """All of that as the job file has it."""
    parts = {p.repair_id: p for p in kept.parts}
    return filled(
        prices=dict(prices),
        choices=[
            {
                **filled(
                    option=c.way, injectors=c.injectors, reason=c.reason, by=c.by_whom, at=c.at_typed,
                    look_again=filled(
                        on=c.look_on.isoformat() if c.look_on else None,
                        distance_km=None if c.look_km_typed is None else Decimal(c.look_km_typed),
                    ),
                ),
                **(c.extras or {}),
            }
            for c in kept.choices
        ],
        sightings=[_sighting_json(s, labels) for s in kept.sightings],
        repairs=[_repair_json(r, labels, parts.get(r.id)) for r in kept.repairs],
        things=[
            {
                "what": t.what, "done": bool(t.done),
                **filled(reason=t.reason, by=t.by_whom, at=t.at_typed),
            }
            for t in kept.things
        ],
        asked_after={a.word: a.answer for a in kept.answers},
        signed=[
            filled(
                by=s.by_whom, at=s.at_typed, reason=s.reason, plumb=s.version, hand=s.hand,
                result=loads(s.result) if s.result else None,
            )
            for s in kept.signatures
        ],
    )  # fmt: skip


def _sighting_json(record: SightingRecord, labels: Mapping[int, str]) -> dict[str, Any]:
    return {
        **filled(
            fault=record.fault, injector=labels.get(record.injector_id or 0), words=record.words,
            how=record.how, explains=record.explains, at=record.at_typed, by=record.by_whom,
        ),
        **(record.extras or {}),
    }  # fmt: skip


def _repair_json(
    record: RepairRecord, labels: Mapping[int, str], part: PartRecord | None
) -> dict[str, Any]:
    fitted = filled(**{n: getattr(part, n) for n in _PART}) if part else {}
    return {
        **filled(
            injector=labels.get(record.injector_id or 0), done=record.done, cause=record.cause,
            at=record.at_typed, part=fitted, by=record.by_whom, note=record.note,
        ),
        **filled(**{"with": labels.get(record.with_id or 0)}),
        **(record.extras or {}),
    }  # fmt: skip


def store_finishing(
    connection: Connection,
    file: JobFile,
    place: tuple[int, int],
    ids: Mapping[str, int],
) -> None:
    """Keep what a job file says from the verdict on; ``place`` are the ids of job and vehicle."""
    job_id, _ = place
    opened = file.job.opened or now_typed()
    for repair in file.repairs:
        part = part_values(repair.part) if repair.part else None
        values = repair_values(repair, place, ids, repair.at or opened)
        store.add_repair(connection, {"id": str(uuid.uuid4()), **values}, part)
    for sighting in file.sightings:
        row = sighting_values(sighting, place, ids, sighting.at or opened)
        sightings.add_sighting(connection, {"id": str(uuid.uuid4()), **row})
    for choice in file.choices:
        values = choice_values(choice, job_id, choice.at or opened)
        store.add_choice(connection, {"id": str(uuid.uuid4()), **values})
    for thing in file.things:
        values = thing.model_dump(include={"what", "done", "reason"})
        at = thing.at or opened
        store.put_thing(
            connection, {"job_id": job_id, **values, "by_whom": thing.by, "at_typed": at}
        )
    for word, answer in file.asked_after.items():
        row = {"job_id": job_id, "word": word, "answer": answer, "by_whom": "", "at_typed": opened}
        store.put_answer(connection, row)
    for signed in file.signed:
        store.sign(connection, signature_values(signed, job_id))


def choice_values(choice: ChoicePart, job_id: int, at: str) -> dict[str, Any]:
    """A choice of the file as the store keeps it, without its id."""
    again = choice.look_again
    km = again.distance_km if again else None
    return {
        "job_id": job_id, "way": choice.option, "injectors": list(choice.injectors),
        "reason": choice.reason, "by_whom": choice.by, "at": instant(at), "at_typed": at,
        "look_on": again.on if again else None, "look_km_typed": None if km is None else plain(km),
        "extras": choice.kept(),
    }  # fmt: skip


def sighting_values(
    sighting: SightingPart, place: tuple[int, int], ids: Mapping[str, int], at: str
) -> dict[str, Any]:
    """What a person found, of the file, as the store keeps it, without its id."""
    job_id, vehicle_id = place
    return {
        "job_id": job_id, "vehicle_id": vehicle_id,
        "injector_id": ids[sighting.injector] if sighting.injector else None,
        "fault": sighting.fault, "words": sighting.words.strip(), "how": sighting.how.strip(),
        "explains": list(sighting.explains), "at": instant(at), "at_typed": at,
        "by_whom": sighting.by, "extras": sighting.kept(),
    }  # fmt: skip


def signature_values(signed: SignedPart, job_id: int) -> dict[str, Any]:
    """A signature of the file as the store keeps it."""
    return {
        "job_id": job_id, "by_whom": signed.by, "at": instant(signed.at), "at_typed": signed.at,
        "reason": signed.reason, "hand": signed.hand or None, "version": signed.plumb,
        "result": dumps(signed.result) if signed.result else "",
    }  # fmt: skip


def repair_values(
    repair: RepairPart, place: tuple[int, int], ids: Mapping[str, int], at: str
) -> dict[str, Any]:
    """A repair of the file as the store keeps it, without its id."""
    job_id, vehicle_id = place
    return {
        "job_id": job_id, "vehicle_id": vehicle_id,
        "injector_id": ids[repair.injector] if repair.injector else None,
        "with_id": ids[repair.with_] if repair.with_ else None,
        "done": repair.done, "cause": repair.cause, "at": instant(at), "at_typed": at,
        "by_whom": repair.by, "note": repair.note, "extras": repair.kept(),
    }  # fmt: skip


def stays_on(
    connection: Connection, vehicle_id: int, labels: Mapping[int, str]
) -> tuple[tuple[Stay, ...], dict[str, PartRecord]]:
    """Which part sat where on a vehicle, and what is known of the parts, by their name there."""
    repairs = store.repairs_of_vehicle(connection, vehicle_id)
    parts = store.parts_of_vehicle(connection, vehicle_id)
    by_repair = {p.repair_id: p for p in parts}
    moves, named = [], {}
    for part in parts:
        if part.repair_id is None and part.injector_id in labels:
            named[first_in(labels[part.injector_id])] = part
    for one in repairs:
        place, other = labels.get(one.injector_id or 0, ""), labels.get(one.with_id or 0, "")
        if one.done == "swapped" and place and other:
            moves.append(Move(at=utc(one.at), place=place, other=other))
        elif one.done == "replaced" and place:
            moves.append(Move(at=utc(one.at), place=place, new=one.id))
            named[one.id] = by_repair[one.id]
    return stays(tuple(labels.values()), moves), named


def parts_before(
    connection: Connection, vehicle_id: int, labels: Mapping[int, str], at: datetime
) -> dict[str, dict[str, str]]:
    """What is known of the parts that sat in their places just then, by place."""
    sat, named = stays_on(connection, vehicle_id, labels)
    there = {s.place: named[s.part] for s in sat if s.there(at) and s.part in named}
    return {
        place: told
        for place, p in there.items()
        if (told := filled(**{n: getattr(p, n) for n in _PART}))
    }
