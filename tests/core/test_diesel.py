"""Corrections, cranking balance, return volumes: references that half-bad sets cannot move."""

from dataclasses import replace
from math import hypot, sin, sqrt, tau

import pytest
from scipy.stats import norm

from plumb.core.measure.decision import State
from plumb.core.measure.readings import Mark, Value
from plumb.core.procedures import Result, kind_of
from plumb.core.procedures.correction.analysis import (
    CorrectionResult,
    CorrectionSheet,
    analyse_corrections,
)
from plumb.core.procedures.cranking import words as cranking_words
from plumb.core.procedures.cranking.analysis import (
    FIRING_ORDERS,
    CrankingSheet,
    CrankTrace,
    analyse_cranking,
)
from plumb.core.procedures.cranking.facts import facts as cranking_facts
from plumb.core.procedures.rail.analysis import RailSheet
from plumb.core.procedures.returns.analysis import ReturnResult, ReturnSheet, analyse_returns
from plumb.core.weigh.job import Job, analyse_job
from tests.core.jobs import labels


def notes_of(result: Result) -> tuple[str, ...]:
    """What else must be known."""
    return kind_of(result).notes(result, "ml")


def values(figures: list[float | None]) -> tuple[Value, ...]:
    """One figure an injector; None was not read."""
    return tuple(
        Value(injector=str(n), number=1, value=v, mark=None if v is not None else Mark.NOT_READ)
        for n, v in enumerate(figures, 1)
    )


def corrections(figures: list[float | None], unit: str = "mm3", **more: float) -> CorrectionResult:
    """A sheet of corrections, to 0.1 unless stated."""
    given = {"step": 0.1, **more}
    sheet = CorrectionSheet(
        injectors=labels(len(figures)), readings=values(figures), unit=unit, **given
    )  # type: ignore[arg-type]
    return analyse_corrections(sheet)


def returns(figures: list[float | None], **more: object) -> ReturnResult:
    """A minute of return volumes to 1 ml."""
    given = {"step": 1.0, "duration_s": 60.0, **more}
    sheet = ReturnSheet(injectors=labels(len(figures)), readings=values(figures), **given)  # type: ignore[arg-type]
    return analyse_returns(sheet)


def called(found: CorrectionResult | ReturnResult, state: State) -> list[str]:
    """Who reads as that."""
    return [f.injector for f in found.findings if f.state is state]


EIGHT: list[float | None] = [14.0, -5.1, -4.9, 15.0, -5.0, -4.8, -5.2, -4.9]


def test_two_starved_cylinders_do_not_condemn_the_other_six() -> None:
    """+14 and +15 of eight, the others about -5 (common practice): exactly the two."""
    found = corrections(EIGHT)
    assert called(found, State.HIGH) == ["1", "4"]
    assert called(found, State.IN_PLUMB) == ["2", "3", "5", "6", "7", "8"]
    plain = sum(v for v in EIGHT if v is not None) / 8
    assert abs(plain) < 0.5
    assert found.compared.reference == pytest.approx(-4.98, abs=0.02)


@pytest.mark.parametrize(
    ("unit", "figures", "weak"),
    [
        ("percent", [1.0, 0.5, 7.9, 0.8], ["3"]),
        ("ms", [0.62, 0.61, 0.75, 0.62], ["3"]),
        ("ms", [0.62, 0.61, 0.64, 0.62], []),
    ],
)
def test_points_or_shares(unit: str, figures: list[float | None], weak: list[str]) -> None:
    """4 points for mm3 and per cent; on-times as a ratio."""
    step = {"step": 0.01} if unit == "ms" else {}
    sheet = CorrectionSheet(
        injectors=labels(4), readings=values(figures), step=step.get("step", 0.1), unit=unit
    )
    assert called(analyse_corrections(sheet), State.HIGH) == weak


