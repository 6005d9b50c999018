"""What another application on the same database changes reaches the screens of this one."""

import json
import time

from sqlalchemy import Engine, text
from tests.drivers import Desk, Stopwatch

from plumb.core.measure.decision import Thresholds
from plumb.service.live.hub import Hub, Looker


def test_what_another_machine_changes_is_shown_within_seconds(
    desk: Desk, engine: Engine, thresholds: Thresholds
) -> None:
    """By the versions in the database: nobody tells it.  What is only begun to be looked at is no change."""
    sheet = desk.open_job(4)
    told: list[str] = []
    hub = Hub(engine, thresholds, alone=False)
    hub.open()
    try:
        looker = Looker(job=sheet["job_number"], sheet=sheet["id"], unit=None, put=told.append)
        leave = hub.join(looker)
        time.sleep(2.5)
        assert told == []
        with engine.begin() as connection:
            connection.execute(text("UPDATE sheet SET version = version + 1"))
        deadline = time.monotonic() + 60
        with Stopwatch() as watch:
            while not told and time.monotonic() < deadline:
                time.sleep(0.05)
        assert watch.seconds < 5
        messages = [json.loads(one) for one in told]
        assert messages[0]["type"] == "sheet"
        assert messages[0]["sheet"]["version"] == sheet["version"] + 1
        leave()
        told.clear()
        with engine.begin() as connection:
            connection.execute(text("UPDATE sheet SET version = version + 1"))
        time.sleep(2.5)
        assert told == []
    finally:
        hub.close()
