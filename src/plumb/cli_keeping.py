"""The command line of safe keeping: backup, restore, export, bring."""

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer
from rich.console import Console

console = Console(highlight=False)
errors = Console(stderr=True, highlight=False, soft_wrap=True)


def register(app: typer.Typer) -> None:
    """Put its commands on the command line."""
    for command in (backup, restore, export, bring):
        app.command()(command)


def backup(
    to: Annotated[Path | None, typer.Option(help="folder; else PLUMB_BACKUP_DIR")] = None,
    *,
    check: Annotated[bool, typer.Option(help="restore it elsewhere, and compare")] = True,
) -> None:
    """Everything in one file, while people work; locked where PLUMB_BACKUP_PASSPHRASE is set."""
    from plumb.api.settings import Settings  # noqa: PLC0415
    from plumb.keeping.file import about  # noqa: PLC0415
    from plumb.keeping.make import backup as make  # noqa: PLC0415
    from plumb.stopping import where_of  # noqa: PLC0415

    settings = Settings()
    passphrase = settings.backup_passphrase.get_secret_value()
    with _safely():
        file = make(
            where_of(settings), to or settings.backup_dir, passphrase=passphrase, check=check
        )
    rows = sum(about(file).rows.values())
    console.print(f"wrote {file}" + (f", looked over: {rows} rows" if check else ""), markup=False)


def restore(
    file: Annotated[Path, typer.Argument(help="a backup")],
    *,
    yes: Annotated[bool, typer.Option("--yes", help="do not ask")] = False,
) -> None:
    """Bring a backup back; what is there now is put aside, not thrown away."""
    from plumb.api.settings import Settings  # noqa: PLC0415
    from plumb.keeping import restore as bring  # noqa: PLC0415
    from plumb.keeping.file import about  # noqa: PLC0415
    from plumb.stopping import place_of  # noqa: PLC0415

    settings = Settings()
    if settings.db_url.get_secret_value():
        errors.print(
            "plumb: a cluster's databases are brought back at one of its servers (docs/operations.md). "
            "Nothing was changed.", markup=False,
        )  # fmt: skip
        raise typer.Exit(2)
    place = place_of(settings)
    with _safely():
        said = about(file)
        if bring.is_used(place) and not yes:
            typer.confirm(
                f"{place.home} holds a shop already. Put it aside, and bring back what was kept "
                f"on {said.made}?",
                abort=True,
            )
        passphrase = settings.backup_passphrase.get_secret_value()
        if said.locked and not passphrase:
            passphrase = typer.prompt("Passphrase", hide_input=True)
        said, before = bring.restore(place, file, passphrase)
    console.print(f"Restored {sum(said.rows.values())} rows of {said.made}.", markup=False)
    if before is not None:
        console.print(f"What was there before lies in {before}.", markup=False)


def export(folder: Annotated[Path, typer.Argument(help="where to")]) -> None:
    """Every job with its photos and traces as an open file."""
    from plumb.api.settings import Settings  # noqa: PLC0415
    from plumb.exporting import export as hand_out  # noqa: PLC0415
    from plumb.keeping.make import running  # noqa: PLC0415
    from plumb.stopping import where_of  # noqa: PLC0415
    from plumb.store.elsewhere import engine_of  # noqa: PLC0415

    where = where_of(Settings())
    with _safely(), running(where):
        written = sum(1 for _ in hand_out(engine_of(where), folder))
    console.print(f"wrote {written} jobs to {folder}", markup=False)


def bring(folder: Annotated[Path, typer.Argument(help="where the files are")]) -> None:
    """Take in every job file and whole job of a folder: all of them, or none."""
    from plumb.api.settings import Settings  # noqa: PLC0415
    from plumb.bringing import PATIENCE_S, bring_all  # noqa: PLC0415
    from plumb.keeping.make import running  # noqa: PLC0415
    from plumb.stopping import where_of  # noqa: PLC0415
    from plumb.store.elsewhere import engine_of  # noqa: PLC0415

    where = where_of(Settings())
    with _safely(), running(where), console.status("") as shown:
        brought = bring_all(
            engine_of(where, patience_s=PATIENCE_S),
            folder,
            lambda n, of: shown.update(f"{n} of {of} jobs"),
        )
    console.print(f"took in {brought} jobs", markup=False)


@contextmanager
def _safely() -> Iterator[None]:
    """What goes wrong in safe keeping is told, and ends with 2."""
    from plumb.keeping.trouble import KeepingTrouble  # noqa: PLC0415

    try:
        yield
    except KeepingTrouble as trouble:
        errors.print(f"plumb: {trouble}", markup=False)
        raise typer.Exit(2) from None
