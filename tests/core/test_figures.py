"""What a figure claims, held against simulations of their own: at a limit, of sound sets, of what is foretold.

Rails obey the root law (Kreyszig, 10th ed., 1.3), gauges round, hands scatter; nothing here is asked of the bench.
Shares are held to what they must be and twice their own deviation (binomial).
"""

import math
from collections.abc import Callable, Sequence

import numpy as np
import pytest

from plumb.core.compare.drops.asks import next_step
from plumb.core.compare.drops.doubt import Doubt, doubt_of
from plumb.core.compare.drops.sheet import DropResult, DropSheet, analyse_drop
from plumb.core.compare.window_rule import Item, judge
from plumb.core.diagnose.case import Seen
from plumb.core.diagnose.sets import counted
from plumb.core.measure.decision import State
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Noted, Window
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.hold.analysis import HoldSheet, Limits, analyse_hold
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke, analyse_opening
from plumb.core.procedures.opening.shims import (
    BETWEEN_SHARE,
    KPA_PER_MM,
    Change,
    foretold,
    learn,
)
from plumb.core.procedures.rail.analysis import RailSheet, analyse_rail
from plumb.core.procedures.supply.analysis import SupplySheet, analyse_supply
from plumb.core.traces.humps import find_humps
from tests.core.sets import drop_sheet

PSI = KPA_PER["psi"]
CALLED = {State.LOW, State.HIGH, State.NO_RESPONSE}
Rng = np.random.Generator


class Set:
    """Injectors that give these shares, read on a gauge of that step (psi); a burst takes 50 psi to 26."""

    def __init__(
        self, rng: Rng, shares: Sequence[float], step: float, scatter: float, wanders: float
    ) -> None:
        self._rng, self._shares, self._step, self._scatter, self._wanders = (
            rng,
            shares,
            step,
            scatter,
            wanders,
        )
        self._labels = tuple(str(n) for n in range(1, len(shares) + 1))
        self._noted: list[Noted] = []

    def read(self, labels: Sequence[str] = ()) -> DropResult:
        """One burst more of each, and what the sheet then says."""
        for label in labels or self._labels:
            start = 50.0 + self._rng.uniform(-self._wanders, self._wanders)
            flow = self._shares[int(label) - 1] * (50.0**0.5 - 26.0**0.5)
            flow *= 1.0 + self._rng.normal(0.0, self._scatter)
            pair = (start, max(0.0, start**0.5 - flow) ** 2)
            first, second = (round(p / self._step) * self._step * PSI for p in pair)
            number = 1 + sum(r.injector == label for r in self._noted)
            self._noted.append(Noted(injector=label, number=number, first=first, second=second))
        return self.says()

    def says(self) -> DropResult:
        """What the sheet says."""
        return analyse_drop(
            DropSheet(
                kind="any",
                injectors=self._labels,
                readings=tuple(self._noted),
                step=self._step * PSI,
            )
        )

    def followed(self) -> DropResult:
        """Read until the sheet asks for nothing more."""
        found = self.read()
        for _ in range(60):
            step = next_step(found, 1.5)
            if step is None:
                break
            for _ in range(step.passes):
                found = self.read(step.injectors)
        return found


def states(found: DropResult) -> list[State]:
    """Of each injector."""
    return [f.state for f in found.findings]


def share(one: Callable[[Rng], bool], count: int, seed: int = 31) -> float:
    """How often it is so."""
    rng = np.random.default_rng(seed)
    return sum(one(rng) for _ in range(count)) / count


def at_most(what: float, limit: float, count: int) -> bool:
    """No more than that, chance aside."""
    return what <= limit + 2.0 * math.sqrt(limit * (1.0 - limit) / count)


@pytest.mark.parametrize(("scatter", "size"), [(0.01, 4), (0.02, 8), (0.03, 6)])
def test_one_at_the_limit_is_called_in_seven_of_a_hundred(scatter: float, size: int) -> None:
    """However often one reads on, and however bursts scatter."""

    def one(rng: Rng) -> bool:
        shares = [1.0] * (size - 1) + [0.9]
        return states(Set(rng, shares, 0.5, scatter, 2.0).followed())[-1] in CALLED

    assert at_most(share(one, 150), 0.07, 150)


def test_a_sound_set_that_scatters_is_not_condemned_by_one_pass() -> None:
    """Eight alike whose bursts scatter by a twentieth: in one set of twenty somebody is called."""

    def one(rng: Rng) -> bool:
        return bool(CALLED & set(states(Set(rng, [1.0] * 8, 0.5, 0.05, 2.0).read())))

    assert at_most(share(one, 200), 0.05, 200)


