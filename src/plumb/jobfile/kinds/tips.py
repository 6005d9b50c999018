"""The tips in the job file."""

from typing import Literal

from pydantic import Field

from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.readings import Noted, Seen
from plumb.core.procedures.tips.analysis import KIND
from plumb.jobfile.kinds.kind import Engine, FileKind, row_problems, scaled
from plumb.jobfile.models import Positive, SeenPart, SheetPart


class TipSeenPart(SeenPart):
    """One tip under pressure."""

    seen: Literal["dry", "weeps", "drips", "pours"]


class TipPart(SheetPart):
    """Tips under pressure."""

    kind: Literal["tip_leak"]
    place: Literal["", "on_car", "off_car"] = ""
    duration_s: Positive | None = None
    readings: list[TipSeenPart] = Field(max_length=200)


def core(part: TipPart, rows: tuple[Noted, ...], engine: Engine) -> SeenSheet:
    """A word an injector."""
    return SeenSheet(
        kind=KIND,
        injectors=engine.labels,
        readings=tuple(Seen(injector=r.injector, word=r.word or "") for r in rows),
        place=part.place,
        duration_s=scaled(part.duration_s),
    )


TIPS = FileKind(model=TipPart, entries={"readings": TipSeenPart}, core=core, problems=row_problems)
