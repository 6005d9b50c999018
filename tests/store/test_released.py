"""Tables of every released version, with its demo's jobs in them, come up to this one, and nothing is lost.

``released`` holds what the demo of that version left in its database, as ``mariadb-dump`` writes it.
"""

import gzip
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, MetaData, select, text

from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.keeping.dump import admin
from plumb.store.journal import triggers, unwatch, watch
from plumb.store.schema import NewerTables, step_of, steps, upgrade
from plumb.store.server import Server
from plumb.store.session import make_engine

RELEASED = Path(__file__).parent / "released"
STEPS = {"0.1.0": "0001", "0.2.0": "0002", "0.3.0": "0004"}
OLD = "plumb_released"

Rows = dict[str, dict[tuple[Any, ...], dict[str, Any]]]


@pytest.fixture
def old(database: Server) -> Iterator[Engine]:
    """An empty database of its own on the tests' server."""
    grant = f"GRANT ALL ON `{OLD.replace('_', chr(92) + '_')}`.* TO plumb@'127.0.0.1';"
    admin(database.place, f"CREATE DATABASE {OLD} CHARACTER SET utf8mb4; {grant}")
    engine = make_engine(database.place.url(OLD))
    try:
        yield engine
    finally:
        engine.dispose()
        admin(database.place, f"DROP DATABASE {OLD};")


def rows(engine: Engine) -> Rows:
    """Every row of every table by its key."""
    tables = MetaData()
    tables.reflect(engine)
    made: Rows = {}
    with engine.connect() as connection:
        for table in tables.sorted_tables:
            keys = [c.name for c in table.primary_key]
            made[table.name] = {
                tuple(row[k] for k in keys): dict(row)
                for row in connection.execute(select(table)).mappings()
            }
    return made


@pytest.mark.parametrize("version", sorted(STEPS))
def test_a_released_shop_comes_up(old: Engine, database: Server, version: str) -> None:
    """Each row is there with what it held, and every job and sheet opens."""
    text = gzip.decompress((RELEASED / f"{version}.sql.gz").read_bytes()).decode()
    admin(database.place, f"USE {OLD};\n{text}")
    assert step_of(old) == STEPS[version]
    before = rows(old)
    assert len(before["reading"]) > 30
    assert upgrade(old)
    assert step_of(old) == steps()[-1]
    after = rows(old)
    lost = [
        (name, key, column, value, after.get(name, {}).get(key, {}).get(column))
        for name, there in before.items()
        if name != "alembic_version"
        for key, row in there.items()
        for column, value in row.items()
        if after.get(name, {}).get(key, {}).get(column, "gone") != value
    ]
    # What 0.2.0 kept of coils had no rule, and its job could not be opened any more: it has one now.
    without = {key for key, row in before["sheet"].items() if not row["rule_name"]}
    ruled = {key for name, key, column, *_ in lost if (name, column) == ("sheet", "rule_name")}
    assert ruled <= without
    assert {after["sheet"][key]["rule_name"] for key in ruled} <= {"flow_index"}
    bumped = ("rule_name", "version")
    assert [x for x in lost if not (x[0] == "sheet" and x[1] in ruled and x[2] in bumped)] == []
    client = TestClient(make_app(old, Settings()), base_url="http://127.0.0.1")
    for job in before["job"].values():
        shown = client.get(f"/api/jobs/{job['number']}")
        assert shown.status_code == 200, shown.text
        assert shown.json()["complaint"] == job["complaint"]
    for (sheet,) in before["sheet"]:
        assert client.get(f"/api/sheets/{sheet}").status_code == 200
    assert not upgrade(old)


def test_every_release_is_tried() -> None:
    """Each version of the changes has its tables here."""
    changes = (Path(__file__).parents[2] / "CHANGELOG.md").read_text()
    released = {line[3:] for line in changes.splitlines() if line.startswith("## ")}
    assert released - {"Unreleased"} == set(STEPS) == {p.name[:-7] for p in RELEASED.iterdir()}


def test_after_an_upgrade_changes_are_written_down_again(old: Engine) -> None:
    """What was taken away for a step that changed no table is made anew, too."""
    upgrade(old)
    assert watch(old)
    there = set(triggers())
    unwatch(old)
    assert _triggers(old) == set()
    assert watch(old)
    assert _triggers(old) == there
    assert not watch(old)


def _triggers(engine: Engine) -> set[str]:
    query = "SELECT trigger_name FROM information_schema.triggers WHERE trigger_schema = DATABASE()"
    with engine.connect() as connection:
        return set(connection.execute(text(query)).scalars())


def test_tables_of_tomorrow_are_left_alone(old: Engine, database: Server) -> None:
    """A step that this program does not know: said by name, nothing is touched."""
    upgrade(old)
    admin(database.place, f"UPDATE {OLD}.alembic_version SET version_num = '9999';")
    there = rows(old)
    with pytest.raises(NewerTables, match="9999"):
        upgrade(old)
    assert rows(old) == there
