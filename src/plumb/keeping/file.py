"""The file that a backup is: a tar with what is said of it, and the dump, packed and perhaps locked.

``plumb.sql.gz`` is the dump; ``about.json``, the last, says what is in it, and its hash.  With a
passphrase that is ``plumb.sql.gz.age`` instead, locked with a key of its own that ``key.age`` holds, locked with
the passphrase.  Any tar, gzip and age can open it without Plumb.

Source: age-encryption.org/v1 (the format ``age``); RFC 1952 (gzip); POSIX.1-2017 ``pax`` (ustar).
"""

import hashlib
import io
import json
import os
import tarfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import IO, Final

import pyrage
from pydantic import BaseModel, ConfigDict, ValidationError

from plumb.keeping.dump import Sink
from plumb.keeping.trouble import KeepingTrouble

SUFFIX: Final = ".plumb-backup"
FORMAT: Final = 1
_ABOUT: Final = "about.json"
_KEY: Final = "key.age"
_OPEN: Final = "plumb.sql.gz"
_LOCKED: Final = "plumb.sql.gz.age"
_MOST_ABOUT: Final = 1 << 20
_LEVEL: Final = 6
_GZIP: Final = 31
_PIECE: Final = 1 << 20


class About(BaseModel):
    """What a backup says of itself.

    ``made`` is when, with its offset; ``plumb`` the version that made it and ``step`` its tables';
    ``sha256`` is of the dump as plain SQL; ``rows`` by table.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    format: int
    made: str
    plumb: str
    step: str
    sha256: str
    locked: bool
    rows: dict[str, int]


class _Packing:
    """A dump as a gzip stream that is read, and the hash of what went in."""

    def __init__(self, pieces: Iterator[bytes]) -> None:
        self._pieces = pieces
        self._packer = zlib.compressobj(_LEVEL, wbits=_GZIP)
        self._ready = b""
        self._ended = False
        self.seen = hashlib.sha256()
        self.trouble: BaseException | None = None

    def read(self, most: int = -1) -> bytes:
        """The next bytes, none at the end."""
        while not self._ended and (most < 0 or len(self._ready) < most):
            try:
                self._take(next(self._pieces, b""))
            except BaseException as trouble:
                # Who locks it hands on errors of its own.
                self.trouble = trouble
                raise
        most = len(self._ready) if most < 0 else most
        made, self._ready = self._ready[:most], self._ready[most:]
        return made

    def _take(self, piece: bytes) -> None:
        self.seen.update(piece)
        self._ready += self._packer.compress(piece) if piece else self._packer.flush()
        self._ended = not piece


class _Unpacking:
    """A gzip stream that is written, handed on as the dump that it holds, and that one's hash."""

    def __init__(self, sink: Sink) -> None:
        self._sink = sink
        self._unpacker = zlib.decompressobj(wbits=_GZIP)
        self.seen = hashlib.sha256()
        self.trouble: BaseException | None = None

    def write(self, piece: bytes) -> int:
        """Take bytes; what they unfold to goes on in small pieces, however small they were packed."""
        try:
            left = bytes(piece)
            while left and not self._unpacker.eof:
                plain = self._unpacker.decompress(left, _PIECE)
                left = self._unpacker.unconsumed_tail
                self.seen.update(plain)
                self._sink(plain)
        except BaseException as trouble:
            self.trouble = trouble
            raise
        return len(piece)

    def flush(self) -> None:
        """Nothing waits here."""


@dataclass(frozen=True, slots=True)
class Packed:
    """The dump as a member: the file that holds it, the hash of the SQL, and its key, empty where it is open."""

    data: IO[bytes]
    sha256: str
    key: bytes


def pack(pieces: Iterator[bytes], passphrase: str, data: IO[bytes]) -> Packed:
    """Pack a dump into ``data``, and lock it where there is a passphrase."""
    packing = _Packing(pieces)
    key = b""
    if passphrase:
        own = pyrage.x25519.Identity.generate()
        key = pyrage.passphrase.encrypt(str(own).encode(), passphrase)
        try:
            pyrage.encrypt_io(packing, data, [own.to_public()])
        except Exception:
            if packing.trouble is not None:
                raise packing.trouble from None
            raise
    else:
        while piece := packing.read(_PIECE):
            data.write(piece)
    return Packed(data, packing.seen.hexdigest(), key)


@contextmanager
def making(file: Path) -> Iterator[Path]:
    """A backup's file while it is made: whole in its place when the block ends, or not at all."""
    draft = file.with_name(f".{file.name}.making")
    try:
        draft.touch(mode=0o600)
        yield draft
        draft.replace(file)
        _kept(file.parent)
    finally:
        draft.unlink(missing_ok=True)