def test_one_at_the_limit_is_not_cleared_by_its_own_weight() -> None:
    """Four on a fine gauge, one ten per cent short: it is no measure of itself."""

    def one(rng: Rng) -> bool:
        return states(Set(rng, [1.0, 1.0, 1.0, 0.9], 0.1, 0.01, 2.0).read())[-1] is State.IN_PLUMB

    assert at_most(share(one, 200), 0.05, 200)


def test_two_far_apart_on_a_coarse_dial_are_not_both_in_plumb() -> None:
    """15 % on 2 psi: the group widens to the tolerance and no farther."""

    def one(rng: Rng) -> bool:
        return set(states(Set(rng, [1.0, 0.85], 2.0, 0.01, 4.0).read())) == {State.IN_PLUMB}

    assert at_most(share(one, 200), 0.05, 200)


@pytest.mark.parametrize("shares", [(1.0, 0.94, 0.88, 0.82), (1.0, 0.95, 0.9, 0.85, 0.8, 0.75)])
def test_a_set_that_is_spread_evenly_condemns_nobody_by_chance(shares: tuple[float, ...]) -> None:
    """Read twice, no injector is called once and cleared, or called otherwise, the other time."""

    def opposite(rng: Rng) -> bool:
        twice = [states(Set(rng, shares, 0.5, 0.01, 2.0).read()) for _ in range(2)]
        pairs = [set(pair) for pair in zip(*twice, strict=True)]
        return any(
            p & CALLED and len(p) > 1 and not p & {State.UNSETTLED, State.SPLIT} for p in pairs
        )

    assert at_most(share(opposite, 150), 0.01, 150)


def test_who_is_graded_is_read_thrice_and_then_left_to_a_drop_or_a_bench() -> None:
    """Six three per cent apart: read again while means may move; then the sheet says what tells."""
    for passes, asked in ((2, True), (3, False)):
        pairs = [
            [
                (s, (s**0.5 - (1.0 - 0.03 * k) * (50.0**0.5 - 26.0**0.5)) ** 2)
                for s in (50.0, 51.0, 52.0)[:passes]
            ]
            for k in range(6)
        ]
        found = analyse_drop(drop_sheet(pairs))
        assert found.flow.graded == (("1", "6") if passes == 3 else ("1",))
        by_label = {f.injector: f for f in found.findings}
        assert {doubt_of(by_label[x]) for x in found.flow.graded} == {Doubt.GRADED}
        assert any("spread evenly" in n for n in BY_CODE["pressure_drop"].notes(found, "psi"))
        step = next_step(found, 1.5)
        assert (step is not None and step.reason == "graded_again") is asked


def test_four_alike_on_a_coarse_dial_are_neither_high_nor_low() -> None:
    """50 to 48 on 2 psi: known to nothing, and on neither side."""
    assert set(states(analyse_drop(drop_sheet([[(50.0, 48.0)]] * 4, 2.0)))) == {State.UNSETTLED}


def test_in_a_window_too_nobody_is_held_against_himself() -> None:
    """Three of a window without limits, one 4 away of 4: against the other two it is 4, against all three 2.7."""
    rows = [Item(label=str(n), value=v, u=0.1) for n, v in enumerate((10.0, 10.0, 14.2))]
    far = judge(rows, Window(spread=8.0)).views[-1]
    assert far.agrees
    assert far.deviation == pytest.approx(2.8)
    assert far.from_others == pytest.approx((4.2, math.hypot(0.1, 0.1 / math.sqrt(2.0))))


@pytest.mark.parametrize("step", [0.1, 0.5, 1.0, 2.0])
def test_what_a_hold_foretells_holds_in_nineteen_of_twenty(step: float) -> None:
    """Half a step of hand beside the rounding, hoses that settle by 1 psi with 2.5 s; left after 2.5 times what was read."""

    def one(rng: Rng) -> bool:
        start, k = rng.uniform(45.0, 55.0), rng.uniform(0.0, 0.016)
        series = []
        for t in (0.0, 10.0, 20.0, 40.0, 60.0):
            p = (start**0.5 - k * t) ** 2 + math.exp(-t / 2.5) + rng.normal(0.0, 0.5 * step)
            series.append((t, max(0.0, round(p / step) * step) * PSI))
        limits = Limits(left_at_least=30.0 * PSI, after_s=150.0)
        then = (
            analyse_hold(HoldSheet(series=tuple(series), step=step * PSI, limits=limits))
            .judged[0]
            .then
        )
        return then.low <= (start**0.5 - k * 150.0) ** 2 * PSI <= then.high

    assert share(one, 250) + 2.0 * math.sqrt(0.95 * 0.05 / 250) >= 0.93
    assert share(one, 250) <= 0.99


