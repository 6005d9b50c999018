"""Load the demo once: gauges on the shelf, and the jobs into an empty shop."""

from pathlib import Path

from sqlalchemy import Engine

from plumb.core.problems import Conflict
from plumb.service.sheets import Gauge
from plumb.service.shelf import add_gauge, list_gauges
from plumb.service.transfer import import_job
from plumb.store.jobs import count_jobs
from plumb.store.session import transaction

JOBS = Path(__file__).parent
GAUGES = (
    ("dial A", "psi", "0.5"),
    ("dial B, coarse", "psi", "2"),
    ("digital C", "kPa", "1"),
    ("digital D", "bar", "0.02"),
    ("digital E", "psi", "0.1"),
)


def gauges_once(engine: Engine) -> None:
    """A shelf to begin with, where there is none yet."""
    if list_gauges(engine):
        return
    for name, unit, step in GAUGES:
        try:
            add_gauge(engine, Gauge(name=name, unit=unit, step=step))
        except Conflict:
            continue


def once(engine: Engine) -> None:
    """Bring the demo jobs in, unless the shop has jobs already."""
    gauges_once(engine)
    with transaction(engine) as connection:
        if count_jobs(connection):
            return
    for path in sorted(JOBS.glob("*.json")):
        import_job(engine, path.read_bytes())
