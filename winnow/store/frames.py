"""Frames and their files."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import IntEnum

from winnow.core.capture import Capture
from winnow.core.grouping import Grouped
from winnow.store.database import from_blob, to_blob


class Stage(IntEnum):
    """How far the background work has come with a frame."""

    LISTED = 0
    READ = 1
    THUMBNAIL = 2
    PREVIEW = 3


@dataclass(frozen=True, slots=True)
class ListedFile:
    """A file as found on disk; `path` is absolute."""

    path: str
    role: str
    size: int
    mtime_ns: int


@dataclass(frozen=True, slots=True)
class ListedFrame:
    """A frame as found on disk: its name for people, what is shown of it, and all its files."""

    name: str
    shown: str
    version: str
    files: tuple[ListedFile, ...]


@dataclass(frozen=True, slots=True)
class Picture:
    """What is needed to show a frame."""

    frame_id: int
    version: str
    stage: int
    position: int
    problem: str | None
    path: str
    mtime_ns: int
    subject: tuple[float, float] | None = None


SUMMARY = """
    SELECT frame.id, name, position, scene, frame_group AS "group", captured_at, width, height,
           version, stage, problem, place,
           coalesce(note || ' ' || marks_note, note, marks_note) AS note,
           coalesce(decision, 'undecided') AS decision, coalesce(rating, 0) AS rating, label,
           bracket, lead, faces, warnings,
           (SELECT group_concat(role) FROM file WHERE file.frame_id = frame.id) AS roles
    FROM frame LEFT JOIN mark ON mark.frame_id = frame.id
"""


def summaries(connection: sqlite3.Connection, shoot_id: int, since: int = 0) -> list[sqlite3.Row]:
    """The frames of a shoot in capture order; with `since`, those changed after that revision."""
    return connection.execute(
        SUMMARY + "WHERE shoot_id = ? AND frame.revision > ? ORDER BY position, frame.id",
        (shoot_id, since or -1),
    ).fetchall()


def details(connection: sqlite3.Connection, frame_id: int) -> sqlite3.Row | None:
    """All columns of one frame."""
    row: sqlite3.Row | None = connection.execute("SELECT * FROM frame WHERE id = ?", (frame_id,)).fetchone()
    return row


def files_of(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, list[ListedFile]]:
    """The files of each frame, the RAW file first, sidecars last."""
    found: dict[int, list[ListedFile]] = {}
    for frame_id in frame_ids:
        found[frame_id] = [
            ListedFile(from_blob(row["path"]), row["role"], row["size"], row["mtime_ns"])
            for row in connection.execute(
                "SELECT * FROM file WHERE frame_id = ? ORDER BY role = 'sidecar', role DESC, path",
                (frame_id,),
            )
        ]
    return found


def ids_of(connection: sqlite3.Connection, shoot_id: int, place: str, decision: str) -> list[int]:
    """Frames of a shoot that are in a place and under a decision, in capture order."""
    return [
        row[0]
        for row in connection.execute(
            """
            SELECT frame.id FROM frame LEFT JOIN mark ON mark.frame_id = frame.id
            WHERE shoot_id = ? AND place = ? AND coalesce(decision, 'undecided') = ?
            ORDER BY position
            """,
            (shoot_id, place, decision),
        )
    ]


def shoots_of(connection: sqlite3.Connection, frame_ids: Sequence[int]) -> set[int]:
    """The shoots that frames belong to; unknown frames are left out."""
    return {
        row[0]
        for frame_id in frame_ids
        for row in connection.execute("SELECT shoot_id FROM frame WHERE id = ?", (frame_id,))
    }


def placed(connection: sqlite3.Connection, shoot_id: int) -> list[tuple[int, int]]:
    """(frame, group) of every frame in the shoot's place, in the order of the shoot."""
    rows = connection.execute(
        """SELECT id, frame_group FROM frame WHERE shoot_id = ? AND place = 'shoot'
           ORDER BY position, id""",
        (shoot_id,),
    )
    return [(row[0], row[1]) for row in rows]


def group_of(connection: sqlite3.Connection, frame_id: int) -> list[sqlite3.Row]:
    """The frames of a frame's group that are in the shoot's place: (id, lead), in their order."""
    return connection.execute(
        """SELECT frame.id, frame.lead FROM frame JOIN frame AS one
           ON one.shoot_id = frame.shoot_id AND one.frame_group = frame.frame_group
           WHERE one.id = ? AND frame.place = 'shoot' ORDER BY frame.position, frame.id""",
        (frame_id,),
    ).fetchall()


