"""What another application on the same database changes reaches the screens of this one."""

import json
import queue

from sqlalchemy import Engine, text
from tests.drivers import DEAD_S, Desk
from tests.virtual_time import VirtualTime

from plumb.core.measure.decision import Thresholds
from plumb.service.live.elsewhere import ASK_S
from plumb.service.live.hub import Hub, Looker


def test_what_another_machine_changes_is_shown_within_seconds(
    desk: Desk, engine: Engine, thresholds: Thresholds, virtual_time: VirtualTime
) -> None:
    """By the versions in the database: nobody tells it.  What is only begun to be looked at is no change."""
    sheet = desk.open_job(4)
    told: queue.SimpleQueue[str] = queue.SimpleQueue()
    hub = Hub(engine, thresholds, alone=False, scheduler=virtual_time)
    hub.open()
    try:
        looker = Looker(job=sheet["job_number"], sheet=sheet["id"], unit=None, put=told.put)
        leave = hub.join(looker)
        virtual_time.sleep(2.5)
        assert told.empty()
        with engine.begin() as connection:
            connection.execute(text("UPDATE sheet SET version = version + 1"))
        virtual_time.sleep(ASK_S)
        of_sheet, of_job = (json.loads(told.get(timeout=DEAD_S)) for _ in range(2))
        assert of_sheet["type"] == "sheet"
        assert of_sheet["sheet"]["version"] == sheet["version"] + 1
        assert of_job == {"type": "job", "job": sheet["job_number"]}
        leave()
        with engine.begin() as connection:
            connection.execute(text("UPDATE sheet SET version = version + 1"))
        virtual_time.sleep(2.5)
    finally:
        with virtual_time.goes_on():
            hub.close()
    assert told.empty()
