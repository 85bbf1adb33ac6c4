"""The database file: connections, migrations, transactions.

Paths are stored as BLOBs, the bytes the file system uses, because names need not be valid UTF-8.
"""

from __future__ import annotations

import os
import re
import sqlite3
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from importlib import resources
from pathlib import Path

DATABASE = "winnow.sqlite"
"""Name of the file in the data folder."""


class DatabaseTooNewError(RuntimeError):
    """The file was written by a later version of Winnow."""


class Database:
    """One SQLite file, one connection a thread, WAL so that readers never wait for the writer."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self._local = threading.local()
        path.parent.mkdir(parents=True, exist_ok=True)
        with self.transaction() as connection:
            _migrate(connection, path)

    def connection(self) -> sqlite3.Connection:
        """This thread's connection, opened at first use."""
        found: sqlite3.Connection | None = getattr(self._local, "connection", None)
        if found is None:
            found = sqlite3.connect(self.path, timeout=30, isolation_level=None)
            found.row_factory = sqlite3.Row
            found.execute("PRAGMA journal_mode = WAL")
            found.execute("PRAGMA foreign_keys = ON")
            # A mark that was acknowledged survives the loss of power, not only of the process.
            found.execute("PRAGMA synchronous = FULL")
            self._local.connection = found
        return found

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """All or nothing; takes the write lock at once so that two writers queue, not collide."""
        connection = self.connection()
        connection.execute("BEGIN IMMEDIATE")
        try:
            yield connection
        except BaseException:
            connection.execute("ROLLBACK")
            raise
        connection.execute("COMMIT")


def _migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Brings the schema to the newest number. `PRAGMA user_version` holds the one applied last."""
    applied = connection.execute("PRAGMA user_version").fetchone()[0]
    migrations = _migrations()
    if applied > len(migrations):
        raise DatabaseTooNewError(
            f"{path} was written by a newer version of Winnow: start that version, "
            "or choose another data folder with --data."
        )
    for number, sql in migrations[applied:]:
        for statement in _statements(sql):
            connection.execute(statement)
        connection.execute(f"PRAGMA user_version = {number}")


def _migrations() -> list[tuple[int, str]]:
    folder = resources.files("winnow.store") / "migrations"
    names = sorted(entry.name for entry in folder.iterdir() if entry.name.endswith(".sql"))
    numbered = [
        (int(re.match(r"\d+", name)[0]), (folder / name).read_text())  # type: ignore[index]
        for name in names
    ]
    if [number for number, _ in numbered] != list(range(1, len(numbered) + 1)):
        raise RuntimeError(f"Migrations are not numbered 1, 2, 3, …: {names}")
    return numbered


def _statements(sql: str) -> Iterator[str]:
    """Single statements: `executescript` would commit the transaction that surrounds it."""
    pending = ""
    for line in sql.splitlines(keepends=True):
        pending += line
        if sqlite3.complete_statement(pending):
            yield pending
            pending = ""


def to_blob(path: str | Path) -> bytes:
    """A path as the database stores it."""
    return os.fsencode(path)


def from_blob(blob: bytes) -> str:
    """A stored path as Python uses it (undecodable bytes as surrogates)."""
    return os.fsdecode(blob)


def display(path: str | Path) -> str:
    """A path for people and for JSON: undecodable bytes become replacement characters."""
    return os.fsencode(path).decode("utf-8", "replace")
