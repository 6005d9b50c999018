"""Column types of the store, and how a column is looked through."""

from typing import Any

from sqlalchemy import Dialect
from sqlalchemy.dialects.mysql import LONGTEXT
from sqlalchemy.types import TypeDecorator

from plumb.jobfile.exact import dumps, loads


class ExactJson(TypeDecorator[Any]):
    """A column of JSON text that keeps the digits of its numbers."""

    impl = LONGTEXT
    cache_ok = True

    def process_bind_param(self, value: Any, dialect: Dialect) -> str | None:  # noqa: ANN401
        """To the database; None stays NULL."""
        del dialect
        return None if value is None else dumps(value)

    def process_result_value(self, value: str | None, dialect: Dialect) -> Any:  # noqa: ANN401
        """From the database."""
        del dialect
        return None if value is None else loads(value)


def anywhere(text: str) -> str:
    """A pattern for LIKE that finds this very text anywhere."""
    escaped = text.replace("\\", "\\\\").replace("%", "\\%").replace("_", "\\_")
    return f"%{escaped}%"
