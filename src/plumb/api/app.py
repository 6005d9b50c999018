"""The application: the whole request path on one screen.

request → door (who may ask, headers) → guard (who is signed in, on a network) → routes (one file a subject; intake: how much, of which type)
→ service → core and store → JSON; errors → api/problems.py → problem JSON; everything else → the built web pages.
"""

import os
import secrets
import threading
from collections.abc import AsyncIterator, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from types import ModuleType
from typing import Any, Final

from fastapi import FastAPI, Request, Response
from fastapi.responses import FileResponse, HTMLResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp, Receive, Scope, Send

from plumb import __version__
from plumb.api import (
    problems,
    routes_files,
    routes_finishing,
    routes_jobs,
    routes_keeping,
    routes_live,
    routes_people,
    routes_photos,
    routes_practice,
    routes_rules,
    routes_sheets,
    routes_shelf,
    routes_traces,
    routes_years,
)  # fmt: skip
from plumb.api.crew import Crew, Handed
from plumb.api.deps import told_to_all
from plumb.api.door import Door, policy
from plumb.api.guard import Guard
from plumb.api.intake import Turns
from plumb.api.log import Numbered
from plumb.api.metrics import Metrics, Watched, metrics
from plumb.api.papers import Papers
from plumb.api.schemas import Health
from plumb.api.settings import ROOT, Settings
from plumb.devices.scheduler import REAL_TIME, Scheduler
from plumb.service.live.captures import AtHand, Captures, on_the_shelf
from plumb.service.live.hub import Hub
from plumb.service.live.worth import Worths
from plumb.service.practice.world import World
from plumb.store.schema import unreadable
from plumb.store.session import StoreBusy, StoreDown

PAGES = ROOT / "web" / "dist"
NONCE = "__PLUMB_NONCE__"
"""Stands in the built page where the word for its own styles belongs (``web/vite.config.ts``)."""


class Described(FastAPI):
    """FastAPI whose description tells what may be answered instead, too."""

    def openapi(self) -> dict[str, Any]:
        """The OpenAPI description."""
        return problems.described(super().openapi())


class Application(Described):
    """What is behind the door: outside of everything, so that a fault's answer passes it too."""

    def build_middleware_stack(self) -> ASGIApp:
        """FastAPI's own stack, the door before it, and around all of it what is counted."""
        settings: Settings = self.state.settings
        inside: ASGIApp = Handed(super().build_middleware_stack(), self.state.crew)
        if settings.network:
            inside = Guard(inside, lambda: self.state.engine, settings.stay())
        door = Door(inside, settings.known_hosts(), tls=settings.network)
        return Numbered(Watched(door, self.state.metrics), lines=settings.log == "json")


def make_app(
    engine: Engine, settings: Settings, pages: Path = PAGES, practice: Engine | None = None,
    papers: Papers | None = None, scheduler: Scheduler = REAL_TIME,
) -> FastAPI:  # fmt: skip
    """The application on a store; ``pages`` is the built web folder, captures live by the ``scheduler``.

    With a store for ``practice`` the same application stands on that one too, under ``/practice``; with
    ``papers`` of an authority of the shop's own, a page tells how to trust it.
    """
    app = _application(Application, settings)
    _give(app, engine, settings, scheduler=scheduler)
    app.state.metrics = Metrics(app.state)
    app.state.crew = Crew(settings, app.state.hub.heard)
    app.add_api_route("/metrics", metrics, include_in_schema=False)
    _take(app, *_ALIKE, routes_practice, routes_people, routes_keeping)
    app.add_api_route("/api/health", _health, tags=["health"], responses=problems.RESPONSES)
    app.state.world = app.state.inner = None
    app.state.papers = papers
    # Set by who starts it, where backups are made by the clock.
    app.state.clock = None
    if practice is not None:
        world = World(practice, scheduler)
        inner = Later(lambda: _inner(practice, settings, pages, world, scheduler))
        app.mount("/practice", inner)
        app.state.world, app.state.inner = world, inner
    if papers is not None and papers.authority is not None:
        from plumb.api import trust  # noqa: PLC0415  who works alone has no such page

        app.include_router(trust.routes(papers.authority, papers.fingerprint))
    _serve_pages(app, pages)
    return app


def apart(engine: Engine, settings: Settings) -> FastAPI:
    """The routes alone, for a process of the crew: who asks has come through the door and the guard already."""
    app = _application(Described, settings)
    _give(app, engine, settings)
    _take(app, *_ALIKE)
    return app


def _inner(
    practice: Engine, settings: Settings, pages: Path, world: World, scheduler: Scheduler
) -> FastAPI:
    """The application on the store of practice."""
    inner = _application(Described, settings)
    _give(inner, practice, settings, at_hand=world.at_hand, ready=world.open, scheduler=scheduler)
    inner.state.told = world.told
    _take(inner, *_ALIKE)
    _serve_pages(inner, pages)
    inner.state.hub.open()
    return inner


