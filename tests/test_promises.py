"""What the written parts promise: documented rules, settings and codes; locks without addresses."""

import configparser
import re
from datetime import time
from pathlib import Path

import pytest
from typer.testing import CliRunner

from plumb.api.settings import ROOT, Settings, table
from plumb.cli import app as cli
from plumb.core.compare.rules import RULES
from plumb.core.measure.slips import Scale, check_drop
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.hold.isolation import SOURCES, STEPS
from plumb.core.weigh.table import TABLE


def text(name: str) -> str:
    """A file of the project."""
    return (ROOT / name).read_text()


@pytest.mark.parametrize("lock", ["requirements.lock", "web/package-lock.json", "web/.npmrc"])
def test_locks_name_no_address(lock: str) -> None:
    """Only package names, versions and hashes."""
    found = [
        line for line in text(lock).splitlines()
        if re.search(r"https?://", line)
    ]  # fmt: skip
    assert found == []


def test_every_rule_is_documented_with_its_source() -> None:
    """docs/methods.md has the code and the source of each."""
    methods = text("docs/methods.md")
    for code, spec in RULES.items():
        assert f"`{code}`" in methods
        assert spec.source
        assert spec.title in methods


def test_every_setting_is_documented() -> None:
    """docs/operations.md names each variable and its default."""
    operations = text("docs/operations.md")
    for variable, _value, _default, _help in table():
        assert f"`{variable}`" in operations


def test_every_test_that_the_security_page_names_is_there() -> None:
    """A row that claims a test that nobody runs is worth nothing."""
    file, named = "", 0
    for found in re.finditer(r"`(?:([\w/]+\.py)::)?(test_\w+)`", text("docs/security.md")):
        if found[2] == "test_house":
            continue
        file = found[1] or file
        assert f"def {found[2]}(" in text(f"tests/{file}"), found[0]
        named += 1
    assert named > 40


def test_the_unit_starts_what_there_is(monkeypatch: pytest.MonkeyPatch) -> None:
    """The systemd unit calls a command that is there, by its own signal; its settings are settings."""
    unit = configparser.ConfigParser(interpolation=None)
    unit.optionxform = str  # type: ignore[method-assign,assignment]
    unit.read_string(text("deploy/plumb.service"))
    service = unit["Service"]
    program, command, *options = service["ExecStart"].split()
    assert program == f"{service['WorkingDirectory']}/plumb"
    told = CliRunner().invoke(cli, [command, "--help"])
    assert told.exit_code == 0
    assert options
    assert all(option in told.output for option in options)
    assert service["KillSignal"] == "SIGINT"
    lines = text("deploy/plumb.env.example").splitlines()
    given = dict(line.split("=", 1) for line in lines if line and not line.startswith("#"))
    for name, value in given.items():
        assert name.removeprefix("PLUMB_").lower() in Settings.model_fields
        monkeypatch.setenv(name, value)
    assert Settings().backup_at == time(3, 30)
    assert "plumb.saltmere.lan" in Settings().asked_hosts()


def test_every_condition_and_action_is_documented() -> None:
    """docs/methods.md lists the verdict's rows."""
    methods = text("docs/methods.md")
    for row in TABLE:
        assert f"`{row.condition}`" in methods
        assert f"`{row.action}`" in methods


def test_every_kind_of_sheet_is_documented() -> None:
    """docs/formats.md has a row for it, docs/methods.md the isolation steps and places."""
    formats, methods = text("docs/formats.md"), text("docs/methods.md")
    for kind in BY_CODE:
        assert f"| `{kind}` |" in formats
    for rail, steps in STEPS.items():
        assert all(f"`{s.code}`" in methods for s in steps)
        assert all(source in methods for source in SOURCES[rail])


def test_every_question_is_documented() -> None:
    """docs/formats.md names the codes an entry can be asked about."""
    formats = text("docs/formats.md")
    scale = Scale(unit="psi", step=0.5, starts=(50.0,))
    codes = {
        q.code
        for pair in (("26", "50"), ("5026", None), ("500", "26"), ("50.3", "26"), ("50", "50.5"),
                     ("20", "10"))
        for q in check_drop(*pair, scale)
    }  # fmt: skip
    assert len(codes) == 6
    for code in codes:
        assert f"`{code}`" in formats


def test_pictures_are_linked() -> None:
    """Every screenshot is shown or linked in the README, and there are under twenty."""
    pictures = sorted((ROOT / "docs" / "screenshots").glob("*.png"))
    readme = text("README.md")
    assert 0 < len(pictures) < 20
    for picture in pictures:
        assert f"docs/screenshots/{picture.name}" in readme


def test_source_files_stay_readable() -> None:
    """About 400 lines at most, on both sides, tests too."""
    generated = {"schema.d.ts"}
    long = {
        str(p.relative_to(ROOT)): n
        for folder, ends in (("src", {".py"}), ("tests", {".py"}), ("web/src", {".ts", ".tsx"}))
        for p in Path(ROOT / folder).rglob("*")
        if p.suffix in ends and p.name not in generated
        and (n := len(p.read_text().splitlines())) > 420
    }  # fmt: skip
    assert long == {}


def test_first_load_of_the_job_screen_is_small() -> None:
    """At most 180 kB of JavaScript, gzipped, for a job with a drop sheet: entry, page, sheet."""
    import gzip  # noqa: PLC0415
    import json  # noqa: PLC0415

    dist = ROOT / "web" / "dist"
    chunks = json.loads((dist / ".vite" / "manifest.json").read_text())
    wanted = ["index.html", "src/features/job/JobPage.tsx"]
    loaded: set[str] = set()
    while wanted:
        name = wanted.pop()
        if name not in loaded:
            loaded.add(name)
            wanted += chunks[name].get("imports", [])
    files = {chunks[name]["file"] for name in loaded}
    size = sum(len(gzip.compress((dist / f).read_bytes(), 9)) for f in files)
    assert 100_000 < size <= 180_000
