"""What a person found by eye, hand or ear: it is found, ends what it ends, and can be put right.

Jobs are of the trade, common practice, no source.
"""

from datetime import UTC, datetime, timedelta

import pytest

from plumb.core.causes.sighting import Sighting
from plumb.core.measure.problems import PlumbError
from plumb.core.mend.finish import Finished
from plumb.core.mend.repairs import Repair, mended
from plumb.core.procedures.walk.analysis import WalkSheet, analyse_walk
from plumb.core.procedures.walk.words import headline
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.words_diagnosis import explanation, lines
from plumb.core.weigh.words_next import step_words
from plumb.core.weigh.words_verdict import sentence
from tests.core.job_files import conditions, done, drops, job, values

ROD = {
    "fault": "other",
    "words": "a bent push rod",
    "how": "valve cover off",
    "explains": ["smoke_black"],
}
CHAFED = {"fault": "ignition", "injector": "3", "how": "its lead was chafed through"}
CRACKED = {"fault": "air", "how": "the hose to the booster was cracked"}


def says(of: JobResult) -> str:
    """The diagnosis in a sentence."""
    return "".join(s.text for s in explanation(of.diagnosis)).strip()


def test_a_push_rod_explains_the_smoke_that_nozzles_do_not() -> None:
    """Three nozzles alike and sound, a rod bent: the smoke is the rod's, and nobody says something else."""
    sheet = values(
        "opening_pressure", "bar", 0.5, [125, 125.5, 125], window={"low": 120, "high": 130}
    )
    found = job("mechanical_diesel", 3, "black smoke", sheet, sightings=[ROD]).now
    assert says(found) == "The black smoke is explained: a bent push rod."
    assert found.diagnosis.explained == "yes"
    told = [(c.words, c.state, c.note) for c in lines(found) if c.state == "found"]
    assert told == [("a bent push rod", "found", "found: valve cover off")]


def test_it_explains_only_what_it_is_said_to() -> None:
    """Black smoke by the rod; the hard start stays open, and the rod is told once."""
    found = job("mechanical_diesel", 3, "black smoke, hard start when cold", sightings=[ROD]).now
    assert found.diagnosis.explained == "open"
    assert dict(found.diagnosis.by_word)["hard_start_cold"] == ()
    assert says(found) == (
        "The black smoke is explained: a bent push rod. The hard starting when cold is still open."
    )
    mute = job("port", 4, "misfire", sightings=[{**ROD, "explains": []}]).now
    assert says(mute) == "Found: a bent push rod. What explains the misfire is still open."
    assert says(job("port", 4, "", sightings=[ROD]).now) == "Found: a bent push rod."


def test_what_was_found_ends_the_search() -> None:
    """A chafed lead explains the misfire: nothing has to be measured, and no injector is likelier for it."""
    before = job("port", 4, "misfire").now
    found = job("port", 4, "misfire", sightings=[CHAFED]).now
    assert before.next_step is not None
    assert found.next_step is not None
    advice = step_words(found.next_step, None, found.setting)
    assert (found.next_step.measures, found.alternatives) == (False, ())
    assert advice.title == "Put right: ignition, 3"
    assert found.diagnosis.explained == "yes"
    [cause] = found.diagnosis.found
    assert (cause.fault.code, cause.place, cause.because) == (
        "ignition", "3", "ignition, its lead was chafed through",
    )  # fmt: skip
    assert cause.share > 0.999
    weak = found.weighed.share_at("3", "gives_less"), before.weighed.share_at("3", "gives_less")
    assert weak[0] < weak[1]


def test_an_injector_that_was_seen_to_drip_is_replaced() -> None:
    """No sheet has read it, and nobody is asked to measure it."""
    wet = {"fault": "leaks_at_tip", "injector": "2", "how": "pulled, it drips"}
    found = job("port", 4, "smell of fuel", sightings=[wet]).now
    verdict = dict(found.verdicts)["2"]
    assert found.next_step is None
    assert "".join(s.text for s in sentence(found)).startswith("Replace 2: leaks at the tip. ")
    assert (verdict.condition, verdict.action, verdict.because) == (
        "leaks_at_tip", "replace", "leaks at the tip, pulled, it drips",
    )  # fmt: skip
    assert conditions(found)["1"] == "not_measured"
    late = {"fault": "opens_late", "injector": "2", "words": "spring broken"}
    assert (
        dict(job("mechanical_diesel", 3, "", sightings=[late]).now.verdicts)["2"].action == "reshim"
    )
    again = {"fault": "gives_less", "injector": "2"}
    assert (
        dict(job("port", 4, "", sightings=[again]).now.verdicts)["2"].action == "clean_and_repeat"
    )
    more = {"fault": "gives_more", "injector": "2"}
    assert dict(job("port", 4, "", sightings=[more]).now.verdicts)["2"].action == "bench_test"


