"""A run is begun: its vehicle, its job with the complaint, its first sheet."""

import secrets
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Final

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.procedures import route
from plumb.practice.exercises import DRAWN, Exercise, engine_of
from plumb.practice.worked import Progress
from plumb.service.practice.world import World, known_exercise
from plumb.service.uses.jobs import NewJob, new_job
from plumb.service.uses.vehicles import change_injector
from plumb.store import practice as store
from plumb.store.session import transaction

VEHICLES: Final = {
    "port": "Torvik pilot van 2.0",
    "throttle_body": "Brannock field tractor, petrol",
    "direct": "Torvik Fastnet 2.0 direct",
    "common_rail": "Brannock Tender 2.5 diesel",
    "mechanical_diesel": "Brannock crane truck, diesel",
}
"""What a drawn engine sits in."""
_SEEDS: Final = 10**9


@dataclass(frozen=True, slots=True, kw_only=True)
class Begin:
    """Which exercise (empty: one is drawn), by whom, and whether as an exam."""

    request_id: str
    exercise: str = ""
    by: str = ""
    exam: bool = False


def vehicle_of(exercise: Exercise) -> str:
    """What the engine sits in."""
    return VEHICLES[exercise.system] if exercise.code.startswith(DRAWN) else exercise.vehicle


def begin(world: World, wanted: Begin, thresholds: Thresholds) -> str:
    """Begin, and give back the number of the job; the same request again gives the same one.

    Raises :class:`plumb.core.measure.problems.PlumbError` for an exercise that there is not.
    """
    world.open()
    with world.alone:
        return _begun(world, wanted, thresholds)


def _begun(world: World, wanted: Begin, thresholds: Thresholds) -> str:
    with transaction(world.engine) as connection:
        there = store.run_by_request(connection, wanted.request_id)
    if there is not None:
        return there.job_number
    code = wanted.exercise or f"{DRAWN}-{secrets.randbelow(_SEEDS)}"
    exercise = known_exercise(code)
    hidden = engine_of(exercise)
    sheet = new_job(
        world.engine,
        NewJob(
            request_id=wanted.request_id, vehicle_name=vehicle_of(exercise), registration="practice",
            fuel_system=exercise.system, cylinders=hidden.count,
            complaint=", ".join(COMPLAINTS[w] for w in sorted(hidden.words)),
            begin_with=route(exercise.system)[0].code,
        ),
        thresholds,
    )  # fmt: skip
    if hidden.shares_feeds:
        with transaction(world.engine) as connection:
            vehicle_id = store.vehicle_of_job(connection, sheet.job_number)
        for n, feed in enumerate(hidden.feed, 1):
            change_injector(world.engine, vehicle_id, str(n), None, feed)
    progress = Progress()
    progress.sheet(sheet.key, sheet.kind, count=hidden.count)
    with transaction(world.engine) as connection:
        store.add_run(
            connection,
            {
                "job_number": sheet.job_number, "request_id": wanted.request_id, "exercise": code,
                "by_whom": wanted.by.strip(), "exam": wanted.exam,
                "begun_at": datetime.now(UTC).replace(tzinfo=None), "ended_at": None, "points": None,
                "body": progress.model_dump(mode="json"),
            },
        )  # fmt: skip
    return sheet.job_number
