"""The reference: the readings that agree, never a plain mean.

Half of a set may be bad, or two may share a feed: a mean then lies.  The largest group whose
members lie within a half-width of one common centre is taken, every value and every midpoint of
two being tried as centre.  A second group of the same size that shares no member with it means
that the set cannot say which half is right.

>>> group = agreeing([10.0, 10.1, 9.9, 7.0], half_width=0.05)
>>> group.members, group.split
((2, 0, 1), False)
>>> agreeing([10.0, 8.0, 8.0, 10.0], half_width=0.05).split
True
"""

from bisect import bisect_left, bisect_right
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Final

_FEWEST: Final = 2
"""One alone agrees with nobody."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """The readings that agree: indices into the values that were given, lowest value first.

    ``others`` are disjoint groups of the same size; ``split`` says that there is one.  ``rivals`` might as well have
    been it, but for the noise of the values.
    """

    members: tuple[int, ...]
    mean: float
    spread: float
    half_width: float
    others: tuple[tuple[int, ...], ...]
    rivals: tuple[tuple[int, ...], ...] = ()

    @property
    def split(self) -> bool:
        """Another group, just as large, stands against this one."""
        return bool(self.others)


def _windows(
    order: Sequence[int], values: Sequence[float], half: float, *, absolute: bool
) -> Iterator[tuple[int, int]]:
    """Runs [i, j) of the sorted values that lie within the half-width of some centre."""
    ranked = [values[i] for i in order]
    count = len(ranked)
    centres = {(ranked[i] + ranked[j]) / 2.0 for i in range(count) for j in range(i, count)}
    for centre in sorted(centres):
        reach = _reach(centre, half, absolute=absolute)
        first = bisect_left(ranked, centre - reach)
        last = bisect_right(ranked, centre + reach)
        if first < last:
            yield first, last


def _reach(centre: float, half: float, *, absolute: bool) -> float:
    """How far from a centre a value may lie, the last float digit aside."""
    return (half if absolute else half * abs(centre)) + 1e-12 * max(abs(centre), 1.0)


def _as_one(least: float, most: float, half: float, *, absolute: bool) -> bool:
    """Whether the two ends of a set lie within the half-width of the centre between them."""
    centre = (least + most) / 2.0
    return most <= centre + _reach(centre, half, absolute=absolute)


def agreeing(
    values: Sequence[float], half_width: float, *, absolute: bool = False, noise: float = 0.0
) -> Group:
    """The largest group of values within ``half_width`` of a common centre; ties: the tighter.

    ``half_width`` is a fraction of the centre, or in the values' unit when ``absolute``; so is ``noise``, how far
    the difference of two values may be off: groups that are beaten by no more than that are rivals.  At least one
    value is needed.
    """
    order = sorted(range(len(values)), key=values.__getitem__)
    # Nearly every set agrees as a whole; then no smaller group has to be looked for.
    if _as_one(values[order[0]], values[order[-1]], half_width, absolute=absolute):
        runs = {(0, len(values))}
    else:
        runs = set(_windows(order, values, half_width, absolute=absolute))
    most = max(j - i for i, j in runs)

    def spread(run: tuple[int, int]) -> float:
        return values[order[run[1] - 1]] - values[order[run[0]]]

    largest = sorted((r for r in runs if r[1] - r[0] == most), key=lambda r: (spread(r), r))
    best = largest[0]
    others: list[tuple[int, int]] = []
    for run in largest[1:]:
        if all(run[1] <= o[0] or run[0] >= o[1] for o in (best, *others)):
            others.append(run)
    near = _Near([values[i] for i in order], half_width, noise, best, absolute=absolute)
    rivals = sorted(r for r in runs if r not in (best, *others) and near.might_be(r))
    members = tuple(order[best[0] : best[1]])
    return Group(
        members=members,
        mean=sum(values[i] for i in members) / len(members),
        spread=spread(best),
        half_width=half_width,
        others=tuple(tuple(order[i:j]) for i, j in others),
        rivals=tuple(tuple(order[i:j]) for i, j in rivals),
    )


@dataclass(frozen=True, slots=True)
class _Near:
    """Which runs might have been the largest, or the tighter of two, but for ``noise`` between two values."""

    ranked: Sequence[float]
    half: float
    noise: float
    best: tuple[int, int]
    absolute: bool = field(kw_only=True)

    def might_be(self, run: tuple[int, int]) -> bool:
        """As many and as tight; or as many with one more beside it, or once the best has lost one."""
        i, j = self.best
        count = run[1] - run[0]
        if not self.noise or count < max(_FEWEST, j - i - 1):
            return False
        if count == j - i:
            return self._as_tight(run, self.best)
        wider = [r for r in ((run[0] - 1, run[1]), (run[0], run[1] + 1)) if self._may_hold(r)]
        if any(self._as_tight(r, self.best) for r in wider if r != self.best):
            return True
        smaller = min(((i + 1, j), (i, j - 1)), key=self._spread)
        inside = i <= run[0] and run[1] <= j
        return not inside and self._may_lose_one() and self._as_tight(run, smaller)

    def _spread(self, run: tuple[int, int]) -> float:
        return self.ranked[run[1] - 1] - self.ranked[run[0]]

    def _scale(self, run: tuple[int, int]) -> float:
        return 1.0 if self.absolute else abs(self.ranked[run[1] - 1] + self.ranked[run[0]]) / 2.0

    def _as_tight(self, run: tuple[int, int], other: tuple[int, int]) -> bool:
        return self._spread(run) - self._spread(other) <= self.noise * self._scale(other)

    def _may_hold(self, run: tuple[int, int]) -> bool:
        if run[0] < 0 or run[1] > len(self.ranked):
            return False
        return self._spread(run) <= (2.0 * self.half + self.noise) * self._scale(run)

    def _may_lose_one(self) -> bool:
        return self._spread(self.best) > (2.0 * self.half - self.noise) * self._scale(self.best)
