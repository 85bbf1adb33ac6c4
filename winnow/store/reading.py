"""The database opened to be read only, by commands that own no data folder: nothing is locked, made or migrated."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from pathlib import Path

from winnow.store.database import DATABASE, newest_schema


class NothingThereError(RuntimeError):
    """The data folder cannot be read; the message says why."""


@contextmanager
def reading(data: Path) -> Iterator[sqlite3.Connection]:
    """Open the database of a data folder, also while a server runs on it. Raises NothingThereError."""
    path = data / DATABASE
    if not path.is_file():
        raise NothingThereError(f"There is no Winnow in {data} yet: winnow serve makes one.")
    try:
        with closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)) as connection:
            connection.row_factory = sqlite3.Row
            schema = connection.execute("PRAGMA user_version").fetchone()[0]
            if schema != newest_schema():
                older = "an older" if schema < newest_schema() else "a newer"
                raise NothingThereError(f"{path} was written by {older} version of Winnow: start that one.")
            yield connection
    except sqlite3.Error as error:
        raise NothingThereError(f"{path} cannot be read ({error}): see what winnow doctor says.") from error
