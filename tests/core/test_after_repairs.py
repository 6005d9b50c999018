"""After the repair, whole jobs: who is held against whom, what is asked for again, and when it is over.

Figures are of the trade, common practice, no source.
"""

import math

import pytest

from plumb.core.mend.words import bob_words, pair_words
from plumb.core.weigh.words_diagnosis import explanation
from tests.core.job_files import done, drops, hold, job, notes, rail, values, words

CORRECTED = [15.0, -4.0, -7.0, -7.0, -7.0, -7.0, 15.0, -4.0]
UNRENEWED = [
    ("correction", "mm3", 0.1, CORRECTED, {1: 12.0, 7: 12.0}, "replaced"),
    ("correction", "ms", 0.01, [1.11, 0.55, 1.10, 0.56], {1: 1.11, 3: 1.10}, "replaced"),
    ("return_volume", "ml", 1.0, [38.0, 34.0, 9.0, 3.0], {1: 38.0, 2: 35.0}, "rebuilt"),
]


@pytest.mark.parametrize(("kind", "unit", "step", "before", "after", "work"), UNRENEWED)
def test_new_ones_are_no_measure_of_each_other(
    kind: str, unit: str, step: float, before: list[float], after: dict[int, float], work: str
) -> None:
    """Two new ones that are as far off as the old ones agree with each other, and with nobody that is good."""
    found = job(
        "common_rail", len(before), "rough idle", values(kind, unit, step, before),
        values(kind, unit, step, after, after="s1"), repairs=done(work, *map(str, after)),
        asked_after={"rough_idle": "gone"},
    )  # fmt: skip
    assert set(words(found).values()) == {"not_settled"}
    assert not found.over
    assert found.next_step is not None
    rest = tuple(str(n) for n in range(1, len(before) + 1) if n not in after)
    assert (found.next_step.kind, found.next_step.injectors) == (kind, rest)
    assert "held against those that stayed as they were" in notes(found.now, "s2")


def test_all_corrections_are_asked_for_again_and_judged_by_the_good_ones() -> None:
    """They share one engine: what two take less of, the others get; then they stand even, or are as they were."""
    first = values("correction", "mm3", 0.1, CORRECTED)
    repaired = done("replaced", "1", "7")
    due = job("common_rail", 8, "rough idle", first, repairs=repaired).due
    assert [(d.kind, d.injectors) for d in due] == [("correction", tuple("12345678"))]
    even = values("correction", "mm3", 0.1, [0.4, -0.2, 0.1, 0.3, -0.4, 0.0, -0.3, 0.1], after="s1")
    right = job("common_rail", 8, "rough idle", first, even, repairs=repaired)
    assert {words(right)[x] for x in "17"} == {"put_right"}
    same = values("correction", "mm3", 0.1, CORRECTED, after="s1")
    assert {words(job("common_rail", 8, "", first, same, repairs=repaired))[x] for x in "17"} == {
        "unchanged"
    }


def test_half_of_a_set_renewed_does_not_outvote_the_old_half() -> None:
    """Three of six new and weak together: a set that is split, but for the three that stayed as they were."""
    ends = [26, 31, 31.5, 26.5, 31, 26]
    found = job(
        "port", 6, "rough idle", drops(ends), drops(ends, after="s1"),
        repairs=done("replaced", "2", "3", "5"),
    )  # fmt: skip
    after = {f.injector: f.state.value for f in dict(found.now.sheets)["s2"].findings}
    assert [after[x] for x in "123456"] == ["in_plumb", "low", "low", "in_plumb", "low", "in_plumb"]


def test_opening_pressures_before_and_after_are_told_in_their_unit() -> None:
    """1900 and 2000 psi against a window, not a deviation from themselves."""
    window = {"low": 1950, "high": 2050}
    found = job(
        "mechanical_diesel", 4, "black smoke",
        values("opening_pressure", "psi", 10.0, [1900, 1900, 2000, 2010], window=window),
        values("opening_pressure", "psi", 10.0, {1: 2000, 2: 2005}, window=window, after="s1"),
        repairs=done("reshimmed", "1", "2"),
    )  # fmt: skip
    told = {p.injector: pair_words(p, "psi", "", "") for p in found.pairs}
    assert told["1"] == "1900 psi before, 2000 psi now: put right"


