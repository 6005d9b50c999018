"""What a program that watches Plumb asks for: how much is done, how long it takes, what it stands on.

Source: the exposition format of Prometheus, written by its own client.
"""

import shutil
import time
from collections.abc import Iterable
from typing import Final

from fastapi import Request, Response
from prometheus_client import CollectorRegistry, Counter, Histogram, generate_latest
from prometheus_client.core import GaugeMetricFamily, Metric
from prometheus_client.exposition import CONTENT_TYPE_LATEST
from prometheus_client.registry import Collector
from sqlalchemy import text
from starlette.datastructures import State
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from plumb.core.measure.problems import NotThere, Problem
from plumb.store.session import StoreBusy, StoreDown, transaction

_HERE: Final = frozenset({"127.0.0.1", "::1"})
_API: Final = "/api/"
_METHODS: Final = frozenset({"GET", "HEAD", "POST", "PUT", "PATCH", "DELETE", "OPTIONS"})
_BUCKETS: Final = (0.01, 0.025, 0.05, 0.1, 0.2, 0.5, 1.0, 2.5, 5.0, 10.0)
ELSEWHERE: Final = "other"
"""The route of what no route of the shop's answered: pages, what was refused, practice."""


class _Standing(Collector):
    """How it stands at the moment that somebody asks."""

    def __init__(self, state: State) -> None:
        self._state = state

    def collect(self) -> Iterable[Metric]:
        """Database, disk, last backup, screens that listen."""
        yield _gauge("plumb_database_up", "1 where the database answers", float(self._answers()))
        home = self._state.settings.data_dir
        if home.exists():
            free = float(shutil.disk_usage(home).free)
            yield _gauge("plumb_disk_free_bytes", "room where the database lives", free)
        clock = self._state.clock
        last = clock.safe().last if clock is not None else None
        if last is not None:
            age = time.time() - last.timestamp()
            yield _gauge("plumb_backup_age_seconds", "since the last backup was begun", age)
        lookers = float(self._state.hub.lookers())
        yield _gauge("plumb_screens", "screens that hear of changes as they happen", lookers)

    def _answers(self) -> bool:
        try:
            with transaction(self._state.engine) as connection:
                connection.execute(text("SELECT 1"))
        except (StoreDown, StoreBusy):
            return False
        return True


def _gauge(name: str, words: str, value: float) -> GaugeMetricFamily:
    return GaugeMetricFamily(name, words, value=value)


class Metrics:
    """What is counted of an application."""

    def __init__(self, state: State) -> None:
        self._registry = CollectorRegistry()
        self.requests = Counter(
            "plumb_requests", "requests by route and how they were answered",
            ["method", "route", "status"], registry=self._registry,
        )  # fmt: skip
        self.seconds = Histogram(
            "plumb_request_seconds", "how long an answer took", ["method", "route"],
            buckets=_BUCKETS, registry=self._registry,
        )  # fmt: skip
        self._registry.register(_Standing(state))

    def tell(self) -> bytes:
        """All of it, in Prometheus' own format."""
        return generate_latest(self._registry)


class Watched:
    """Counts what goes through it; a line that stays open is none of that."""

    def __init__(self, app: ASGIApp, metrics: Metrics) -> None:
        self._app, self._metrics = app, metrics

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hand it on, and note how it went."""
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        status, begun = 500, time.perf_counter()

        async def seen(message: Message) -> None:
            nonlocal status
            if message["type"] == "http.response.start":
                status = message["status"]
            await send(message)

        try:
            await self._app(scope, receive, seen)
        finally:
            route = route_of(scope)
            method = scope["method"] if scope["method"] in _METHODS else ELSEWHERE
            self._metrics.requests.labels(method, route, str(status)).inc()
            self._metrics.seconds.labels(method, route).observe(time.perf_counter() - begun)


def route_of(scope: Scope) -> str:
    """The template of an address, never the address itself: numbers of jobs are nobody's labels."""
    path = getattr(scope.get("route"), "path", None)
    if path is None or not scope["path"].startswith(_API):
        return ELSEWHERE
    return str(path) if path.startswith(_API) else f"{_API}{path.lstrip('/')}"


def metrics(request: Request) -> Response:
    """What is counted, for programs of this machine alone."""
    if request.client is None or request.client.host not in _HERE:
        raise NotThere(Problem(path="metrics", rule="there is nothing here", code="not_there"))
    return Response(request.app.state.metrics.tell(), media_type=CONTENT_TYPE_LATEST)
