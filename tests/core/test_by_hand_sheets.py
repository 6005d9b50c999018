"""Sheets whose figures and uncertainties can be worked out on paper, or by GTC (JCGM 100:2008)."""

import math

import GTC
import pytest

from plumb.core.compare.bursts import Limits
from plumb.core.compare.outlier_rules import judge_means
from plumb.core.measure.quantities import decimals_for
from plumb.core.measure.readings import Mark, Value, Window
from plumb.core.measure.slips import FAR_RATIO, USUAL_START, Scale, check_drop
from plumb.core.measure.uncertainty import wilson
from plumb.core.procedures.coils.analysis import VOLTAGE, CoilSheet, Meter, analyse_coils
from plumb.core.procedures.returns.analysis import (
    TIMING_S,
    ReturnSheet,
    allowed_share,
    analyse_returns,
)
from tests.core.jobs import labels
from tests.core.sets import PSI, bursts


def read(*figures: tuple[str, float]) -> tuple[Value, ...]:
    """Readings as (injector, figure), in the order they were taken."""
    return tuple(Value(injector=x, number=n, value=v) for n, (x, v) in enumerate(figures, 1))


HOT = CoilSheet(
    injectors=labels(2), meter=Meter(step=0.1, percent=0.8, counts=2, lead=0.4),
    temperature_c=80.0, temperature_half_width=3.0,
    readings=read(("1", 15.2), ("1", 15.4), ("1", 15.3), ("2", 15.1)),
    window=Window(low=11.0, high=14.0),
)  # fmt: skip


def test_a_coils_figure_and_its_two_uncertainties_are_those_of_gtc() -> None:
    """Read by a meter of 0.8 % and 2 counts through leads of 0.4 ohm, at 80 degrees give or take 3 (IEC 60028)."""
    coil = analyse_coils(HOT).coils[0]
    own = GTC.ureal(0.0, 0.1 / math.sqrt(12.0) / math.sqrt(3.0))
    of_class = GTC.ureal(0.0, (0.008 * 15.3 + 2 * 0.1) / math.sqrt(3.0))
    warm = GTC.ureal(80.0, 3.0 / math.sqrt(3.0))
    whole = (15.3 + own + of_class - 0.4) / (1.0 + 0.00393 * (warm - 20.0))
    assert (coil.passes, coil.read, coil.net) == pytest.approx((3, 15.3, 14.9))
    assert coil.at_20 == pytest.approx(GTC.value(whole))
    assert coil.u == pytest.approx(abs(GTC.component(whole, own)), rel=1e-6)
    # Linear in the temperature the core takes k R20 for the slope, GTC the quotient's own: 0.8 against 0.65 of it.
    by_class = abs(GTC.component(whole, of_class))
    by_warmth = coil.at_20 * 0.00393 * 3.0 / math.sqrt(3.0)
    assert coil.u_common == pytest.approx(math.hypot(by_class, by_warmth), rel=1e-6)
    assert by_warmth >= abs(GTC.component(whole, warm))


def test_a_coil_is_held_against_its_window_where_that_is_valid() -> None:
    """12.06 ohm at 20 degrees; a window for 10 to 32 degrees is asked at 32, which is nearest to 80."""
    where = {"window_from_c": 10.0, "window_to_c": 32.0}
    found = analyse_coils(CoilSheet(**{**_as_dict(HOT), **where}))
    cold = 14.9 / (1.0 + 0.00393 * 60.0)
    assert found.held_at_c == 32.0
    assert found.coils[0].held == pytest.approx(cold * (1.0 + 0.00393 * 12.0))
    assert analyse_coils(HOT).held_at_c == 20.0
    only = analyse_coils(CoilSheet(**{**_as_dict(HOT), "window_to_c": 15.0}))
    assert only.held_at_c == 15.0


def _as_dict(sheet: CoilSheet) -> dict[str, object]:
    return {name: getattr(sheet, name) for name in CoilSheet.__slots__}


