"""The command on the screen: a word a row."""

from plumb.core.compare.seen import SeenResult, state
from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.procedures.command.analysis import KIND
from plumb.service.kinds.kind import TONES, ScreenKind
from plumb.service.kinds.knobs import ENGINE


def tone(finding: Finding, _result: SeenResult) -> str:
    """A weak lamp says nothing of how much the injector gives."""
    return "open" if finding.state is State.LOW else TONES.get(finding.state, "")


COMMAND = ScreenKind(code=KIND, gauge=None, knobs=(ENGINE,), tone=tone, cell=state)
