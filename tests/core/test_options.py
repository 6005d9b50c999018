"""Ways to put it right: the sums redone by hand, the chance of cleaning against scipy."""

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import integrate, special, stats

from plumb.core.mend.cured import USUAL, Cured
from plumb.core.mend.options import (
    EACH_MINUTES,
    FLAGGED,
    NO_WAITING,
    OPTIONS,
    REACH_MINUTES,
    Option,
    Prices,
    clean_then_replace,
    options_for,
)
from plumb.core.mend.words import chance_words, chosen_words, way_words
from plumb.core.weigh.table import TABLE
from tests.core.jobs import coils, command, drop, supply, tips, walk, weigh

# Labour 90 an hour, an hour to reach them, ten minutes each, a part 120, a cleaning 25.
PRICES = Prices(
    currency="EUR", labour_per_hour=90, reach_minutes=60, each_minutes=10, part=120, cleaning=25
)
CLOGGED_4 = drop((26, 26.5, 26, 31.5))
CLOGGED_3_AND_4 = drop((26, 26.5, 26, 31.5, 26, 31.5))


def ways(result: object, prices: Prices = PRICES, **chances: Cured) -> dict[str, Option]:
    """Ways."""
    return {o.option: o for o in options_for(result, prices, chances)}  # type: ignore[arg-type]


def test_one_of_four_costs_what_the_sums_on_paper_say() -> None:
    """Hour 90, (60 + 10) min are 105; part 120; cleaning 25: 225.  First visit 130, then 0.4 x 225."""
    made = ways(weigh(4, CLOGGED_4))
    assert list(made)[-1] == "wait"
    assert made["replace_flagged"].cost.expected == pytest.approx(225.0)
    assert made["replace_flagged"].cost.low == made["replace_flagged"].cost.high == 225.0
    assert made["replace_flagged"].hours == pytest.approx(70 / 60)
    clean = made["clean_then_replace"]
    assert clean.cost.expected == pytest.approx(220.0)
    assert (clean.cost.low, clean.cost.high) == pytest.approx((130.0, 355.0))
    assert clean.second_visit == pytest.approx(0.4)
    assert clean.hours == pytest.approx(70 / 60 * 1.4)
    # Four parts, and 60 + 4 x 10 minutes.
    assert made["whole_set"].cost.expected == pytest.approx(630.0)
    # Cleaning all four: 4 x 25 and 100 minutes, then the same second visit for the one.
    assert made["clean_all"].cost.expected == pytest.approx(100 + 150 + 0.4 * 225)
    assert [o.option for o in options_for(weigh(4, CLOGGED_4), PRICES, {})][:2] == [
        "clean_then_replace", "replace_flagged",
    ]  # fmt: skip


def test_two_flagged_share_the_visit() -> None:
    """Replace 2 x 120 + 80 min: 360.  Clean 50 + 120; then 0.6 x 90 and 0.8 x (120 + 15): 332."""
    made = ways(weigh(6, CLOGGED_3_AND_4))
    assert made["replace_flagged"].cost.expected == pytest.approx(360.0)
    assert made["clean_then_replace"].cost.expected == pytest.approx(332.0)
    assert made["clean_then_replace"].second_visit == pytest.approx(0.6)
    assert made["clean_then_replace"].injectors == ("4", "6")


def test_the_second_visit_is_what_a_simulation_of_many_shops_says() -> None:
    """One unknown chance for all: drawn from Beta(3, 2), then each injector by it."""
    rng = stats.beta(3, 2)
    p = rng.rvs(400_000, random_state=5)
    some_stay = 1.0 - (p**3).mean()
    made = clean_then_replace(("1", "2", "3"), (), PRICES, USUAL)
    assert made.second_visit == pytest.approx(some_stay, abs=0.003)
    stay = 3 * (1 - p.mean())
    by_hand = 3 * 25 + 90 * 1.5 + some_stay * 90 + stay * (120 + 15)
    assert made.cost.expected == pytest.approx(by_hand, rel=0.005)


@given(st.floats(0.5, 40), st.floats(0.5, 40), st.integers(1, 6))
def test_moments_of_the_chance_are_those_of_the_beta_distribution(
    a: float, b: float, k: int
) -> None:
    """E[p^k] = B(a + k, b) / B(a, b), by scipy's beta function."""
    moment = math.exp(special.betaln(a + k, b) - special.betaln(a, b))
    assert Cured(cured=a, not_cured=b).all_of(k) == pytest.approx(moment)


