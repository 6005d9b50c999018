"""What jobs said on Today, kept with the state that they said it in."""

from collections.abc import Sequence
from typing import cast

from sqlalchemy import Connection, Table, select
from sqlalchemy.dialects.mysql import insert

from plumb.store.tables import SaidRow

SAID = cast("Table", SaidRow.__table__)


def lines_of(connection: Connection, job_ids: Sequence[int]) -> dict[int, tuple[str, str]]:
    """What is kept of these jobs: the state it was said in, and the line as JSON."""
    query = select(SAID.c.job_id, SAID.c.stamp, SAID.c.line).where(SAID.c.job_id.in_(job_ids))
    return {job_id: (stamp, line) for job_id, stamp, line in connection.execute(query)}


def keep(connection: Connection, rows: Sequence[tuple[int, str, str]]) -> None:
    """Keep lines as (job, state, line), in place of what was kept before."""
    values = [{"job_id": n, "stamp": stamp, "line": line} for n, stamp, line in sorted(rows)]
    query = insert(SAID).values(values)
    connection.execute(
        query.on_duplicate_key_update(stamp=query.inserted.stamp, line=query.inserted.line)
    )
