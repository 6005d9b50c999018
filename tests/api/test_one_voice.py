"""Today, job, verdict, panel, result and workbook of every demo job say the same: one reads the other's words."""

import io
from typing import Any

import pytest
from openpyxl import load_workbook
from sqlalchemy import Engine
from tests.drivers import Desk, load_demo


@pytest.fixture
def lines(desk: Desk, engine: Engine) -> list[dict[str, Any]]:
    """Every demo job as Today's list has it."""
    load_demo(engine)
    made: list[dict[str, Any]] = []
    while True:
        more = desk.client.get("/api/jobs", params={"closed": True, "skip": len(made)}).json()
        if not more:
            return made
        made += more


def said(spans: list[dict[str, str]]) -> str:
    """Spans as one text."""
    return "".join(s["text"] for s in spans).strip()


def test_every_place_of_a_job_says_the_same(desk: Desk, lines: list[dict[str, Any]]) -> None:
    """What is next on Today is what the job's panel says; the sentence stands in the workbook; a word is open or explained in both."""
    assert len(lines) > 40
    for line in lines:
        number = line["number"]
        job = desk.client.get(f"/api/jobs/{number}").json()
        step, verdict = job["next"], said(job["verdict"]["sentence"])
        title = line["next_title"]
        if step is None:
            assert title in verdict, number
            assert line["waits"] == "done", number
        else:
            assert title.partition(", ")[0] in {step["title"], step["title"].partition(", ")[0]}, (
                number
            )
        marked = [k["kind"] for k in job["route"] if k["state"] == "next"]
        assert not marked or (step is not None and marked == [step["kind"]]), number
        explained = job["diagnosis"]["explained"]
        open_words = [w["title"] for w in job["diagnosis"]["by_word"] if not w["text"]]
        assert not (explained == "yes" and open_words), number
        sent = desk.client.get(f"/api/jobs/{number}/book.xlsx")
        book = load_workbook(io.BytesIO(sent.content), read_only=True)
        rows = {r[0]: r[1] for r in book.worksheets[0].iter_rows(values_only=True) if r[0]}
        assert (rows["says"] or "").strip() == verdict, number


def test_a_code_that_was_explained_stays_so_after_the_repair(desk: Desk, engine: Engine) -> None:
    """The panel of a job that is put right says of its codes what its report says."""
    load_demo(engine)
    for number in ("311", "341"):
        job = desk.client.get(f"/api/jobs/{number}").json()
        assert job["codes"] == ["P0305"], number
        told = [a["title"] for a in job["verdict"]["advice"]]
        assert not [t for t in told if "P0305" in t], number
        assert "Not explained: P0305" not in desk.client.get(f"/api/jobs/{number}/report.html").text
