"""Before and after: what a sheet taken after the repair says against the one before it.

The change is the difference of the two deviations, with the uncertainty of both; beyond twice that
it is one (k = 2, JCGM 100:2008, 6.2.1).

>>> CHANGES["put_right"]
'put right'
"""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.measure.decision import State
from plumb.core.measure.finding import Finding
from plumb.core.measure.uncertainty import COVERAGE
from plumb.core.procedures import Result

CHANGES: Final = {
    "put_right": "put right",
    "better": "better, but not yet",
    "unchanged": "unchanged",
    "worse": "worse",
    "not_settled": "not settled",
}
_UNTOLD: Final = frozenset({State.UNSETTLED, State.NOT_JUDGED, State.SPLIT})


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """One row on two sheets: where it hung before, where it hangs now, and what that comes to.

    ``change`` and its ``u`` (one standard uncertainty) are fractions of the reference where the kind
    compares shares (``relative``), else in the value's own unit; None where there is no figure.
    """

    row: str
    injector: str
    sheet: str
    before_sheet: str
    before: Finding
    after: Finding
    change: float | None
    u: float | None
    word: str

    @property
    def relative(self) -> bool:
        """Whether the change is a fraction of the reference."""
        return self.after.scale.relative


def pairs_of(results: Sequence[tuple[str, Result]], after: Mapping[str, str]) -> tuple[Pair, ...]:
    """Every row that was read on a sheet taken *after*, against the sheet that it names.

    ``after`` are the ids of the sheets before by those of the sheets after.
    """
    there = dict(results)
    made: list[Pair] = []
    for key, result in results:
        before = there.get(after.get(key, ""))
        if before is not None and before.kind == result.kind:
            made += _of_sheets(key, result, after[key], before)
    return tuple(made)


def _of_sheets(key: str, result: Result, before_key: str, before: Result) -> Iterator[Pair]:
    earlier = {f.row: f for f in before.findings}
    for finding in result.findings:
        was = earlier.get(finding.row)
        if finding.read and was is not None and was.told:
            change, u = changed(was, finding)
            yield Pair(
                row=finding.row, injector=finding.injector, sheet=key, before_sheet=before_key,
                before=was, after=finding, change=change, u=u, word=_word(was, finding, change, u),
            )  # fmt: skip


def changed(before: Finding, after: Finding) -> tuple[float | None, float | None]:
    """How much further to "gives more" it hangs than before, and the standard uncertainty of that."""
    if before.deviation is None or after.deviation is None:
        return None, None
    return after.deviation - before.deviation, math.hypot(before.u or 0.0, after.u or 0.0)


def _word(before: Finding, after: Finding, change: float | None, u: float | None) -> str:
    if after.state in _UNTOLD:
        return "not_settled"
    if after.good:
        return "unchanged" if before.good else "put_right"
    if before.good:
        return "worse"
    if after.state is State.IN_PLUMB:
        # Its figure is right and something beside it is not: as it was, unless the figure has come right meanwhile.
        return "unchanged" if before.ails else "better"
    if change is None or u is None or before.deviation is None or after.deviation is None:
        # Words instead of figures: another word that is still bad is no cure.
        return "unchanged" if before.state is after.state else _gave_word(before, after)
    if abs(change) <= COVERAGE * u:
        return "unchanged"
    return "better" if abs(after.deviation) < abs(before.deviation) else "worse"


def _gave_word(before: Finding, after: Finding) -> str:
    """One that answers again is better than one that did not, and the other way round."""
    silent = {State.NO_RESPONSE, State.OPEN}
    if before.state in silent and after.state not in silent:
        return "better"
    return "worse" if after.state in silent else "unchanged"
