"""The database file: connections, migrations, transactions.

Paths are stored as BLOBs, the bytes the file system uses, because names need not be valid UTF-8.
"""

from __future__ import annotations

import errno
import os
import re
import shutil
import sqlite3
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager, suppress
from functools import cache
from importlib import resources
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from winnow.store import undo_bytes

if TYPE_CHECKING:
    from winnow.store.settings import SettingsFile

T = TypeVar("T")

DATABASE = "winnow.sqlite"
"""Name of the file in the data folder."""


SPARE = "spare-room"
SPARE_BYTES = 8 * 1024 * 1024
SPARE_LEAST_BYTES = 256 * 1024
IDS_A_STATEMENT = 500
NO_ROOM_BYTES = 1024 * 1024
"""With less room than this, a failure to write is put down to it."""


class DatabaseTooNewError(RuntimeError):
    """The file was written by a later version of Winnow."""


class NoRoomError(OSError):
    """Nothing was stored because the disk of the data folder is full; the message is meant for a person."""

    def __init__(self, folder: Path) -> None:
        super().__init__(
            errno.ENOSPC,
            f"There is no room on the disk of the data folder ({display(folder)}): not saved. "
            "Make room, then do it again.",
        )

        self.folder = folder

    def __str__(self) -> str:
        return str(self.strerror)

    def __reduce__(self) -> tuple[type[NoRoomError], tuple[Path]]:
        return NoRoomError, (self.folder,)  # it comes back from other processes


class Database:
    """One SQLite file, one connection a thread, WAL so that readers never wait for the writer. `settings`: the file
    of settings beside it."""

    def __init__(self, path: Path) -> None:
        # Worker processes import this room and have no database: they need not know what settings are made of.
        from winnow.store.settings import SettingsFile, kept_before

        self.path = path
        self.settings: SettingsFile = SettingsFile(path.parent)
        self._local = threading.local()
        path.parent.mkdir(parents=True, exist_ok=True)
        _back_up(self.connection(), path)
        with self.transaction() as connection:
            _migrate(connection, path)
            kept = kept_before(connection)
        self._keep_spare()
        with suppress(OSError):  # without the file, everything is as it comes
            self.settings.begin(kept)

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
        """All or nothing; takes the write lock at once so that two writers queue, not collide. Raises NoRoomError
        where the disk of the data folder is full: then nothing was stored."""
        connection = self.connection()
        try:
            connection.execute("BEGIN IMMEDIATE")
            yield connection
            connection.execute("COMMIT")
        except BaseException as error:
            # A full disk ends some transactions by itself, and leaves others open.
            if connection.in_transaction:
                connection.execute("ROLLBACK")
            if isinstance(error, sqlite3.OperationalError) and self.is_full(error):
                raise NoRoomError(self.path.parent) from error
            raise

    def is_full(self, error: sqlite3.Error) -> bool:
        """Whether an error came of a full disk. SQLite calls some of these failures 'disk I/O error'."""
        code = getattr(error, "sqlite_errorcode", 0) & 0xFF
        if code == sqlite3.SQLITE_FULL:
            return True
        suspects = (sqlite3.SQLITE_IOERR, sqlite3.SQLITE_CANTOPEN)
        return code in suspects and shutil.disk_usage(self.path.parent).free < NO_ROOM_BYTES

    @contextmanager
    def spare_room(self) -> Iterator[None]:
        """Room for the little that must be written even on a full disk: that a plan stops, or is taken back. A file
        that is kept for it gives way, and is made again when there is room."""
        spare = self.path.with_name(SPARE)
        if shutil.disk_usage(self.path.parent).free < SPARE_BYTES:
            spare.unlink(missing_ok=True)
        try:
            yield
        finally:
            self._keep_spare()

    def _keep_spare(self) -> None:
        """As large as it should be, or half of what is free: others need room too."""
        spare = self.path.with_name(SPARE)
        there = spare.stat().st_size if spare.exists() else 0
        size = min(SPARE_BYTES, there + shutil.disk_usage(self.path.parent).free // 2)
        if size <= there or size < SPARE_LEAST_BYTES:
            return
        try:
            with spare.open("wb") as file:
                file.write(bytes(size))
        except OSError:
            spare.unlink(missing_ok=True)


def _back_up(connection: sqlite3.Connection, path: Path) -> None:
    """What a migration changes can be brought back. Raises BackupError."""
    schema = connection.execute("PRAGMA user_version").fetchone()[0]
    if path.name == DATABASE and 0 < schema < newest_schema():
        from winnow.store import backups  # it knows databases

        backups.before_change(path, schema)


def _migrate(connection: sqlite3.Connection, path: Path) -> None:
    """Brings the schema to the newest number. `PRAGMA user_version` holds the one applied last."""
    applied = connection.execute("PRAGMA user_version").fetchone()[0]
    migrations = _migrations()
    undo_bytes.add_functions(connection)
    if applied > len(migrations):
        raise DatabaseTooNewError(
            f"{path} was written by a newer version of Winnow: start that version, "
            "or choose another data folder with --data."
        )
    for number, sql in migrations[applied:]:
        for statement in _statements(sql):
            connection.execute(statement)
        connection.execute(f"PRAGMA user_version = {number}")


def newest_schema() -> int:
    """The number of the newest migration."""
    return _migrations()[-1][0]


@cache
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


def move_below(
    connection: sqlite3.Connection, table: str, column: str, which: str, old: str, new: str, *values: object
) -> None:
    """Paths below one folder are below another from now on. which: condition for the rows, with `values`."""
    before, after = to_blob(old) + b"/", to_blob(new) + b"/"
    connection.execute(
        f"""UPDATE {table} SET {column} = CAST(? || substr({column}, ?) AS BLOB)
            WHERE substr({column}, 1, ?) = ? AND {which}""",
        (after, len(before) + 1, len(before), before, *values),
    )


def in_chunks(ids: Sequence[T]) -> Iterator[Sequence[T]]:
    """Ids, or paths, in portions that one statement may hold."""
    for start in range(0, len(ids), IDS_A_STATEMENT):
        yield ids[start : start + IDS_A_STATEMENT]


def places(values: Sequence[object]) -> str:
    """A placeholder for each value."""
    return ", ".join("?" * len(values))


def to_blob(path: str | Path) -> bytes:
    """A path as the database stores it."""
    return os.fsencode(path)


def from_blob(blob: bytes) -> str:
    """A stored path as Python uses it (undecodable bytes as surrogates)."""
    return os.fsdecode(blob)


def display(path: str | Path) -> str:
    """A path for people and for JSON: undecodable bytes become replacement characters."""
    return os.fsencode(path).decode("utf-8", "replace")
