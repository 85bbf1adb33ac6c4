"""Shoots: the jobs known here."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from winnow.store.database import display, from_blob, to_blob


@dataclass(frozen=True, slots=True)
class Shoot:
    """A shoot and its folders (absolute paths)."""

    id: int
    title: str
    created_at: str
    opened_at: str
    revision: int
    scan_note: str | None
    folders: tuple[tuple[int, str], ...]


def open_folder(connection: sqlite3.Connection, path: Path, now: str, *, hidden: bool = False) -> int:
    """The id of the shoot made of this folder, created if it is not known yet. hidden: it is not to be listed yet."""
    known = of_folder(connection, path)
    if known is not None:
        if not hidden:
            connection.execute("UPDATE shoot SET opened_at = ?, hidden = 0 WHERE id = ?", (now, known))
        return known
    shoot_id = connection.execute(
        "INSERT INTO shoot (title, created_at, opened_at, hidden) VALUES (?, ?, ?, ?)",
        (display(path.name or str(path)), now, now, hidden),
    ).lastrowid
    assert shoot_id is not None
    connection.execute("INSERT INTO folder (shoot_id, path) VALUES (?, ?)", (shoot_id, to_blob(path)))
    return shoot_id


def of_folder(connection: sqlite3.Connection, path: Path) -> int | None:
    """The shoot made of a folder, or None."""
    row = connection.execute("SELECT shoot_id FROM folder WHERE path = ?", (to_blob(path),)).fetchone()
    return int(row[0]) if row else None


def set_folder(connection: sqlite3.Connection, folder_id: int, path: Path) -> None:
    """A folder of a shoot lies elsewhere now."""
    connection.execute("UPDATE folder SET path = ?, mount = NULL WHERE id = ?", (to_blob(path), folder_id))


def mounts(connection: sqlite3.Connection, shoot_id: int) -> list[str]:
    """The mount points that the folders of a shoot lay on when they were last listed."""
    rows = connection.execute(
        "SELECT mount FROM folder WHERE shoot_id = ? AND mount IS NOT NULL", (shoot_id,)
    )
    return [from_blob(row[0]) for row in rows]


def set_mount(connection: sqlite3.Connection, folder_id: int, mount: str) -> None:
    connection.execute("UPDATE folder SET mount = ? WHERE id = ?", (to_blob(mount), folder_id))


def get(connection: sqlite3.Connection, shoot_id: int) -> Shoot | None:
    row = connection.execute("SELECT * FROM shoot WHERE id = ?", (shoot_id,)).fetchone()
    return _shoot(connection, row) if row else None


def every(connection: sqlite3.Connection) -> list[Shoot]:
    """All shoots, those that were taken off the list included, the one opened last first."""
    rows = connection.execute("SELECT * FROM shoot ORDER BY opened_at DESC, id DESC").fetchall()
    return [_shoot(connection, row) for row in rows]


def listed(connection: sqlite3.Connection, after: int = 0) -> Iterator[Shoot]:
    """The shoots on the list, the one opened last first; those after one of them, if that is given. Each is read when
    it is asked for."""
    rows = connection.execute(
        """SELECT * FROM shoot WHERE NOT hidden
           AND (:after = 0 OR (opened_at, id) < (SELECT opened_at, id FROM shoot WHERE id = :after))
           ORDER BY opened_at DESC, id DESC""",
        {"after": after},
    ).fetchall()
    return (_shoot(connection, row) for row in rows)


def _shoot(connection: sqlite3.Connection, row: sqlite3.Row) -> Shoot:
    folders = connection.execute("SELECT id, path FROM folder WHERE shoot_id = ? ORDER BY id", (row["id"],))
    return Shoot(
        row["id"],
        row["title"],
        row["created_at"],
        row["opened_at"],
        row["revision"],
        row["scan_note"],
        tuple((folder["id"], from_blob(folder["path"])) for folder in folders),
    )


def span(connection: sqlite3.Connection, shoot_id: int) -> tuple[str | None, str | None]:
    """The first and the last time at which a frame of a shoot was taken."""
    found = [
        connection.execute(
            f"SELECT {which}(captured_at) FROM frame WHERE shoot_id = ? AND captured_at IS NOT NULL",
            (shoot_id,),
        ).fetchone()[0]
        for which in ("min", "max")
    ]
    return found[0], found[1]


def set_scan_note(connection: sqlite3.Connection, shoot_id: int, note: str | None) -> None:
    connection.execute("UPDATE shoot SET scan_note = ? WHERE id = ?", (note, shoot_id))


def grouped_as(connection: sqlite3.Connection, shoot_id: int) -> str | None:
    """What the groups that are stored were worked out from; None before that."""
    found: str | None = connection.execute(
        "SELECT grouped_as FROM shoot WHERE id = ?", (shoot_id,)
    ).fetchone()[0]
    return found


def set_grouped_as(connection: sqlite3.Connection, shoot_id: int, basis: str) -> None:
    connection.execute("UPDATE shoot SET grouped_as = ? WHERE id = ?", (basis, shoot_id))


def next_revision(connection: sqlite3.Connection, shoot_id: int) -> int:
    """A number larger than any that the shoot's frames carry."""
    row = connection.execute(
        "UPDATE shoot SET revision = revision + 1 WHERE id = ? RETURNING revision", (shoot_id,)
    ).fetchone()
    return int(row[0])


def hide(connection: sqlite3.Connection, shoot_id: int) -> None:
    """Takes the shoot off the list. Its marks stay: opening the folder again brings all back."""
    connection.execute("UPDATE shoot SET hidden = 1 WHERE id = ?", (shoot_id,))


def show(connection: sqlite3.Connection, shoot_id: int) -> None:
    """Puts the shoot on the list again."""
    connection.execute("UPDATE shoot SET hidden = 0 WHERE id = ?", (shoot_id,))


def delete_unused(connection: sqlite3.Connection, before: str) -> None:
    """Delete shoots of imports that came to nothing: never on the list, without frames, plans or history, and made
    before a moment."""
    unused = " AND ".join(
        f"NOT EXISTS (SELECT 1 FROM {table} WHERE {table}.shoot_id = shoot.id)"
        for table in ("frame", "plan", "batch")
    )
    connection.execute(f"DELETE FROM shoot WHERE hidden AND created_at < ? AND {unused}", (before,))


def forget(connection: sqlite3.Connection, path: Path) -> None:
    """Removes the shoot of a folder for good: marks, journal, plans. No file is touched."""
    connection.execute(
        "DELETE FROM shoot WHERE id IN (SELECT shoot_id FROM folder WHERE path = ?)", (to_blob(path),)
    )
