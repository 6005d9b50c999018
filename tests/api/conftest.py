"""The application on a workshop's network, and who is at it."""

import re
from collections.abc import Callable

import pytest
from anyio.from_thread import BlockingPortal
from fastapi import FastAPI
from fastapi.testclient import TestClient
from sqlalchemy import Engine

from plumb.api.app import make_app
from plumb.api.settings import Settings
from plumb.contract import openapi
from plumb.service.people import coming_in

HERE = "https://workshop.local"


PASSWORD = "six cold anvils hum"


def addresses() -> list[tuple[str, str]]:
    """Every method and address of the API, practice's beside the shop's."""
    found = [
        (method.upper(), path) for path, methods in openapi()["paths"].items() for method in methods
    ]
    return found + [(m, "/practice" + p) for m, p in found if "/practice/" not in p]


def filled(path: str) -> str:
    """An address with something in the place of its names."""
    return re.sub(r"\{[^}]+\}", "1", path)


@pytest.fixture(scope="session")
def network(
    _engine: Engine, _practice: Engine, tmp_path_factory: pytest.TempPathFactory
) -> FastAPI:
    """The application as it stands on a workshop's network."""
    settings = Settings(network=True, hosts="workshop.local")
    pages = tmp_path_factory.mktemp("no-pages")
    return make_app(_engine, settings, pages=pages, practice=_practice)


Browser = Callable[[], TestClient]


@pytest.fixture
def anybody(engine: Engine, network: FastAPI, portal: BlockingPortal) -> Browser:
    """A browser that nobody is signed in at."""
    assert engine.url

    def made() -> TestClient:
        client = TestClient(network, base_url=HERE, raise_server_exceptions=False)
        client.portal = portal
        return client

    return made


@pytest.fixture
def owner(anybody: Browser, engine: Engine) -> TestClient:
    """The first owner, who came in with the code of the first start."""
    code = coming_in.owner_code(engine)
    client = anybody()
    body = {"name": "Ines K.", "code": code, "password": PASSWORD, "pin": "2580"}
    assert client.post("/api/sign-in/first", json=body).status_code == 200
    return client


Person = Callable[[str, str], TestClient]


@pytest.fixture
def person(owner: TestClient, anybody: Browser) -> Person:
    """Somebody of a name and role, signed in by a password of their own."""

    def made(name: str, role: str) -> TestClient:
        code = owner.post("/api/people", json={"name": name, "role": role}).json()["code"]
        client = anybody()
        body = {"name": name, "code": code, "password": PASSWORD}
        assert client.post("/api/sign-in/first", json=body).status_code == 200
        return client

    return made


@pytest.fixture
def tablet(owner: TestClient, anybody: Browser) -> TestClient:
    """A tablet of the shop; nobody is signed in at it yet."""
    code = owner.post("/api/pairing").json()["code"]
    client = anybody()
    assert (
        client.post("/api/pairing/claim", json={"code": code, "name": "bay 2"}).status_code == 200
    )
    return client


def person_id(client: TestClient, name: str) -> int:
    """The number under which a tablet shows a name."""
    return next(int(p["id"]) for p in client.get("/api/here").json()["people"] if p["name"] == name)
