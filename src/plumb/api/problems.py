"""The only place that turns the house's errors into HTTP: problem JSON with path, rule, value."""

from collections.abc import Sequence
from typing import Any

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field
from starlette.exceptions import HTTPException

from plumb.core.problems import AsksBack, Conflict, NotThere, PlumbError, Problem
from plumb.jobfile.reading import path_of
from plumb.store.session import StoreDown, StoreFull

log = structlog.get_logger()


class ProblemItem(BaseModel):
    """One thing that does not fit."""

    path: str = Field(examples=["second"])
    rule: str = Field(examples=["The pressure cannot rise in a burst. Did you mean 50 then 26?"])
    value: str = Field(examples=["26 50"])
    code: str = Field(examples=["swapped"])
    suggestion: str = Field(examples=["50 26"])
    confirmable: bool = Field(examples=[False])


class ProblemBody(BaseModel):
    """RFC 9457 problem details, with the list of everything that does not fit."""

    type: str = Field(examples=["about:blank"])
    title: str = Field(examples=["Is this what you meant?"])
    status: int = Field(examples=[422])
    detail: str
    problems: list[ProblemItem]


TITLES = {
    404: "Not there",
    405: "Not possible here",
    409: "Something newer is in its place",
    413: "Too large",
    422: "Does not fit",
    500: "Something broke",
    503: "The database does not answer",
    507: "The disk is full",
}

RESPONSES: dict[int | str, dict[str, Any]] = {
    code: {"model": ProblemBody, "description": TITLES[code]} for code in (404, 409, 422, 503)
}


def answer(
    status: int, problems: Sequence[Problem], title: str = "", detail: str = ""
) -> JSONResponse:
    """A problem response."""
    body = ProblemBody(
        type="about:blank",
        title=title or TITLES.get(status, "Problem"),
        status=status,
        detail=detail or "; ".join(p.text() for p in problems),
        problems=[
            ProblemItem(
                path=p.path,
                rule=p.rule,
                value=p.value,
                code=p.code,
                suggestion=p.suggestion,
                confirmable=p.confirmable,
            )
            for p in problems
        ],
    )
    return JSONResponse(
        body.model_dump(), status_code=status, media_type="application/problem+json"
    )


def _status(error: PlumbError) -> tuple[int, str]:
    if isinstance(error, NotThere):
        return 404, ""
    if isinstance(error, Conflict):
        return 409, ""
    return 422, "Is this what you meant?" if isinstance(error, AsksBack) else ""


def install(app: FastAPI) -> None:
    """Register the handlers."""

    @app.exception_handler(PlumbError)
    def _domain(_request: Request, error: PlumbError) -> JSONResponse:
        status, title = _status(error)
        return answer(status, error.problems, title)

    @app.exception_handler(RequestValidationError)
    def _shape(_request: Request, error: RequestValidationError) -> JSONResponse:
        return answer(
            422,
            [
                Problem(
                    path=path_of(tuple(p for p in e["loc"] if p != "body")),
                    rule=str(e["msg"]).removeprefix("Value error, "),
                    code=str(e["type"]),
                    value="" if isinstance(e.get("input"), dict | list) else str(e.get("input")),
                )
                for e in error.errors()
            ],
        )

    @app.exception_handler(HTTPException)
    def _http(_request: Request, error: HTTPException) -> JSONResponse:
        return answer(error.status_code, [], detail=str(error.detail))

    @app.exception_handler(StoreDown)
    def _down(_request: Request, error: StoreDown) -> JSONResponse:
        log.warning("database does not answer", error=str(error))
        return answer(503, [], detail="Nothing was lost: what you typed waits and is sent again.")

    @app.exception_handler(StoreFull)
    def _full(_request: Request, error: StoreFull) -> JSONResponse:
        log.error("disk full", error=str(error))
        return answer(507, [], detail="Make room on the disk; this reading was not kept here.")

    @app.exception_handler(Exception)
    def _broken(request: Request, error: Exception) -> JSONResponse:
        log.error("unexpected", path=request.url.path, error=repr(error))
        return answer(500, [], detail="This is a fault of Plumb. The log says more.")
