"""The card of the command."""

from typing import Final

from plumb.core.compare.seen import because, state, working
from plumb.core.procedures.cautions import LAST, WHILE_CRANKING
from plumb.core.procedures.command.analysis import KIND, analyse_command
from plumb.core.procedures.command.facts import MAKES, facts
from plumb.core.procedures.command.guide import COMMAND_GUIDE
from plumb.core.procedures.command.shows import SHOWS
from plumb.core.procedures.command.words import headline
from plumb.core.procedures.kind import Effort, Entry, Kind, petrol

COMMAND: Final = Kind(
    code=KIND,
    title="Command",
    how="test lamp at each plug, cranking or running",
    care=WHILE_CRANKING + LAST,
    places=petrol(40),
    effort=Effort(once=1.0, each=0.7, spot=True),
    engine="cranking",
    electrical=True,
    entry=Entry(
        shape="words",
        words=(("blinks", "b"), ("weak", "w"), ("dark", "d"), ("steady", "s")),
        once=True,
    ),
    says=("blinks", "weak", "dark", "steady"),
    makes=MAKES,
    guide=COMMAND_GUIDE,
    shows=SHOWS,
    clears=("command", "shared_feed"),
    analyse=analyse_command,
    facts=facts,
    headline=headline,
    state=state,
    because=because,
    working=working,
)