PICTURE = """
    SELECT frame.id, version, stage, position, problem, file.path, file.mtime_ns, subject_x, subject_y
    FROM frame JOIN file ON file.id = (
      SELECT id FROM file WHERE frame_id = frame.id AND role <> 'sidecar'
      ORDER BY role = 'raw' LIMIT 1
    )
"""


def _picture(row: sqlite3.Row) -> Picture:
    return Picture(
        row["id"],
        row["version"],
        row["stage"],
        row["position"],
        row["problem"],
        from_blob(row["path"]),
        row["mtime_ns"],
        (row["subject_x"], row["subject_y"]) if row["subject_x"] is not None else None,
    )


def picture(connection: sqlite3.Connection, frame_id: int) -> Picture | None:
    """What is needed to show one frame."""
    row = connection.execute(PICTURE + "WHERE frame.id = ?", (frame_id,)).fetchone()
    return _picture(row) if row else None


def pictures(connection: sqlite3.Connection, shoot_id: int) -> list[Picture]:
    """What is needed to show the frames that are in the shoot, in capture order."""
    rows = connection.execute(
        PICTURE + "WHERE shoot_id = ? AND place = 'shoot' ORDER BY position, frame.id", (shoot_id,)
    )
    return [_picture(row) for row in rows]


def reconcile(
    connection: sqlite3.Connection,
    shoot_id: int,
    folder_id: int,
    listing: Sequence[ListedFrame],
    revision: int,
) -> int:
    """Brings the frames of one folder in line with what is on disk; returns how many changed.

    A frame is recognised by any of its files. Frames whose files are all gone become `missing` and
    keep their marks; they return when a file does. A changed picture starts over, a changed sidecar
    is read again.
    """
    known = _known_files(connection, folder_id)
    seen: set[int] = set()
    changed = 0
    next_position = connection.execute(
        "SELECT coalesce(max(position), -1) + 1 FROM frame WHERE shoot_id = ?", (shoot_id,)
    ).fetchone()[0]
    for listed in listing:
        owners = (known[file.path][0] for file in listed.files if file.path in known)
        frame_id = next((owner for owner in owners if owner not in seen), None)
        if frame_id is None:
            frame_id = connection.execute(
                "INSERT INTO frame (shoot_id, folder_id, name, position, version, revision)"
                " VALUES (?, ?, ?, ?, ?, ?)",
                (shoot_id, folder_id, listed.name, next_position, listed.version, revision),
            ).lastrowid
            assert frame_id is not None
            next_position += 1
            seen.add(frame_id)
            set_files(connection, frame_id, listed.files)
            changed += 1
            continue
        seen.add(frame_id)
        place, count = connection.execute(
            "SELECT place, (SELECT count(*) FROM file WHERE frame_id = frame.id) FROM frame WHERE id = ?",
            (frame_id,),
        ).fetchone()
        same_files = count == len(listed.files) and not any(_differs(f, known) for f in listed.files)
        # A frame that left through a plan is that plan's, also when it stopped half way.
        if place in ("held", "moved") or (place == "shoot" and same_files):
            continue
        shown = next(file for file in listed.files if file.path == listed.shown)
        fresh = _differs(shown, known)
        set_files(connection, frame_id, listed.files)
        connection.execute(
            """UPDATE frame SET name = ?, place = 'shoot', stage = 0, revision = ?,
               version = CASE WHEN ? THEN ? ELSE version END,
               problem = CASE WHEN ? THEN NULL ELSE problem END,
               note = CASE WHEN ? THEN NULL ELSE note END WHERE id = ?""",
            (listed.name, revision, fresh, listed.version, fresh, fresh, frame_id),
        )
        changed += 1
    gone = {owner for owner, *_ in known.values()} - seen
    for frame_id in gone:
        changed += connection.execute(
            "UPDATE frame SET place = 'missing', revision = ? WHERE id = ? AND place = 'shoot'",
            (revision, frame_id),
        ).rowcount
    return changed


