"""The application: the whole request path on one screen.

request → door (who may ask, headers) → routes (one file a subject; intake: how much, of which type)
→ service → core and store → JSON; errors → api/problems.py → problem JSON; everything else → the built web pages.
"""

import os
from pathlib import Path

from fastapi import APIRouter, FastAPI, Request, Response
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from starlette.exceptions import HTTPException
from starlette.types import ASGIApp

from plumb import __version__
from plumb.api import (
    problems,
    routes_files,
    routes_finishing,
    routes_jobs,
    routes_photos,
    routes_sheets,
    routes_shelf,
    routes_traces,
    routes_years,
)  # fmt: skip
from plumb.api.door import Door
from plumb.api.intake import Turns
from plumb.api.schemas import Health
from plumb.api.settings import ROOT, Settings
from plumb.store.schema import unreadable
from plumb.store.session import StoreBusy, StoreDown

PAGES = ROOT / "web" / "dist"


class Application(FastAPI):
    """FastAPI behind the door: outside of everything, so that a fault's answer passes it too."""

    def build_middleware_stack(self) -> ASGIApp:
        """FastAPI's own stack, and the door before it."""
        settings: Settings = self.state.settings
        return Door(super().build_middleware_stack(), settings.known_hosts())


def make_app(engine: Engine, settings: Settings, pages: Path = PAGES) -> FastAPI:
    """The application on a store; ``pages`` is the built web folder."""
    app = Application(
        title="Plumb",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        description="Injector balance: which injector leans, and what to do with it.",
    )
    app.state.engine = engine
    app.state.settings = settings
    app.state.turns = Turns()
    problems.install(app)
    api = APIRouter(prefix="/api")
    for part in (
        routes_jobs,
        routes_sheets,
        routes_finishing,
        routes_shelf,
        routes_files,
        routes_photos,
        routes_traces,
        routes_years,
    ):
        api.include_router(part.router)
    api.add_api_route("/health", _health, tags=["health"], responses=problems.RESPONSES)
    app.include_router(api)
    _serve_pages(app, pages)
    return app


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
    return Health(application="answers", database=database, unreadable=unread, version=__version__)


def _serve_pages(app: FastAPI, pages: Path) -> None:
    """The web pages: files that are there, and the one page for every address of a screen."""
    if not (pages / "index.html").is_file():
        return
    app.mount("/assets", StaticFiles(directory=pages / "assets"), name="assets")

    @app.get("/{path:path}", include_in_schema=False)
    def _page(path: str) -> FileResponse:
        if path.startswith("api/"):
            raise HTTPException(404, "there is no such address")
        wanted = (pages / path).resolve()
        found = wanted.is_relative_to(pages.resolve()) and os.path.isfile(wanted)  # noqa: PTH113  never raises
        return FileResponse(
            wanted if found else pages / "index.html", headers={"Cache-Control": "no-cache"}
        )