def test_a_makers_limit_is_taken() -> None:
    """3 points instead of 4.  One look wanders by 0.4: 1.645 u of 0.46 on either side (JCGM 106:2012, 8) are open."""
    assert called(corrections([3.2, 0.0, 0.0, 0.0]), State.IN_PLUMB) == ["1", "2", "3", "4"]
    assert called(corrections([3.8, 0.0, 0.0, 0.0], apart=3.0), State.HIGH) == ["1"]
    for inside in (2.3, 3.0, 3.7):
        assert called(corrections([inside, 0.0, 0.0, 0.0], apart=3.0), State.UNSETTLED) == ["1"]
    assert called(corrections([2.2, 0.0, 0.0, 0.0], apart=3.0), State.UNSETTLED) == []


def test_two_against_two_is_split() -> None:
    """Corrections alone cannot say who is right."""
    found = corrections([6.0, 6.1, -6.0, -6.1])
    assert found.split
    assert called(found, State.SPLIT) == ["1", "2", "3", "4"]
    assert any("cannot say which" in n for n in notes_of(found))


def test_three_bad_of_four_are_judged_rightly() -> None:
    """Return volumes 52, 12, 49, 61: three too much, and it rests on one (common practice)."""
    found = returns([52.0, 12.0, 49.0, 61.0])
    assert called(found, State.HIGH) == ["1", "3", "4"]
    assert found.rests_on_one
    assert any("Rests on one: only 2" in n for n in notes_of(found))
    assert dict(found.rates)["1"] == pytest.approx(52.0)


def test_the_working_tells_how_well_a_ratio_is_known() -> None:
    """Each volume by its step, a twentieth and a millilitre; then that of a ratio (JCGM 100:2008, 5.1.2 and 5.1.6)."""
    found = returns([52.0, 12.0, 49.0, 61.0])
    lines = dict(kind_of(found).working(found, "ml").injectors)["1"]
    told = next(line.figure for line in lines if line.label == "from the reference")
    own, low = (hypot(1.0 / sqrt(12.0), 0.05 * v, 1.0) for v in (52.0, 12.0))
    u = 100.0 / 12.0 * hypot(own, 52.0 / 12.0 * low)
    assert told == f"{100.0 * (52.0 / 12.0 - 1.0):.1f} ± {1.96 * u:.1f}"


def test_the_low_group_reaches_to_one_and_a_half() -> None:
    """12, 17 and 18 rest together; twice their mean is the limit."""
    found = returns([12.0, 17.0, 18.0, 40.0])
    assert found.low_group == ("1", "2", "3")
    assert called(found, State.HIGH) == ["4"]
    assert called(returns([12.0, 17.0, 18.0, 27.0]), State.HIGH) == []


def test_the_reference_is_the_mean_of_the_low_group() -> None:
    """12, 14 and 16 rest at 14; 21 is half as much again, and so is its deviation."""
    found = returns([12.0, 14.0, 16.0, 21.0])
    assert found.reference == pytest.approx(14.0)
    assert [f.deviation for f in found.findings] == pytest.approx([-2 / 14, 0.0, 2 / 14, 0.5])
    # A ratio, JCGM 100:2008, 5.1.6: the volume's own and a third of the square of the mean's.
    own, low = (hypot(found.sheet.step / sqrt(12.0), 0.05 * v, 1.0) for v in (21.0, 14.0))
    assert found.findings[3].u == pytest.approx(hypot(own, 1.5 * low / sqrt(3.0)) / 14.0)


def test_nobody_is_condemned_by_one_nearly_dry_tube() -> None:
    """38, 34, 9 and 3 ml: two return far too much, and three drops do not make a third of 9."""
    found = returns([38.0, 34.0, 9.0, 3.0])
    assert called(found, State.HIGH) == ["1", "2"]
    assert called(found, State.UNSETTLED) == ["3"]
    # A whole tube of 12 is a measure all the same.
    assert called(returns([52.0, 12.0, 49.0, 61.0]), State.HIGH) == ["1", "3", "4"]


def test_on_times_may_differ_by_a_tenth() -> None:
    """A tenth of the middle one, and one wanders by 0.015 of itself; common practice, no source."""
    for longest, says in ((1.12, State.UNSETTLED), (1.14, State.HIGH)):
        times: list[float | None] = [1.0, 1.0, 1.0, longest, 1.0, 1.0]
        assert called(corrections(times, unit="ms", step=0.001), says) == ["4"]