def test_the_chance_learns_from_the_shop() -> None:
    """Beta(3, 2) and 4 of 5 of the shop's own: Beta(7, 3), by scipy and by integration."""
    assert (USUAL.mean, USUAL.all_of(2)) == (0.6, pytest.approx(0.4))
    learnt = USUAL.counting(cured=4, tried=5)
    assert (learnt.mean, learnt.own) == (pytest.approx(0.7), 5)
    assert learnt.interval() == pytest.approx(stats.beta(7, 3).interval(0.95))
    low, high = learnt.interval()
    inside, _ = integrate.quad(stats.beta(7, 3).pdf, low, high)
    assert inside == pytest.approx(0.95)
    assert "5 of your own" in chance_words(learnt)
    assert "common practice" in chance_words(USUAL)
    with pytest.raises(ValueError, match="cannot have been cured"):
        USUAL.counting(cured=6, tried=5)
    dear = ways(weigh(4, CLOGGED_4), gives_less=Cured(cured=1, not_cured=9))
    assert next(iter(dear)) == "replace_flagged"


def test_a_missing_price_never_stops_the_comparison() -> None:
    """Hours are compared then, with what is usual where the shop has said nothing."""
    made = ways(weigh(4, CLOGGED_4), Prices(labour_per_hour=90, part=120))
    assert made["replace_flagged"].cost.expected == pytest.approx(
        120 + 90 * (REACH_MINUTES + EACH_MINUTES) / 60
    )
    assert made["clean_then_replace"].cost is None
    in_order = [o for o in made.values() if o.option != "wait"]
    assert [o.hours for o in in_order] == sorted(o.hours for o in in_order)
    assert Prices(part=1).missing() == (
        "labour_per_hour", "reach_minutes", "each_minutes", "cleaning",
    )  # fmt: skip
    assert Prices(labour_per_hour=0, reach_minutes=0, each_minutes=0).hours(3) == 0.0


def test_only_ways_that_fit_are_shown() -> None:
    """Only ways that fit are shown."""
    assert options_for(weigh(4, drop((26, 26.5, 26, 26.5))), PRICES, {}) == ()
    # A coil that is open is not cleaned.
    opened = ways(weigh(4, drop((26, 26.5, 26, None)), coils((12.1, 12.2, 12.0, None))))
    assert set(opened) == {"replace_flagged", "whole_set", "wait"}
    # All four of four: the set is those that are flagged.
    dark = ways(weigh(4, drop((26, 26.5, 26, None)), command("blinks blinks blinks dark")))
    assert dark["engine_first"].injectors == ("4",)
    assert dark["engine_first"].cost is None
    dead = ways(weigh(4, supply(key_on=2.0)))
    assert next(iter(dead)) == "engine_first"
    assert "supply" in dead["engine_first"].because


def test_what_floods_is_not_left_to_wait() -> None:
    """What floods is not left to wait."""
    wet = ways(weigh(4, walk("fuel_smell"), drop((26, 26.5, 26, 20)), tips("dry dry dry pours")))
    assert "replace_flagged" in wet
    assert "wait" not in wet


def test_every_condition_that_is_flagged_has_its_ways() -> None:
    """What the table can say of an injector itself is priced, and what must not wait is one of these."""
    conditions = {row.condition for row in TABLE if row.action in FLAGGED}
    assert conditions >= NO_WAITING
    assert all(chosen_words(option, ("1", "2")).endswith(": 1 and 2") for option in OPTIONS)


def test_who_is_cleaned_and_who_is_replaced_at_once() -> None:
    """One that drips is not cleaned: it is replaced on the first visit, and costs its part."""
    both = weigh(6, drop((26, 26.5, 26, 31.5, 20, 26)), tips("dry dry dry dry pours dry"))
    made = ways(both)
    clean = made["clean_then_replace"]
    assert (clean.injectors, clean.cleaned) == (("4", "5"), ("4",))
    assert way_words(clean) == "Clean 4, replace 5, then replace what stays"
    assert way_words(made["clean_all"]) == "Clean all but 5, replace 5"
    assert way_words(made["replace_flagged"]) == "Replace 4 and 5"
    # 80 min and 25 and 120 at once; then 0.4 of a visit of 70 min with a part.
    assert clean.cost.expected == pytest.approx(120 + 25 + 120 + 0.4 * 225)
    assert way_words(ways(weigh(4, CLOGGED_4))["clean_all"]) == "Clean the whole set"
