"""The table of practice: which engine was worked by whom, and how it went.  Its jobs are jobs like any other."""

from datetime import datetime
from typing import Any

from sqlalchemy import CheckConstraint, String
from sqlalchemy.dialects.mysql import DATETIME, DOUBLE
from sqlalchemy.orm import Mapped, mapped_column

from plumb.store.columns import ExactJson
from plumb.store.tables import Base


class PracticeRunRow(Base):
    """One exercise worked once, on a job of its own; ``points`` once it was handed in."""

    __tablename__ = "practice_run"
    __table_args__ = (
        CheckConstraint("(points IS NULL) = (ended_at IS NULL)", name="ended"),
        CheckConstraint("points IS NULL OR points BETWEEN 0 AND 100", name="points"),
    )
    job_number: Mapped[str] = mapped_column(String(24), primary_key=True)
    request_id: Mapped[str] = mapped_column(String(36), unique=True)
    exercise: Mapped[str] = mapped_column(String(24))
    by_whom: Mapped[str] = mapped_column(String(40), index=True)
    exam: Mapped[bool]
    begun_at: Mapped[datetime] = mapped_column(DATETIME(fsp=6))
    ended_at: Mapped[datetime | None] = mapped_column(DATETIME(fsp=6))
    points: Mapped[float | None] = mapped_column(DOUBLE)
    body: Mapped[Any] = mapped_column(ExactJson)
