"""Nobody outside writes or reads, whatever route they try, and every answer carries its headers."""

import base64
import hashlib
import re
import socket
from pathlib import Path
from typing import Any

import pytest
from fastapi.testclient import TestClient
from sqlalchemy import Engine
from tests.conftest import Live
from tests.drivers import Desk

from plumb.api.app import make_app
from plumb.api.door import HEADERS
from plumb.api.settings import Settings
from plumb.contract import openapi

CHANGES = ("post", "put", "patch", "delete")
OPERATIONS = [
    pytest.param(method, re.sub(r"{.*?}", "1", path), operation, id=f"{method} {path}")
    for path, methods in openapi()["paths"].items()
    for method, operation in methods.items()
]
WRITING = [p for p in OPERATIONS if p.values[0] in CHANGES]
FOREIGN: list[dict[str, str]] = [
    {"origin": "http://else.example"},
    {"origin": "http://127.0.0.1:9999"},
    {"origin": "null"},
    {"origin": "http://127.0.0.1@else.example"},
    {"sec-fetch-site": "cross-site"},
    {"sec-fetch-site": "same-site"},
]


def _safe(headers: Any) -> None:
    for name, value in HEADERS.items():
        assert headers[name] == value
    assert headers["cache-control"] == "no-store"
    assert "server" not in headers


@pytest.mark.parametrize(("method", "path", "operation"), OPERATIONS)
def test_another_origin_is_turned_away_everywhere(
    client: TestClient, method: str, path: str, operation: dict[str, Any]
) -> None:
    """Whatever the route: no page but Plumb's own, and no name but the shop's own."""
    del operation
    for headers in FOREIGN if method in CHANGES else FOREIGN[-2:]:
        answer = client.request(method, path, headers=headers)
        assert answer.status_code == 403, headers
        _safe(answer.headers)
    for host in ("else.example", "127.0.0.1.else.example", "else.example:8650", ""):
        answer = client.request(method, path, headers={"host": host})
        assert answer.status_code == 421, host
        _safe(answer.headers)


@pytest.mark.parametrize(("method", "path", "operation"), WRITING)
def test_a_body_of_another_type_is_refused(
    client: TestClient, method: str, path: str, operation: dict[str, Any]
) -> None:
    """What a form can send without being asked never gets in."""
    kinds = ("text/plain", "application/x-www-form-urlencoded", "multipart/form-data")
    takes = next(iter(operation.get("requestBody", {}).get("content", {})), None)
    for kind in kinds:
        answer = client.request(method, path, content=b"{}", headers={"content-type": kind})
        assert answer.status_code == 415, (takes, kind)
        _safe(answer.headers)


def test_the_shops_own_page_and_a_program_come_in(desk: Desk) -> None:
    """The origin that is asked itself, and no origin at all; another name once it is listed."""
    own = {"origin": "http://127.0.0.1", "sec-fetch-site": "same-origin"}
    gauge = {"name": "dial A", "unit": "psi", "step": "0.5"}
    assert desk.client.post("/api/gauges", json=gauge, headers=own).status_code == 201
    assert desk.client.post("/api/gauges", json=gauge | {"name": "B"}).status_code == 201
    assert desk.client.get("/api/gauges", headers={"host": "localhost:8650"}).status_code == 200
    assert desk.client.get("/api/gauges", headers={"host": "[::1]:8650"}).status_code == 200


def test_another_name_is_let_in_once_it_is_listed(engine: Engine, tmp_path: Path) -> None:
    """PLUMB_HOSTS is the whole list."""
    app = make_app(engine, Settings(hosts="plumb.saltmere.example"), pages=tmp_path)
    client = TestClient(app, base_url="http://plumb.saltmere.example:8650")
    assert client.get("/api/jobs").status_code == 200
    assert client.get("/api/jobs", headers={"host": "127.0.0.1"}).status_code == 421


def test_a_foreign_link_to_a_screen_opens_it(engine: Engine, tmp_path: Path) -> None:
    """Reading a page tells nobody else anything."""
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("the page")
    client = TestClient(make_app(engine, Settings(), tmp_path), base_url="http://127.0.0.1")
    answer = client.get("/jobs/301", headers={"sec-fetch-site": "cross-site"})
    assert answer.text == "the page"
    assert "base-uri 'none'" in answer.headers["content-security-policy"]
    assert "form-action 'self'" in answer.headers["content-security-policy"]


