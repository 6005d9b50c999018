"""Bring a backup back: made whole beside what is there, and only then put in its place."""

import shutil
from pathlib import Path

from plumb.keeping.dump import clear, digest, loading, move_on
from plumb.keeping.file import About, about, unpack
from plumb.keeping.make import elsewhere, started
from plumb.keeping.swap import MAKING, WHOLE, aside, settle
from plumb.keeping.trouble import KeepingTrouble
from plumb.store.schema import steps
from plumb.store.server import Place, pid_of


def is_used(place: Place) -> bool:
    """Whether there is a database in a place already."""
    return place.data.exists()


def restore(place: Place, file: Path, passphrase: str = "") -> tuple[About, Path | None]:
    """Put a backup in a place; what it says of itself, and where what was there before lies now.

    Numbers of jobs and the store's own ids go on well behind those of the backup: what was made after it
    and is lost must not be taken for what is made from now on, by a browser or on paper.  Raises
    :class:`KeepingTrouble` where the backup is damaged, of a newer Plumb, or Plumb runs here: nothing is
    touched then.
    """
    said = about(file)
    if said.step not in steps():
        rule = f"{file} was made by a newer Plumb (step {said.step}). Nothing was changed."
        raise KeepingTrouble(rule)
    if pid_of(place) is not None:
        rule = "Plumb runs here: stop it first (./plumb stop). Nothing was changed."
        raise KeepingTrouble(rule)
    place.home.mkdir(parents=True, exist_ok=True)
    settle(place)
    home = place.home / MAKING
    shutil.rmtree(home, ignore_errors=True)
    try:
        _bring(home, file, passphrase, said)
    except BaseException:
        shutil.rmtree(home, ignore_errors=True)
        raise
    (place.home / WHOLE).touch()
    before = aside(place)
    settle(place)
    return said, before


def _bring(home: Path, file: Path, passphrase: str, said: About) -> None:
    """Make it beside what is there, and see whether it is what was kept."""
    with started(elsewhere(home)) as server:
        clear(server.place)
        with loading(server.place) as sink:
            unpack(file, passphrase, sink)
        if digest(server.place) != said.sha256:
            rule = f"{file} did not come back as it was made. Nothing was changed."
            raise KeepingTrouble(rule)
        move_on(server.place)
