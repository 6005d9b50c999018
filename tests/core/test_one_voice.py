"""What cannot stand together does not: on every demo job, and on two hundred drawn ones.

Each pair would be two voices on one screen: explained above open, ruled out beside found, nothing left to
measure beside "repeat".
"""

from collections.abc import Iterator
from pathlib import Path

import pytest

import plumb.demo
from plumb.core.causes.fault import INJECTOR
from plumb.core.mend.finish import Finished
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.words_diagnosis import explanation, lines, remains
from plumb.core.weigh.words_verdict import sentence
from plumb.jobfile.exact import dumps
from plumb.jobfile.reading import parse
from plumb.jobfile.results import engine_json
from plumb.jobfile.to_core import finished
from tests.jobs_of_every_kind import job_file

DEMO = sorted(Path(plumb.demo.__file__).parent.glob("*.json"))


def drawn() -> Iterator[tuple[str, Finished]]:
    """Demo jobs by their numbers, drawn ones by their seeds."""
    for path in DEMO:
        yield path.stem, finished(parse(path.read_bytes()))
    for seed in range(200):
        yield f"seed {seed}", finished(parse(dumps(job_file(seed)).encode()))


@pytest.fixture(scope="module")
def jobs() -> list[tuple[str, Finished]]:
    """All of them, analysed once."""
    return list(drawn())


def results(jobs: list[tuple[str, Finished]]) -> Iterator[tuple[str, JobResult]]:
    """How each was found, and how it stands now."""
    for name, done in jobs:
        yield f"{name}, found", done.found
        yield f"{name}, now", done.now


def told(result: JobResult) -> str:
    """The diagnosis in a sentence."""
    return "".join(s.text for s in explanation(result.diagnosis))


def test_what_is_explained_is_not_open(jobs: list[tuple[str, Finished]]) -> None:
    """The sentence, the word behind it and each word of the complaint agree."""
    for name, result in results(jobs):
        diagnosis, said = result.diagnosis, told(result)
        stands = {diagnosis.stands(w) for w in diagnosis.words}
        if diagnosis.explained == "yes":
            assert not stands & {"open", "maybe", "doubted", "waits"}, name
            assert "still open" not in said, name
            assert "may be behind" not in said, name
        if diagnosis.explained == "open" and diagnosis.words:
            assert stands - {"explained"}, name
            assert "still open" in said or "may be behind" in said, name
        assert ("explained: " in said) == ("explained" in stands and diagnosis.explained not in {"no", "gone"}), name  # fmt: skip


def test_what_was_found_is_neither_cleared_nor_outside(jobs: list[tuple[str, Finished]]) -> None:
    """A cause stands once; what is cleared is not likely, and what was found is not what remains."""
    for name, result in results(jobs):
        found = {(c.fault.words, c.place) for c in result.diagnosis.found}
        cleared = [c for c in result.diagnosis.causes if c.state == "cleared"]
        assert not found & {(c.fault.words, c.place) for c in cleared}, name
        assert all(c.share < 0.1 for c in cleared), name
        outside = {words for words, _ in remains(result.diagnosis)}
        assert not outside & {words for words, place in found if not place}, name


def test_an_injector_is_what_its_cause_says(jobs: list[tuple[str, Finished]]) -> None:
    """Verdict and cause are one, nobody is kept whom something was found at, and both are told."""
    for name, result in results(jobs):
        verdicts = dict(result.verdicts)
        for cause in result.diagnosis.found:
            if cause.fault.of == INJECTOR and cause.place in verdicts:
                verdict = verdicts[cause.place]
                assert verdict.condition == cause.fault.code, name
                assert verdict.action not in {"keep", "measure"}, name


def test_repeat_is_said_of_what_was_read_and_measure_of_what_was_not(
    jobs: list[tuple[str, Finished]],
) -> None:
    """And neither where nothing is left to do."""
    for name, result in results(jobs):
        read = {f.injector for _, r in result.sheets for f in r.findings if f.told}
        for label, verdict in result.verdicts:
            assert verdict.action != "repeat" or label in read, name
            assert verdict.condition != "not_measured" or label not in read, name
        said = "".join(s.text for s in sentence(result))
        if result.next_step is None:
            assert "Repeat" not in said, name
            assert "yet:" not in said, name


def test_what_is_over_asks_for_nothing(jobs: list[tuple[str, Finished]]) -> None:
    """Put right and gone: nothing is next, and no word of the complaint is left."""
    for name, done in jobs:
        if done.over:
            assert done.next_step is None, name
            assert not done.unasked, name
            assert not done.left, name
            assert not done.now.diagnosis.words or "gone" in told(done.now), name


def test_the_result_says_what_the_screen_says(jobs: list[tuple[str, Finished]]) -> None:
    """The same sentence, the same causes in the same states."""
    for name, result in results(jobs):
        json = engine_json(result)
        assert json["says"] == told(result).strip(), name
        states = [(c["cause"], c["state"]) for c in json["causes"]]
        assert states == [(c.fault.code, c.state) for c in result.diagnosis.causes], name
        shown = {(line.code, line.state) for line in lines(result)}
        assert shown <= set(states), name
