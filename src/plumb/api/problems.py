"""The only place that turns the house's errors into HTTP: problem JSON with path, rule, value."""

from collections.abc import Sequence
from typing import Any, Final

import structlog
from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field
from starlette.exceptions import HTTPException

from plumb.api.log import request_id
from plumb.core.measure.problems import AsksBack, Conflict, NotThere, PlumbError, Problem, told
from plumb.jobfile.reading import path_of
from plumb.service.people.refusals import MayNot, NotSignedIn, TooOften
from plumb.store.session import StoreBusy, StoreDown, StoreFull

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
    400: "Cannot be read",
    401: "Nobody is signed in",
    403: "Not allowed",
    404: "Not there",
    405: "Not possible here",
    409: "Something newer is in its place",
    413: "Too large",
    415: "Of another type",
    421: "Not this shop",
    422: "Does not fit",
    429: "Too often",
    500: "Something broke",
    503: "Not just now",
    507: "The disk is full",
}

_IN_A_LINE = 5
"""So many problems stand in ``detail``; all that are told stand in ``problems``."""

MEDIA: Final = "application/problem+json"
_SCHEMAS: Final = "#/components/schemas/"
RESPONSES: dict[int | str, dict[str, Any]] = {
    code: {
        "description": TITLES[code],
        "content": {MEDIA: {"schema": {"$ref": f"{_SCHEMAS}{ProblemBody.__name__}"}}},
    }
    for code in (400, 401, 403, 404, 409, 413, 415, 421, 422, 429, 503)
}
"""What each route may answer instead.  By its schema's name: as a model it would be built anew for every
route and status, well over a thousand times, before the first request is answered."""


def described(contract: dict[str, Any]) -> dict[str, Any]:
    """An application's OpenAPI description with the schema that :data:`RESPONSES` refer to."""
    made = ProblemBody.model_json_schema(ref_template=_SCHEMAS + "{model}", mode="serialization")
    schemas = contract.setdefault("components", {}).setdefault("schemas", {})
    schemas |= made.pop("$defs") | {ProblemBody.__name__: made}
    return contract


def answer(
    status: int, problems: Sequence[Problem], title: str = "", detail: str = ""
) -> JSONResponse:
    """A problem response."""
    body = ProblemBody(
        type="about:blank",
        title=title or TITLES.get(status, "Problem"),
        status=status,
        detail=detail or "; ".join(p.text() for p in told(problems)[:_IN_A_LINE]),
        problems=[
            ProblemItem(
                path=p.path,
                rule=p.rule,
                value=p.value,
                code=p.code,
                suggestion=p.suggestion,
                confirmable=p.confirmable,
            )
            for p in told(problems)
        ],
    )
    return JSONResponse(body.model_dump(), status_code=status, media_type=MEDIA)


_STATUS: dict[type[PlumbError], int] = {
    NotThere: 404, Conflict: 409, NotSignedIn: 401, MayNot: 403, TooOften: 429,
}  # fmt: skip


def _domain(_request: Request, error: PlumbError) -> JSONResponse:
    title = "Is this what you meant?" if isinstance(error, AsksBack) else ""
    made = answer(_STATUS.get(type(error), 422), error.problems, title)
    if isinstance(error, TooOften):
        made.headers["Retry-After"] = str(error.wait_s)
    return made


def _shape(_request: Request, error: RequestValidationError) -> JSONResponse:
    found = [
        Problem(
            path=path_of(tuple(p for p in e["loc"] if p != "body")),
            rule=str(e["msg"]).removeprefix("Value error, "),
            code=str(e["type"]),
            value="" if isinstance(e.get("input"), dict | list) else str(e.get("input")),
        )
        for e in error.errors()
    ]
    return answer(422, found)


def _http(_request: Request, error: HTTPException) -> JSONResponse:
    return answer(error.status_code, [], detail=str(error.detail))


def store_trouble(error: StoreDown | StoreBusy | StoreFull) -> JSONResponse:
    """What is told while the store cannot be used."""
    if isinstance(error, StoreFull):
        log.error("disk full", error=str(error))
        return answer(507, [], detail="Make room on the disk; this reading was not kept here.")
    log.warning("database does not answer, or is busy", error=str(error))
    words = (
        "The database does not answer. Nothing was lost: what you typed waits, and is sent again."
        if isinstance(error, StoreDown)
        else "Others were at it all the time; what you typed is sent again."
    )
    return answer(503, [], detail=words)


def _store(_request: Request, error: StoreDown | StoreBusy | StoreFull) -> JSONResponse:
    return store_trouble(error)


def _broken(request: Request, error: Exception) -> JSONResponse:
    number = request_id.get()
    log.error("unexpected", path=request.url.path, error=repr(error), request=number)
    return answer(500, [], detail=f"This is a fault of Plumb. The log says more, under {number}.")


_HANDLERS: dict[Any, Any] = {
    PlumbError: _domain,
    RequestValidationError: _shape,
    HTTPException: _http,
    StoreDown: _store,
    StoreBusy: _store,
    StoreFull: _store,
    Exception: _broken,
}


def install(app: FastAPI) -> None:
    """Register the handlers."""
    for error, handler in _HANDLERS.items():
        app.add_exception_handler(error, handler)
