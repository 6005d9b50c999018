"""Tips under pressure: dry, or wet by how much.

>>> sheet = SeenSheet(kind=KIND, injectors=("1", "2"), readings=(Seen(injector="1", word="drips"),))
>>> [f.state.value for f in analyse_tips(sheet).findings]
['high', 'not_judged']
"""

from typing import Final

from plumb.core.compare.seen import SeenResult, SeenSheet, analyse_seen
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.readings import Seen

__all__ = ["KIND", "STATES", "Seen", "SeenSheet", "analyse_tips"]

KIND: Final = "tip_leak"
STATES: Final = {
    "dry": State.IN_PLUMB,
    "weeps": State.HIGH,
    "drips": State.HIGH,
    "pours": State.HIGH,
}
"""What an injector reads as with each word; common practice, no source."""


def analyse_tips(sheet: SeenSheet, _thresholds: Thresholds = Thresholds()) -> SeenResult:
    """What was seen at each tip."""
    return analyse_seen(sheet, STATES)