def test_volts_know_no_temperature() -> None:
    """A voltage drop is compared as it was read, and has no range of a tester."""
    sheet = CoilSheet(**{**_as_dict(HOT), "kind": VOLTAGE, "window": Window()})
    found = analyse_coils(sheet)
    assert (found.held_at_c, found.range) == (None, None)
    assert found.coils[0].at_20 == found.coils[0].net == pytest.approx(14.9)
    assert found.coils[0].u_common == pytest.approx((0.008 * 15.3 + 0.2) / math.sqrt(3.0))


def test_returns_are_a_mean_a_rate_and_a_share() -> None:
    """12 and 14 ml in 30 s are 26 ml a minute; 30 ml is 30/12.5 of a low group of 13 and 12."""
    sheet = ReturnSheet(
        injectors=labels(4), step=1.0, duration_s=30.0,
        readings=(*read(("1", 12.0), ("1", 14.0), ("2", 12.0), ("3", 30.0)),
                  Value(injector="4", number=1, value=None, mark=Mark.OVER)),
    )  # fmt: skip
    found = analyse_returns(sheet)
    assert dict(found.rates) == pytest.approx({"1": 26.0, "2": 24.0, "3": 60.0})
    assert (found.low_group, found.reference, found.over) == (("1", "2"), 12.5, ("4",))
    assert found.findings[2].deviation == pytest.approx(30.0 / 12.5 - 1.0)
    assert [f.passes for f in found.findings] == [2, 1, 1, 1]
    # The tube's step, a twentieth of the volume, and a millilitre that clings or drips in late.
    tube = 1.0 / math.sqrt(12.0)
    own, mean = (math.hypot(tube, 0.05 * v, 1.0) for v in (30.0, 12.5))
    ratio, below = 30.0 / 12.5, mean / 12.5 / math.sqrt(2.0)
    assert found.findings[2].u == pytest.approx(math.hypot(own / 12.5, ratio * below))
    far = (30.0 - 2.0 * 12.5) / math.hypot(own, 2.0 * mean / math.sqrt(2.0))
    assert found.findings[2].probability_out == pytest.approx(
        0.5 * math.erfc(-far / math.sqrt(2.0))
    )
    assert allowed_share(sheet, 12.5) == pytest.approx(sheet.ratio - 1.0)


def test_a_volume_at_a_makers_limit_carries_the_clocks_error() -> None:
    """Three spells of 10 s in all 30: TIMING_S/sqrt(3) each, in quadrature (JCGM 100:2008, 4.3.7 and 5.1.2)."""
    sheet = ReturnSheet(
        injectors=labels(2), step=1.0, duration_s=30.0, spells_s=(10.0, 10.0, 10.0), high=40.0,
        readings=read(("1", 40.4), ("2", 12.0)),
    )  # fmt: skip
    out = analyse_returns(sheet).findings[0].probability_out
    share = TIMING_S / math.sqrt(3.0) * math.sqrt(3.0) / 30.0
    u = math.hypot(1.0 / math.sqrt(12.0), 40.4 * share)
    assert out == pytest.approx(0.5 * math.erfc(-(40.4 - 40.0) / u / math.sqrt(2.0)))


def test_means_of_drops_are_told_as_shares_of_the_grand_mean() -> None:
    """24.2, 23.9 and 18.1 psi of a grand mean of 22.067."""
    groups = bursts([[(50, 26), (50, 25.6)], [(50, 26.2), (50, 26)], [(50, 32), (50, 31.8)]])
    outcome = judge_means(groups, Limits(alpha=0.05))
    grand = (24.2 + 23.9 + 18.1) / 3.0
    assert [r.deviation for r in outcome.rows] == pytest.approx(
        [24.2 / grand - 1.0, 23.9 / grand - 1.0, 18.1 / grand - 1.0]
    )
    beyond = [abs(r.deviation) > (r.limit or 0.0) for r in outcome.rows]
    assert [r.decision.value == "reject" for r in outcome.rows] == beyond
    assert outcome.centre == pytest.approx(grand * PSI)


