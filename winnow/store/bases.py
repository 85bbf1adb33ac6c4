"""What files said of marks when both sides last agreed, by frame and file."""

from __future__ import annotations

import json
import os
import sqlite3
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from winnow.core.marks import Marks
from winnow.store.database import from_blob, move_below, to_blob
from winnow.store.frame_files import ListedFile
from winnow.store.mark_rows import COLUMNS, PLACES, marks_of, values


@dataclass(frozen=True, slots=True)
class Base:
    """digest: BLAKE2b-128 of the packet as last read or written; at: date of its file then (ISO 8601, UTC)."""

    path: str
    digest: str
    at: str
    marks: Marks


def of_frame(connection: sqlite3.Connection, frame_id: int) -> dict[str, Base]:
    """Path → base."""
    rows = connection.execute("SELECT * FROM base WHERE frame_id = ?", (frame_id,))
    return {base.path: base for base in map(_base, rows)}


def of_shoot(connection: sqlite3.Connection, shoot_id: int) -> dict[int, dict[str, Base]]:
    """Frame → path → base, of all frames of a shoot that have any."""
    found: dict[int, dict[str, Base]] = {}
    for row in connection.execute(
        "SELECT base.* FROM base JOIN frame ON frame.id = frame_id WHERE shoot_id = ?", (shoot_id,)
    ):
        base = _base(row)
        found.setdefault(row["frame_id"], {})[base.path] = base
    return found


def _base(row: sqlite3.Row) -> Base:
    return Base(from_blob(row["path"]), row["digest"], row["at"], marks_of(row))


def keep(connection: sqlite3.Connection, frame_id: int, base: Base) -> None:
    connection.execute(
        f"INSERT OR REPLACE INTO base (frame_id, path, digest, at, {COLUMNS}) VALUES (?, ?, ?, ?, {PLACES})",
        (frame_id, to_blob(base.path), base.digest, base.at, *values(base.marks)),
    )


def forget(connection: sqlite3.Connection, frame_id: int, path: str) -> None:
    connection.execute("DELETE FROM base WHERE frame_id = ? AND path = ?", (frame_id, to_blob(path)))


def move(connection: sqlite3.Connection, frame_id: int, old: str, new: str) -> None:
    """The file lies elsewhere now and says the same, unless something is known of it there already."""
    connection.execute(
        "UPDATE OR IGNORE base SET path = ? WHERE frame_id = ? AND path = ?",
        (to_blob(new), frame_id, to_blob(old)),
    )
    forget(connection, frame_id, old)


def relocate(connection: sqlite3.Connection, shoot_id: int, old: str, new: str) -> None:
    """Files of a shoot below one folder lie below another."""
    which = "frame_id IN (SELECT id FROM frame WHERE shoot_id = ?)"
    move_below(connection, "base", "path", which, old, new, shoot_id)


def hand_over(connection: sqlite3.Connection, old: int, new: int, path: str) -> None:
    """A file goes from one frame to another and says to it what it said before."""
    connection.execute(
        "UPDATE OR REPLACE base SET frame_id = ? WHERE frame_id = ? AND path = ?", (new, old, to_blob(path))
    )


def follow(
    connection: sqlite3.Connection, frame_id: int, before: Mapping[str, object], after: Iterable[ListedFile]
) -> None:
    """The files of a frame were found under other names: bases go with the file that is called alike."""
    here = {file.path for file in after}
    new = sorted(here - set(before))
    for path in of_frame(connection, frame_id):
        if path in here:
            continue
        ending = _ending(path)
        same = [other for other in new if os.path.basename(other) == os.path.basename(path)]
        alike = same or [other for other in new if _ending(other) == ending]
        if alike:
            move(connection, frame_id, path, alike[0])


def settle(connection: sqlite3.Connection, batch_id: int | None, frame_id: int, base: Base) -> None:
    """Keeps what a file says as agreed on; taking the action back that settled it leads back to what was agreed
    before."""
    before = of_frame(connection, frame_id).get(base.path)
    keep(connection, frame_id, base)
    if batch_id is not None:
        connection.execute(
            "INSERT OR REPLACE INTO settled VALUES (?, ?, ?, ?, ?)",
            (batch_id, frame_id, to_blob(base.path), _packed(before), _packed(base)),
        )


def follow_action(connection: sqlite3.Connection, batch_id: int, *, back: bool) -> None:
    """An action was taken back, or done again: so is what was agreed on by it, where nothing was agreed on since."""
    rows = connection.execute("SELECT * FROM settled WHERE batch_id = ?", (batch_id,)).fetchall()
    for row in rows:
        path, frame_id = from_blob(row["path"]), row["frame_id"]
        now, then = (row["after"], row["before"]) if back else (row["before"], row["after"])
        if _packed(of_frame(connection, frame_id).get(path)) != now:
            continue
        if then is None:
            forget(connection, frame_id, path)
        else:
            digest, at, held = json.loads(then)
            keep(connection, frame_id, Base(path, digest, at, marks_of(held)))


def _packed(base: Base | None) -> str | None:
    return json.dumps([base.digest, base.at, values(base.marks)]) if base else None


def _ending(path: str) -> str:
    """All extensions of a name: `.xmp`, `.jpg.xmp`."""
    return os.path.basename(path).partition(".")[2].casefold()
