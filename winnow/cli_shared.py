"""What the commands have in common."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, NoReturn

import typer

if TYPE_CHECKING:
    from winnow.store.database import Database

Data = Annotated[Path | None, typer.Option(help="Folder for marks, previews and plans.", show_default=False)]


def data_folder(chosen: Path | None) -> Path:
    """Where Winnow keeps its own files: the option, else where the system wants them."""
    from winnow.store.data_folder import default_folder

    return chosen.resolve() if chosen else default_folder()


@contextmanager
def held(data: Path) -> Iterator[None]:
    """A data folder that nobody else uses meanwhile. Exits with 2 where somebody does."""
    from winnow.store.data_folder import DataFolderError, alone

    try:
        with alone(data):
            yield
    except DataFolderError as error:
        refuse(str(error))


@contextmanager
def held_database(data: Path | None) -> Iterator[Database]:
    """The database of a data folder that nobody else uses meanwhile."""
    from winnow.store.backups import BackupError
    from winnow.store.database import DATABASE, Database, DatabaseTooNewError

    folder = data_folder(data)
    with held(folder):
        try:
            database = Database(folder / DATABASE)
        except (DatabaseTooNewError, BackupError) as error:
            refuse(str(error))
        yield database


def refuse(message: str) -> NoReturn:
    """Says what is wrong with how a command was used, and ends with 2."""
    typer.echo(message, err=True)
    raise typer.Exit(2)
