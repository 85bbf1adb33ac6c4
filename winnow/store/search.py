"""Frames of all shoots, found by names, words, labels, cameras and dates: SQLite's FTS5.

What frames are found by is written behind the marks, a few hundred frames at a time, so that no mark waits for it.
"""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass

from winnow.core.labels import LabelSet
from winnow.core.marks import WORD_FIELDS
from winnow.core.searching import date_text, match_of, name_text, words_of
from winnow.core.words import spoken
from winnow.store import labels
from winnow.store.database import Database, places

COLUMNS = ("name", "words", "label", "camera", "taken", "shoot")
AT_ONCE = 400
"""Frames that are written in one transaction: some 20 ms."""
FEW = 800
"""Frames that may be written down while somebody waits for what is found: some 50 ms."""
MOST = 10_000
"""As many frames are counted; the newest of them."""


@dataclass(frozen=True, slots=True)
class Found:
    """Frames of one shoot that were found: how many, and the first of them in capture order."""

    shoot_id: int
    frames: int
    first: list[int]


@dataclass(frozen=True, slots=True)
class Answer:
    """shoots: those in which something was found, the one opened last first; frames: in all; more: there are more
    than were counted; behind: shoots of which not all is known yet."""

    shoots: list[Found]
    frames: int
    more: bool
    behind: int


def find(connection: sqlite3.Connection, typed: str, shown: int) -> Answer:
    """What is found by some words, which must all be there. shown: so many frames a shoot."""
    words = words_of(typed)
    behind = len(stale(connection))
    if not words:
        return Answer([], 0, False, behind)
    rows = connection.execute(
        f"""WITH hit AS (SELECT rowid FROM frame_text WHERE frame_text MATCH ? ORDER BY rowid DESC LIMIT {MOST + 1}),
            placed AS (
              SELECT frame.id, frame.shoot_id, opened_at,
                row_number() OVER (PARTITION BY frame.shoot_id ORDER BY position, frame.id) AS number,
                count(*) OVER (PARTITION BY frame.shoot_id) AS frames
              FROM hit JOIN frame ON frame.id = hit.rowid JOIN shoot ON shoot.id = frame.shoot_id
              WHERE place = 'shoot' AND NOT hidden
            )
            SELECT shoot_id, frames, id FROM placed WHERE number <= ?
            ORDER BY opened_at DESC, shoot_id DESC, number""",
        (match_of(words), shown),
    ).fetchall()
    found: dict[int, Found] = {}
    for row in rows:
        found.setdefault(row["shoot_id"], Found(row["shoot_id"], row["frames"], [])).first.append(row["id"])
    total = sum(one.frames for one in found.values())
    return Answer(list(found.values()), min(total, MOST), total > MOST, behind)


def stale(connection: sqlite3.Connection) -> list[int]:
    """Shoots of which something changed since they were written down, the one opened last first."""
    rows = connection.execute(
        """SELECT shoot.id FROM shoot LEFT JOIN searched ON shoot_id = shoot.id
           WHERE NOT hidden AND (searched.revision IS NOT shoot.revision OR labels IS NOT ?)
           ORDER BY opened_at DESC""",
        (labels.version(connection)[0],),
    )
    return [row[0] for row in rows]


def bring_up_few(database: Database) -> None:
    """Brings up the shoots in which little changed: for whoever searches now."""
    left = FEW
    for shoot_id in stale(database.connection()):
        changed = len(_changed(database.connection(), shoot_id, left + 1))
        if changed <= left:
            left -= changed
            bring_up(database, shoot_id)


def bring_up(database: Database, shoot_id: int) -> int:
    """Writes down what changed in a shoot since the last time; how many frames differ. Others write in between."""
    connection = database.connection()
    version, named = labels.version(connection)[0], labels.current(connection)
    shoot = connection.execute("SELECT title, revision FROM shoot WHERE id = ?", (shoot_id,)).fetchone()
    if shoot is None:
        return 0
    changed = _changed(connection, shoot_id)
    written = 0
    for start in range(0, len(changed), AT_ONCE):
        some = changed[start : start + AT_ONCE]
        differing = _differing(connection, some, named, shoot["title"])
        if differing:
            with database.transaction() as writing:
                writing.executemany(
                    "DELETE FROM frame_text WHERE rowid = ?", [(frame_id,) for frame_id, *_ in differing]
                )
                writing.executemany(
                    f"INSERT INTO frame_text (rowid, {', '.join(COLUMNS)}) VALUES ({places(('', *COLUMNS))})",
                    differing,
                )
        written += len(differing)
    with database.transaction() as writing:
        writing.execute(
            "INSERT OR REPLACE INTO searched VALUES (?, ?, ?)", (shoot_id, shoot["revision"], version)
        )
    return written


def is_damaged(connection: sqlite3.Connection) -> bool:
    """Whether what frames are found by contradicts itself (FTS5's own check). It needs a connection that may write,
    writes nothing, and takes some seconds where there are many frames."""
    try:
        connection.execute("INSERT INTO frame_text (frame_text) VALUES ('integrity-check')")
    except sqlite3.DatabaseError as error:
        return (
            error.sqlite_errorcode & 0xFF == sqlite3.SQLITE_CORRUPT
        )  # and not: no right to write, or locked
    return False


def forget(connection: sqlite3.Connection) -> None:
    """Makes room for all of it to be written down anew."""
    made = connection.execute("SELECT sql FROM sqlite_master WHERE name = 'frame_text'").fetchone()[0]
    connection.execute("DROP TABLE frame_text")
    connection.execute(made)
    connection.execute("DELETE FROM searched")


def _changed(connection: sqlite3.Connection, shoot_id: int, limit: int = -1) -> list[int]:
    """Frames that changed since they were written down; all, if labels are called otherwise now."""
    known = connection.execute("SELECT * FROM searched WHERE shoot_id = ?", (shoot_id,)).fetchone()
    since = known["revision"] if known and known["labels"] == labels.version(connection)[0] else -1
    rows = connection.execute(
        "SELECT id FROM frame WHERE shoot_id = ? AND revision > ? ORDER BY id LIMIT ?",
        (shoot_id, since, limit),
    )
    return [row[0] for row in rows]


def _differing(
    connection: sqlite3.Connection, frame_ids: Sequence[int], named: LabelSet, title: str
) -> list[tuple[int, *tuple[str, ...]]]:
    """(id, text of each column) of the frames of which something else is written down."""
    rows = connection.execute(
        f"""SELECT frame.id AS id, name, captured_at, camera, lens, label, {", ".join(WORD_FIELDS)}
            FROM frame LEFT JOIN mark ON frame_id = frame.id WHERE frame.id IN ({places(frame_ids)})""",
        frame_ids,
    )
    texts = {row["id"]: _texts(row, named, title) for row in rows}
    written = connection.execute(
        f"SELECT rowid, {', '.join(COLUMNS)} FROM frame_text WHERE rowid IN ({places(frame_ids)})", frame_ids
    )
    before = {row["rowid"]: tuple(row)[1:] for row in written}
    return [(frame_id, *text) for frame_id, text in texts.items() if before.get(frame_id) != text]


def _texts(row: sqlite3.Row, named: LabelSet, title: str) -> tuple[str, ...]:
    said = [spoken(field, row[field]) for field in WORD_FIELDS if row[field]]
    return (
        name_text(row["name"]),
        "\n".join(said),
        named.name_of(row["label"]) if row["label"] else "",
        " ".join(filter(None, (row["camera"], row["lens"]))),
        date_text(row["captured_at"]),
        title,
    )
