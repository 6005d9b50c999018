"""Cells that a spreadsheet takes for what they are: text stays text, numbers stay numbers.

A spreadsheet runs a cell that begins with ``=``, ``+``, ``-`` or ``@`` as a formula.  A text that
begins so goes out with an apostrophe before it, which spreadsheets show as plain text, and comes back
in without; so does a text with an apostrophe before one of those, so that nothing is lost.

Source: OWASP, "CSV Injection".

>>> [plain_cell(c) for c in ("=2+2", "-0.5", "dry", "'=x")]
["'=2+2", '-0.5', 'dry', "''=x"]
>>> [meant(c) for c in ("'=2+2", "-0.5", "dry", "''=x")]
['=2+2', '-0.5', 'dry', "'=x"]
"""

import re
from typing import Final

_RUN: Final = re.compile(r"'*[=+\-@\t\r]")
_NUMBER: Final = re.compile(r"[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?")


def plain_cell(text: str) -> str:
    """The cell as it goes out."""
    risky = _RUN.match(text) and not _NUMBER.fullmatch(text)
    return f"'{text}" if risky else text


def meant(cell: str) -> str:
    """What a cell that came in stands for."""
    quoted = cell.startswith("'") and _RUN.match(cell[1:]) and not _NUMBER.fullmatch(cell[1:])
    return cell[1:] if quoted else cell
