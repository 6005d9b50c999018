"""Jobs and sheets as they would begin, for browsers that go where the server is not.

A page that has them can open a job and begin sheets by itself; what is typed there waits in the browser
and goes up under the real numbers later.
"""

from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.procedures import route
from plumb.jobfile.models import MOST_CYLINDERS
from plumb.service.screens.sheet import sheet_view
from plumb.service.stored.known import known_job, known_sheet
from plumb.service.stored.parts import instant, now_typed
from plumb.service.uses.engines import make_injectors
from plumb.service.uses.jobs import job_shown
from plumb.service.uses.new_sheets import Wanted, start_sheet
from plumb.service.views.job import BlanksView
from plumb.store import jobs as store
from plumb.store.session import retried, unkept

_NUMBER: Final = "blank"


@retried
def blanks(
    engine: Engine, fuel_system: str, each: str, banks: int, thresholds: Thresholds
) -> BlanksView:
    """A job on the largest engine of a fuel system and every sheet of its route, empty; nothing is kept.

    ``each`` is how many injectors a cylinder has, as of a new job.
    """
    with unkept(engine) as connection:
        return _made(
            connection, fuel_system, make_injectors(MOST_CYLINDERS, banks, each), thresholds
        )


def _made(
    connection: Connection,
    fuel_system: str,
    injectors: list[dict[str, Any]],
    thresholds: Thresholds,
) -> BlanksView:
    vehicle_id = store.add_vehicle(
        connection,
        {
            "name": _NUMBER, "registration": "", "fuel_system": fuel_system, "extras": None,
            "distance_unit": "km", "cylinders": MOST_CYLINDERS,
        },
        injectors,
    )  # fmt: skip
    opened = now_typed()
    store.add_job(
        connection,
        {
            "number": _NUMBER, "vehicle_id": vehicle_id, "opened_typed": opened, "complaint": "",
            "opened_at": instant(opened), "codes": [], "request_id": _NUMBER,
        },
    )  # fmt: skip
    shown = job_shown(connection, _NUMBER, thresholds)
    job, vehicle = known_job(connection, _NUMBER)
    sheets = [
        known_sheet(
            connection,
            start_sheet(connection, job, vehicle, Wanted(request_id=kind.code, kind=kind.code)),
        )
        for kind in route(fuel_system)
    ]
    return BlanksView(job=shown, sheets=[sheet_view(whole, thresholds) for whole in sheets])
