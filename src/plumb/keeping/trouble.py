"""What goes wrong in safe keeping, told in words."""


class KeepingTrouble(Exception):
    """A backup cannot be made, read or brought back; the text says why, and what is as it was."""