def _kept(folder: Path) -> None:
    """A power cut does not take back what stands in a folder."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def put_dump(draft: Path, packed: Packed) -> None:
    """The dump, and its key where it is locked."""
    with draft.open("wb") as out, tarfile.open(fileobj=out, mode="w") as tar:
        if packed.key:
            _add(tar, _KEY, packed.key)
        size = packed.data.seek(0, os.SEEK_END)
        packed.data.seek(0)
        tar.addfile(_head(_LOCKED if packed.key else _OPEN, size), packed.data)


def put_about(draft: Path, said: About) -> None:
    """What is said of it: the last, for then it is known."""
    with draft.open("r+b") as out:
        with tarfile.open(fileobj=out, mode="a") as tar:
            _add(tar, _ABOUT, said.model_dump_json(indent=1).encode())
        out.flush()
        os.fsync(out.fileno())


def _head(name: str, size: int) -> tarfile.TarInfo:
    head = tarfile.TarInfo(name)
    head.size, head.mode = size, 0o600
    return head


def _add(tar: tarfile.TarFile, name: str, data: bytes) -> None:
    tar.addfile(_head(name, len(data)), io.BytesIO(data))


def about(file: Path) -> About:
    """What a backup says of itself; :class:`KeepingTrouble` where it is none, or of a newer Plumb."""
    with _opened(file) as tar:
        return _about(file, tar)


def _about(file: Path, tar: tarfile.TarFile) -> About:
    text = _member(file, tar, _ABOUT).read(_MOST_ABOUT)
    try:
        said = json.loads(text)
        if isinstance(said, dict) and said.get("format") not in (None, FORMAT):
            rule = f"{file} was made by a newer Plumb. Nothing was changed."
            raise KeepingTrouble(rule)
        return About.model_validate(said)
    except (ValueError, ValidationError) as error:
        raise _damaged(file, "it does not say what is in it") from error


def unpack(file: Path, passphrase: str, sink: Sink) -> About:
    """Hand a backup's dump to ``sink``, piece by piece; what it says of itself.

    Raises :class:`KeepingTrouble` where it is damaged, or the passphrase is not its own.  Only once all
    of it went through is it known to be whole, so ``sink`` must not be what people work on.
    """
    said = about(file)
    if through(file, passphrase, sink) != said.sha256:
        raise _damaged(file, "it was changed, or ends too early")
    return said


def through(file: Path, passphrase: str, sink: Sink) -> str:
    """Hand the dump that is in a file to ``sink``; its SHA-256."""
    with _opened(file) as tar:
        out = _Unpacking(sink)
        try:
            if _LOCKED in tar.getnames():
                own = _key(file, tar, passphrase)
                pyrage.decrypt_io(_member(file, tar, _LOCKED), out, [own])
            else:
                source = _member(file, tar, _OPEN)
                while piece := source.read(_PIECE):
                    out.write(piece)
        except (pyrage.DecryptError, zlib.error, tarfile.TarError, OSError) as error:
            if out.trouble is not None and not isinstance(out.trouble, zlib.error):
                raise out.trouble from None
            raise _damaged(file, "it was changed, or ends too early") from error
    return out.seen.hexdigest()


def _key(file: Path, tar: tarfile.TarFile, passphrase: str) -> pyrage.x25519.Identity:
    if not passphrase:
        rule = (
            f"{file} is locked: give its passphrase (PLUMB_BACKUP_PASSPHRASE). Nothing was changed."
        )
        raise KeepingTrouble(rule)
    locked = _member(file, tar, _KEY).read(_MOST_ABOUT)
    try:
        own = pyrage.passphrase.decrypt(locked, passphrase)
        return pyrage.x25519.Identity.from_str(own.decode())
    except (pyrage.DecryptError, pyrage.IdentityError, UnicodeDecodeError) as error:
        rule = f"{file} does not open with this passphrase. Nothing was changed."
        raise KeepingTrouble(rule) from error


@contextmanager
def _opened(file: Path) -> Iterator[tarfile.TarFile]:
    try:
        with file.open("rb") as source, tarfile.open(fileobj=source, mode="r:") as tar:
            yield tar
    except tarfile.TarError as error:
        raise _damaged(file, "it was changed, or ends too early") from error
    except OSError as error:
        rule = f"{file} cannot be read ({error.strerror}). Nothing was changed."
        raise KeepingTrouble(rule) from error


def _member(file: Path, tar: tarfile.TarFile, name: str) -> IO[bytes]:
    try:
        found = tar.extractfile(name)
    except KeyError:
        found = None
    if found is None:
        raise _damaged(file, f"there is no {name} in it")
    return found


def _damaged(file: Path, why: str) -> KeepingTrouble:
    return KeepingTrouble(f"{file} is no whole backup of Plumb's: {why}. Nothing was changed.")
