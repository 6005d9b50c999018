"""Which backups stay, and when the next is due."""

from datetime import UTC, datetime, timedelta

from hypothesis import given
from hypothesis import strategies as st

from plumb.keeping.rota import DAILY, MONTHLY, WEEKLY, due_since, is_due, kept

MOMENT = st.datetimes(
    min_value=datetime(2020, 1, 1),  # noqa: DTZ001  asked for without
    max_value=datetime(2031, 1, 1),  # noqa: DTZ001
    timezones=st.just(UTC),
)
MOMENTS = st.lists(MOMENT, max_size=60)


def at(year: int, month: int, day: int) -> datetime:
    """Half past three of a day."""
    return datetime(year, month, day, 3, 30, tzinfo=UTC)


def test_three_years_of_nights_leave_days_weeks_and_months() -> None:
    """Seven nights, the last nights of four weeks, and of twelve months: 7, 4, 12 less those that are both."""
    newest = at(2026, 11, 26)  # a Thursday
    stay = kept(newest - timedelta(days=n) for n in range(3 * 365))
    assert stay[:7] == [newest - timedelta(days=n) for n in range(7)]
    # The Sundays that end the weeks before are among them; this week and the last one's Sunday are days already.
    assert {at(2026, 11, 15), at(2026, 11, 8)} <= set(stay)
    ends = {(t.year, t.month): t for t in stay[9:]}
    assert len(ends) == 11
    assert all((t + timedelta(days=1)).day == 1 for t in ends.values())
    assert min(stay) == at(2025, 12, 31)
    assert len(stay) == 7 + 2 + 11


@given(MOMENTS)
def test_the_newest_always_stays_and_never_too_many(made: list[datetime]) -> None:
    """Whatever was made when: the newest stays, nothing is invented, and clearing out twice changes nothing."""
    stay = kept(made)
    assert len(stay) <= DAILY + WEEKLY + MONTHLY
    assert set(stay) <= set(made)
    assert stay == sorted(stay, reverse=True)
    assert kept(stay) == stay
    if made:
        assert stay[0] == max(made)


@given(MOMENTS, MOMENT)
def test_one_a_day_is_due(made: list[datetime], now: datetime) -> None:
    """Due until one was made since the last half past three; a moment after that one is not due again."""
    since = due_since(now, 3, 30)
    assert since <= now < since + timedelta(days=1)
    assert (since.hour, since.minute) == (3, 30)
    there = [*made, now]
    assert not is_due(there, now, 3, 30)
    assert is_due([t for t in made if t < since], now, 3, 30)


def test_a_clock_that_was_set_back_does_not_stop_it() -> None:
    """A backup that seems to come from tomorrow does not count."""
    now = datetime(2026, 11, 26, 4, 0, tzinfo=UTC)
    assert is_due([now + timedelta(hours=20)], now, 3, 30)