def test_what_is_written_beside_the_volumes() -> None:
    """The rail pressure reached, and a rest for the starter."""
    told = notes_of(returns([12.0, 13.0], rail_kpa=28_000.0, state="cranking"))
    assert any("reached 280 bar" in n for n in told)
    assert any("rest the starter" in n for n in told)
    spells = returns([12.0, 13.0], state="cranking", spells_s=(20.0, 20.0, 20.0))
    assert not any("rest the starter" in n for n in notes_of(spells))


def test_a_tube_that_ran_over_is_no_empty_one() -> None:
    """Nobody knows its volume: it is asked for again, and does not count as nothing returned."""
    over = Value(injector="2", number=1, value=None, mark=Mark.OVER)
    sheet = returns([14.0, None, 13.0, 15.0]).sheet
    kept = tuple(r for r in sheet.readings if r.injector != "2")
    found = analyse_returns(replace(sheet, readings=(*kept, over)))
    assert called(found, State.NOT_JUDGED) == ["2"]
    assert called(found, State.IN_PLUMB) == ["1", "3", "4"]
    assert any("tube of 2 ran over" in n for n in notes_of(found))


def test_each_spell_adds_its_own_error_of_timing() -> None:
    """A volume close to a maker's limit is known less well from many spells than from one."""
    volumes: list[float | None] = [38.0, 12.0, 12.0, 12.0]
    once, often = (
        returns(volumes, high=40.0, duration_s=40.0, spells_s=spells).findings[0]
        for spells in ((40.0,), (5.0,) * 8)
    )
    assert (once.probability_out or 0.0) < (often.probability_out or 0.0) < 0.5


@pytest.mark.parametrize(("spells", "count"), [((), 1), ((40.0,), 1), ((10.0,) * 4, 4)])
def test_a_volume_near_a_makers_limit_is_doubted_by_clock_and_tube(
    spells: tuple[float, ...], count: int
) -> None:
    """A second on each spell, evenly spread (JCGM 100:2008, 4.3.7), and the tube's step; 38 of 40 ml in 40 s."""
    volumes: list[float | None] = [38.0, 12.0, 12.0, 12.0]
    found = returns(volumes, high=40.0, duration_s=40.0, spells_s=spells).findings[0]
    u = sqrt(1 / 12 + count * (38.0 / 40.0) ** 2 / 3)
    assert found.probability_out == pytest.approx(norm.sf(2.0 / u), rel=1e-6)


def test_nothing_from_one_while_others_return() -> None:
    """A connection, or an injector that is not being opened."""
    found = returns([14.0, 0.0, 13.0, 15.0])
    assert called(found, State.NO_RESPONSE) == ["2"]
    assert "2: no return" in "".join(s.text for s in kind_of(found).headline(found, "ml"))
    assert found.none == ("2",)


def test_a_makers_limit_comes_first() -> None:
    """At most 40 ml in the time; twice the low group no longer matters."""
    found = returns([12.0, 30.0, 13.0, 55.0], high=40.0)
    assert called(found, State.HIGH) == ["4"]
    assert called(returns([40.0, 12.0, 12.0, 12.0], high=40.0), State.UNSETTLED) == ["1"]
    # What is drawn as allowed is what decides: 40 ml over a low group of 12.5.
    assert found.findings[3].tolerance == pytest.approx(40.0 / 12.5 - 1.0)
    assert "at most 40 are allowed" in kind_of(found).because(found.findings[3], found, "ml")
    assert found.low_group == ("1", "3")
    assert not returns([12.0, 55.0], high=40.0).rests_on_one
    tired = returns([52.0, 55.0, 49.0, 61.0], high=40.0)
    assert called(tired, State.HIGH) == ["1", "2", "3", "4"]


