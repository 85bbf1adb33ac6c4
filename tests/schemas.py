"""Databases as earlier releases wrote them."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import closing, contextmanager
from importlib import resources
from pathlib import Path


@contextmanager
def database_of_schema(path: Path, number: int) -> Iterator[sqlite3.Connection]:
    """A new database file with the migrations up to a number, to be filled with rows of that time."""
    folder = resources.files("winnow.store") / "migrations"
    migrations = sorted((entry for entry in folder.iterdir()), key=lambda entry: entry.name)
    with closing(sqlite3.connect(path)) as connection, connection:
        for entry in migrations[:number]:
            connection.executescript(entry.read_text("utf-8"))
        connection.execute(f"PRAGMA user_version = {number}")
        yield connection
