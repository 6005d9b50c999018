"""What the result of a sheet tells whose injectors are compared by what they gave."""

from typing import Any

from plumb.core.compare.drops.sheet import DropResult


def more(result: DropResult, unit: str) -> dict[str, Any]:  # noqa: ARG001  labels have no unit
    """Who agrees, whether the set is split, and every rule beside the chosen one."""
    return {
        "agreeing": list(result.flow.agreeing),
        "split": result.split,
        "rules": [
            {
                "rule": o.rule,
                "reject": list(o.reject),
                "repeat": list(o.repeat),
                "applies": o.applies,
            }
            for o in result.rules()
        ],
    }
