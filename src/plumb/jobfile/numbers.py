"""JSON numbers as they were typed: exact decimals in, the same digits out."""

from decimal import Decimal
from typing import Annotated, Any

from pydantic import BeforeValidator, PlainSerializer, WithJsonSchema

from plumb.core.measure.quantities import beyond_any_figure


def _exact(value: Any) -> Any:  # noqa: ANN401  whatever the file holds
    """Only numbers: a text that looks like one is a slip, and true is not 1."""
    if isinstance(value, bool) or not isinstance(value, int | float | Decimal):
        message = "a number without quotes is needed"
        raise ValueError(message)  # noqa: TRY004  Pydantic collects ValueError
    number = value if isinstance(value, Decimal) else Decimal(repr(value))
    rule = beyond_any_figure(number) if number.is_finite() else "a finite number is needed"
    if rule:
        raise ValueError(rule)
    return number


Number = Annotated[
    Decimal,
    BeforeValidator(_exact),
    PlainSerializer(lambda d: d, return_type=Decimal),
    WithJsonSchema({"type": "number"}),
]
"""A JSON number, every digit kept."""
