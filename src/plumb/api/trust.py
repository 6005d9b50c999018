"""The page that tells how a tablet is told to trust this workshop's server, and what it has to trust."""

import secrets
from pathlib import Path

from fastapi import APIRouter, Response
from fastapi.responses import FileResponse, HTMLResponse
from jinja2 import Environment, PackageLoader

from plumb.api.door import policy


def routes(authority: Path, fingerprint: str) -> APIRouter:
    """The page and the authority's certificate; neither holds anything that is secret."""
    router = APIRouter()
    pages = Environment(loader=PackageLoader("plumb.api"), autoescape=True)

    @router.get("/trust", include_in_schema=False)
    def _page() -> HTMLResponse:
        nonce = secrets.token_urlsafe(16)
        text = pages.get_template("trust.html.j2").render(fingerprint=fingerprint, nonce=nonce)
        return HTMLResponse(text, headers={"Content-Security-Policy": policy(f"'nonce-{nonce}'")})

    @router.get("/trust/authority.crt", include_in_schema=False)
    def _certificate() -> Response:
        return FileResponse(
            authority, media_type="application/x-x509-ca-cert", filename="plumb-authority.crt"
        )

    return router
