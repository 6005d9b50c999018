"""An engine with one injector only: it has no neighbour, so something else must say what it should give.

>>> alone_without_reference(())
()
"""

from collections.abc import Sequence

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding


def alone_without_reference(findings: Sequence[Finding]) -> tuple[str, ...]:
    """The engine's only injector where it was read and nothing says what it should give, else none."""
    if len(findings) != 1:
        return ()
    only = findings[0]
    read = bool(only.injector) and only.passes > 0 and only.state is State.NOT_JUDGED
    return (only.injector,) if read and not only.bound else ()
