"""The house keeps its walls: kinds are named at home only, core needs numbers only, rooms stay small.

The directions of imports are held by import-linter (``pyproject.toml``).
"""

import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from plumb.api.settings import ROOT
from plumb.core.causes.table import FAULTS
from plumb.core.procedures import BY_CODE
from plumb.core.weigh.suspicions import SUSPICIONS
from plumb.jobfile.kinds import FILE_KINDS
from plumb.service.kinds import SCREEN_KINDS
from tests.jobs_of_every_kind import job_file

SOURCE = ROOT / "src" / "plumb"
FILES = sorted(p for p in SOURCE.rglob("*.py") if "migrations" not in p.parts)
PROCEDURES = {p.name for p in (SOURCE / "core" / "procedures").iterdir() if p.is_dir()} - {
    "__pycache__"
}
AT_HOME = ("core/procedures/", "jobfile/kinds/", "service/kinds/")
SPEAKS_OF_ALL = ("demo/", "bench/", "trace.py")
"""Made-up jobs, benches, and the command line that looks for named things in a trace."""
WEIGHED = ("core/weigh/", "core/causes/", "core/diagnose/", "core/compare/drops/shows.py")
OTHERS = SUSPICIONS.keys() | FAULTS.keys()
"""Doubts and faults, some of which are called like the kind of sheet that tells of them."""
OTHER_MEANING = {
    ("service/screens/sheet.py", "hold"), ("devices/address.py", "command"),
    ("service/uses/shelf.py", "command"),
}  # fmt: skip
"""A key of a view, and what an instrument is asked, that are called like a kind."""


def name_of(path: Path) -> str:
    """The file under ``src/plumb``."""
    return path.relative_to(SOURCE).as_posix()


def literals(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """Every string of the code, docstrings left out, with its line."""
    said = {
        id(node.value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant)
    }
    for node in ast.walk(tree):
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in said:
            yield node.lineno, node.value


def imports(tree: ast.AST) -> Iterator[tuple[int, str]]:
    """Every module that is imported, with its line."""
    for node in ast.walk(tree):
        if isinstance(node, ast.ImportFrom):
            yield node.lineno, node.module or ""
        elif isinstance(node, ast.Import):
            yield from ((node.lineno, alias.name) for alias in node.names)


def test_kinds_are_named_in_their_own_folders_only() -> None:
    """Neither a kind's code nor a procedure's module stands anywhere else."""
    found = []
    for path in FILES:
        name = name_of(path)
        if name.startswith((*AT_HOME, *SPEAKS_OF_ALL)):
            continue
        tree = ast.parse(path.read_text())
        codes = BY_CODE.keys() - (OTHERS if name.startswith(WEIGHED) else set())
        found += [
            f"{name}:{line} {text}"
            for line, text in literals(tree)
            if text in codes and (name, text) not in OTHER_MEANING
        ]
        found += [
            f"{name}:{line} {module}"
            for line, module in imports(tree)
            if ".procedures." in module
            and module.split(".procedures.")[1].split(".")[0] in PROCEDURES
        ]
    assert found == []


def test_pages_name_no_kind() -> None:
    """What differs between kinds comes with the sheet; made types and tests may name them."""
    web = ROOT / "web" / "src"
    found = [
        f"{path.relative_to(web)}:{number} {code}"
        for path in sorted(web.rglob("*.ts*"))
        if ".test." not in path.name and path.name != "schema.d.ts"
        for number, line in enumerate(path.read_text().splitlines(), 1)
        for code in re.findall(r'["\'`](\w+)["\'`]', line)
        if code in BY_CODE
    ]
    assert found == []


@pytest.mark.parametrize("room", AT_HOME[1:])
def test_a_kinds_file_speaks_of_its_own_procedure_only(room: str) -> None:
    """The file of one procedure imports no other's; what they share has a name of its own."""
    found = []
    for path in (SOURCE / room).glob("*.py"):
        if path.stem in PROCEDURES:
            found += [
                f"{name_of(path)}:{line} {module}"
                for line, module in imports(ast.parse(path.read_text()))
                for other in PROCEDURES - {path.stem}
                if f".procedures.{other}." in f"{module}." or f".kinds.{other}." in f"{module}."
            ]
    assert found == []


def test_every_kind_stands_in_every_registry() -> None:
    """Core, formats, screens: the same codes in the same order."""
    assert list(BY_CODE) == list(FILE_KINDS) == list(SCREEN_KINDS)


def test_drawn_jobs_meet_every_kind() -> None:
    """What is compared before and after a move has every kind of sheet in it."""
    drawn = {sheet["kind"] for seed in range(40) for sheet in job_file(seed)["sheets"]}
    assert drawn == set(BY_CODE)


def test_core_needs_numbers_only() -> None:
    """The standard library, numpy and scipy."""
    allowed = {*sys.stdlib_module_names, "numpy", "scipy"}
    found = [
        f"{name_of(path)}:{line} {module}"
        for path in FILES
        if name_of(path).startswith("core/")
        for line, module in imports(ast.parse(path.read_text()))
        if not module.startswith("plumb.core") and module.split(".")[0] not in allowed
    ]
    assert found == []


def test_functions_fit_one_look() -> None:
    """Under 45 lines, nine of ten at most 25."""
    lengths = {
        f"{name_of(path)}:{node.name}": (node.end_lineno or 0) - node.lineno + 1
        for path in FILES
        for node in ast.walk(ast.parse(path.read_text()))
        if isinstance(node, ast.FunctionDef | ast.AsyncFunctionDef)
    }
    assert {name: n for name, n in lengths.items() if n >= 45} == {}
    assert sorted(lengths.values())[int(0.9 * len(lengths))] <= 25