def _known_files(connection: sqlite3.Connection, folder_id: int) -> dict[str, tuple[int, int, int]]:
    """Path → (frame, size, mtime) of the files of a folder, where they are or were last."""
    return {
        from_blob(row["path"]): (row["frame_id"], row["size"], row["mtime_ns"])
        for row in connection.execute(
            """SELECT file.path, frame_id, size, mtime_ns FROM file
               JOIN frame ON frame.id = frame_id
               WHERE folder_id = ?""",
            (folder_id,),
        )
    }


def _differs(file: ListedFile, known: dict[str, tuple[int, int, int]]) -> bool:
    return known.get(file.path, (0, -1, -1))[1:] != (file.size, file.mtime_ns)


def set_files(connection: sqlite3.Connection, frame_id: int, files: Iterable[ListedFile]) -> None:
    """Replaces the files of a frame."""
    connection.execute("DELETE FROM file WHERE frame_id = ?", (frame_id,))
    connection.executemany(
        "INSERT INTO file (frame_id, path, role, size, mtime_ns) VALUES (?, ?, ?, ?, ?)",
        [(frame_id, to_blob(f.path), f.role, f.size, f.mtime_ns) for f in files],
    )


def set_place(connection: sqlite3.Connection, frame_id: int, place: str, revision: int) -> None:
    connection.execute("UPDATE frame SET place = ?, revision = ? WHERE id = ?", (place, revision, frame_id))


def set_head(
    connection: sqlite3.Connection,
    frame_id: int,
    capture: Capture,
    size: tuple[int, int],
    subject: tuple[float, float] | None,
    stage: Stage,
    marks_note: str | None,
    revision: int,
) -> None:
    """Stores what the head of the picture says. `size` is upright (width, height),
    `subject` the middle of the subject area in upright px."""
    connection.execute(
        """UPDATE frame SET captured_at = ?, camera = ?, serial = ?, lens = ?, focal_mm = ?,
           aperture = ?, shutter_s = ?, iso = ?, bias_ev = ?, subject_x = ?, subject_y = ?,
           width = ?, height = ?, stage = ?, problem = NULL, marks_note = ?, revision = ? WHERE id = ?""",
        (
            capture.captured_at,
            capture.camera,
            capture.serial,
            capture.lens,
            capture.focal_mm,
            capture.aperture,
            capture.shutter_s,
            capture.iso,
            capture.bias_ev,
            *(subject or (None, None)),
            *size,
            stage,
            marks_note,
            revision,
            frame_id,
        ),
    )


def set_problem(connection: sqlite3.Connection, frame_id: int, problem: str, revision: int) -> None:
    """The picture cannot be shown. Counts as fully worked on: trying again would not help."""
    connection.execute(
        "UPDATE frame SET problem = ?, stage = 3, revision = ? WHERE id = ?",
        (problem, revision, frame_id),
    )


def set_note(connection: sqlite3.Connection, frame_id: int, note: str | None, revision: int) -> None:
    connection.execute("UPDATE frame SET note = ?, revision = ? WHERE id = ?", (note, revision, frame_id))


def set_stage(connection: sqlite3.Connection, frame_id: int, stage: Stage, revision: int) -> None:
    connection.execute("UPDATE frame SET stage = ?, revision = ? WHERE id = ?", (stage, revision, frame_id))


def set_places(connection: sqlite3.Connection, placed: Iterable[Grouped], revision: int) -> None:
    """Stores capture order, scenes and groups; frames that stay where they were are not touched."""
    connection.executemany(
        """UPDATE frame SET position = ?1, scene = ?2, frame_group = ?3, bracket = ?4, revision = ?5
           WHERE id = ?6 AND (position <> ?1 OR scene <> ?2 OR frame_group <> ?3 OR bracket <> ?4)""",
        [(position, p.scene, p.group, p.bracket, revision, p.frame_id) for position, p in enumerate(placed)],
    )


def set_findings(
    connection: sqlite3.Connection, frame_id: int, lead: bool, faces: int, warnings: str, revision: int
) -> None:
    """Stores what lists and filters need of a judgement; a frame that says the same is not touched."""
    connection.execute(
        """UPDATE frame SET lead = ?1, faces = ?2, warnings = ?3, revision = ?4
           WHERE id = ?5 AND (lead <> ?1 OR faces IS NOT ?2 OR warnings <> ?3)""",
        (lead, faces, warnings, revision, frame_id),
    )
