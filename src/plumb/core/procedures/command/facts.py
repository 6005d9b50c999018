"""Facts of the command."""

from functools import partial
from typing import Final

from plumb.core.compare.seen import of_seen

MAKES: Final = {
    "command_good": "the lamp blinks",
    "command_weak": "the lamp is weak",
    "command_dark": "the lamp stays dark",
    "command_steady": "the lamp stays on",
}

facts = partial(of_seen, "command", "blinks")
"""A fact for each word that was noted."""
