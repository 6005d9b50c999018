"""What the API takes in of practice."""

from typing import Annotated, Literal

from pydantic import Field

from plumb.api.schemas import Body, MadeId

Row = Annotated[str, Field(max_length=12)]
Word = Annotated[str, Field(max_length=40)]


class BeginIn(Body):
    """An exercise to begin: its code, or none for one that is drawn; by whom; as an exam or not."""

    request_id: MadeId
    exercise: str = Field("", max_length=24, pattern=r"^(\d\d|drawn-\d{1,9}|)$", examples=["01"])
    by: str = Field("", max_length=40)
    exam: bool = False


class ActIn(Body):
    """Something that is done at the bench: look, try, repair, switch, wait, start, stop, relieve, lift, put_back.

    ``sheet`` and ``rows`` are looked at, ``name`` is what is switched, tried or repaired.
    """

    what: Literal[
        "look", "try", "repair", "switch", "wait", "start", "stop", "relieve", "lift", "put_back"
    ]
    sheet: str = Field("", max_length=12)
    rows: list[Row] = Field([], max_length=32)
    name: Word = ""
    on: bool = True
    seconds: float = Field(0.0, ge=0, le=1200)


class JudgedIn(Body):
    """What is said of an injector: how it is, and the work it is sent to; both may be empty."""

    condition: Word = ""
    repair: Word = ""


class HandedIn(Body):
    """The verdict that is handed in."""

    injectors: dict[Row, JudgedIn] = Field({}, max_length=32)
    causes: list[Word] = Field([], max_length=20)
    elsewhere: bool = False
