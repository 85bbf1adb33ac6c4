"""Backups: the database as it stands while it is used, the settings, and what tells that both are whole.

Made by SQLite's online backup (https://sqlite.org/backup.html) in one step, which in WAL mode lets others go on
writing. The copy is checked (`PRAGMA integrity_check`, `foreign_key_check`) before it is packed, and what was packed
is read again before it gets its name. Pictures are not in it: marks lead back to them by content.
"""

from __future__ import annotations

import hashlib
import json
import logging
import os
import shutil
import sqlite3
import zipfile
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import asdict, dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import IO

from winnow.core.zips import DAMAGED
from winnow.store.database import DATABASE, newest_schema, places
from winnow.store.settings import FILE as SETTINGS

log = logging.getLogger(__name__)

FOLDER = "backups"
"""Of those made by themselves, in the data folder; BEFORE: of what a restore or a newer version replaced."""
MANIFEST = "backup.json"
FORM = 1
BLOCK = 1024 * 1024
PRESSED = 1
"""How hard the packing tries: 9 takes six times as long and gains a tenth."""
DAY = timedelta(hours=24)
ROOM = 3
"""A backup is made by itself where there is room for so many databases."""


class BackupError(RuntimeError):
    """A backup that cannot be made or used; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Backup:
    """What a backup says of itself. made_at: ISO 8601, UTC; schema: number of the database's newest migration;
    sha256, size: of the database in it."""

    form: int
    made_at: str
    schema: int
    shoots: int
    frames: int
    marked: int
    actions: int
    size: int
    sha256: str


def make(data: Path, target: Path) -> Backup:
    """Writes a backup of a data folder, also while a server runs on it. Raises BackupError."""
    source = data / DATABASE
    if not source.is_file():
        raise BackupError(f"There is nothing in {data} to back up.")
    if target.exists():
        raise BackupError(f"{target} is there already: choose another name.")
    copy, part = target.with_name(target.name + ".copy"), target.with_name(target.name + ".part")
    try:
        part.touch()  # before the work: whether it can be written there
        backup = _copied(source, copy)
        with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=PRESSED) as packed:
            packed.writestr(MANIFEST, json.dumps(asdict(backup), indent=1))
            packed.write(copy, DATABASE)
            if (data / SETTINGS).is_file():
                packed.write(data / SETTINGS, SETTINGS)
        with part.open("rb") as written:
            os.fsync(written.fileno())
        with _opened(part) as again:
            _demand_whole(again, backup, part)
        part.rename(target)
        return backup
    except OSError as error:
        raise BackupError(f"{target} cannot be written ({error.strerror}): choose another place.") from error
    finally:
        for left in (copy, part):
            with suppress(OSError):
                left.unlink(missing_ok=True)


def look(file: Path) -> Backup:
    """What a backup says of itself, and whether it is whole. Raises BackupError."""
    with _opened(file) as packed:
        backup = _manifest(packed, file)
        _demand_whole(packed, backup, file)
        return backup


def restore(file: Path, data: Path, now: datetime) -> tuple[Backup, Path | None]:
    """Puts a backup in the place of what a data folder holds, which nobody else may use meanwhile. What was there is
    set aside first, in the folder that is returned (None: there was nothing). Raises BackupError; then all is as it
    was."""
    database, fresh = data / DATABASE, data / (DATABASE + ".restored")
    fresh_settings = (data / SETTINGS).resolve().with_suffix(".restored")
    try:
        data.mkdir(mode=0o700, parents=True, exist_ok=True)
        with _opened(file) as packed:
            backup = _manifest(packed, file)
            if backup.schema > newest_schema():
                raise BackupError(f"{file} was made by a newer version of Winnow: restore it with that one.")
            _demand_whole(packed, backup, file)
            size, free = packed.getinfo(DATABASE).file_size, shutil.disk_usage(data).free
            if size > free:
                raise BackupError(
                    f"{file} takes {size / 1e9:.1f} GB, and {free / 1e9:.1f} GB are free: make room."
                )
            with packed.open(DATABASE) as old, fresh.open("wb") as new:
                shutil.copyfileobj(old, new, BLOCK)
            settings = _read(packed, SETTINGS, file) if SETTINGS in packed.namelist() else None
        _demand_sound(fresh)
        aside = _set_aside(data, now) if database.exists() else None
        if aside is not None:
            _go_on_counting(fresh, aside / DATABASE)
        _let_in_as_before(fresh, aside and aside / DATABASE)
        with fresh.open("rb") as written:
            os.fsync(written.fileno())
        if settings is not None:
            _write_synced(fresh_settings, settings)
        # All is written by now: what is left are two renames, which need no room.
        os.replace(fresh, database)
        if settings is not None:
            os.replace(fresh_settings, (data / SETTINGS).resolve())
        return backup, aside
    except OSError as error:
        raise BackupError(f"The data folder {data} cannot be written ({error.strerror}).") from error
    finally:
        for left in (fresh, Path(f"{fresh}-journal"), fresh_settings):
            left.unlink(missing_ok=True)


def _write_synced(path: Path, content: bytes) -> None:
    with path.open("wb") as file:
        file.write(content)
        file.flush()
        os.fsync(file.fileno())


@dataclass(frozen=True, slots=True)
class Due:
    """Whether a data folder is due: one a day, of which so many are kept."""

    data: Path
    kept: int
    now: datetime


def daily(due: Due) -> Backup | None:
    """Makes a backup if the last one that was made by itself is a day old, and forgets the oldest of them. None where
    none was due or wished for, or where there is too little room. Raises BackupError."""
    data, kept, now = due.data, due.kept, due.now
    last = last_by_itself(data, now)
    if not kept or (last and now - last < DAY):
        return None
    size = (data / DATABASE).stat().st_size
    if shutil.disk_usage(data).free < ROOM * size:
        log.warning("no backup: too little room on the disk of the data folder")
        return None
    target = place(data, now)
    backup = make(data, target)
    others = [path for path in by_itself(data) if path != target]
    for old in others[: max(0, len(others) + 1 - kept)]:
        old.unlink(missing_ok=True)
    return backup


def place(data: Path, now: datetime) -> Path:
    """Where a backup within the data folder goes."""
    (data / FOLDER).mkdir(exist_ok=True)
    return data / FOLDER / f"{now:%Y-%m-%d-%H%M%S}.zip"


def by_itself(data: Path) -> list[Path]:
    """The backups within the data folder, the oldest first."""
    return sorted((data / FOLDER).glob("[0-9]*.zip"))


def last_by_itself(data: Path, now: datetime) -> datetime | None:
    """When the last of them was made. One from far ahead, of a clock that was wrong, tells nothing."""
    made = [datetime.fromtimestamp(path.stat().st_mtime, UTC) for path in by_itself(data)]
    return max((at for at in made if at < now + DAY), default=None)


def _copied(source: Path, copy: Path) -> Backup:
    copy.unlink(missing_ok=True)
    try:
        with (
            closing(sqlite3.connect(f"{source.as_uri()}?mode=ro", uri=True)) as live,
            closing(sqlite3.connect(copy)) as mine,
        ):
            live.backup(mine)
            mine.execute("PRAGMA journal_mode = DELETE")
            # A frame that was marked and is not any more has a row of marks too.
            marked_ones = "mark WHERE decision <> 'undecided' OR rating > 0 OR label IS NOT NULL"
            shoots, frames, marked, actions = (
                int(mine.execute(f"SELECT count(*) FROM {table}").fetchone()[0])
                for table in ("shoot", "frame", marked_ones, "batch")
            )
            schema = mine.execute("PRAGMA user_version").fetchone()[0]
    except sqlite3.Error as error:
        if getattr(error, "sqlite_errorcode", 0) & 0xFF == sqlite3.SQLITE_FULL:
            raise BackupError(f"There is no room at {copy.parent}: choose another place.") from error
        raise BackupError(f"The database cannot be copied ({error}): see what winnow doctor says.") from error
    _demand_sound(copy)
    now = datetime.now(UTC).isoformat(timespec="seconds")
    with copy.open("rb") as file:
        digest = hashlib.file_digest(file, "sha256").hexdigest()
    size = copy.stat().st_size
    return Backup(FORM, now, schema, shoots, frames, marked, actions, size, digest)


def _demand_sound(file: Path) -> None:
    try:
        with closing(sqlite3.connect(file)) as connection:
            problems = faults(connection)
    except sqlite3.Error as error:
        problems = [str(error)]
    if problems:
        raise BackupError(f"The database is damaged ({problems[0]}): see what winnow doctor says.")


def faults(connection: sqlite3.Connection) -> list[str]:
    """What SQLite finds wrong with a database; nothing if it is sound."""
    found = [str(row[0]) for row in connection.execute("PRAGMA integrity_check") if row[0] != "ok"]
    found += [
        f"a row of {row[0]} points at a {row[2]} that is not there"
        for row in connection.execute("PRAGMA foreign_key_check")
    ]
    return found


MOST_TEXT_BYTES = 1024 * 1024
"""Of the settings and the head of a backup."""


@contextmanager
def _opened(file: Path) -> Iterator[zipfile.ZipFile]:
    try:
        packed = zipfile.ZipFile(file)
    except FileNotFoundError as error:
        raise BackupError(f"{file} is not there.") from error
    except DAMAGED as error:
        raise BackupError(f"{file} is no backup, or damaged ({error}).") from error
    with packed:
        yield packed


def _read(packed: zipfile.ZipFile, name: str, file: Path) -> bytes:
    try:
        with packed.open(name) as member:
            content = member.read(MOST_TEXT_BYTES + 1)
        if len(content) > MOST_TEXT_BYTES:
            raise BackupError(f"{file} is no backup that Winnow made: its {name} is too large.")
        return content
    except DAMAGED as error:
        raise BackupError(f"{file} is damaged: take an older backup.") from error


def _manifest(packed: zipfile.ZipFile, file: Path) -> Backup:
    if MANIFEST not in packed.namelist():
        raise BackupError(f"{file} is no backup of Winnow.")
    try:
        values = json.loads(_read(packed, MANIFEST, file))
        if values["form"] != FORM:
            raise BackupError(f"{file} was made by a newer version of Winnow: restore it with that one.")
        return Backup(**values)
    except (KeyError, TypeError, ValueError) as error:
        raise BackupError(f"{file} is no backup of Winnow.") from error


def _demand_whole(packed: zipfile.ZipFile, backup: Backup, file: Path) -> None:
    try:
        with packed.open(DATABASE) as database:
            digest = _digest(database)
    except DAMAGED as error:
        raise BackupError(f"{file} is damaged: take an older backup.") from error
    if digest != backup.sha256:
        raise BackupError(f"{file} is damaged: take an older backup.")


def _digest(file: IO[bytes]) -> str:
    digest = hashlib.sha256()
    while block := file.read(BLOCK):
        digest.update(block)
    return digest.hexdigest()


def _set_aside(data: Path, now: datetime) -> Path:
    """Copies what is there, and leaves the database without a log of its own: one that stayed would be taken for the
    log of what comes in its place."""
    aside = data / FOLDER / f"before-{now:%Y-%m-%d-%H%M%S}"
    aside.mkdir(parents=True)
    database = data / DATABASE
    logs = [Path(f"{database}{ending}") for ending in ("-wal", "-shm")]
    try:
        with closing(sqlite3.connect(database)) as old, closing(sqlite3.connect(aside / DATABASE)) as copy:
            old.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")
            old.execute("PRAGMA wal_checkpoint(TRUNCATE)")
    except sqlite3.Error:
        for file in (database, *logs):  # too damaged for SQLite: as it lies there
            if file.exists():
                shutil.copy2(file, aside / file.name)
    if (data / SETTINGS).is_file():
        shutil.copy2(data / SETTINGS, aside / SETTINGS)
    for file in logs:
        file.unlink(missing_ok=True)
    return aside


def _go_on_counting(restored: Path, before: Path) -> None:
    """Pages that are open hold frames of later revisions than the backup knows: all frames count as changed since."""
    try:
        with closing(sqlite3.connect(before)) as connection:
            known = dict(connection.execute("SELECT id, revision FROM shoot").fetchall())
    except sqlite3.Error:
        return  # nothing is known of what pages hold; they are to be opened anew
    with closing(sqlite3.connect(restored)) as connection, connection:
        for shoot_id, revision in connection.execute("SELECT id, revision FROM shoot").fetchall():
            beyond = max(revision, known.get(shoot_id, 0)) + 1
            connection.execute("UPDATE shoot SET revision = ? WHERE id = ?", (beyond, shoot_id))
            connection.execute("UPDATE frame SET revision = ? WHERE shoot_id = ?", (beyond, shoot_id))


def _let_in_as_before(restored: Path, before: Path | None) -> None:
    """Who is let in is no part of the work that comes back: what was withdrawn since stays withdrawn. Where nobody
    can tell what was, all other machines are to be let in anew."""
    columns: list[str] = []
    rows: list[tuple[object, ...]] = []
    with suppress(sqlite3.Error), closing(sqlite3.connect(before or ":memory:")) as connection:
        columns, rows = _devices(connection), connection.execute("SELECT * FROM device").fetchall()
    with closing(sqlite3.connect(restored)) as connection, connection:
        known = _devices(connection)
        if known:
            connection.execute("DELETE FROM device")
        if rows and known == columns:
            connection.executemany(f"INSERT INTO device VALUES ({places(columns)})", rows)


def _devices(connection: sqlite3.Connection) -> list[str]:
    """What is kept of a machine that was let in; nothing in a database from before there were any."""
    return [row[1] for row in connection.execute("PRAGMA table_info(device)")]


def before_change(database: Path, schema: int) -> None:
    """Backs a database up that a newer version is about to change. schema: its number now. Raises BackupError."""
    target = database.parent / FOLDER / f"before-{schema + 1:04}.zip"
    target.parent.mkdir(exist_ok=True)
    if not target.exists():
        make(database.parent, target)
