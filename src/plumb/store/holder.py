"""Which process has a place's files in its hands: asked of the kernel, never of a number in a file.

A number that a process wrote into a file may belong to another one by now.  A lock on a file is let
go by the kernel when its holder ends, however it ends, and the kernel says who holds it.

Source: POSIX.1-2017, ``fcntl``, ``F_GETLK``; the layout is that of 64-bit Linux.
"""

import fcntl
import os
import struct
from pathlib import Path
from typing import Final

_FLOCK: Final = "hhqqi4x"


def holder_of(file: Path) -> int | None:
    """The process that holds a write lock on a file, None when nobody does or there is no file."""
    try:
        handle = os.open(file, os.O_RDWR)
    except OSError:
        return None
    try:
        asked = struct.pack(_FLOCK, fcntl.F_WRLCK, os.SEEK_SET, 0, 0, 0)
        kind, _whence, _start, _length, pid = struct.unpack(
            _FLOCK, fcntl.fcntl(handle, fcntl.F_GETLK, asked)
        )
    finally:
        os.close(handle)
    return pid if kind != fcntl.F_UNLCK and pid > 0 else None


class Claim:
    """A lock of one's own on a file, kept until :meth:`let_go` or the end of the process.

    A process must not open such a file a second time: closing it would let the lock go.
    """

    def __init__(self, file: Path) -> None:
        self._file = file
        self._handle: int | None = None

    def take(self) -> bool:
        """Take it; false when another process has it."""
        self._file.parent.mkdir(parents=True, exist_ok=True)
        handle = os.open(self._file, os.O_RDWR | os.O_CREAT, 0o600)
        try:
            fcntl.lockf(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            os.close(handle)
            return False
        self._handle = handle
        return True

    def let_go(self) -> None:
        """Give it back."""
        if self._handle is not None:
            os.close(self._handle)
            self._handle = None
