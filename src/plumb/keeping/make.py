"""Make a backup while people work, look it over by restoring it elsewhere, keep the right ones."""

import shutil
import socket
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

from plumb import __version__
from plumb.keeping import rota
from plumb.keeping.dump import clear, counts, digest, dumping, loading, step
from plumb.keeping.file import (
    FORMAT,
    SUFFIX,
    About,
    making,
    pack,
    put_about,
    put_dump,
    through,
)
from plumb.keeping.trouble import KeepingTrouble
from plumb.store.cluster import Cluster
from plumb.store.server import LEAST_FREE_BYTES, Place, Server, ServerTrouble, pid_of

_NAME: Final = "plumb-%Y%m%dT%H%M%SZ"


def backup(
    place: Place | Cluster, folder: Path, *, passphrase: str = "", check: bool = True,
    at: datetime | None = None,
) -> Path:  # fmt: skip
    """Everything in a place as one file in ``folder``; the file, named by the time (UTC).

    Nobody is stopped meanwhile.  With ``check`` it is restored into a database of its own, and what is
    there must be what was dumped, row for row.  Raises :class:`KeepingTrouble`: no file is left then.
    """
    at = (at or datetime.now(UTC)).astimezone(UTC)
    file = folder / (at.strftime(_NAME) + SUFFIX)
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        _room(folder)
        with running(place), making(file) as draft:
            with tempfile.TemporaryFile(dir=folder) as data, dumping(place) as pieces:
                packed = pack(pieces, passphrase, data)
                put_dump(draft, packed)
            said = About(
                format=FORMAT, made=at.isoformat(), plumb=__version__, step=step(place),
                sha256=packed.sha256, locked=bool(passphrase),
                rows=_proven(draft, passphrase, packed.sha256, place.home) if check else {},
            )  # fmt: skip
            put_about(draft, said)
    except OSError as error:
        rule = f"no backup could be written to {folder} ({error.strerror})"
        raise KeepingTrouble(rule) from error
    return file


def _room(folder: Path) -> None:
    free = shutil.disk_usage(folder).free
    if free < LEAST_FREE_BYTES:
        rule = (
            f"only {free // 2**20} MB free under {folder}; a backup needs "
            f"{LEAST_FREE_BYTES // 2**20} MB at least"
        )
        raise KeepingTrouble(rule)


@contextmanager
def running(place: Place | Cluster) -> Iterator[None]:
    """The place's database, started for the block where nobody has it running; one that others keep runs."""
    if not isinstance(place, Place) or pid_of(place) is not None:
        yield
        return
    if not place.data.exists():
        rule = f"there is no database in {place.home}"
        raise KeepingTrouble(rule)
    with started(place):
        yield


@contextmanager
def started(place: Place) -> Iterator[Server]:
    """A server for the block."""
    server = Server(place)
    try:
        server.start()
        yield server
    except ServerTrouble as error:
        raise KeepingTrouble(str(error)) from error
    finally:
        server.stop()


def elsewhere(home: Path) -> Place:
    """A place of its own, on a port that nobody uses."""
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return Place(home=home, port=int(probe.getsockname()[1]))


def _proven(draft: Path, passphrase: str, sha256: str, home: Path) -> dict[str, int]:
    """Restore it, and see whether what is there is what was dumped; the rows of each table."""
    home.mkdir(parents=True, exist_ok=True)
    with (
        tempfile.TemporaryDirectory(prefix="proof-", dir=home) as folder,
        started(elsewhere(Path(folder))) as server,
    ):
        clear(server.place)
        with loading(server.place) as sink:
            through(draft, passphrase, sink)
        if digest(server.place) != sha256:
            rule = "restored elsewhere it was not what it was made of; it was thrown away"
            raise KeepingTrouble(rule)
        return counts(server.place)


def backups(folder: Path) -> dict[Path, datetime]:
    """The backups in a folder by when they were made, newest first; what else lies there is left alone."""
    found: dict[Path, datetime] = {}
    for file in folder.glob(f"*{SUFFIX}") if folder.is_dir() else ():
        try:
            made = datetime.strptime(file.name.removesuffix(SUFFIX), _NAME)  # noqa: DTZ007  its name says UTC
        except ValueError:
            continue
        found[file] = made.replace(tzinfo=UTC)
    return dict(sorted(found.items(), key=lambda pair: pair[1], reverse=True))


def clear_out(folder: Path) -> list[Path]:
    """Throw away the backups that need not be kept; which they were."""
    there = backups(folder)
    stay = set(rota.kept(there.values()))
    gone = [file for file, made in there.items() if made not in stay]
    for file in gone:
        file.unlink(missing_ok=True)
    return gone
