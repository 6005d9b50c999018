"""What the service hands to the API about photos."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoView:
    """A photo: where it belongs (a sheet's key and row, empty: the job), what is on it, who took it."""

    id: str
    sheet: str
    row: str
    note: str
    in_report: bool
    by: str
    taken: str
    width: int
    height: int
