"""A visit that is noted later than it was: its own day, and why."""

from datetime import UTC, date, datetime
from typing import Any

from sqlalchemy import Connection

from plumb.core.measure.problems import Conflict, PlumbError, Problem
from plumb.jobfile.models import EARLIEST
from plumb.service.stored.parts import instant
from plumb.store import finishing as finishing_store
from plumb.store import years as store
from plumb.store.records import JobRecord


def on_day(day: str, because: str) -> str:
    """The moment that a visit of that day is kept with: the time of now, on that day.

    Raises :class:`PlumbError` for what is no day, or none that was; and where nobody says why.
    """
    moment = datetime.now(UTC)
    try:
        then = date.fromisoformat(day.strip())
    except ValueError:
        raise _refused("day", "a day like 2024-05-12", day) from None
    if then.year < EARLIEST or then > moment.date():
        raise _refused("day", f"a day from {EARLIEST} to today", day)
    if not because.strip():
        raise _refused(
            "day_because", "say why it is noted later: it stands in the journal", because
        )
    return moment.replace(year=then.year, month=then.month, day=then.day).isoformat(
        timespec="seconds"
    )


def _refused(path: str, rule: str, value: str) -> PlumbError:
    return PlumbError(Problem(path=path, rule=rule, value=value, code="no_day"))


def redated(connection: Connection, job: JobRecord, day: str, because: str) -> dict[str, Any]:
    """What changes of a job that was on another day; its sheets go along, whole days.

    Raises :class:`Conflict` once something was repaired or found on it: that has a day of its own.
    """
    opened = on_day(day, because)
    kept = finishing_store.kept_of(connection, job.id)
    if kept.repairs or kept.sightings:
        raise Conflict(
            Problem(
                path="day", value=day, code="has_days",
                rule="repairs and findings of this job have their own days: take them back first",
            )
        )  # fmt: skip
    days = (instant(opened).date() - job.opened_at.date()).days
    store.move_sheets_of(connection, job.id, days)
    return {"opened_typed": opened, "opened_at": instant(opened), "dated_because": because.strip()}
