"""The API keeps its description: committed, with examples, errors as problem JSON, any input."""

import json
import shutil
from pathlib import Path

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine, create_engine

from plumb.api.app import make_app
from plumb.api.settings import ROOT, Settings
from plumb.contract import job_schema, openapi


def test_the_committed_descriptions_are_those_of_the_code() -> None:
    """./plumb contract was run."""
    docs = ROOT / "docs"
    assert json.loads((docs / "openapi.json").read_text()) == openapi()
    assert json.loads((docs / "job-file.schema.json").read_text()) == job_schema()


def test_bodies_have_examples() -> None:
    """A reader of the description sees what a reading looks like."""
    reading = openapi()["components"]["schemas"]["ReadingIn"]["properties"]
    assert reading["first"]["anyOf"][0]["examples"]
    assert reading["injector"]["examples"]


def test_a_refusal_is_described_as_it_is_answered(client: TestClient) -> None:
    """Its type and its shape, wherever one may come; also where the answer would be no JSON."""
    described = client.get("/api/openapi.json").json()
    answer = client.get("/api/jobs/none/report.html")
    kind = answer.headers["content-type"]
    refusals = [
        refusal["content"]
        for methods in described["paths"].values()
        for operation in methods.values()
        for status, refusal in operation["responses"].items()
        if int(status) >= 400
    ]
    assert len(refusals) > 1000
    assert {tuple(content) for content in refusals} == {(kind,)}
    (name,) = {content[kind]["schema"]["$ref"].rpartition("/")[2] for content in refusals}
    assert set(described["components"]["schemas"][name]["required"]) == set(answer.json())


def test_a_dead_database_is_said_and_nothing_breaks(tmp_path: Path) -> None:
    """503 problem JSON, and health that names the database."""
    dead = create_engine("mysql+pymysql://x@127.0.0.1:9/x", connect_args={"connect_timeout": 1})
    client = TestClient(
        make_app(dead, Settings(), pages=tmp_path),
        base_url="http://127.0.0.1",
        raise_server_exceptions=False,
    )
    answer = client.get("/api/jobs")
    assert answer.status_code == 503
    assert answer.headers["content-type"] == "application/problem+json"
    health = client.get("/api/health")
    assert (health.status_code, health.json()["database"]) == (503, "does not answer")


@pytest.mark.parametrize(
    "path", ["/api/jobs/none", "/api/sheets/999", "/api/nothing", "/api/jobs/none/file"]
)
def test_what_is_not_there_is_problem_json(client: TestClient, path: str) -> None:
    """Status 404, every time the same shape."""
    answer = client.get(path)
    assert answer.status_code == 404
    assert set(answer.json()) == {"type", "title", "status", "detail", "problems"}


def test_pages_are_served_for_every_screen_and_nothing_else(engine: Engine, tmp_path: Path) -> None:
    """Addresses of screens give the one page; nothing outside the folder is given."""
    pages = tmp_path / "dist"
    (pages / "assets").mkdir(parents=True)
    (pages / "index.html").write_text("the page")
    (pages / "assets" / "page-1a2b.js").write_text("1")
    (tmp_path / "secret.txt").write_text("secret")
    client = TestClient(make_app(engine, Settings(), pages=pages), base_url="http://127.0.0.1")
    assert client.get("/jobs/301/s1").text == "the page"
    for path in ("/../secret.txt", "/%2e%2e/secret.txt", "/..%2fsecret.txt"):
        assert "secret" not in client.get(path).text
    assert "default-src 'self'" in client.get("/").headers["content-security-policy"]
    # Whose name changes with what is in it is asked for once (RFC 8246); the page itself each time.
    assert "immutable" in client.get("/assets/page-1a2b.js").headers["cache-control"]
    assert client.get("/").headers["cache-control"] == "no-cache"
    shutil.rmtree(pages)
