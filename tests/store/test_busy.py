"""Several people at one vehicle: locks in one order, and what still meets is done again."""

import ast
import random
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import pytest
from fastapi.testclient import TestClient
from pymysql.err import OperationalError as DriverError
from sqlalchemy import Engine, event, text
from sqlalchemy.exc import OperationalError
from tests.drivers import Desk, new_id
from tests.test_house import SOURCE

from plumb.store import session
from plumb.store.session import MOST_TRIES, StoreBusy, retried, transaction


def _fails(times: int, code: int) -> tuple[Callable[[Engine], str], list[int]]:
    """A use of the store that another one is in the way of, so many times."""
    tries: list[int] = []

    @retried
    def use(engine: Engine) -> str:
        with transaction(engine) as connection:
            connection.execute(text("SELECT 1"))
            tries.append(1)
            if len(tries) <= times:
                raise OperationalError("x", {}, DriverError(code, "in the way"))
        return "kept"

    return use, tries


@pytest.mark.parametrize("code", [1205, 1213])
def test_what_met_another_is_done_again(engine: Engine, code: int) -> None:
    """Whole, up to five times; then it is said."""
    use, tries = _fails(MOST_TRIES - 1, code)
    assert use(engine) == "kept"
    assert len(tries) == MOST_TRIES
    use, tries = _fails(MOST_TRIES, code)
    with pytest.raises(StoreBusy):
        use(engine)
    assert len(tries) == MOST_TRIES


def test_other_errors_are_not_tried_again(engine: Engine) -> None:
    """A fault stays a fault."""
    use, tries = _fails(1, 1146)
    with pytest.raises(OperationalError):
        use(engine)
    assert len(tries) == 1


def test_every_use_of_the_store_is_done_again() -> None:
    """None is left out."""
    uses = list((SOURCE / "service" / "uses").glob("*.py"))
    found = [
        (path.name, node.name, {ast.unparse(d) for d in node.decorator_list})
        for path in uses
        for node in ast.parse(path.read_text()).body
        if isinstance(node, ast.FunctionDef) and "transaction(engine)" in ast.unparse(node)
    ]
    assert len(found) > 20
    assert [(file, name) for file, name, marks in found if "retried" not in marks] == []


def test_nobody_loses_a_reading_while_another_moves_injectors(client: TestClient) -> None:
    """Four people type on four sheets of a vehicle, two change reach order, banks and jobs."""
    desk = Desk(client)
    first = desk.open_job(8)
    number = first["job_number"]
    vehicle = client.get(f"/api/jobs/{number}").json()["vehicle"]["id"]
    sheets = [first] + [
        client.post(f"/api/jobs/{number}/sheets", json={"request_id": new_id()}).json()
        for _ in range(3)
    ]
    labels = [str(n) for n in range(1, 9)]

    def types(sheet: dict[str, Any]) -> list[int]:
        return [desk.type(sheet, x, "50 26").status_code for x in labels * 2]

    def moves(seed: int) -> list[int]:
        luck = random.Random(seed)
        made = []
        for n in range(12):
            order = luck.sample(labels, len(labels))
            path = f"/api/vehicles/{vehicle}"
            made += [
                client.put(f"{path}/reach-order", json={"order": order}),
                client.patch(f"{path}/injectors/{order[0]}", json={"bank": f"B{n % 3}"}),
                # Opened again, as it is: the job and every sheet of it are written to.
                client.patch(f"/api/jobs/{number}", json={"closed": False}),
            ]
        return [a.status_code for a in made]

    with ThreadPoolExecutor(6) as people:
        typed = [people.submit(types, s) for s in sheets]
        moved = [people.submit(moves, seed) for seed in (1, 2)]
        codes = [code for done in (*typed, *moved) for code in done.result()]
    assert set(codes) == {200}
    for sheet in sheets:
        rows = client.get(f"/api/sheets/{sheet['id']}").json()["rows"]
        assert sum(r["count"] for r in rows) == 16


def test_two_jobs_opened_at_once_get_two_numbers(client: TestClient) -> None:
    """And one request sent twice at once makes one job."""
    desk = Desk(client)
    same = new_id()
    with ThreadPoolExecutor(6) as people:
        made = list(people.map(lambda _: desk.open_job()["job_number"], range(12)))
        again = list(people.map(lambda _: desk.open_job(request_id=same)["job_number"], range(6)))
    assert sorted(made, key=int) == [str(n) for n in range(1, 13)]
    assert len(set(again)) == 1


def test_codes_changed_meanwhile_are_not_overwritten(client: TestClient) -> None:
    """The second one is told what stands there now."""
    desk = Desk(client)
    number = desk.open_job()["job_number"]
    path = f"/api/jobs/{number}"
    seen = client.get(path).json()["version"]
    first = client.patch(path, json={"version": seen, "codes": ["P0301"]})
    assert (first.status_code, first.json()["version"]) == (200, seen + 1)
    late = client.patch(path, json={"version": seen, "complaint": "rough idle"})
    assert late.status_code == 409
    assert "P0301" in late.json()["problems"][0]["rule"]
    assert client.patch(path, json={"codes": []}).status_code == 409
    assert desk.close(number).status_code == 200
    now = client.get(path).json()
    assert (now["codes"], now["complaint"], now["closed"]) == (["P0301"], "", True)


@pytest.mark.parametrize("code", sorted(session.DISK_FULL))
def test_on_a_full_disk_nothing_is_kept_and_all_can_be_looked_at(
    client: TestClient, engine: Engine, code: int
) -> None:
    """What does not fit is refused in words; with room again it is taken."""
    desk = Desk(client)
    sheet = desk.open_job(4)

    def full(_cursor: Any, statement: str, *_: Any) -> None:
        if statement.startswith("INSERT"):
            raise DriverError(code, "no room")

    event.listen(engine, "do_execute", full)
    try:
        refused = desk.type(sheet, "1", "50 26")
        assert (refused.status_code, refused.json()["title"]) == (507, "The disk is full")
        assert client.get(f"/api/sheets/{sheet['id']}").json()["measured"] == 0
    finally:
        event.remove(engine, "do_execute", full)
    assert desk.type(sheet, "1", "50 26").status_code == 200
    assert client.get(f"/api/sheets/{sheet['id']}").json()["measured"] == 1


def test_no_free_connection_is_busy_not_broken(engine: Engine) -> None:
    """The pool is empty for a moment: said as such."""
    small = session.make_engine(engine.url.render_as_string(hide_password=False))
    small.pool._timeout = 0.01
    held = [small.connect() for _ in range(16)]
    with pytest.raises(StoreBusy), transaction(small):
        pass
    for connection in held:
        connection.close()
    small.dispose()
