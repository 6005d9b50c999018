"""What is said of how sure it is: by odds that nobody knows to a factor."""

import numpy as np

from plumb.core.causes.table import FAULTS as TABLE
from plumb.core.diagnose.sets import as_told
from tests.core.jobs import supply, walk
from tests.core.test_diagnosis import job, share


def test_how_common_a_fault_is_in_the_shop_moves_its_share() -> None:
    """A shop that has met torn diaphragms more often looks for them sooner."""
    usual = job(walk("smoke_black"), supply())
    learnt = job(walk("smoke_black"), supply(), common={"regulator_diaphragm": 0.2})
    torn = next(s for s in usual.weighed.shared if s.fault.code == "regulator_diaphragm")
    assert learnt.weighed.share_of(torn) > 3 * usual.weighed.share_of(torn)
    # What is said of it moves as well, by less: nobody knows so exactly how common it is.
    assert share(learnt, "regulator_diaphragm") > 2 * share(usual, "regulator_diaphragm")


def test_what_is_told_rests_on_odds_that_lie_closer_together() -> None:
    """The same odds for all to begin with: what only the odds set apart is told as alike; what was seen is not."""
    everywhere = job(walk("long_crank"), supply())
    even = dict.fromkeys(TABLE, 0.02)
    alike = job(walk("long_crank"), supply(), common=even)
    assert np.allclose(as_told(alike.weighed).of_engine, alike.weighed.of_engine)
    raw, told = everywhere.weighed, as_told(everywhere.weighed)
    common, rare = (
        next(s for s in raw.shared if s.fault.code == code)
        for code in ("supply_check_valve", "outside_leak")
    )
    ratio = raw.share_of(common) / raw.share_of(rare)
    assert 1.0 < told.share_of(common) / told.share_of(rare) < ratio