@pytest.mark.parametrize("more", [{}, {"when": "after_cleaning"}])
def test_cleaned_and_as_weak_as_before_is_replaced(more: dict[str, str]) -> None:
    """Once is enough, whether the cleaning was noted as a repair or said of the sheet too."""
    found = job(
        "port", 4, "rough idle", drops([26, 26.5, 26, 31.5]), drops({4: 31.5}, after="s1", **more),
        repairs=done("cleaned", "4"),
    )  # fmt: skip
    assert words(found)["4"] == "unchanged"
    assert dict(found.now.verdicts)["4"].action == "replace"
    # Its fault is still there: nobody asks for the complaint again before that is dealt with.
    assert found.next_step is None or found.next_step.kind != "ask_after"


def test_another_part_that_gives_as_little_sends_the_search_elsewhere() -> None:
    """A second injector is not bought for what drives or feeds the first."""
    found = job(
        "port", 4, "rough idle", drops([26, 26.5, 26, 31.5]), drops({4: 31.5}, after="s1"),
        repairs=done("replaced", "4"),
    )  # fmt: skip
    verdict = dict(found.now.verdicts)["4"]
    assert (verdict.condition, verdict.action) == ("not_settled", "check_first")
    assert {"coil", "command"} <= set(verdict.not_ruled_out)


def test_what_is_gone_is_open_no_more() -> None:
    """Nothing found explained it, something was done, and the complaint is gone."""
    found = job(
        "port", 4, "misfire", drops([26, 26.5, 26, 26]), repairs=done("cleaned", "3"),
        asked_after={"misfire": "gone"},
    )  # fmt: skip
    told = "".join(s.text for s in explanation(found.still_open.diagnosis))
    assert told == "The misfire is gone. "


def test_what_is_even_both_times_is_said_once_and_a_bob_has_its_figure() -> None:
    """A sentence for a person; beside the bob, where there is no room, per cent with their sign."""
    found = job(
        "port", 4, "rough idle", drops([26, 26.5, 26, 31.5]), drops([26, 26.5, 26, 26], after="s1"),
        repairs=done("cleaned", "4"),
    )  # fmt: skip
    told = {p.injector: pair_words(p, "psi", "", "") for p in found.pairs}
    assert told["1"] == "even with the others both times"
    assert told["4"].startswith("25 % less before, even with the others now: put right")
    four = next(p for p in found.pairs if p.injector == "4")
    assert bob_words(four.before, "psi").startswith("\u221225.")
    held = job(
        "port", 4, "long crank", hold({0: 50, 60: 20}, lost_at_most=5, within_s=60),
        hold({0: 50, 60: 49}, lost_at_most=5, within_s=60) | {"after": "s1"}, repairs=done("replaced", "4"),
    )  # fmt: skip
    (limit,) = held.pairs
    assert (bob_words(limit.before, "psi"), limit.word) == ("", "put_right")


def test_a_rail_that_surges_is_put_right_before_anything_is_measured_again() -> None:
    """Two injectors are new, the control is not: corrections taken on that rail would have to be taken again."""
    surging = rail(
        lambda t: 330.0 + 45.0 * math.sin(math.tau * 0.6 * t), 330.0, engine="idle", seconds=20.0
    )
    figures = [9.5, -1.5, -2.0, -2.5, -1.0, -2.0, 8.5, -1.0]
    humps = {
        "kind": "cranking_balance", "unit": "percent", "gauge": {"step": 1},
        "by_eye": {"looked": True},
    }  # fmt: skip
    sheets = (surging, values("correction", "mm3", 0.1, figures), humps)
    codes = {"codes": ["P0087", "P0301", "P0307"]}
    work = done("replaced", "1", "7")
    half = job("common_rail", 8, "rough idle, surges", *sheets, repairs=work, **codes)
    assert half.next_step is not None
    assert (half.next_step.kind, half.next_step.cause) == ("repair", "rail_control")
    both = [*work, {"done": "put_right", "cause": "rail_control"}]
    whole = job("common_rail", 8, "rough idle, surges", *sheets, repairs=both, **codes)
    assert whole.next_step is not None
    assert whole.next_step.kind in {"rail_pressure", "correction"}
