"""From a document to HTML, and from HTML to a PDF that can be searched, read aloud and brought in again."""

from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, Final

from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape

if TYPE_CHECKING:
    from weasyprint import HTML

HERE: Final = Path(__file__).parent


@lru_cache(maxsize=1)
def _templates() -> Environment:
    """The templates; a name that a template asks for and nobody gives is an error, not a gap."""
    return Environment(
        loader=FileSystemLoader(HERE / "templates"),
        autoescape=select_autoescape(default=True, default_for_string=True),
        undefined=StrictUndefined,
        trim_blocks=True,
        lstrip_blocks=True,
    )


def html_of(template: str, *, printed: bool = True, **given: Any) -> str:  # noqa: ANN401  what the template shows
    """A page as HTML, with its style in it; one to be ``printed`` names the fonts beside this file."""
    sheets = ("fonts.css", "paper.css") if printed else ("paper.css",)
    style = "".join((HERE / "templates" / s).read_text(encoding="utf-8") for s in sheets)
    return _templates().get_template(template).render(style=style, **given)


def pdf_of(html: str, *, title: str, attached: dict[str, bytes] | None = None) -> bytes:
    """A tagged PDF (PDF/UA-1) with files attached, by their names.

    Nothing is fetched but the fonts beside this file.
    """
    from weasyprint import Attachment  # noqa: PLC0415  it takes a second to come

    made = _reader(html)
    files = [
        Attachment(string=data, name=name, description=f"{title}: the figures", relationship="Data")
        for name, data in (attached or {}).items()
    ]
    pdf: bytes = made.write_pdf(pdf_variant="pdf/ua-1", pdf_tags=True, attachments=files)
    return pdf


def warm_up() -> None:
    """Load what typesets, so that the first report of a day need not wait for it."""
    import weasyprint  # noqa: F401, PLC0415  importing it is all


def _reader(html: str) -> "HTML":
    from weasyprint import HTML, URLFetcher  # noqa: PLC0415
    from weasyprint.urls import URLFetcherResponse  # noqa: PLC0415

    class OnlyOurs(URLFetcher):  # type: ignore[misc]  # the library is not typed
        """Fonts beside this file and what the page carries itself; nothing else is fetched."""

        def fetch(self, url: str, headers: dict[str, str] | None = None) -> URLFetcherResponse:
            if not url.startswith(((HERE / "fonts").as_uri(), "data:")):
                message = f"a paper fetches nothing: {url[:80]}"
                raise ValueError(message)
            return super().fetch(url, headers)

    return HTML(string=html, base_url=HERE.as_uri() + "/", url_fetcher=OnlyOurs())
