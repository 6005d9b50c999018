"""The application: the whole request path on one screen.

request → headers → routes (one file a subject) → service → core and store → JSON;
errors → api/problems.py → problem JSON; everything else → the built web pages.
"""

from collections.abc import Awaitable, Callable
from pathlib import Path

from fastapi import APIRouter, FastAPI, Request, Response
from fastapi.responses import FileResponse
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine, text
from starlette.exceptions import HTTPException

from plumb import __version__
from plumb.api import (
    problems,
    routes_files,
    routes_jobs,
    routes_sheets,
    routes_shelf,
    routes_traces,
)  # fmt: skip
from plumb.api.schemas import Health
from plumb.api.settings import ROOT, Settings
from plumb.store.session import StoreDown, transaction

PAGES = ROOT / "web" / "dist"
_HEADERS = {
    "Content-Security-Policy": "default-src 'self'; style-src 'self' 'unsafe-inline'; "
    "img-src 'self' data:; frame-ancestors 'none'",
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
}


def make_app(engine: Engine, settings: Settings, pages: Path = PAGES) -> FastAPI:
    """The application on a store; ``pages`` is the built web folder."""
    app = FastAPI(
        title="Plumb",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        description="Injector balance: which injector leans, and what to do with it.",
    )
    app.state.engine = engine
    app.state.settings = settings
    problems.install(app)
    app.middleware("http")(_headers)
    api = APIRouter(prefix="/api")
    for part in (routes_jobs, routes_sheets, routes_shelf, routes_files, routes_traces):
        api.include_router(part.router)
    api.add_api_route("/health", _health, tags=["health"], responses=problems.RESPONSES)
    app.include_router(api)
    _serve_pages(app, pages)
    return app


async def _headers(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
    """The same safety headers on every answer."""
    response = await go_on(request)
    response.headers.update(_HEADERS)
    return response


def _health(request: Request) -> Health:
    """Whether application and database answer."""
    try:
        with transaction(request.app.state.engine) as connection:
            connection.execute(text("SELECT 1"))
        database = "answers"
    except StoreDown:
        database = "does not answer"
    return Health(application="answers", database=database, version=__version__)


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
        found = wanted.is_file() and wanted.is_relative_to(pages.resolve())
        return FileResponse(
            wanted if found else pages / "index.html", headers={"Cache-Control": "no-cache"}
        )
