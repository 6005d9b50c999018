"""Every operation that the API describes, by every phase of Schemathesis: no server error in a hundred thousand cases."""

import os
import re
import subprocess
import sys
from pathlib import Path

import pytest

from tests.faults.people import LONG, say
from tests.shops import Opens, serving

EXAMPLES = 400


@pytest.mark.timeout(7200)
@pytest.mark.skipif(not LONG, reason="the long form; tests/api/test_any_input.py is the short one")
def test_every_phase_without_a_server_error(opens: Opens, tmp_path: Path) -> None:
    """Examples, what a schema covers, fuzzing, and operations one after the other."""
    env = opens("shop")
    address = f"http://127.0.0.1:{env['PLUMB_PORT']}"
    examples = os.environ.get("PLUMB_EXAMPLES", str(EXAMPLES))
    with serving(env):
        done = subprocess.run(
            [
                str(Path(sys.executable).with_name("schemathesis")), "run", f"{address}/api/openapi.json",
                "--phases", "examples,coverage,fuzzing,stateful", "--checks", "not_a_server_error",
                "--max-examples", examples, "--continue-on-failure", "--no-color",
                "--request-timeout", "60", "--workers", "2",
                "--suppress-health-check", "all",
            ],
            cwd=tmp_path, check=False, capture_output=True, text=True,
        )  # fmt: skip
    told = done.stdout + done.stderr
    (tmp_path / "told.txt").write_text(told)
    cases = re.search(r"(\d+) generated", told)
    say(told[-1500:])
    assert done.returncode == 0, told[-6000:]
    assert cases is not None, told[-3000:]
