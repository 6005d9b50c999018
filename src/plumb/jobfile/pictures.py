"""A photo as it is kept: turned upright, made smaller, stripped of place and device.

JPEG, PNG, WebP and HEIC are read; what is kept is JPEG.
"""

import io
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from threading import Lock
from typing import Final

from PIL import Image, ImageFile, ImageOps, UnidentifiedImageError
from pillow_heif import register_heif_opener

from plumb.core.measure.problems import PlumbError, Problem

MOST_BYTES: Final = 15 * 2**20
LONGEST: Final = 1800
PRINT: Final = 320
MOST_PIXELS: Final = 80_000_000
"""A picture of so many points fills memory before it is made smaller."""
_READ: Final = ("JPEG", "PNG", "WEBP", "HEIF")

register_heif_opener()


@dataclass(frozen=True, slots=True, kw_only=True)
class Picture:
    """What is kept of a photo: its points, the picture and a small print, both JPEG."""

    width: int
    height: int
    data: bytes
    small: bytes


def picture_of(raw: bytes) -> Picture:
    """The photo as it is kept; :class:`PlumbError` for what is none, or too large."""
    if len(raw) > MOST_BYTES:
        raise PlumbError(
            _problem(
                f"a photo has at most {MOST_BYTES // 2**20} MB", f"{len(raw)} bytes", "too_large"
            )
        )
    try:
        with _whole_only(), Image.open(io.BytesIO(raw), formats=_READ) as opened:
            if opened.width * opened.height > MOST_PIXELS:
                points = f"{opened.width} x {opened.height}"
                raise PlumbError(
                    _problem("a photo has at most 80 million points", points, "too_large")
                )
            upright = ImageOps.exif_transpose(opened)
            plain = _on_white(upright)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise PlumbError(
            _problem("a photo is JPEG, PNG, WebP or HEIC", _why(error), "no_photo")
        ) from error
    plain.thumbnail((LONGEST, LONGEST))
    small = plain.copy()
    small.thumbnail((PRINT, PRINT))
    return Picture(width=plain.width, height=plain.height, data=_jpeg(plain), small=_jpeg(small))


def _why(error: Exception) -> str:
    """What the reader of pictures says; of something else altogether it tells only where in memory it lay."""
    return "no picture" if isinstance(error, UnidentifiedImageError) else str(error)[:80]


_ONE_AT_A_TIME: Final = Lock()


@contextmanager
def _whole_only() -> Iterator[None]:
    """A photo that was cut off is refused, whatever another library has told Pillow to put up with."""
    with _ONE_AT_A_TIME:
        before = ImageFile.LOAD_TRUNCATED_IMAGES
        ImageFile.LOAD_TRUNCATED_IMAGES = False
        try:
            yield
        finally:
            ImageFile.LOAD_TRUNCATED_IMAGES = before


def _on_white(image: Image.Image) -> Image.Image:
    """Without what a JPEG has no place for: see-through parts become white."""
    if image.mode in {"RGBA", "LA", "P"}:
        seen = image.convert("RGBA")
        ground = Image.new("RGB", seen.size, "white")
        ground.paste(seen, mask=seen.getchannel("A"))
        return ground
    return image.convert("RGB")


def _jpeg(image: Image.Image) -> bytes:
    """As JPEG, without anything but the picture: no place, no device, no time."""
    out = io.BytesIO()
    clean = Image.new("RGB", image.size)
    clean.paste(image)
    clean.save(out, "JPEG", quality=85, optimize=True)
    return out.getvalue()


def _problem(rule: str, value: str, code: str) -> Problem:
    return Problem(path="photo", rule=rule, value=value, code=code)
