"""What there is: shoots, marks that wait, held files, and the room it all takes. Reads, and changes nothing."""

from __future__ import annotations

import os
import shutil
import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from winnow.pipeline.cache import Kind
from winnow.pipeline.logs import FOLDER as LOGS
from winnow.store import backups, data_folder, plans
from winnow.store.census import UNWRITTEN
from winnow.store.database import DATABASE, display, from_blob
from winnow.store.reading import reading
from winnow.store.settings import SettingsFile


@dataclass(frozen=True, slots=True)
class ShootStatus:
    """unwritten: frames whose marks no file has yet; incoming: frames that another program marked, which waits to be
    looked at; held, held_bytes: files in holding folders; half_done: a plan was begun and has not ended; reached: its
    folders are there."""

    title: str
    folders: list[str]
    frames: int
    keepers: int
    rejects: int
    unwritten: int
    incoming: int
    missing: int
    held: int
    held_bytes: int
    half_done: bool
    reached: bool


@dataclass(frozen=True, slots=True)
class Status:
    """room: bytes by what takes it; free: on the disk of the data folder; cache_limit: in bytes; last_backup: ISO
    8601, UTC; problem: of the file of settings."""

    data: str
    running: str | None
    held: bool
    shoots: list[ShootStatus]
    room: dict[str, int]
    cache_limit: int
    free: int
    last_backup: str | None
    problem: str | None


def status(data: Path) -> Status:
    """What a data folder holds. Raises NothingThereError."""
    with reading(data) as connection:
        known = [_of_shoot(connection, row) for row in connection.execute(_SHOOTS)]
    there = data_folder.running(data)
    settings = SettingsFile(data)
    limit = settings.now().cache_gb * 10**9
    last = backups.last_by_itself(data, datetime.now(UTC))
    return Status(
        data=display(data),
        running=there.address if there else None,
        held=data_folder.is_held(data),
        shoots=known,
        room=_room(data),
        cache_limit=limit,
        free=shutil.disk_usage(data).free,
        last_backup=last.isoformat(timespec="seconds") if last else None,
        problem=settings.problem,
    )


_SHOOTS = f"""
    SELECT shoot.id, title,
      sum(place = 'shoot') AS frames, sum(place = 'missing') AS missing,
      sum(place = 'shoot' AND mark.decision = 'keep') AS keepers,
      sum(place = 'shoot' AND mark.decision = 'reject') AS rejects,
      sum(place = 'shoot' AND incoming) AS incoming,
      sum(place = 'shoot' AND {UNWRITTEN}) AS unwritten
    FROM shoot LEFT JOIN frame ON frame.shoot_id = shoot.id LEFT JOIN mark ON mark.frame_id = frame.id
    WHERE NOT hidden GROUP BY shoot.id ORDER BY opened_at DESC, shoot.id DESC"""


def _of_shoot(connection: sqlite3.Connection, row: sqlite3.Row) -> ShootStatus:
    shoot_id = row["id"]
    folders = [
        from_blob(found[0])
        for found in connection.execute("SELECT path FROM folder WHERE shoot_id = ? ORDER BY id", (shoot_id,))
    ]
    held = connection.execute(
        """SELECT count(DISTINCT frame.id), coalesce(sum(size), 0) FROM file JOIN frame ON frame.id = frame_id
           WHERE shoot_id = ? AND place = 'held'""",
        (shoot_id,),
    ).fetchone()
    counted = {name: row[name] or 0 for name in _COUNTED}
    return ShootStatus(
        title=row["title"],
        folders=[display(path) for path in folders],
        held=held[0],
        held_bytes=held[1],
        half_done=plans.half_done(connection, shoot_id),
        reached=all(map(os.path.isdir, folders)),
        **counted,
    )


_COUNTED = ("frames", "keepers", "rejects", "unwritten", "incoming", "missing")


def _room(data: Path) -> dict[str, int]:
    """Bytes by what takes them."""
    found = {"database": sum(_size(path) for path in data.glob(f"{DATABASE}*"))}
    for kind in Kind:
        found[f"pictures, {kind}"] = _below(data / "cache" / kind)
    found["backups"] = _below(data / backups.FOLDER)
    found["log"] = _below(data / LOGS)
    return found


def _below(folder: Path) -> int:
    return sum(_size(Path(path) / name) for path, _, names in os.walk(folder) for name in names)


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0
