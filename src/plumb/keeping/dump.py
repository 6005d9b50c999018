"""Everything in a server's two databases as SQL, out and in, by MariaDB's own programs.

The text of a dump is the same whenever the tables are the same, row for row: it bears no date, and rows
stand in the order of their keys.  So two servers hold the same when their dumps have one hash.

Source: the manual of ``mariadb-dump``: ``--single-transaction`` reads one state of the tables and locks
nobody out.
"""

import getpass
import hashlib
import os
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from subprocess import PIPE, Popen, run
from typing import IO, Final, cast

from plumb.keeping.trouble import KeepingTrouble
from plumb.store.cluster import Cluster
from plumb.store.server import PRACTICE, SHOP, Place

_PIECE: Final = 1 << 20
_LARGEST: Final = "--max-allowed-packet=1G"
"""One row of a dump is one statement at least: a photo has 15 MB, and twice that as hexadecimal digits."""
_DUMP: Final = (
    "--single-transaction", "--quick", "--order-by-primary", "--hex-blob", "--triggers",
    "--skip-comments", "--skip-dump-date", "--default-character-set=utf8mb4", _LARGEST,
)  # fmt: skip

_UNREAD: Final = "the database could not be read to its end"
_UNTAKEN: Final = "the database did not take the dump"
IDS_ON: Final = 100_000
NUMBERS_ON: Final = 100
"""So far the store's ids and the numbers of jobs move on when a backup is brought back."""

Sink = Callable[[bytes], object]
"""Takes a piece of a dump."""


def _client(program: str, place: Place | Cluster, *options: str) -> list[str]:
    """A program of MariaDB's: as the private server's own admin, over the socket, else with the account given."""
    if isinstance(place, Place):
        way = ["-S", str(place.socket), "-u", getpass.getuser()]
    else:
        host, port = next(place.answering(), place.nodes[0])
        way = ["--protocol=TCP", "-h", host, "-P", str(port), "-u", place.user]
    return [program, "--no-defaults", *way, *options]


def _around(place: Place | Cluster) -> dict[str, str]:
    """The environment of such a program: a password stands in no list of processes."""
    return {**os.environ, **({} if isinstance(place, Place) else {"MYSQL_PWD": place.word})}


@contextmanager
def dumping(place: Place | Cluster) -> Iterator[Iterator[bytes]]:
    """The whole of a running server as SQL, piece by piece.

    The pieces end with :class:`KeepingTrouble` where the database breaks off.
    """
    command = _client("mariadb-dump", place, *_DUMP, "--databases", SHOP, PRACTICE)
    with (
        tempfile.TemporaryFile() as told,
        _running(command, _around(place), stdout=PIPE, stderr=told) as made,
    ):

        def through() -> Iterator[bytes]:
            yield from _pieces(cast("IO[bytes]", made.stdout))
            if made.wait():
                raise _broke(_UNREAD, told)

        yield through()


def digest(place: Place) -> str:
    """The SHA-256 of a running server's dump: the same wherever the tables hold the same."""
    seen = hashlib.sha256()
    with dumping(place) as pieces:
        for piece in pieces:
            seen.update(piece)
    return seen.hexdigest()


@contextmanager
def loading(place: Place) -> Iterator[Sink]:
    """Takes a dump, piece by piece, into a running server; :class:`KeepingTrouble` where it does not fit."""
    command = _client("mariadb", place, "--default-character-set=utf8mb4", _LARGEST)
    with (
        tempfile.TemporaryFile() as told,
        _running(command, _around(place), stdin=PIPE, stderr=told) as taking,
    ):
        into = cast("IO[bytes]", taking.stdin)
        # One that gave up says why on its other line.
        with suppress(BrokenPipeError):
            yield into.write
            into.close()
        if taking.wait():
            raise _broke(_UNTAKEN, told)


def clear(place: Place) -> None:
    """Take both databases away, so that a dump makes them as they were, with their own order of letters."""
    admin(place, "".join(f"DROP DATABASE IF EXISTS `{name}`;" for name in (SHOP, PRACTICE)))


@contextmanager
def _running(
    command: list[str],
    around: dict[str, str],
    *,
    stderr: IO[bytes],
    stdin: int | None = None,
    stdout: int | None = None,
) -> Iterator["Popen[bytes]"]:
    """A program, ended whatever happens in the block."""
    with Popen(command, env=around, stdin=stdin, stdout=stdout, stderr=stderr) as made:
        try:
            yield made
        except BaseException:
            made.kill()
            raise


def _broke(rule: str, told: IO[bytes]) -> KeepingTrouble:
    told.seek(0)
    return KeepingTrouble(f"{rule}: {told.read().decode(errors='replace').strip()[-400:]}")


def counts(place: Place) -> dict[str, int]:
    """How many rows each table of a running server has, by ``database.table``."""
    listing = (
        "SELECT CONCAT(table_schema, '.', table_name) FROM information_schema.tables "  # noqa: S608  own names
        f"WHERE table_schema IN ('{SHOP}', '{PRACTICE}') ORDER BY 1"
    )
    names = _ask(place, listing)
    if not names:
        return {}
    each = " UNION ALL ".join(
        f"SELECT COUNT(*) FROM `{name.replace('.', '`.`')}`"  # noqa: S608  names of tables that are there
        for name in names
    )
    return dict(zip(names, map(int, _ask(place, each)), strict=True))


def step(place: Place | Cluster) -> str:
    """Which step of the migrations a running server's tables are at."""
    found = _ask(place, f"SELECT version_num FROM `{SHOP}`.alembic_version")  # noqa: S608  own name
    return found[0] if found else ""


def move_on(place: Place) -> None:
    """Let ids and job numbers go on well behind those that are there."""
    counting = (
        "SELECT CONCAT('`', table_schema, '`.`', table_name, '`=', auto_increment) "  # noqa: S608  own names
        "FROM information_schema.tables WHERE auto_increment IS NOT NULL AND auto_increment > 1 "
        f"AND table_schema IN ('{SHOP}', '{PRACTICE}')"
    )
    on = [f"UPDATE `{SHOP}`.counter SET value = value + {NUMBERS_ON} WHERE name = 'job';"]  # noqa: S608
    for found in _ask(place, counting):
        name, _, at = found.partition("=")
        on.append(f"ALTER TABLE {name} AUTO_INCREMENT = {int(at) + IDS_ON};")
    admin(place, "\n".join(on))


def admin(place: Place, statements: str) -> None:
    """Run statements as a running server's own admin; :class:`KeepingTrouble` where one is refused."""
    with loading(place) as sink:
        sink(statements.encode())


def _ask(place: Place | Cluster, query: str) -> list[str]:
    done = run(
        _client("mariadb", place, "--batch", "--skip-column-names", "-e", query),
        capture_output=True, text=True, check=False, env=_around(place),
    )  # fmt: skip
    if done.returncode:
        rule = f"the database does not answer: {done.stderr.strip()[-400:]}"
        raise KeepingTrouble(rule)
    return done.stdout.split()


def _pieces(source: IO[bytes]) -> Iterator[bytes]:
    while piece := source.read(_PIECE):
        yield piece