def test_hoses_that_settle_are_no_leak() -> None:
    """1 psi in the first seconds, then nothing: 47 are left, and no 22."""
    series = tuple(
        (t, (47.0 + math.exp(-t / 2.5)) * PSI) for t in (0.0, 5.0, 10.0, 15.0, 20.0, 30.0)
    )
    limits = Limits(left_at_least=30.0 * PSI, after_s=90.0)
    found = analyse_hold(HoldSheet(series=series, step=0.5 * PSI, limits=limits))
    assert found.judged[0].then.value / PSI == pytest.approx(47.0, abs=0.6)
    assert (found.state, found.early) == (State.IN_PLUMB, True)


def test_a_fall_that_bends_foretells_nothing() -> None:
    """A leak that closes after half a minute: the line would have it empty; the reading at its time counts."""
    series = tuple(
        (t, (49.0 - 0.6 * min(t, 30.0)) * PSI)
        for t in (15.0, 20.0, 25.0, 30.0, 35.0, 40.0, 50.0, 60.0)
    )
    found = analyse_hold(
        HoldSheet(
            series=series, step=0.1 * PSI, limits=Limits(left_at_least=25.0 * PSI, after_s=150.0)
        )
    )
    assert found.fit is not None
    assert found.fit.bent
    assert (found.state, found.judged[0].too_early) == (State.UNSETTLED, True)


def test_a_foretold_hold_is_called_by_the_shops_own_probability() -> None:
    """P(less than asked for is left) is that of Student's t on the line, and both settings decide by it."""
    series = tuple((t, (18.0 - t / 60.0) ** 2) for t in (15.0, 30.0, 45.0, 60.0))
    outs = []
    for least in (240.0, 256.0, 272.0):
        sheet = HoldSheet(
            series=series, step=2.0, limits=Limits(left_at_least=least, after_s=120.0)
        )
        outs.append(analyse_hold(sheet).judged[0].probability_out)
    assert outs[1] == pytest.approx(0.5)
    assert outs[0] + outs[2] == pytest.approx(1.0, abs=0.01)


@pytest.mark.parametrize(("percent", "called"), [(None, 0.45), (1.6, 0.07)])
def test_the_class_of_a_gauge_counts_against_a_window(percent: float | None, called: float) -> None:
    """Class 1.6 of 100 psi (JCGM 100:2008, 4.3.7), rail at the limit: without it nearly half are called wrongly."""
    u_class = 0.0 if percent is None else percent / 100.0 * 100.0 * PSI / math.sqrt(3.0)

    def one(rng: Rng) -> bool:
        read = round((40.0 + rng.uniform(-1.6, 1.6)) / 0.5) * 0.5
        sheet = SupplySheet(
            readings=(("key_on", read * PSI),), step=0.5 * PSI, u_class=u_class,
            windows=(("key_on", Window(low=40.0 * PSI, high=60.0 * PSI)),),
        )  # fmt: skip
        return analyse_supply(sheet).findings[0].state is State.LOW

    found = share(one, 400)
    assert at_most(found, 0.07, 400) if percent else found == pytest.approx(called, abs=0.06)


def test_the_class_cancels_in_what_was_lost_and_between_nozzles() -> None:
    """What was lost is a difference on one gauge; what is left is not.  Nozzles share theirs."""
    series = ((0.0, 345.0), (60.0, 310.0))
    for limits, same in (
        (Limits(lost_at_most=38.0, within_s=60.0), True),
        (Limits(left_at_least=307.0, after_s=60.0), False),
    ):
        outs = [
            analyse_hold(HoldSheet(series=series, step=3.0, limits=limits, u_class=u))
            .judged[0]
            .probability_out
            for u in (0.0, 6.0)
        ]
        assert (outs[0] == outs[1]) is same
    strokes = tuple(
        Stroke(injector=x, number=1, value=v)
        for x, v in (("1", 12_000.0), ("2", 12_500.0), ("3", 12_520.0))
    )
    by_set = [
        [
            f.state
            for f in analyse_opening(
                OpeningSheet(injectors=tuple("123"), strokes=strokes, step=10.0, u_class=u)
            ).findings
        ]
        for u in (0.0, 500.0)
    ]
    assert by_set[0] == by_set[1]


@pytest.mark.parametrize(("step", "strokes"), [(1.0, 1), (10.0, 1), (10.0, 3)])
def test_one_stroke_on_a_fine_gauge_claims_no_more_than_it_knows(step: float, strokes: int) -> None:
    """Strokes come again to 30 kPa: at the limit one of twenty is called, and 95 % of the intervals hold."""
    called = held = 0
    rng = np.random.default_rng(7)
    for _ in range(300):
        read = [round((12_000.0 + rng.normal(0.0, 30.0)) / step) * step for _ in range(strokes)]
        sheet = OpeningSheet(
            injectors=("1",), step=step, window=Window(low=12_000.0, high=13_000.0),
            strokes=tuple(Stroke(injector="1", number=n, value=v) for n, v in enumerate(read, 1)),
        )  # fmt: skip
        (one,) = analyse_opening(sheet).findings
        called += one.state in CALLED
        held += abs((one.value or 0.0) - 12_000.0) <= 1.96 * (one.u or 0.0)
    assert at_most(called / 300, 0.06, 300)
    assert at_most(1.0 - held / 300, 0.08, 300)


