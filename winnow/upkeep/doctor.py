"""Looks whether a data folder is sound, says what is not and what to do, mends what can be mended without loss."""

from __future__ import annotations

import os
import shutil
import sqlite3
import stat
import sys
from collections.abc import Callable, Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from winnow.api.models.base import moment
from winnow.pipeline import shipped
from winnow.pipeline.cache import Cache, Kind
from winnow.store import backups, data_folder, plans, search
from winnow.store.database import DATABASE, display, from_blob, newest_schema
from winnow.store.plans import STUCK, UNFINISHED
from winnow.store.settings import FILE, SettingsFile

LATE = timedelta(days=7)
LOW_BYTES = 2 * 10**9
"""With less free room than this, previews and backups soon fail."""
PART = ".winnow-*.part"
"""What a plan writes before a file gets its name."""


@dataclass(frozen=True, slots=True)
class Finding:
    """what: what is wrong; advice: what to do. mend: does it, without losing anything; None where a person must."""

    what: str
    advice: str
    mend: Callable[[], None] | None = None


def examine(data: Path, *, in_use: bool) -> Iterator[Finding]:
    """Everything that is not as it should be, one after another: some of it takes a while. in_use: a server runs on
    the data folder, so that what is half done may be under way."""
    yield from _program()
    if not data.is_dir():
        yield Finding(f"There is no data folder {display(data)}.", "winnow serve makes one.")
        return
    yield from _folder(data)
    if not in_use:
        yield from _half_written(data)
    yield from _database(data, in_use=in_use)


def _program() -> Iterator[Finding]:
    for name in shipped.damaged():
        yield Finding(f"A file of the program is damaged: {name}.", "Install Winnow again.")


def _folder(data: Path) -> Iterator[Finding]:
    free = shutil.disk_usage(data).free
    if free < LOW_BYTES:
        yield Finding(
            f"Only {free / 1e9:.1f} GB are free on the disk of the data folder.",
            "Make room, or let previews have less: cache_gb in the settings.",
        )
    settings = SettingsFile(data)
    settings.now()
    if settings.problem:
        yield Finding(settings.problem, f"Winnow does not start before {FILE} is mended.")
    secret = data / data_folder.SECRET
    if sys.platform != "win32" and secret.exists() and stat.S_IMODE(secret.stat().st_mode) & 0o077:
        yield Finding(
            "Other accounts of this machine can read the secret that lets into Winnow.",
            "--mend takes that right away.",
            lambda: secret.chmod(0o600),
        )


def _half_written(data: Path) -> Iterator[Finding]:
    left = [*data.glob("*.restored"), *(data / backups.FOLDER).glob("*.part")]
    left += [*(data / backups.FOLDER).glob("*.copy"), *(data / "cache").glob("*/??/*.part")]
    if left:
        yield Finding(
            f"{len(left)} files were left half written in the data folder.",
            "--mend removes them; nothing needs them.",
            lambda: _remove(left),
        )


def _database(data: Path, *, in_use: bool) -> Iterator[Finding]:
    path = data / DATABASE
    if not path.is_file():
        yield Finding("There is no database.", "winnow serve makes one, winnow restore brings one back.")
        return
    try:
        with closing(sqlite3.connect(f"{path.as_uri()}?mode=ro", uri=True)) as connection:
            connection.row_factory = sqlite3.Row
            faults = backups.faults(connection)
            if faults:
                yield _damage(path, faults)
                return
            schema = connection.execute("PRAGMA user_version").fetchone()[0]
            if schema > newest_schema():
                yield Finding(
                    "The database was written by a newer version of Winnow.", "Start that version instead."
                )
            if schema == newest_schema():
                yield from _backups(connection, data)
                yield from _shoots(connection)
                if not in_use:
                    yield from _plans(connection)
                    yield from _pictures(connection, data)
                    yield from _search(path)
    except sqlite3.Error as error:
        yield _damage(path, [str(error)])