@pytest.mark.parametrize(
    "path", ["/%00", "/a%00b", "/" + "x" * 300, "/" + "x" * 3000, "/%ff", "/..%2f..%2fetc/passwd"]
)
def test_odd_addresses_are_answered_like_others(engine: Engine, tmp_path: Path, path: str) -> None:
    """A clear answer with the same headers, never a fault."""
    (tmp_path / "assets").mkdir()
    (tmp_path / "index.html").write_text("the page")
    client = TestClient(
        make_app(engine, Settings(), tmp_path),
        base_url="http://127.0.0.1",
        raise_server_exceptions=False,
    )
    for address in (path, "/api" + path):
        answer = client.get(address)
        assert answer.status_code < 500
        assert answer.headers["x-content-type-options"] == "nosniff"


def test_a_fault_has_the_headers_too(engine: Engine, tmp_path: Path) -> None:
    """Even what nobody foresaw."""
    app = make_app(engine, Settings(), tmp_path)
    app.add_api_route("/api/broken", lambda: 1 / 0)
    client = TestClient(app, base_url="http://127.0.0.1", raise_server_exceptions=False)
    answer = client.get("/api/broken")
    assert answer.status_code == 500
    assert answer.json()["title"] == "Something broke"
    _safe(answer.headers)


def _said(live: Live, sent: bytes) -> bytes:
    with socket.create_connection(("127.0.0.1", live.port), timeout=20) as wire:
        wire.sendall(sent)
        wire.shutdown(socket.SHUT_WR)
        got = b""
        while piece := wire.recv(65536):
            got += piece
    return got


def test_what_is_no_http_is_a_problem_with_the_same_headers(live: Live) -> None:
    """On the wire, before any application."""
    got = _said(live, b"GET / HTTP/1.1\r\nbad header\r\n\r\n").lower()
    assert got.startswith(b"http/1.1 400")
    for name in HEADERS:
        assert name.lower().encode() in got
    assert b"server:" not in got
    assert b"application/problem+json" in got
    assert (
        b"server:"
        not in _said(
            live, b"GET /api/health HTTP/1.1\r\nhost: 127.0.0.1\r\nconnection: close\r\n\r\n"
        ).lower()
    )


def test_a_page_names_its_own_styles_and_no_others(engine: Engine, tmp_path: Path) -> None:
    """A fresh word for each page, in its head and in its policy; nowhere is anything inline allowed (ASVS 5.0, 3.4.3)."""
    pages = tmp_path / "dist"
    (pages / "assets").mkdir(parents=True)
    (pages / "index.html").write_text('<meta property="csp-nonce" nonce="__PLUMB_NONCE__">')
    client = TestClient(make_app(engine, Settings(), pages=pages), base_url="http://127.0.0.1")
    seen = set()
    for path in ("/", "/jobs/301/s1", "/index.html"):
        answer = client.get(path)
        (word,) = re.findall(r"'nonce-([\w-]+)'", answer.headers["content-security-policy"])
        assert len(word) >= 20
        assert answer.text == f'<meta property="csp-nonce" nonce="{word}">'
        seen.add(word)
    assert len(seen) == 3
    assert not any("unsafe" in value for value in HEADERS.values())


def test_a_report_as_a_page_allows_the_styles_that_it_carries(desk: Desk) -> None:
    """By their hash (CSP 3, 2.3.1): what else somebody writes into it stays without effect."""
    number = desk.open_job(4)["job_number"]
    answer = desk.client.get(f"/api/jobs/{number}/report.html")
    styles = re.findall(r"<style>(.*?)</style>", answer.text, re.DOTALL)
    assert styles
    policy = answer.headers["content-security-policy"]
    for style in styles:
        digest = base64.b64encode(hashlib.sha256(style.encode()).digest()).decode()
        assert f"'sha256-{digest}'" in policy
    assert "unsafe" not in policy
    assert ' style="' not in answer.text
