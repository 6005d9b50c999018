"""The command in the job file."""

from typing import Literal

from pydantic import Field

from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.readings import Noted, Seen
from plumb.core.procedures.command.analysis import KIND
from plumb.jobfile.kinds.kind import Engine, FileKind, row_problems
from plumb.jobfile.models import EnginePart, SeenPart, SheetPart


class CommandSeenPart(SeenPart):
    """The test lamp at one plug."""

    seen: Literal["blinks", "weak", "dark", "steady"]


class CommandPart(SheetPart):
    """The command at each plug."""

    kind: Literal["command"]
    engine: EnginePart = EnginePart()
    readings: list[CommandSeenPart] = Field(max_length=200)


def core(_part: CommandPart, rows: tuple[Noted, ...], engine: Engine) -> SeenSheet:
    """A word an injector."""
    return SeenSheet(
        kind=KIND,
        injectors=engine.labels,
        readings=tuple(Seen(injector=r.injector, word=r.word or "") for r in rows),
    )


COMMAND = FileKind(
    model=CommandPart, entries={"readings": CommandSeenPart}, core=core, problems=row_problems
)
