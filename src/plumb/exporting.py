"""Every job as a file that other programs can read: the way out of Plumb, with everything in it."""

import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Final

from sqlalchemy import Engine

from plumb.service.uses.archive import export_archive
from plumb.store.jobs import all_numbers
from plumb.store.session import transaction

_PLAIN: Final = re.compile(r"[^\w.-]+")


def export(engine: Engine, folder: Path) -> Iterator[Path]:
    """Write each job with its photos and traces into ``folder``, one archive a job, oldest first.

    A file is whole or not there; those of an earlier run are written anew.
    """
    folder.mkdir(parents=True, exist_ok=True)
    with transaction(engine) as connection:
        numbers = all_numbers(connection)
    for place, number in enumerate(numbers, 1):
        # Two numbers may differ in signs alone that no file name takes.
        name = _PLAIN.sub("_", number)
        own = name if name == number else f"{name}-{place}"
        file = folder / f"{own}.plumb.zip"
        draft = folder / f".{own}.making"
        with export_archive(engine, number) as made, draft.open("wb") as out:
            shutil.copyfileobj(made, out)
        draft.replace(file)
        yield file
