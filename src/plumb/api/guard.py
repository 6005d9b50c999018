"""Who may do what, where people sign in: asked of every request before anything of it is read.

Stands behind the door and before the application (``app.py``), only where Plumb is on the workshop's
network.  Who may what is one table here.  An address that nobody thought of takes a person to look at
and a technician to write to.
"""

import re
from collections.abc import Callable
from http.cookies import CookieError, SimpleCookie
from time import monotonic
from typing import Final

from sqlalchemy import Engine
from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from plumb.api.door import is_api
from plumb.api.problems import answer, store_trouble
from plumb.core.measure.problems import Problem
from plumb.service.people.coming_in import Known, known
from plumb.service.people.roles import at_least, may_not
from plumb.service.people.stay import Stay
from plumb.store.actor import acting
from plumb.store.session import StoreBusy, StoreDown, StoreFull

PERSON_COOKIE: Final = "__Host-plumb"
TABLET_COOKIE: Final = "__Host-plumb-tablet"
"""A name of this beginning is taken by browsers only when it is secure and of this very host (RFC 6265bis)."""
ASKED_AGAIN_S: Final = 20.0
"""So often a line that stays open is asked whether its person is still signed in."""

_LOOKS: Final = frozenset({"GET", "HEAD"})
_OPEN: Final = frozenset(
    {
        ("GET", "/api/here"), ("GET", "/api/health"), ("POST", "/api/sign-in"),
        ("POST", "/api/sign-in/first"), ("POST", "/api/sign-out"), ("POST", "/api/pairing/claim"),
    }
)  # fmt: skip
_RULES: Final = tuple(
    (writing, re.compile(pattern), role)
    for writing, pattern, role in (
        (False, r"/api/people(/|$)|/api/journal/entries$", "owner"),
        (False, r"/api/(devices|pairing|journal|keeping)(/|$)", "lead"),
        (True, r"/api/(gauges|shelf|layouts|learning|shop|instruments)(/|$)", "lead"),
        (True, r"/api/(me|sign-ins)(/|$)", "reader"),
        (True, r"/api/", "technician"),
        (False, r"/api/", "reader"),
    )
)
"""Whether it is about writing alone, the address, and the least role; the first that fits."""


def role_for(method: str, path: str) -> str | None:
    """The least role for a request, None where nobody need be signed in.

    >>> role_for("GET", "/api/jobs"), role_for("PUT", "/api/shop"), role_for("GET", "/api/here")
    ('reader', 'lead', None)
    """
    path = path.removeprefix("/practice")
    if (method, path) in _OPEN:
        return None
    writing = method not in _LOOKS
    return next(
        role for only, pattern, role in _RULES if (writing or not only) and pattern.match(path)
    )


def cookie_of(headers: Headers, name: str) -> str:
    """What a cookie holds, empty where it is not sent or cannot be read."""
    found: SimpleCookie = SimpleCookie()
    try:
        found.load(headers.get("cookie", ""))
    except CookieError:
        return ""
    return found[name].value if name in found else ""


class Guard:
    """Lets in who is signed in and may; who asks stands in the request's state as ``known``."""

    def __init__(self, app: ASGIApp, engine: Callable[[], Engine], stay: Stay) -> None:
        self._app, self._engine, self._stay = app, engine, stay

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Ask, refuse or let in."""
        if scope["type"] == "lifespan" or not is_api(scope["path"]):
            await self._app(scope, receive, send)
            return
        try:
            who = await self._who(scope)
        except (StoreDown, StoreBusy, StoreFull) as error:
            await store_trouble(error)(scope, receive, send)
            return
        role = role_for(scope.get("method", "GET"), scope["path"])
        if role is not None and not at_least(who.person.role if who.person else "", role):
            await self._refuse(who, role)(scope, receive, send)
            return
        scope.setdefault("state", {})["known"] = who
        was = acting.set(who.actor())
        try:
            out = send if scope["type"] == "http" else self._watched(scope, send)
            await self._app(scope, receive, out)
        finally:
            acting.reset(was)

    async def _who(self, scope: Scope) -> Known:
        headers = Headers(scope=scope)
        words = (cookie_of(headers, PERSON_COOKIE), cookie_of(headers, TABLET_COOKIE))
        if not any(words):
            return Known()
        return await run_in_threadpool(known, self._engine(), *words, self._stay)

    def _refuse(self, who: Known, role: str) -> ASGIApp:
        if who.person is None:
            rule = "Sign in first; what you typed waits in this browser."
            return answer(401, [Problem(path="", rule=rule, code="not_signed_in")])
        return answer(403, may_not(role).problems)

    def _watched(self, scope: Scope, send: Send) -> Send:
        """A line that stays open ends when its person is no longer signed in."""
        asked = monotonic()

        async def send_still(message: Message) -> None:
            nonlocal asked
            if monotonic() - asked > ASKED_AGAIN_S:
                asked = monotonic()
                try:
                    gone = (await self._who(scope)).person is None
                except (StoreDown, StoreBusy, StoreFull):
                    gone = False
                if gone:
                    message = {"type": "websocket.close", "code": 4401}
            await send(message)

        return send_still
