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
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Group:
    """The readings that agree: indices into the values that were given, lowest value first.

    ``others`` are disjoint groups of the same size; ``split`` says that there is one.
    """

    members: tuple[int, ...]
    mean: float
    spread: float
    half_width: float
    others: tuple[tuple[int, ...], ...]

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


def agreeing(values: Sequence[float], half_width: float, *, absolute: bool = False) -> Group:
    """The largest group of values within ``half_width`` of a common centre; ties: the tighter.

    ``half_width`` is a fraction of the centre, or in the values' unit when ``absolute``.  At least
    one value is needed.
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
    members = tuple(order[best[0] : best[1]])
    return Group(
        members=members,
        mean=sum(values[i] for i in members) / len(members),
        spread=spread(best),
        half_width=half_width,
        others=tuple(tuple(order[i:j]) for i, j in others),
    )
