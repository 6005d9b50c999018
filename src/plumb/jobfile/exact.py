"""JSON whose numbers keep every digit that was typed: ``50.50`` stays ``50.50``.

>>> dumps(loads('{"first": 50.50}'))
'{"first": 50.50}'
"""

from typing import Any

import simplejson
from pydantic_core import to_json


def loads(text: str | bytes) -> Any:  # noqa: ANN401  JSON is any shape until it is validated
    """Parse JSON with every number as an exact decimal; NaN and Infinity are refused."""
    return simplejson.loads(text, use_decimal=True, allow_nan=False)


def dumps_figures(value: Any) -> str:  # noqa: ANN401
    """Write JSON in which no number was typed by a person: on one line, five times as fast."""
    return to_json(value, inf_nan_mode="null").decode()


def dumps(value: Any, *, indent: int | None = None) -> str:  # noqa: ANN401
    """Write JSON; decimals with the digits they have."""
    return simplejson.dumps(value, use_decimal=True, ensure_ascii=False, indent=indent)
