"""Files that are nonsense, led by the code that they reach: told what is wrong, or taken in, and nothing else."""

import importlib.util
import os
import subprocess
import sys
from pathlib import Path

import pytest

from plumb.api.settings import ROOT
from tests.faults.people import LONG, say

RUNS = 20_000 if LONG else 400


@pytest.mark.timeout(3600 if LONG else 400)
@pytest.mark.skipif(
    importlib.util.find_spec("atheris") is None, reason="not on this kind of machine"
)
@pytest.mark.parametrize(
    "which", ["job", "csv", "trace", "whole", "address"] if LONG else ["whole"]
)
def test_no_file_breaks_what_reads_it(which: str, tmp_path: Path) -> None:
    """Atheris, in a process of its own: a hundred thousand in all with ``--faults``."""
    script = Path(__file__).with_name("fuzz.py")
    env = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT}"}
    done = subprocess.run(
        [sys.executable, str(script), which, str(RUNS), str(tmp_path)], env=env, check=False,
        capture_output=True, text=True,
    )  # fmt: skip
    told = done.stdout + done.stderr
    assert done.returncode == 0, told[-3000:]
    executed = [
        line.split()[-1] for line in told.splitlines() if "number_of_executed_units" in line
    ]
    assert executed
    assert int(executed[0]) >= RUNS
    say(f"{which}: {executed[0]} files")
