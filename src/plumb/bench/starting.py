"""How long a second start takes: from the command until a browser has the page and the open jobs.

Side by side, on the same machine in the same run: an application of one route in the same framework,
until it has answered once.
"""

import os
import signal
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request
from collections.abc import Sequence
from pathlib import Path
from typing import Final

from rich.console import Console

from plumb.api.settings import ROOT
from plumb.bench.speed import API_PORT, DB_PORT

STARTS: Final = 5
_BUDGET_S: Final = 5.0
_PATIENCE_S: Final = 120.0
_ONE_ROUTE: Final = f"""
import uvicorn
from fastapi import FastAPI

app = FastAPI()
app.add_api_route("/", lambda: "there")
uvicorn.run(app, port={API_PORT}, log_level="critical")
"""


def starting(console: Console) -> None:
    """Print how long it takes, and how many times as long as the one route.

    Raises :class:`TimeoutError` where nothing answers, :class:`subprocess.CalledProcessError` where what was
    begun ends by itself: a port that is taken, for one.
    """
    (ROOT / "var").mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory(dir=ROOT / "var") as folder:
        environment = {
            **os.environ, "PLUMB_PORT": str(API_PORT), "PLUMB_DB_PORT": str(DB_PORT),
            "PLUMB_DATA_DIR": str(Path(folder) / "database"),
        }  # fmt: skip
        whole = [str(ROOT / "plumb"), "demo"]
        # One after the other, so that a busy moment of the machine meets both.
        took, bare = [], []
        first = _until_answered(whole, ("/", "/api/jobs"), environment)
        for _ in range(STARTS):
            took.append(_until_answered(whole, ("/", "/api/jobs"), environment))
            bare.append(_until_answered([sys.executable, "-c", _ONE_ROUTE], ("/",), environment))
    second, one = statistics.median(took), statistics.median(bare)
    console.print(
        f"first start, with the demo jobs: {first:.1f} s; second start until page and jobs are there: "
        f"median [bold]{second:.2f} s[/] of {STARTS}  (asked: at most {_BUDGET_S:.0f}); "
        f"an application of one route: {one:.2f} s; ratio {second / one:.1f}"
    )


def _until_answered(
    command: Sequence[str], paths: Sequence[str], environment: dict[str, str]
) -> float:
    begun = time.monotonic()
    program = subprocess.Popen(
        command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
    )
    try:
        for path in paths:
            _wait_for(f"http://127.0.0.1:{API_PORT}{path}", program, begun + _PATIENCE_S)
        return time.monotonic() - begun
    finally:
        program.send_signal(signal.SIGINT)
        program.wait(_PATIENCE_S)


def _wait_for(address: str, program: subprocess.Popen[bytes], until: float) -> None:
    while time.monotonic() < until:
        if (ended := program.poll()) is not None:
            raise subprocess.CalledProcessError(ended, program.args)
        try:
            with urllib.request.urlopen(address) as answer:  # noqa: S310  an address of this machine
                answer.read()
                return
        except OSError:
            time.sleep(0.02)
    raise TimeoutError(address)
