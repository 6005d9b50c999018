"""The bobs of a job's line on Today hang where the sheet's own judgement puts them."""

import pytest
from tests.core.test_diesel import returns

from plumb.core.procedures.returns.analysis import analyse_returns
from plumb.service.screens.bobs import bobs_of


@pytest.mark.parametrize(
    ("volumes", "beyond"),
    [
        ([52.0, 55.0, 49.0, 61.0], [True, True, True, True]),
        ([12.0, 30.0, 13.0, 55.0], [False, False, False, True]),
        ([36.0, 39.0, 37.0, 48.0], [False, False, False, True]),
    ],
    ids=["all of them", "one", "a low group close below it"],
)
def test_a_makers_limit_is_the_edge_of_the_corridor(
    volumes: list[float | None], beyond: list[bool]
) -> None:
    """At most 40 ml: who returns more hangs outside, also where the low group itself does."""
    found = analyse_returns(returns(volumes, high=40.0).sheet)
    assert [b.deviation_percent > 10.0 for b in bobs_of(found)] == beyond
