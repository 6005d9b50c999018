"""What becomes of the fault codes: which are waited for, and which nothing that was found explains."""

from collections.abc import Iterator

from plumb.core.causes.codes import code_words, comes_along, explained_by, of_cylinders, read_code
from plumb.core.causes.fault import INJECTOR
from plumb.core.diagnose.explain import Cause
from plumb.core.measure.text import Advice, be, listed
from plumb.core.weigh.job import JobResult


def about_codes(result: JobResult) -> tuple[Advice, ...]:
    """A word on every code that what was found does not explain; none while the search goes on.

    Codes that injectors bring along when they are off are waited for; all others are named.
    """
    diagnosis = result.diagnosis
    codes = result.weighed.case.codes
    if not codes or diagnosis.explained == "open" or not (result.verdicts or diagnosis.found):
        return ()
    left = [c for c in codes if not any(_explains(result, cause, c) for cause in diagnosis.found)]
    injectors = any(c.fault.of == INJECTOR for c in diagnosis.found)
    waiting = [c for c in left if injectors and comes_along(c)]
    return tuple(_told(waiting, [c for c in left if c not in waiting]))


def _explains(result: JobResult, cause: Cause, code: str) -> bool:
    """Whether a cause sets a code: of its class, and at the cylinder that the code names."""
    if cause.fault.code not in explained_by(code):
        return False
    read = read_code(code)
    at = of_cylinders(result.weighed.case.cylinders).get(read.cylinder) if read else None
    of_one = cause.place in result.weighed.case.injectors
    return not (at and of_one) or cause.place == at


def _told(waiting: list[str], others: list[str]) -> Iterator[Advice]:
    if waiting:
        things = list(dict.fromkeys(comes_along(c) for c in waiting))
        what = listed(things)
        yield Advice(
            title=f"Wait with {listed(waiting)}",
            text=f"{what[0].upper()}{what[1:]} {be(len(things))} upset by injectors that are off: put "
            "these right, clear the codes, and see whether they come back on the road.",
        )
    if others:
        named = [f"{c} ({words})" if (words := code_words(c)) else c for c in others]
        yield Advice(
            title=f"Not explained: {listed(others)}",
            text=f"Nothing that was found sets {listed(named)}: follow the maker’s search for "
            f"{'it' if len(others) == 1 else 'each'}.",
        )
