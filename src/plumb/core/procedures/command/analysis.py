"""The command at each plug: a test lamp blinks, or says that the injector is not asked to open.

>>> sheet = SeenSheet(kind=KIND, injectors=("1", "2"), readings=(Seen(injector="1", word="dark"),))
>>> [f.state.value for f in analyse_command(sheet).findings]
['no_response', 'not_judged']
"""

from typing import Final

from plumb.core.compare.seen import SeenResult, SeenSheet, analyse_seen
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.readings import Seen

__all__ = ["KIND", "STATES", "Seen", "SeenSheet", "analyse_command"]

KIND: Final = "command"
STATES: Final = {
    "blinks": State.IN_PLUMB,
    "weak": State.LOW,
    "dark": State.NO_RESPONSE,
    "steady": State.HIGH,
}
"""What an injector reads as with each word; common practice, no source."""


def analyse_command(sheet: SeenSheet, _thresholds: Thresholds = Thresholds()) -> SeenResult:
    """What the lamp showed at each plug."""
    return analyse_seen(sheet, STATES)
