"""The isolation board: every combination of up to three steps has a stated result."""

from itertools import combinations, product

import pytest

from plumb.core.measure.problems import PlumbError
from plumb.core.procedures.hold.isolation import SOURCES, STEPS, board, step_of

# Which outcome clears or leaves which source: the trade's own words (common practice, no source).
KNOWN = [
    ("low", [("clamp_supply", "holds")], {"supply_check_valve"}),
    ("low", [("clamp_return", "holds")], {"regulator"}),
    ("low", [("vacuum_hose", "wet")], {"regulator_diaphragm"}),
    ("low", [("tips", "wet")], {"injectors"}),
    ("low", [("clamp_both", "falls"), ("vacuum_hose", "dry"), ("outside", "dry")],
     {"injectors", "cold_start_injector"}),
    ("low", [("clamp_both", "holds"), ("clamp_return", "falls")], {"supply_check_valve"}),
    ("high", [("low_side", "rises")], {"pump_outlet_valve"}),
    ("high", [("low_side", "steady"), ("outside", "dry"), ("tips", "dry")], {"control_valve"}),
]  # fmt: skip


@pytest.mark.parametrize(("rail", "tried", "left"), KNOWN)
def test_what_is_left(rail: str, tried: list[tuple[str, str]], left: set[str]) -> None:
    """One leak at a time."""
    assert set(board(tried, rail).left) == left


@pytest.mark.parametrize("rail", ["low", "high"])
@pytest.mark.parametrize("count", [0, 1, 2, 3])
def test_every_combination_has_a_stated_result(rail: str, count: int) -> None:
    """Sources left, or a contradiction with the steps that disagree; never an empty silence."""
    for steps in combinations(STEPS[rail], count):
        for outcomes in product(*(s.leaves for s in steps)):
            tried = tuple((s.code, o) for s, o in zip(steps, outcomes, strict=True))
            found = board(tried, rail)
            assert bool(found.left) != found.contradiction
            assert bool(found.against) == found.contradiction
            assert {s.source for s in found.struck} | set(found.left) == set(SOURCES[rail])
            if found.contradiction:
                codes = {code for code, _ in tried}
                assert all(set(pair) <= codes for pair in found.against)
                assert found.next_step is None
            elif found.next_step is not None:
                assert found.next_step.step not in dict(tried)
                telling = step_of(found.next_step.step, rail).leaves.values()
                assert all(set(found.left) & leaves for leaves in telling)


def test_two_wet_places_are_two_leaks() -> None:
    """The hose is wet and a tip is wet: no single leak explains both."""
    found = board((("vacuum_hose", "wet"), ("tips", "wet")), "low")
    assert found.against == (("vacuum_hose", "tips"),)


def test_three_that_only_disagree_together() -> None:
    """Any two fit; all three do not: each pair is named."""
    tried = (("clamp_both", "holds"), ("clamp_return", "falls"), ("clamp_supply", "falls"))
    found = board(tried, "low")
    assert found.contradiction
    assert len(found.against) == 3


def test_the_last_outcome_of_a_step_counts() -> None:
    """A second look overrules the first."""
    found = board((("tips", "wet"), ("tips", "dry")), "low")
    assert "injectors" not in found.left
    assert found.tried == (("tips", "dry"),)


@pytest.mark.parametrize("rail", ["low", "high"])
def test_following_the_proposal_ends_in_one_place(rail: str) -> None:
    """Whatever leaks, the proposed steps find it, or come to what no step can tell apart."""
    for source in SOURCES[rail]:
        tried: list[tuple[str, str]] = []
        while (proposal := board(tried, rail).next_step) is not None:
            step = next(s for s in STEPS[rail] if s.code == proposal.step)
            tried.append((step.code, next(o for o, left in step.leaves.items() if source in left)))
        found = board(tried, rail)
        assert source in found.left
        assert len(found.left) == 1
        assert found.found == source


@pytest.mark.parametrize(
    ("rail", "step", "outcome", "path"),
    [
        ("high", "clamp_return", "holds", "step"),
        ("low", "low_side", "rises", "step"),
        ("low", "tips", "holds", "outcome"),
    ],
)
def test_what_a_rail_does_not_have(rail: str, step: str, outcome: str, path: str) -> None:
    """A high-pressure pipe is never clamped."""
    with pytest.raises(PlumbError) as caught:
        board(((step, outcome),), rail)
    assert caught.value.problems[0].path == path