@pytest.mark.parametrize("system", sorted(USUAL_START))
def test_a_start_at_the_edge_of_what_is_usual_is_not_asked_about(system: str) -> None:
    """In kPa, to the last step inside and the first outside."""
    low, high = USUAL_START[system]
    scale = Scale(unit="kPa", step=1.0, fuel_system=system)

    def asked(first: float) -> set[str]:
        codes = {q.code for q in check_drop(f"{first:g}", f"{first / 2:.0f}", scale)}
        return codes & {"far_off", "point_missing"}

    assert (asked(low), asked(high)) == (set(), set())
    assert len(asked(low - 1.0)) == len(asked(high + 1.0)) == 1


def test_the_other_starts_say_what_is_usual() -> None:
    """The middle one, times and by 1.6: of 40, 50 and 60 that is 31.25 to 80."""
    scale = Scale(unit="psi", step=0.25, starts=(60.0, 40.0, 50.0))
    assert pytest.approx(1.6) == FAR_RATIO

    def asked(first: str) -> list[str]:
        return [q.code for q in check_drop(first, "20", scale)]

    assert [asked(x) for x in ("31.25", "80", "31", "80.25")] == [[], [], ["far_off"], ["far_off"]]
    assert asked("500") == ["point_missing"]


@pytest.mark.parametrize(
    ("typed", "meant"),
    [("5026", ("50", "26")), ("502", ("50", "2")), ("450250", ("450", "250")), ("50", None), ("50260", None), ("5060", None), ("5002", None)],
)  # fmt: skip
def test_digits_that_ran_together(typed: str, meant: tuple[str, str] | None) -> None:
    """Two and two, two and one, three and three, where the second is lower and begins with no nought."""
    scale = Scale(unit="kPa" if len(typed) == 6 else "psi", step=1.0)
    told = [q.suggestion for q in check_drop(typed, None, scale) if q.code == "run_together"]
    assert told == ([meant] if meant else [])


def test_a_share_of_few_is_known_badly() -> None:
    """Wilson's interval by its own equation: both ends p solve (p - k/n)^2 = z^2 p (1 - p)/n (Wilson 1927)."""
    for hits, of in ((0, 5), (1, 4), (7, 9), (50, 50)):
        for p in wilson(hits, of):
            assert (p - hits / of) ** 2 == pytest.approx(1.959964**2 * p * (1 - p) / of, abs=1e-9)
    assert wilson(0, 0) == (0.0, 1.0)


@pytest.mark.parametrize(
    ("step", "decimals"), [(0.0, 1), (-1.0, 1), (math.inf, 1), (2.0, 0), (0.5, 1), (0.025, 3)]
)
def test_a_step_that_is_none_is_shown_to_a_tenth(step: float, decimals: int) -> None:
    """As many decimals as the step has."""
    assert decimals_for(step) == decimals


def test_a_coil_far_below_two_that_agree_is_shorted() -> None:
    """Without a window half of what agrees is the limit; one that agrees with nobody says nothing of the others."""

    def shorted(*ohms: float) -> tuple[str, ...]:
        sheet = CoilSheet(
            injectors=labels(len(ohms)), meter=Meter(step=0.1),
            readings=read(*((str(n), v) for n, v in enumerate(ohms, 1))),
        )  # fmt: skip
        return analyse_coils(sheet).shorted

    assert shorted(12.0, 12.1, 5.9) == ("3",)
    assert shorted(12.0, 12.1, 6.1) == ()
    assert shorted(12.0, 5.0) == ()
    windowed = CoilSheet(
        injectors=labels(1), meter=Meter(step=0.1), readings=read(("1", 5.4)),
        window=Window(low=11.0, high=14.0),
    )  # fmt: skip
    assert analyse_coils(windowed).shorted == ("1",)