def test_a_hump_that_stands_low() -> None:
    """Beyond -15 % of the middle hump (common practice); two humps say nothing."""
    sheet = CrankingSheet(
        cylinders=(("1", 98.0), ("2", 101.0), ("3", 79.0), ("4", 100.0)), step=1.0
    )
    assert [f.state.value for f in analyse_cranking(sheet).findings] == [
        "in_plumb", "in_plumb", "low", "in_plumb"]  # fmt: skip
    two = CrankingSheet(cylinders=(("1", 98.0), ("2", 70.0)), step=1.0)
    assert {f.state for f in analyse_cranking(two).findings} == {State.NOT_JUDGED}


def rail_trace(swing: float = 0.0) -> RailSheet:
    """Half a minute of rail at 300 bar, swinging by so many bar to each side, 1.5 times a second."""
    return RailSheet(
        series=tuple(
            (k / 20, 30_000.0, 30_000.0 + 100.0 * swing * sin(tau * 1.5 * k / 20))
            for k in range(600)
        )
    )


def judged(*sheets: object, count: int = 4) -> dict[str, tuple[str, str]]:
    """(condition, action) of each injector of a common-rail job."""
    keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets))
    job = Job(injectors=labels(count), sheets=keyed, fuel_system="common_rail")  # type: ignore[arg-type]
    return {k: (v.condition, v.action) for k, v in analyse_job(job).verdicts}


def test_no_injector_is_condemned_before_compression_is_known() -> None:
    """Check first; then compression, or the injector's bench test."""
    weak = corrections([5.0, -1.6, -1.7, -1.7]).sheet
    even = CrankingSheet(cylinders=tuple((i, 100.0) for i in labels(4)), step=1.0)
    low = CrankingSheet(cylinders=(("1", 75.0), ("2", 100.0), ("3", 100.0), ("4", 99.0)), step=1.0)
    much = returns([50.0, 12.0, 13.0, 12.0]).sheet
    assert judged(weak)["1"] == ("not_settled", "check_first")
    assert judged(weak, low)["1"] == ("not_the_injector", "check_first")
    assert judged(weak, even)["1"] == ("gives_less", "check_first")
    assert judged(weak, even, rail_trace())["1"] == ("gives_less", "bench_test")
    assert judged(weak, even, much)["1"] == ("returns_too_much", "bench_test")
    assert judged(weak, even, much)["2"] == ("sound", "keep")


def test_a_surging_rail_holds_back_the_corrections() -> None:
    """Not one of them is judged, weak or in plumb; what returns too much still is."""
    weak = corrections([5.0, -1.6, -1.7, -1.7]).sheet
    even = CrankingSheet(cylinders=tuple((i, 100.0) for i in labels(4)), step=1.0)
    surging = judged(weak, even, rail_trace(swing=50.0))
    assert set(surging.values()) == {("not_settled", "check_first")}
    much = returns([50.0, 12.0, 13.0, 12.0]).sheet
    assert judged(weak, rail_trace(swing=50.0), much)["1"] == ("returns_too_much", "bench_test")


def test_an_uneven_trace_without_a_sync_clears_nobody() -> None:
    """One hump is low, nobody knows whose: compression comes before every injector."""
    weak = corrections([5.0, -1.6, -1.7, -1.7]).sheet
    cycles = tuple((100.0, 101.0, 78.0, 99.0) for _ in range(5))
    loose = CrankingSheet(cylinders=tuple((i, None) for i in labels(4)), step=1.0,
                          trace=CrankTrace(cycles=cycles))  # fmt: skip
    result = analyse_cranking(loose)
    assert result.uneven
    assert {f.state for f in result.findings} == {State.NOT_JUDGED}
    assert judged(weak, loose, rail_trace())["1"] == ("not_settled", "check_first")
    told = CrankingSheet(cylinders=loose.cylinders, step=1.0,
                         trace=CrankTrace(cycles=cycles, order=("1", "3", "4", "2")))  # fmt: skip
    assert [f.injector for f in analyse_cranking(told).findings if f.state is State.LOW] == ["4"]


