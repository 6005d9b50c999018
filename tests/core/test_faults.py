"""The table of faults and the tables of the procedures: whole, reachable, and all of it used."""

import pytest

from plumb.core.causes.codes import CLASSES, code_words, read_code
from plumb.core.causes.common import Counts, learnt_on
from plumb.core.causes.fault import ENGINE, INJECTOR
from plumb.core.causes.shows import Shows
from plumb.core.causes.table import FAULTS, faults_on
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.procedures import FUEL_SYSTEMS, KINDS, route
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.glossary import can_be_told, glossary
from plumb.core.weigh.table import TABLE

TABLES = [(kind, table) for kind in KINDS for table in kind.shows]


@pytest.mark.parametrize(("kind", "table"), TABLES, ids=lambda x: getattr(x, "name", ""))
def test_every_row_is_a_chance(kind: object, table: Shows) -> None:
    """Each row has a chance for each column, none below nought, and they sum to one."""
    for row in (table.sound, *table.rows.values()):
        assert len(row) == len(table.columns)
        assert min(row) >= 0.0
        assert sum(row) == pytest.approx(1.0)
    assert table.rows.keys() <= FAULTS.keys(), kind
    # A sound engine shows the best column more often than all others together.
    assert table.sound[0] > 0.5


@pytest.mark.parametrize(("kind", "table"), TABLES, ids=lambda x: getattr(x, "name", ""))
def test_every_column_is_a_fact_that_its_sheet_makes(kind: object, table: Shows) -> None:
    """A column that nobody makes would never be seen."""
    assert frozenset().union(*table.facts) <= getattr(kind, "makes").keys()  # noqa: B009


def test_the_worst_of_what_is_there_is_seen() -> None:
    """Two faults: the chance of so much or less is the product of both (noisy-MAX, Diez 1993).

    Worked by hand: in plumb 0.1 * 0.5 * 0.9, up to high 0.4 * 1.0 * 0.95.
    """
    table = Shows(
        name="any", columns=("in plumb", "high", "low"), sound=(0.9, 0.05, 0.05),
        rows={"a": (0.1, 0.3, 0.6), "b": (0.5, 0.5, 0.0)},
    )  # fmt: skip
    assert table.chance(("a", "b"), 0) == pytest.approx(0.045)
    assert table.chance(("a", "b"), 1) == pytest.approx(0.38 - 0.045)
    assert table.chance(("a", "b"), 2) == pytest.approx(1.0 - 0.38)
    assert [table.chance((), n) for n in range(3)] == pytest.approx(table.sound)
    assert table.chance(("unheard of",), 2) == pytest.approx(0.05)


@pytest.mark.parametrize("system", FUEL_SYSTEMS)
def test_every_fault_can_be_found(system: str) -> None:
    """By a sheet of the route that shows it, and by facts or a verdict; or it lies outside and is told."""
    told = can_be_told(system)
    reached = {row.condition for row in TABLE if all(group & told for group in row.needs)}
    shown = {code for kind in route(system) for table in kind.shows for code in table.rows}
    for fault in faults_on(system):
        if system in fault.outside:
            assert fault.told, fault.code
            continue
        assert fault.code in shown, fault.code
        if fault.of == INJECTOR:
            assert fault.code in reached
        else:
            assert fault.found_by
            assert all(set(group) & told for group in fault.found_by), fault.code


@pytest.mark.parametrize("system", FUEL_SYSTEMS)
def test_every_word_of_a_complaint_has_a_fault(system: str) -> None:
    """And no fault brings about a word that nobody can complain of."""
    brought = {word for fault in faults_on(system) for word in fault.brings}
    assert brought == set(COMPLAINTS) - {"none"}


def test_every_condition_of_the_verdict_is_a_fault() -> None:
    """What an injector can be is weighed under the same code; five codes speak of none."""
    conditions = {row.condition for row in TABLE}
    spoken = {"sound", "not_settled", "not_measured", "not_the_injector", "off_alike"}
    # A plug without its pulse is a fault of the cylinder: command.
    faults = {f.code for f in FAULTS.values() if f.of == INJECTOR} | {"no_command"}
    assert conditions - spoken == faults


def test_every_fact_that_speaks_of_a_fault_is_used() -> None:
    """A kind that is none of the walk-round has a table; those that stop everything say how to go on."""
    assert [k.code for k in KINDS if not k.shows] == []
    for fault in FAULTS.values():
        assert not fault.stops_all or fault.put_right
        assert all(0.0 < n < 0.5 for n in fault.common.values())


@pytest.mark.parametrize(
    ("code", "name", "cylinder", "words"),
    [
        ("P0300", "misfire", 0, "misfires"),
        ("P0301", "misfire_of", 1, "cylinder 1"),
        ("P0312", "misfire_of", 12, "cylinder 12"),
        ("P0201", "circuit_of", 1, "injector 1"),
        ("P0212-1F", "circuit_of", 12, "injector 12"),
        ("P0171", "lean", 0, "lean"),
        ("P0174", "lean", 0, "lean"),
        ("P0172", "rich", 0, "rich"),
        ("P0175", "rich", 0, "rich"),
        ("P0087", "rail_low", 0, "too low"),
        ("P0088", "rail_high", 0, "too high"),
        ("P0192", "rail_sensor", 0, "sensor"),
    ],
)
def test_what_codes_say(code: str, name: str, cylinder: int, words: str) -> None:
    """SAE J2012, its public list of codes: misfire, injector circuit, fuel trim, rail pressure."""
    read = read_code(code)
    assert read is not None
    assert (read.name, read.cylinder) == (name, cylinder)
    assert words in code_words(code)
    assert CLASSES[name][1].keys() <= FAULTS.keys()


@pytest.mark.parametrize("code", ["P0313", "P0213", "P0200", "P1300", "U0100", "157-18", ""])
def test_other_codes_say_nothing(code: str) -> None:
    """P0313 to P0315 are no cylinder's, P0213 and on are other circuits; makers' own stay theirs."""
    assert read_code(code) is None
    assert code_words(code) == ""


def test_own_jobs_count_beside_the_table() -> None:
    """Dirichlet counts: (prior * 50 + cases) / (50 + jobs), worked by hand for 3 % and 10 of 50."""
    own = Counts(jobs=50, injectors=300, faults={"regulator": 10, "gives_less": 30})
    learnt = learnt_on("port", own)
    before = FAULTS["regulator"].common["port"]
    assert learnt["regulator"].chance == pytest.approx((50 * before + 10) / 100)
    assert learnt["regulator"].own_cases == 10
    assert learnt["supply"].chance == pytest.approx(50 * FAULTS["supply"].common["port"] / 100)
    # Of an injector's faults each injector counts: the table's fifty jobs had four each.
    assert learnt["gives_less"].chance == pytest.approx((200 * 0.05 + 30) / 500)
    assert learnt["gives_less"].own_share == pytest.approx(0.6)
    for code, one in learnt_on("port", Counts()).items():
        assert one.chance == pytest.approx(FAULTS[code].common["port"])
        assert one.own_share == 0.0


def test_the_list_of_words_tells_of_every_sheet() -> None:
    """A scan is told on the fuel systems that have a controller."""
    with_scan = [s for s in FUEL_SYSTEMS if any(x.kind.code == "scan" for x in glossary(s).sheets)]
    assert with_scan == ["port", "throttle_body", "direct", "common_rail"]
    assert all(
        k.can_be_done(Setting(starts=False)) for k in KINDS if k.of_engine and k.engine == "any"
    )
    assert {f.of for f in FAULTS.values()} == {"injector", "cylinder", "feed", ENGINE}