def _damage(path: Path, faults: list[str]) -> Finding:
    more = f" and {len(faults) - 1} faults more" if len(faults) > 1 else ""
    if all("index" in fault for fault in faults):
        return Finding(
            f"An index of the database is damaged: {faults[0]}{more}.",
            "No marks are lost. --mend makes the indexes anew.",
            lambda: _reindex(path),
        )
    return Finding(
        f"The database is damaged: {faults[0]}{more}.",
        "End Winnow, keep a copy of the data folder, and bring the newest backup back with winnow restore. "
        "A disk that damages files may damage more: look at it.",
    )


def _backups(connection: sqlite3.Connection, data: Path) -> Iterator[Finding]:
    first = connection.execute("SELECT min(at) FROM batch").fetchone()[0]
    last = backups.last_by_itself(data, datetime.now(UTC))
    since = last or (first and moment(first))
    if since and SettingsFile(data).now().backups_kept and datetime.now(UTC) - since > LATE:
        yield Finding(
            f"The last backup is of {since.astimezone():%Y-%m-%d}."
            if last
            else "No backup was made by itself yet.",
            "Winnow makes one a day while it runs and there is room; winnow backup makes one at once.",
        )


def _shoots(connection: sqlite3.Connection) -> Iterator[Finding]:
    for row in connection.execute(
        "SELECT title, path FROM folder JOIN shoot ON shoot.id = shoot_id WHERE NOT hidden ORDER BY shoot.id"
    ):
        if not os.path.isdir(from_blob(row["path"])):
            yield Finding(
                f"The folder of '{row['title']}' is not there: {display(from_blob(row['path']))}.",
                "Connect its disk, or say in the list of shoots where it is now. Its marks are safe.",
            )
    gone = connection.execute("SELECT count(*) FROM frame WHERE place = 'missing'").fetchone()[0]
    if gone:
        yield Finding(
            f"{gone} frames are not where they were.",
            "Nothing to do: their marks wait for them, wherever they turn up below the folders of their shoots.",
        )


def _plans(connection: sqlite3.Connection) -> Iterator[Finding]:
    open_plans = plans.in_states(connection, [*UNFINISHED, *STUCK])
    if open_plans:
        yield Finding(
            f"{len(open_plans)} plans are half done.", "Go on with them or take them back, under Handoff."
        )
    needed = {step.id for plan in open_plans for step in plans.steps(connection, plan.id)}
    left = [
        part for folder in _reached(connection) for part in folder.glob(PART) if _step(part) not in needed
    ]
    if left:
        yield Finding(
            f"{len(left)} files were left half copied, as {display(left[0])}.",
            "--mend removes them; the whole ones are elsewhere.",
            lambda: _remove(left),
        )


def _reached(connection: sqlite3.Connection) -> set[Path]:
    """The folders that plans wrote into and that are there."""
    rows = connection.execute("SELECT DISTINCT target FROM step WHERE target IS NOT NULL")
    return {folder for folder in (Path(from_blob(row[0])).parent for row in rows) if folder.is_dir()}


def _step(part: Path) -> int | None:
    number = part.name.removeprefix(".winnow-").partition(".")[0]
    return int(number) if number.isdigit() else None


def _pictures(connection: sqlite3.Connection, data: Path) -> Iterator[Finding]:
    cache = Cache(data / "cache")
    known = {row[0] for row in connection.execute("SELECT version FROM frame")}
    strange = [
        cache.path(kind, version) for kind in Kind for version in cache.versions(kind) if version not in known
    ]
    if strange:
        size = sum(path.stat().st_size for path in strange if path.exists())
        yield Finding(
            f"{len(strange)} derived pictures ({size / 1e6:.0f} MB) belong to no frame any more.",
            "--mend removes them; they would be made again.",
            lambda: _remove(strange),
        )


def _search(path: Path) -> Iterator[Finding]:
    with closing(sqlite3.connect(path, isolation_level=None)) as connection:
        if search.is_damaged(connection):
            yield Finding(
                "What frames of all shoots are found by is damaged.",
                "No marks are lost. --mend forgets it; Winnow writes it down anew when it runs.",
                lambda: _forget_search(path),
            )


def _forget_search(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection, connection:
        search.forget(connection)


def _remove(paths: list[Path]) -> None:
    for path in paths:
        path.unlink(missing_ok=True)


def _reindex(path: Path) -> None:
    with closing(sqlite3.connect(path)) as connection:
        connection.execute("REINDEX")
