"""Nonsense is impossible in the tables themselves, whoever writes to them."""

from typing import Any

import pytest
from sqlalchemy import Engine, text
from sqlalchemy.exc import DBAPIError
from tests.drivers import new_id

from plumb.core.measure.decision import Thresholds
from plumb.service.uses.jobs import NewJob, new_job

GOOD = {
    "number": 1, "first_typed": "50", "second_typed": "26", "unit": "psi", "first_kpa": 344.7,
    "second_kpa": 179.3, "mark": None, "sound": None, "note": "", "taken_at": "2026-11-16 09:00:00",
    "live": 1, "sequence": 1, "shape": "burst",
}  # fmt: skip


@pytest.fixture
def place(engine: Engine, thresholds: Thresholds) -> dict[str, int]:
    """A sheet, its vehicle and one of its injectors."""
    sheet = new_job(engine, NewJob(request_id=new_id(), vehicle_name="Van"), thresholds)
    with engine.connect() as connection:
        row = connection.execute(
            text(
                "SELECT s.vehicle_id, i.id FROM sheet s JOIN injector i USING (vehicle_id)"
                " WHERE s.id = :id ORDER BY i.id LIMIT 1"
            ),
            {"id": sheet.id},
        ).one()
    return {"sheet_id": sheet.id, "vehicle_id": row[0], "injector_id": row[1]}


def insert(engine: Engine, place: dict[str, int], **change: Any) -> None:
    """Write a reading past all of Plumb's own checks."""
    values = {"id": new_id(), **GOOD, **place, **change}
    names = ", ".join(values)
    marks = ", ".join(f":{n}" for n in values)
    with engine.begin() as connection:
        connection.execute(text(f"INSERT INTO reading ({names}) VALUES ({marks})"), values)


def test_a_sound_reading_is_taken(engine: Engine, place: dict[str, int]) -> None:
    """The ground the others stand on."""
    insert(engine, place)


@pytest.mark.parametrize(
    "change",
    [
        {"number": 0},
        {"number": 100},
        {"first_kpa": -1.0},
        {"second_kpa": None, "second_typed": None},
        {"first_kpa": None, "first_typed": None},
        {"second_kpa": None, "second_typed": None, "mark": "read_late"},
        {"mark": "none"},
        {"mark": "nonsense"},
        {"sound": "boom"},
        {"shape": "nonsense"},
        {"shape": "value"},
        {"shape": "point", "value": 1.0, "value_typed": "1"},
        {"shape": "word"},
        {"slot": "key_on"},
        {"injector_id": None},
        {"value": -1001.0, "value_typed": "-1001", "shape": "value"},
        {"second_typed": None},
        {"first_kpa": 500000.0},
        {"live": 0},
        {"sheet_id": 999999},
        {"injector_id": 999999},
        {"vehicle_id": 999999},
    ],
    ids=str,
)
def test_nonsense_is_refused(engine: Engine, place: dict[str, int], change: dict[str, Any]) -> None:
    """By a constraint of the database."""
    with pytest.raises(DBAPIError):
        insert(engine, place, **change)


def test_an_injector_of_another_vehicle_is_refused(
    engine: Engine, place: dict[str, int], thresholds: Thresholds
) -> None:
    """Even where it exists."""
    new_job(engine, NewJob(request_id=new_id(), vehicle_name="Other"), thresholds)
    with engine.connect() as connection:
        stranger = connection.scalar(text("SELECT max(id) FROM injector"))
    with pytest.raises(DBAPIError):
        insert(engine, place, injector_id=stranger)


def test_one_live_reading_a_pass_but_any_number_taken_back(
    engine: Engine, place: dict[str, int]
) -> None:
    """Taken-back readings stay beside the live one."""
    insert(engine, place, live=None)
    insert(engine, place, live=None)
    insert(engine, place)
    with pytest.raises(DBAPIError):
        insert(engine, place)


def test_tables_match_the_migrations(engine: Engine) -> None:
    """What the code thinks is there is what Alembic has made."""
    from alembic.autogenerate import compare_metadata  # noqa: PLC0415
    from alembic.migration import MigrationContext  # noqa: PLC0415

    from plumb.store.tables import Base  # noqa: PLC0415

    with engine.connect() as connection:
        context = MigrationContext.configure(connection, opts={"compare_type": False})
        assert compare_metadata(context, Base.metadata) == []
