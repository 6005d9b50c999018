"""Fault codes as a controller gives them: their form, and how they are written.

>>> written(" p0304 "), written("SPN 157/18")
('P0304', '157-18')
"""

import re
from typing import Final

_ROAD: Final = re.compile(r"[PBCU][0-3][0-9A-F]{3}(-[0-9A-F]{2})?")
"""A letter for the system, four digits, at times a failure type (SAE J2012)."""
_HEAVY: Final = re.compile(r"(?:SPN\s*)?(\d{1,6})\s*[-/. ]\s*(?:FMI\s*)?(\d{1,2})")
"""A suspect parameter and its failure mode, as tractors and trucks tell them (SAE J1939-73)."""
FORM: Final = "a code is P, B, C or U with four digits, as P0304, or two numbers, as 157-18"


def written(text: str) -> str | None:
    """A code as it is written, in capitals; None for what is none."""
    code = text.strip().upper()
    if _ROAD.fullmatch(code):
        return code
    heavy = _HEAVY.fullmatch(code)
    return f"{int(heavy[1])}-{int(heavy[2])}" if heavy else None