def test_a_feed_that_was_found_dead_is_its_feeds() -> None:
    """A broken wire on what 1 and 2 share, told at one of them."""
    feeds = {"1": "A", "2": "A", "3": "B", "4": "B"}
    wire = {"fault": "shared_feed", "injector": "2", "how": "wire broken in the loom"}
    injectors = [{"id": x, "cylinder": int(x), "feed": f} for x, f in feeds.items()]
    vehicle = {"name": "Torvik Lundy", "fuel_system": "port", "injectors": injectors}
    found = job("port", 4, "misfire", sightings=[wire], vehicle=vehicle).now
    [cause] = found.diagnosis.found
    assert (cause.fault.code, cause.place) == ("shared_feed", "A")


def mend(cause: str, answer: str) -> Finished:
    """The cracked hose, put right, and what the customer says then."""
    return job(
        "port", 4, "rough idle", drops([26, 26, 26, 26]), sightings=[CRACKED],
        repairs=[{"done": "put_right", "cause": cause}], asked_after={"rough_idle": answer},
    )  # fmt: skip


def test_what_was_put_right_is_found_no_more() -> None:
    """Gone: closed. Still there after the hose: another explanation is needed, and the hose is not it."""
    assert mend("air", "gone").over
    still = mend("air", "still_there")
    assert still.found.diagnosis.explained == "yes"
    assert not still.now.diagnosis.found
    assert says(still.now) != says(still.found)
    assert mend("supply", "still_there").now.diagnosis.found


def test_a_repair_puts_right_what_was_found_before_it() -> None:
    """At its place or by its name; what is found afterwards is new."""
    at = datetime(2026, 5, 12, 10, tzinfo=UTC)
    wet = Sighting(fault="leaks_at_tip", place="2", at=at)
    later, earlier = at + timedelta(hours=1), at - timedelta(hours=1)
    assert mended(wet, [Repair(injector="2", done="replaced", at=later)])
    assert not mended(wet, [Repair(injector="2", done="replaced", at=earlier)])
    assert not mended(wet, [Repair(injector="2", done="nothing", at=later)])
    assert not mended(wet, [Repair(injector="3", done="replaced", at=later)])
    assert mended(Sighting(fault="air"), [Repair(injector="", done="put_right", cause="air")])
    gone = job(
        "port", 4, "", sightings=[{"fault": "leaks_at_tip", "injector": "2"}],
        repairs=done("replaced", "2"),
    )  # fmt: skip
    assert conditions(gone.found)["2"] == "leaks_at_tip"
    assert "2" not in conditions(gone.now)


@pytest.mark.parametrize(
    ("sighting", "rule"),
    [
        ({"fault": "other"}, "in words of its own"),
        ({"fault": "ignition"}, "name the injector"),
        ({"fault": "air", "injector": "2"}, "on the engine"),
        ({"fault": "leaks_at_tip", "injector": "9"}, "an injector of this vehicle"),
        ({"fault": "gremlins"}, "one of 'gives_less'"),
    ],
)
def test_what_does_not_fit_is_refused(sighting: dict[str, str], rule: str) -> None:
    """Each with its place and its rule."""
    with pytest.raises(PlumbError) as refused:
        job("port", 4, "", sightings=[sighting])
    [problem] = refused.value.problems
    assert problem.path.startswith("sightings[0]")
    assert rule in problem.rule


def test_a_walk_round_with_a_note_has_seen_something() -> None:
    """Hose dry, connectors home, and a cracked hose noted: never "nothing wrong seen outside"."""

    def told(note: str) -> str:
        sheet = WalkSheet(complaint=("none",), hose="dry", connectors="good", note=note)
        return "".join(s.text for s in headline(analyse_walk(sheet), ""))

    assert told("") == "Noted: no complaint, nothing wrong seen outside."
    assert told("hose to the booster cracked.") == (
        "Noted: no complaint, hose to the booster cracked."
    )
    assert analyse_walk(WalkSheet(note="cracked")).begun


def test_what_two_persons_say_of_one_thing_adds_up() -> None:
    """The same hose found twice, each time for another word: one cause, which explains both."""
    twice = [{**CRACKED, "explains": ["hard_start_hot"]}, {**CRACKED, "explains": ["fuel_smell"]}]
    found = job("port", 4, "hard start when hot, smell of fuel", sightings=twice).now
    [cause] = found.diagnosis.found
    assert cause.sighted
    assert found.diagnosis.explained == "yes"
    assert cause.because == "air: unmetered, or too little, the hose to the booster was cracked"
