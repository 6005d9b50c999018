"""Whole jobs to their end: what a repair does to the engine, and that following every step ends the complaint."""

import numpy as np
import pytest

from plumb.bench.engines.hidden import draw
from plumb.bench.engines.visits import Visit, whole_job
from plumb.bench.visits import ended

WAYS = (
    ("port", ("clogged",)),
    ("port", ("regulator leaks", "weeps")),
    ("direct", ("supply", "drips")),
    ("common_rail", ("returns", "compression")),
    ("mechanical_diesel", ("seat leaks", "compression")),
    ("throttle_body", ("pours", "clogged")),
)


@pytest.mark.parametrize(("system", "names"), WAYS)
def test_two_faults_are_found_one_after_the_other(system: str, names: tuple[str, ...]) -> None:
    """What is found is repaired and measured again; what is left is looked for anew, until nothing is."""
    seed = WAYS.index((system, names))
    one = whole_job(draw(np.random.default_rng((5, seed)), system, names), seed)
    assert one.ended
    assert (one.left, one.needless) == ((), ())
    assert one.over
    again = [s for s in one.steps if s.endswith(":after_fix")]
    assert again
    assert one.steps[-1] == "ask_after:ask_after"
    assert one.minutes > 0.0


def test_a_repair_does_what_such_a_repair_does() -> None:
    """A new part is good; what was put right on the engine is right; a good one that is touched is told."""
    engine = draw(np.random.default_rng(3), "port", ("drips", "regulator leaks"))
    at = next(iter(engine.truth))
    words = set(engine.words)
    visit = Visit(engine, 1)
    visit.mends("regulator")
    assert "regulator" not in engine.leaks
    assert visit.there == {"drips"}
    visit.works_on(str(at + 1), "replace")
    assert (engine.leak[at], engine.truth, visit.there) == (0.0, {}, set())
    assert visit.needless == []
    other = str(1 + (at + 1) % engine.count)
    visit.works_on(other, "replace")
    assert visit.needless == [f"{other} replaced"]
    visit.asked()
    assert visit.done.asked_after == dict.fromkeys(words, "gone")
    assert [r.done for r in visit.done.repairs] == ["put_right", "replaced", "replaced"]


def test_most_engines_end_with_nothing_left() -> None:
    """Twenty-five engines: no good part is bought for more than one, and nothing is left on more than one."""
    made = [one for _, _, _, one in ended(25, 61)]
    assert all(one.ended for one in made)
    assert sum(not one.right for one in made) <= 1
