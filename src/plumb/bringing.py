"""Many jobs at once, from files of a folder: all of them, or none."""

from collections.abc import Callable
from pathlib import Path
from typing import Final
from zipfile import ZipFile

from sqlalchemy import Connection, Engine
from sqlalchemy.exc import IntegrityError

from plumb.core.measure.problems import PlumbError
from plumb.jobfile.file import JobFile
from plumb.jobfile.reading import parse
from plumb.keeping.trouble import KeepingTrouble
from plumb.service.uses.archive import JOB, opened, put_archive
from plumb.service.uses.transfer import free_number, store_job
from plumb.store.journal import watch
from plumb.store.schema import NewerTables, upgrade
from plumb.store.session import StoreBusy, StoreDown, StoreFull, transaction

_KINDS: Final = ("*.plumb.zip", "*.json")


PATIENCE_S: Final = 3600
"""How long one answer of the database may take: what thousands of jobs wrote is undone in one go."""


def files_in(folder: Path) -> list[Path]:
    """The job files and whole jobs in a folder, by name."""
    return sorted({file for kind in _KINDS for file in folder.glob(kind)})


def bring_all(engine: Engine, folder: Path, told: Callable[[int, int], None]) -> int:
    """Take in every job of a folder in one transaction; how many they were.

    ``told`` hears how many are through, of how many.  Raises :class:`KeepingTrouble` with the file and what is
    wrong with it: nothing was taken in then, as when it is stopped half-way.
    """
    try:
        upgrade(engine)
    except NewerTables as error:
        raise KeepingTrouble(str(error)) from error
    watch(engine)
    files = files_in(folder)
    if not files:
        rule = f"there is no job file (*.json) and no whole job (*.plumb.zip) in {folder}"
        raise KeepingTrouble(rule)
    # What does not fit is found before anything is written: writing takes ten times as long.
    for file in files:
        _at(file, None)
    try:
        with transaction(engine) as connection:
            for n, file in enumerate(files, 1):
                _at(file, connection)
                told(n, len(files))
    except (StoreBusy, StoreDown, StoreFull) as error:
        rule = f"the database broke off ({error}). Nothing was taken in."
        raise KeepingTrouble(rule) from error
    return len(files)


def _at(file: Path, connection: Connection | None) -> None:
    """Take a file in, or only look at it."""
    try:
        if file.suffix == ".zip":
            with file.open("rb") as raw, opened(raw) as box:
                _take_whole(connection, box)
        else:
            _take(connection, parse(file.read_bytes()))
    except PlumbError as error:
        rule = f"{file.name}: {error.problems[0].text()} Nothing was taken in."
        raise KeepingTrouble(rule) from error
    except IntegrityError as error:
        rule = f"{file.name}: it is here already, or was brought in just now. Nothing was taken in."
        raise KeepingTrouble(rule) from error
    except OSError as error:
        rule = f"{file} cannot be read ({error.strerror}). Nothing was taken in."
        raise KeepingTrouble(rule) from error


def _take(connection: Connection | None, job: JobFile) -> None:
    if connection is not None:
        store_job(connection, job, free_number(connection, job, take=True))


def _take_whole(connection: Connection | None, box: ZipFile) -> None:
    if connection is None:
        parse(box.read(JOB))
    else:
        put_archive(connection, box, store_it=True)