class Later:
    """An application that is made when somebody comes for it: a start need not wait for it."""

    def __init__(self, make: Callable[[], FastAPI]) -> None:
        self._make, self._lock = make, threading.Lock()
        self.made: FastAPI | None = None

    def _app(self) -> FastAPI:
        with self._lock:
            self.made = self.made or self._make()
            return self.made

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Hand it on."""
        app = self.made
        if app is None:
            app = await run_in_threadpool(self._app)
        await app(scope, receive, send)


def _application(made: type[Described], settings: Settings) -> FastAPI:
    app = made(
        title="Plumb",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        description="Injector balance: which injector leans, and what to do with it.",
        lifespan=_while_it_runs,
    )
    app.state.settings = settings
    problems.install(app)
    return app


def _give(
    app: FastAPI, engine: Engine, settings: Settings, *, at_hand: AtHand = on_the_shelf,
    ready: Callable[[], None] = lambda: None, scheduler: Scheduler = REAL_TIME,
) -> None:  # fmt: skip
    """What the routes of an application work with; ``ready`` is waited for before its store is used."""
    app.state.engine, app.state.ready = engine, ready
    app.state.told = told_to_all
    app.state.turns = Turns()
    alone = not settings.db_url.get_secret_value()
    app.state.hub = Hub(engine, settings.thresholds(), alone=alone, scheduler=scheduler)
    app.state.worths = Worths(engine, settings.thresholds())
    app.state.captures = Captures(
        engine, settings.thresholds(), app.state.hub,
        most_bytes=settings.upload_limit_mb * 2**20, at_hand=at_hand, scheduler=scheduler,
    )  # fmt: skip


_ALIKE: Final = (
    routes_jobs,
    routes_sheets,
    routes_finishing,
    routes_shelf,
    routes_files,
    routes_photos,
    routes_traces,
    routes_years,
    routes_live,
    routes_rules,
)
"""What the shop and its practice have alike."""


def _take(app: FastAPI, *parts: ModuleType) -> None:
    """Give an application the routes of some modules.

    The very same ones, with nothing added to them: FastAPI's ``include_router`` would build each anew for
    every application, its models too, and once more for the first request.
    """
    for part in parts:
        app.router.routes.extend(part.router.routes)


@asynccontextmanager
async def _while_it_runs(app: FastAPI) -> AsyncIterator[None]:
    """Screens hear of changes while it runs; at its end no capture and no pump is left running."""
    app.state.hub.open()
    try:
        yield
    finally:
        inner = app.state.inner.made if app.state.inner else None
        for one in (app, *([inner] if inner else [])):
            await run_in_threadpool(one.state.captures.close)
            await run_in_threadpool(one.state.worths.close)
            await run_in_threadpool(one.state.hub.close)
        if app.state.world is not None:
            await run_in_threadpool(app.state.world.close)
        app.state.crew.close()


def _health(request: Request, response: Response) -> Health:
    """Whether application and database answer, and which tables cannot be read; 503 if not all."""
    unread: list[str] = []
    try:
        unread = unreadable(request.app.state.engine)
        database = "answers"
    except (StoreDown, StoreBusy):
        database = "does not answer"
    if unread:
        database = "cannot read " + ", ".join(unread)
    if database != "answers":
        response.status_code = 503
    # A stranger on the network need not know which faults this one may have.
    stranger = request.app.state.settings.network and routes_people.known_of(request).person is None
    return Health(
        application="answers", database=database, unreadable=[] if stranger else unread,
        version="" if stranger else __version__,
    )  # fmt: skip


class _Assets(StaticFiles):
    """Scripts, styles and fonts, whose names change with what is in them: a browser asks for each once."""

    def file_response(
        self, full_path: "str | os.PathLike[str]", stat_result: os.stat_result, scope: Scope,
        status_code: int = 200,
    ) -> Response:  # fmt: skip
        """Kept for a year."""
        response = super().file_response(full_path, stat_result, scope, status_code)
        response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return response


def _serve_pages(app: FastAPI, pages: Path) -> None:
    """The web pages: files that are there, and the one page for every address of a screen."""
    if not (pages / "index.html").is_file():
        return
    app.mount("/assets", _Assets(directory=pages / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def _page(path: str) -> Response:
        if path.startswith("api/"):
            raise HTTPException(404, "there is no such address")
        wanted = (pages / path).resolve()
        found = wanted.is_relative_to(pages.resolve()) and os.path.isfile(wanted)  # noqa: PTH113  never raises
        if found and wanted.name != "index.html":
            return FileResponse(wanted, headers={"Cache-Control": "no-cache"})
        return _screen(pages)


def _screen(pages: Path) -> HTMLResponse:
    """The one page of all screens; the styles that it makes for itself carry a word that nobody else knows."""
    nonce = secrets.token_urlsafe(16)
    text = (pages / "index.html").read_text("utf-8").replace(NONCE, nonce)
    allowed = {"Content-Security-Policy": policy(f"'nonce-{nonce}'"), "Cache-Control": "no-cache"}
    return HTMLResponse(text, headers=allowed)