def test_the_range_of_a_plan_knows_that_nozzles_differ() -> None:
    """A tenth from nozzle to nozzle: 94 % of the ranges hold and not all, with two changes known or eight."""
    rng = np.random.default_rng(11)
    for known in (2, 8):
        held = 0
        for _ in range(300):
            buys = 23_500.0 * (1.0 + rng.normal(0.0, 0.1))

            def opened(mm: float, buys: float = buys) -> float:
                return float(buys * (1.0 + rng.normal(0.0, 0.1)) * mm + rng.normal(0.0, 100.0))

            changes = [
                Change(shim_mm=mm, before=0.0, after=opened(mm) + rng.normal(0.0, 42.0), u=30.0)
                for mm in rng.choice([0.02, 0.05, 0.1], known)
            ]
            told, u = foretold(rng.normal(0.0, 30.0), 30.0, 0.1, learn(changes))
            held += abs(told - opened(0.1)) <= 1.96 * u
        assert at_most(1.0 - held / 300, 0.06, 300)
        assert held < 300


def test_what_nozzles_differ_by_is_that_of_dersimonian_and_laird() -> None:
    """Two of four tenths each, u as good as nothing: their variance, pooled with a tenth worth eight changes."""
    buys = [18_000.0, 20_000.0, 24_000.0, 30_000.0]
    wide = [Change(shim_mm=50.0, before=0.0, after=50.0 * b, u=0.0) for b in buys]
    found = learn(wide).between
    tenth = (BETWEEN_SHARE * KPA_PER_MM) ** 2
    assert found**2 == pytest.approx((8 * tenth + 3 * float(np.var(buys, ddof=1))) / 11, rel=1e-4)
    assert learn(wide[:1]).between ** 2 == pytest.approx(tenth)
    alike = learn([Change(shim_mm=50.0, before=0.0, after=50.0 * 20_000.0, u=0.0)] * 4).between
    assert alike**2 == pytest.approx(8 * tenth / 11)


def test_a_sheet_that_settled_nothing_takes_nothing_away() -> None:
    """A coil seen open by the meter: an unsettled voltage drop leaves it; an agreeing one makes it surer, less than twice."""
    ohms, volts = (
        t
        for k in ("coil_resistance", "coil_voltage_drop")
        for t in BY_CODE[k].shows
        if t.measures == "coil"
    )
    settled = (0.0,) * (len(ohms.columns) - 1) + (1.0,)
    even = (1.0,) * len(volts.columns)
    assert Seen(table=ohms, place="1", weights=settled).told == pytest.approx(1.0)
    assert Seen(table=volts, place="1", weights=even).told == pytest.approx(0.0)
    assert counted({"ohms": 1.0, "volts": 0.0}) == {"ohms": 1.0, "volts": 0.0}
    agreeing = counted({"ohms": 1.0, "volts": 1.0})
    assert agreeing["ohms"] == agreeing["volts"]
    assert 1.0 < sum(agreeing.values()) < 2.0
    assert counted({"ohms": 0.0, "volts": 0.0}) == {"ohms": 0.5, "volts": 0.5}


def test_a_swing_near_half_of_the_rate_has_no_name() -> None:
    """Nyquist: of 10 samples a second 3 Hz is told, 4.6 Hz looks like 5.4 and is not."""
    for hz, named in ((3.0, True), (4.6, False)):
        series = tuple(
            (n / 10.0, 30_000.0, 30_000.0 + 6_000.0 * math.sin(2.0 * math.pi * hz * n / 10.0))
            for n in range(300)
        )
        found = analyse_rail(RailSheet(series=series)).frequency_hz
        assert (found == pytest.approx(hz, abs=0.05)) if named else found is None


def test_humps_of_too_few_samples_are_said_to_be_too_coarse() -> None:
    """Eight cylinders, 13.3 compressions a second: 30 samples are two a hump, and 100 are enough."""
    from plumb.core.measure.problems import PlumbError  # noqa: PLC0415

    def cranked(rate: float) -> tuple[np.ndarray, np.ndarray]:
        t = np.arange(0.0, 6.0, 1.0 / rate)
        return t, 150.0 + 30.0 * np.sin(np.pi * 13.3 * t) ** 2

    with pytest.raises(PlumbError, match="samples a compression"):
        find_humps(*cranked(30.0), cylinders=8)
    assert find_humps(*cranked(100.0), cylinders=8).hz == pytest.approx(13.3, abs=0.2)
