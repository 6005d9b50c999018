"""Who may come in, and what every answer carries, errors included.

A page of another origin can make a browser send requests to this machine.  It must neither write nor
read here: the name it used has to be one of the shop's own (else a name that resolves to 127.0.0.1
would do), and a request that a browser marks as another site's is turned away before anything of it
is read.  A program that is no browser sends neither mark and is let in.

Sources: Fetch (WHATWG) for ``Origin``, W3C Fetch Metadata for ``Sec-Fetch-Site``, RFC 9110, 7.2 for
``Host``.
"""

from collections.abc import Collection
from typing import Final
from urllib.parse import urlsplit

from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from plumb.api.problems import answer


def policy(style: str = "") -> str:
    """What a page may load; ``style`` is a nonce or a hash of styles that stand in the page itself."""
    return (
        f"default-src 'self'; style-src 'self'{style and ' ' + style}; img-src 'self' data:; "
        "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
    )


HEADERS: Final = {
    "Content-Security-Policy": policy(),
    "X-Content-Type-Options": "nosniff",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(self), serial=(self), geolocation=(), microphone=(), payment=()",
}
"""On every answer that does not say otherwise itself: a page with styles of its own names them."""

TLS_ONLY: Final = {"Strict-Transport-Security": "max-age=31536000"}
"""On every answer of a Plumb that is reached by TLS alone (RFC 6797)."""

LONGEST_PATH: Final = 2000
"""Characters of an address; the longest of Plumb's own has under 200."""

_ONLY_LOOKS: Final = frozenset({"GET", "HEAD", "OPTIONS"})
_OWN_SITE: Final = frozenset({"", "none", "same-origin"})


def is_api(path: str) -> bool:
    """Whether an address is of the API: the shop's, or that of its practice."""
    return path.startswith(("/api/", "/practice/api/"))


def host_of(authority: str) -> str:
    """The name in a ``Host`` header, without the port: ``[::1]:8650`` → ``[::1]``."""
    name = authority.strip().lower()
    if name.startswith("["):
        return name[: name.find("]") + 1]
    return name.partition(":")[0]


class Door:
    """Stands before the whole application; ``hosts`` are the names it may be called by."""

    def __init__(self, app: ASGIApp, hosts: Collection[str], *, tls: bool = False) -> None:
        self._app = app
        self._hosts = frozenset(h.lower() for h in hosts)
        self._headers = {**HEADERS, **(TLS_ONLY if tls else {})}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Turn away or let in; either answer gets the same headers."""
        if scope["type"] == "lifespan":
            await self._app(scope, receive, send)
            return

        async def send_safely(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in self._headers.items():
                    headers.setdefault(name, value)
                if is_api(scope["path"]):
                    headers["Cache-Control"] = "no-store"
            await send(message)

        refused = self._refused(scope)
        app = self._app if refused is None else answer(refused[0], [], detail=refused[1])
        await app(scope, receive, send_safely)

    def _refused(self, scope: Scope) -> tuple[int, str] | None:
        """Status and words for who may not come in."""
        headers = Headers(scope=scope)
        host = headers.get("host", "")
        if host_of(host) not in self._hosts or len(headers.getlist("host")) != 1:
            return 421, "This name is not one of this shop's: PLUMB_HOSTS lists those that are."
        path = scope["path"]
        if len(path) > LONGEST_PATH or any(ord(c) < 32 or ord(c) == 127 for c in path):
            return 400, f"An address has at most {LONGEST_PATH} characters, all of them visible."
        # A foreign page may link to a screen; whatever is under /api is for Plumb's own pages.
        guarded = scope["type"] == "websocket" or scope.get("method") not in _ONLY_LOOKS
        if not (guarded or is_api(path)):
            return None
        if headers.get("sec-fetch-site", "").lower() not in _OWN_SITE:
            return 403, "Only Plumb's own pages and programs that are no browser may ask this."
        origin = headers.get("origin")
        if origin is not None and not _is_own(origin, host):
            return 403, "The page that asked is not one of Plumb's own."
        return None


def _is_own(origin: str, host: str) -> bool:
    """Whether a page's origin is the very place that it asks; ``null`` is nobody's."""
    try:
        parts = urlsplit(origin)
    except ValueError:
        return False
    return parts.scheme in {"http", "https"} and parts.netloc.lower() == host.strip().lower()
