"""The bobs of a job's line on Today: who hangs true and who leans, on whatever sheet compares them."""

from collections.abc import Mapping

from plumb.core.procedures import Result
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.views.job import BobView


def hung_of(there: Mapping[str, tuple[str, Result]]) -> Result | None:
    """The result whose bobs stand for a job: the most telling of those that compare."""
    ranked = sorted(
        (k for k in SCREEN_KINDS.values() if k.rank is not None), key=lambda k: k.rank or 0
    )
    return next((there[k.code][1] for k in ranked if k.code in there), None)


def bobs_of(result: Result) -> list[BobView]:
    """A bob for each injector that was read and compared."""
    screen = SCREEN_KINDS[result.kind]
    made = []
    for finding in result.findings:
        at = screen.bob(finding, result)
        if at is not None:
            said = f"{round(at) or 0} %" if screen.flows else screen.kind.state(finding, result)
            made.append(
                BobView(
                    injector=finding.injector, state=finding.state.value,
                    deviation_percent=round(at, 2), said=said,
                )
            )  # fmt: skip
    return made
