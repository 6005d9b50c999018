"""What a repair comes to, on paper: parts, cleaning, and the hours of every visit."""

from datetime import UTC, datetime, timedelta

import pytest

from plumb.core.mend.bill import bill
from plumb.core.mend.options import EACH_MINUTES, REACH_MINUTES, SHIM_MINUTES, Prices
from plumb.core.mend.repairs import Repair

MONDAY = datetime(2026, 5, 11, 9, tzinfo=UTC)
SHOP = Prices(
    currency="EUR", labour_per_hour=80.0, reach_minutes=90.0, each_minutes=12.0, part=150.0, cleaning=30.0,
    rebuild=95.0,
)  # fmt: skip


def test_two_parts_and_a_cleaning_in_one_visit() -> None:
    """90 min to reach them and 3 times 12: 2.1 h at 80 are 168."""
    done = (
        Repair(injector="1", done="replaced", at=MONDAY),
        Repair(injector="2", done="replaced", at=MONDAY + timedelta(hours=3)),
        Repair(injector="4", done="cleaned", at=MONDAY),
    )
    lines = {line.what: line for line in bill(done, SHOP)}
    assert {k: (v.count, v.amount) for k, v in lines.items()} == {
        "Injector": (2, 300.0), "Cleaning": (1, 30.0), "Work": (pytest.approx(2.1), 168.0),
    }  # fmt: skip
    assert [line.hours for line in lines.values()] == [False, False, True]


def test_what_is_opened_on_two_days_is_reached_twice() -> None:
    """Cleaned on Monday, replaced on Tuesday, the same injector: 2 times 90 min and once 12."""
    done = (
        Repair(injector="4", done="cleaned", at=MONDAY),
        Repair(injector="4", done="replaced", at=MONDAY + timedelta(days=1)),
    )
    work = bill(done, SHOP)[-1]
    assert work.count == pytest.approx((2 * 90 + 12) / 60)
    without_days = bill(tuple(Repair(injector="4", done=r.done) for r in done), SHOP)[-1]
    assert without_days.count == pytest.approx((90 + 12) / 60)


def test_a_swap_opens_two_places_and_a_shim_takes_its_own_time() -> None:
    """Nothing is bought for either; setting a nozzle takes SHIM_MINUTES more."""
    (swap,) = bill((Repair(injector="2", done="swapped", swapped_with="4"),), SHOP)
    assert swap.count == pytest.approx((90 + 2 * 12) / 60)
    (shim,) = bill((Repair(injector="1", done="reshimmed"),), SHOP)
    assert shim.count == pytest.approx((90 + 12 + SHIM_MINUTES) / 60)
    assert (SHIM_MINUTES, REACH_MINUTES, EACH_MINUTES) == (20.0, 60.0, 15.0)


def test_what_costs_nothing_of_the_shops_prices_is_not_on_it() -> None:
    """Wiring, something put right on the engine, nothing: no line."""
    done = (Repair(injector="2", done="wired"), Repair(injector="", done="put_right", cause="pump"),
            Repair(injector="3", done="nothing"))  # fmt: skip
    assert bill(done, SHOP) == ()


def test_a_price_that_nobody_has_said_leaves_its_line_without_an_amount() -> None:
    """The hours are there all the same, by what is usual: 60 min to reach it and 15 for it."""
    part, work = bill((Repair(injector="1", done="rebuilt"),), Prices())
    assert (part.count, part.amount) == (1, None)
    assert (work.count, work.amount) == (1.25, None)
    assert Prices().missing() == ("labour_per_hour", "reach_minutes", "each_minutes", "part", "cleaning")  # fmt: skip
    assert SHOP.missing() == ()


def test_money_is_of_what_is_needed_only() -> None:
    """No part is needed: its missing price stops nothing; two are: it does."""
    no_part = Prices(labour_per_hour=80.0)
    assert no_part.money(1.5, (0, None)) == 120.0
    assert no_part.money(1.5, (2, None)) is None
    assert no_part.money(1.5, (2, 10.0)) == 140.0
    assert Prices().money(0.0) == 0.0
    assert SHOP.hours(2, visits=1.5, extra_minutes=5.0) == pytest.approx((1.5 * 90 + 2 * 17) / 60)
