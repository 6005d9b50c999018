"""./plumb analyze: tables, JSON, lines; errors by path on standard error, exit codes."""

import io
import json

import pytest
from tests.drivers import DEMO, job_file
from typer.testing import CliRunner

from plumb import analyze
from plumb.api.settings import table
from plumb.cli import app

run = CliRunner()


def test_tables_for_people() -> None:
    """Names, words, the next step."""
    done = run.invoke(app, ["analyze", str(DEMO / "304.json")])
    assert done.exit_code == 0
    for word in ("Torvik Skerry", "gives less", "check first", "plain_mean"):
        assert word in done.output


def test_json_is_one_object() -> None:
    """The shape of docs/formats.md."""
    done = run.invoke(app, ["analyze", "--json", str(DEMO / "306.json")])
    result = json.loads(done.output)
    assert set(result) == {
        "plumb", "findings", "sheets", "verdicts", "engine", "next_step", "options", "says", "after", "swaps",
        "things", "due", "over",
    }  # fmt: skip
    assert result["sheets"][0]["split"]


@pytest.mark.parametrize("named", [["-"], []])
def test_standard_input(named: list[str]) -> None:
    """A dash, or nothing at all."""
    done = run.invoke(app, ["analyze", "--json", *named], input=json.dumps(job_file()))
    assert json.loads(done.output)["findings"][2]["state"] == "low"


def test_a_bad_line_does_not_stop_the_others() -> None:
    """In order, error in its place, exit code 1."""
    good = json.dumps(job_file()).encode()
    bad = json.dumps(job_file(unit="furlong")).encode()
    out = io.StringIO()
    assert analyze.lines([good, b"\n", bad, b"{", good], out) == 1
    answers = [json.loads(line) for line in out.getvalue().splitlines()]
    assert [("error" in a) for a in answers] == [False, True, True, False]
    assert answers[1]["error"]["path"] == "sheets[0].unit"
    assert "furlong" in answers[1]["error"]["message"]
    assert analyze.lines([good], io.StringIO()) == 0


def test_several_processes_give_what_one_gives() -> None:
    """The same text in the same order, and the bad line is told wherever it was worked on."""
    texts = [json.dumps(job_file([(50, 26), (50, 20 + n / 100)])).encode() for n in range(330)]
    texts[217] = b"{"
    alone, shared = io.StringIO(), io.StringIO()
    assert analyze.lines(texts, alone) == analyze.lines(texts, shared, workers=2) == 1
    assert shared.getvalue() == alone.getvalue()
    assert len(set(alone.getvalue().splitlines())) == 330
    read = []
    endless = (read.append(n) or texts[0] for n in range(10**6))
    taking = analyze._shared_out(iter(lambda: [next(endless)], []), 2)
    assert [next(taking)[1] for _ in range(3)] == [True] * 3
    assert len(read) < 20
    taking.close()


@pytest.mark.parametrize("option", [[], ["--json"]])
def test_a_file_that_does_not_fit(option: list[str]) -> None:
    """Path, rule and value on standard error, exit code 2, no traceback."""
    bad = json.dumps(job_file([(26, 50), (50, 26)]))
    done = run.invoke(app, ["analyze", *option, "-"], input=bad)
    assert done.exit_code == 2
    assert "sheets[0].readings[0].second" in done.stderr
    assert "26 to 50" in done.stderr
    assert "Traceback" not in done.output + done.stderr


def test_a_file_that_is_not_there() -> None:
    """Named."""
    done = run.invoke(app, ["analyze", "/no/such.json"])
    assert done.exit_code == 2
    assert "/no/such.json" in done.stderr


def test_settings_are_shown_with_their_defaults() -> None:
    """Each has a variable, in one piece however narrow the terminal is, and a help text."""
    done = run.invoke(app, ["settings"])
    for variable, _value, default, words in table():
        assert variable in done.output
        assert default
        assert words


def test_bench_knows_what_it_knows() -> None:
    """A wrong word is said."""
    assert run.invoke(app, ["bench", "nonsense"]).exit_code == 2
