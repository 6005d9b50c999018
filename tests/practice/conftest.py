"""Somebody who practises, at the API."""

from typing import Any

import pytest
from fastapi.testclient import TestClient
from pydantic import TypeAdapter
from sqlalchemy import Engine
from tests.drivers import new_id

from plumb.core.measure.decision import Thresholds
from plumb.practice.exercises import EXERCISES, engine_of
from plumb.service.uses.jobs import show_job
from plumb.service.views.job import JobView


class Trainee:
    """One run: what is done at its bench, on its sheets, and what is handed in."""

    def __init__(self, client: TestClient, exercise: str, by: str, *, exam: bool = False) -> None:
        self.client = client
        body = {"request_id": new_id(), "exercise": exercise, "by": by, "exam": exam}
        answer = client.post("/api/practice/runs", json=body)
        assert answer.status_code == 201, answer.text
        self.begun = answer.json()
        self.number = self.begun["number"]
        self.sheets: dict[str, dict[str, Any]] = {}

    @property
    def at(self) -> str:
        """The address of the run."""
        return f"/api/practice/runs/{self.number}"

    def now(self) -> dict[str, Any]:
        """How it stands."""
        made: dict[str, Any] = self.client.get(self.at).json()
        return made

    def job(self) -> dict[str, Any]:
        """Its job, in the world of practice."""
        made: dict[str, Any] = self.client.get(f"/practice/api/jobs/{self.number}").json()
        return made

    def known(self) -> dict[str, Any]:
        """What Plumb itself makes of its job, which no learner is told."""
        engine = self.client.app.state.world.engine  # type: ignore[attr-defined]
        job = show_job(engine, self.number, Thresholds())
        made: dict[str, Any] = TypeAdapter(JobView).dump_python(job, mode="json")
        return made

    def sheet(self, kind: str) -> str:
        """Begin a sheet; its key."""
        body = {"request_id": new_id(), "kind": kind}
        made = self.client.post(f"/practice/api/jobs/{self.number}/sheets", json=body).json()
        self.sheets[made["key"]] = made
        return str(made["key"])

    def act(self, what: str, status: int = 200, **given: Any) -> dict[str, Any]:
        """Do something at the bench."""
        answer = self.client.post(f"{self.at}/acts", json={"what": what, **given})
        assert answer.status_code == status, answer.text
        made: dict[str, Any] = answer.json()
        return made

    def seen(self, sheet: str, *rows: str) -> dict[str, str]:
        """Look; what is seen by row."""
        told = self.act("look", sheet=sheet, rows=list(rows))["told"]
        return {t["row"]: t["text"] for t in told}

    def type(self, sheet: str, row: str, **noted: str) -> None:
        """Type a reading as it was seen."""
        body = {"id": new_id(), "injector": row, **noted}
        path = f"/practice/api/sheets/{self.sheets[sheet]['id']}/readings"
        answer = self.client.post(path, json=body)
        assert answer.status_code in {200, 201}, answer.text

    def hand_in(self, status: int = 200, **said: Any) -> dict[str, Any]:
        """Hand a verdict in."""
        answer = self.client.post(f"{self.at}/answer", json=said)
        assert answer.status_code == status, answer.text
        made: dict[str, Any] = answer.json()
        return made

    def bursts(self, *rows: str) -> dict[str, float]:
        """A drop sheet with a burst of each of these, typed as it was read; the drops."""
        key, drops = self.sheet("pressure_drop"), {}
        for row in rows:
            first, _, _, second, _ = self.seen(key, row)[row].split()
            self.type(key, row, first=first, second=second)
            drops[row] = float(first) - float(second)
        return drops

    def points(self, run: dict[str, Any]) -> dict[str, float]:
        """Points by what they are for."""
        made: dict[str, float] = {}
        for mark in run["marks"]:
            made[mark["what"]] = made.get(mark["what"], 0.0) + mark["got"]
        return made


class School:
    """Begins runs."""

    def __init__(self, client: TestClient) -> None:
        self.client = client

    def begin(self, exercise: str = "01", by: str = "Ines K.", *, exam: bool = False) -> Trainee:
        """A run."""
        return Trainee(self.client, exercise, by, exam=exam)

    def bad(self, exercise: str) -> str:
        """The one bad injector of an exercise."""
        (k,) = engine_of(EXERCISES[exercise]).truth
        return str(k + 1)


@pytest.fixture
def school(practice: Engine, client: TestClient) -> School:
    """An empty world of practice beside an empty shop."""
    assert practice.url.database != client.app.state.engine.url.database  # type: ignore[attr-defined]
    return School(client)