def test_a_firing_order_names_each_cylinder_once() -> None:
    """And begins at the first, where the sync is (common practice, no source)."""
    for count, order in FIRING_ORDERS.items():
        assert order[0] == 1
        assert sorted(order) == list(range(1, count + 1))


def test_a_hump_is_told_in_per_cent_of_the_cycle() -> None:
    """70 in every one of four cycles whose middle is 100: 30 % low."""
    trace = CrankTrace(cycles=((100.0, 70.0, 100.0),) * 4, order=("1", "2", "3"))
    sheet = CrankingSheet(cylinders=tuple((i, None) for i in labels(3)), step=1.0, trace=trace)
    low = analyse_cranking(sheet).findings[1]
    assert (low.value, low.reference, low.deviation) == pytest.approx((70.0, 100.0, -0.3))


def test_low_once_is_noise_and_two_cycles_are_too_few() -> None:
    """Every other cycle of that place is even (common practice, no source)."""
    cycles = [(100.0, 101.0, 99.0)] * 5
    cycles[2] = (100.0, 60.0, 99.0)
    sheet = CrankingSheet(cylinders=tuple((i, None) for i in labels(3)), step=1.0,
                          trace=CrankTrace(cycles=tuple(cycles)))  # fmt: skip
    result = analyse_cranking(sheet)
    assert [h.once for h in result.humps] == [False, True, False]
    assert {f.state for f in result.findings} == {State.IN_PLUMB}
    few = CrankingSheet(cylinders=sheet.cylinders, step=1.0,
                        trace=CrankTrace(cycles=((100.0, 60.0, 99.0),) * 2))  # fmt: skip
    assert {f.state for f in analyse_cranking(few).findings} == {State.NOT_JUDGED}


def test_the_route_asks_for_rail_and_compression_before_returns() -> None:
    """And ends."""
    weak = corrections([5.0, -1.6, -1.7, -1.7]).sheet
    even = CrankingSheet(cylinders=tuple((i, 100.0) for i in labels(4)), step=1.0)
    much = returns([50.0, 12.0, 13.0, 12.0]).sheet
    asked = []
    good = rail_trace()
    for sheets in ((weak,), (weak, good), (weak, good, even), (weak, good, even, much)):
        keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets))
        step = analyse_job(
            Job(injectors=labels(4), sheets=keyed, fuel_system="common_rail")
        ).next_step
        asked.append(step.kind if step else None)
    assert asked == ["rail_pressure", "cranking_balance", "return_volume", None]


@pytest.mark.parametrize(
    ("low", "states", "said"),
    [
        ((), ["in_plumb"] * 4, "even"),
        (("3",), ["in_plumb", "in_plumb", "low", "in_plumb"], "weak hump, seen by eye"),
    ],
)
def test_humps_that_are_only_looked_at(low: tuple[str, ...], states: list[str], said: str) -> None:
    """All even, or low on 3, with no figure said; the sheet is begun, and told to be by eye."""
    sheet = CrankingSheet(cylinders=tuple((n, None) for n in "1234"), step=1.0, low_by_eye=low)
    found = analyse_cranking(sheet)
    assert [f.state.value for f in found.findings] == states
    assert found.begun
    assert found.passed is (not low)
    assert cranking_words.because(found.findings[2], found, "%").startswith(said)
    assert any("by eye" in note for note in cranking_words.notes(found, "%"))
    codes = {(f.code, f.injector) for f in cranking_facts("s1", found)}
    assert ("cranking_low" if low else "cranking_in_plumb", "3") in codes


def test_a_figure_says_more_than_an_eye() -> None:
    """What is typed comes first, and nothing is then said to be seen by eye."""
    sheet = CrankingSheet(
        cylinders=(("1", 100.0), ("2", 101.0), ("3", 99.0), ("4", None)),
        step=1.0,
        low_by_eye=("3",),
    )
    found = analyse_cranking(sheet)
    assert [f.state.value for f in found.findings] == ["in_plumb"] * 4
    assert not any("by eye" in note for note in cranking_words.notes(found, "%"))
    assert not analyse_cranking(replace(sheet, cylinders=(("1", None),), low_by_eye=None)).begun
