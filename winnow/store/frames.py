"""Frames and their files."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum, StrEnum

from winnow.core.capture import Area, Capture
from winnow.core.derived import Saved
from winnow.core.grouping import Grouped
from winnow.core.points import Point
from winnow.core.turning import Turned
from winnow.store.database import display, from_blob, in_chunks, places
from winnow.store.proposals import UNPROPOSED


class Stage(IntEnum):
    """How far the background work has come with a frame."""

    LISTED = 0
    READ = 1
    THUMBNAIL = 2
    PREVIEW = 3


class FramePlace(StrEnum):
    """Where a frame is: in the shoot's folder, in a holding folder, handed on, nowhere to be found, or in the
    system's bin."""

    SHOOT = "shoot"
    HELD = "held"
    MOVED = "moved"
    MISSING = "missing"
    BINNED = "binned"


@dataclass(frozen=True, slots=True)
class Picture:
    """What is needed to show a frame. below: folder that its file must lie in: of the shoot, or its own where a plan
    took it elsewhere. as_is: a browser can show the file itself. subject: where the camera says it is, `point`: where
    the person does, upright px."""

    frame_id: int
    version: str
    stage: int
    position: int
    problem: str | None
    path: str
    mtime_ns: int
    below: str
    as_is: bool
    subject: Area | None = None
    point: Point | None = None


SUMMARY = """
    SELECT frame.id, name, position, scene, frame_group AS "group", captured_at,
           CASE WHEN turn % 2 THEN height ELSE width END AS width,
           CASE WHEN turn % 2 THEN width ELSE height END AS height, coalesce(turn, 0) AS turn,
           CASE WHEN turn > 0 THEN version || '.' || turn ELSE version END AS version, stage, problem, place,
           coalesce(note || ' ' || marks_note, note, marks_note) AS note,
           coalesce(decision, 'undecided') AS decision, coalesce(rating, 0) AS rating, label,
           bracket, lead, faces, people, warnings, copies, profiled, judged, original, edited > 0 AS edited, incoming,
           coalesce(problem_kind IN ('passing', 'crashed'), 0) AS again, proposed.by AS proposed,
           (SELECT group_concat(role) FROM file WHERE file.frame_id = frame.id) AS roles
    FROM frame LEFT JOIN mark ON mark.frame_id = frame.id
    LEFT JOIN proposed ON proposed.frame_id = frame.id
"""


def summaries(connection: sqlite3.Connection, shoot_id: int) -> list[sqlite3.Row]:
    """The frames of a shoot in capture order."""
    return connection.execute(
        SUMMARY + "WHERE shoot_id = ? ORDER BY position, frame.id", (shoot_id,)
    ).fetchall()


def summaries_of(connection: sqlite3.Connection, frame_ids: Sequence[int]) -> list[sqlite3.Row]:
    """Frames, in the order given."""
    found: dict[int, sqlite3.Row] = {}
    for some in in_chunks(list(dict.fromkeys(frame_ids))):
        rows = connection.execute(SUMMARY + f"WHERE frame.id IN ({places(some)})", some)
        found |= {row["id"]: row for row in rows}
    return [found[i] for i in frame_ids if i in found]


def changed(
    connection: sqlite3.Connection, shoot_id: int, since: int, after: int, limit: int
) -> list[sqlite3.Row]:
    """At most `limit` frames that changed after a revision (0: all of the shoot), by id, from the one after
    `after`."""
    # All are met by walking along the ids, which the + makes SQLite do; few that changed are looked up by revision.
    which = "shoot_id = ? AND frame.revision > ?" if since else "+shoot_id = ? AND +frame.revision > ?"
    return connection.execute(
        SUMMARY + f"WHERE {which} AND frame.id > ? ORDER BY frame.id LIMIT ?",
        (shoot_id, since or -1, after, limit),
    ).fetchall()


def details(connection: sqlite3.Connection, frame_id: int) -> sqlite3.Row | None:
    """All columns of one frame."""
    row: sqlite3.Row | None = connection.execute("SELECT * FROM frame WHERE id = ?", (frame_id,)).fetchone()
    return row


def ids_of(connection: sqlite3.Connection, shoot_id: int, place: str, decision: str) -> list[int]:
    """Frames of a shoot that are in a place and under a decision, in capture order. What is only proposed is none."""
    return [
        row[0]
        for row in connection.execute(
            f"""
            SELECT frame.id FROM frame LEFT JOIN mark ON mark.frame_id = frame.id
            WHERE shoot_id = ? AND place = ? AND coalesce(decision, 'undecided') = ? AND {UNPROPOSED}
            ORDER BY position
            """,
            (shoot_id, place, decision),
        )
    ]


def owners(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, int]:
    """The shoot that each frame belongs to; unknown frames are left out."""
    found: dict[int, int] = {}
    for some in in_chunks(list(dict.fromkeys(frame_ids))):
        rows = connection.execute(f"SELECT id, shoot_id FROM frame WHERE id IN ({places(some)})", some)
        found |= {row[0]: row[1] for row in rows}
    return found


def names(connection: sqlite3.Connection, frame_ids: Sequence[int]) -> list[str]:
    """The names of frames."""
    by_id: dict[int, str] = {}
    for some in in_chunks(list(dict.fromkeys(frame_ids))):
        rows = connection.execute(f"SELECT id, name FROM frame WHERE id IN ({places(some)})", some)
        by_id |= {row[0]: row[1] for row in rows}
    return [by_id[i] for i in frame_ids]


def placed(connection: sqlite3.Connection, shoot_id: int) -> list[tuple[int, int]]:
    """(frame, group) of every frame in the shoot's place, in the order of the shoot."""
    rows = connection.execute(
        """SELECT id, frame_group FROM frame WHERE shoot_id = ? AND place = 'shoot'
           ORDER BY position, id""",
        (shoot_id,),
    )
    return [(row[0], row[1]) for row in rows]


def stacked(connection: sqlite3.Connection, shoot_id: int) -> dict[int, int]:
    """Edited file → the frame that it came of."""
    rows = connection.execute(
        "SELECT id, original FROM frame WHERE shoot_id = ? AND original NOTNULL", (shoot_id,)
    )
    return {row[0]: row[1] for row in rows}


def group_of(connection: sqlite3.Connection, frame_id: int) -> list[sqlite3.Row]:
    """The frames that compete in a frame's group, in the shoot's place: (id, lead), in their order. Edited files are
    none of them."""
    return connection.execute(
        """SELECT frame.id, frame.lead FROM frame JOIN frame AS one
           ON one.shoot_id = frame.shoot_id AND one.frame_group = frame.frame_group
           WHERE one.id = ? AND frame.place = 'shoot' AND frame.original IS NULL
           ORDER BY frame.position, frame.id""",
        (frame_id,),
    ).fetchall()


def size(connection: sqlite3.Connection, frame_id: int) -> tuple[int, int] | None:
    """Upright (width, height) of a frame; None before it was read."""
    row = connection.execute("SELECT width, height FROM frame WHERE id = ?", (frame_id,)).fetchone()
    return (row["width"], row["height"]) if row and row["width"] else None


PICTURE = """
    SELECT frame.id, version, stage, position, problem, file.path, file.mtime_ns, subject_x, subject_y,
           subject_w, subject_h, point.x AS point_x, point.y AS point_y, as_is, place, folder.path AS below
    FROM frame LEFT JOIN point ON point.frame_id = frame.id
    JOIN folder ON folder.id = folder_id JOIN file ON file.id = (
      SELECT id FROM file WHERE frame_id = frame.id AND role <> 'sidecar'
      ORDER BY role = 'raw' LIMIT 1
    )
"""


def _picture(row: sqlite3.Row) -> Picture:
    path = from_blob(row["path"])
    return Picture(
        row["id"],
        row["version"],
        row["stage"],
        row["position"],
        row["problem"],
        path,
        row["mtime_ns"],
        # A plan put the frame elsewhere: where it lies now is told by its own path.
        from_blob(row["below"]) if row["place"] in ("shoot", "missing") else os.path.dirname(path),
        bool(row["as_is"]),
        Area(row["subject_x"], row["subject_y"], row["subject_w"] or 0, row["subject_h"] or 0)
        if row["subject_x"] is not None
        else None,
        Point(row["point_x"], row["point_y"]) if row["point_x"] is not None else None,
    )


def picture(connection: sqlite3.Connection, frame_id: int) -> Picture | None:
    """What is needed to show one frame."""
    row = connection.execute(PICTURE + "WHERE frame.id = ?", (frame_id,)).fetchone()
    return _picture(row) if row else None


def pictures(connection: sqlite3.Connection, shoot_id: int) -> list[Picture]:
    """What is needed to show the frames that are in the shoot, in capture order."""
    rows = connection.execute(
        PICTURE + "WHERE frame.shoot_id = ? AND place = 'shoot' ORDER BY position, frame.id", (shoot_id,)
    )
    return [_picture(row) for row in rows]


def set_place(connection: sqlite3.Connection, frame_id: int, place: str, revision: int) -> None:
    connection.execute("UPDATE frame SET place = ?, revision = ? WHERE id = ?", (place, revision, frame_id))


def rename_file(connection: sqlite3.Connection, frame_id: int, old: str, new: str) -> None:
    """A file of a frame is called otherwise: if it is the one that the frame goes by, so is the frame."""
    before, after = display(old), display(new)
    if before == after:
        return
    connection.execute(
        """UPDATE frame SET name = substr(name, 1, length(name) - length(?2)) || ?3
           WHERE id = ?1 AND (name = ?2 OR substr(name, -length(?2) - 1) = '/' || ?2)""",
        (frame_id, before, after),
    )


def set_head(
    connection: sqlite3.Connection,
    frame_id: int,
    capture: Capture,
    size: tuple[int, int],
    as_is: bool,
    colours: tuple[str | None, bool],
    subject: Area | None,
    stage: Stage,
    marks_note: str | None,
    fingerprint: tuple[str, str, str],
    revision: int,
) -> None:
    """Stores what the head of the picture says. `size` is upright (width, height), `colours` the name of its space
    and whether a profile tells it, `subject` the subject area in upright px, `fingerprint` its (content, picture,
    version).

    The version stays as long as the content does, also where an older release gave it by another rule.
    """
    content, picture, version = fingerprint
    connection.execute(
        """UPDATE frame SET version = CASE
             WHEN content = ?1 OR (content IS NULL AND EXISTS (SELECT 1 FROM evidence
                WHERE frame_id = frame.id AND evidence.version = frame.version)) THEN version
             ELSE ?2 END,
           content = ?1, picture = ?3 WHERE id = ?4""",
        (content, version, picture, frame_id),
    )
    connection.execute(
        """UPDATE frame SET captured_at = ?, camera = ?, serial = ?, image_id = ?, lens = ?, focal_mm = ?,
           aperture = ?, shutter_s = ?, iso = ?, bias_ev = ?, subject_x = ?, subject_y = ?,
           subject_w = ?, subject_h = ?, width = ?, height = ?, as_is = ?, space = ?,
           profiled = ?, stage = ?,
           problem = NULL, problem_kind = NULL, marks_note = ?, revision = ?
           WHERE id = ?""",
        (
            capture.captured_at,
            capture.camera,
            capture.serial,
            capture.image_id,
            capture.lens,
            capture.focal_mm,
            capture.aperture,
            capture.shutter_s,
            capture.iso,
            capture.bias_ev,
            *((subject.x, subject.y, subject.width, subject.height) if subject else (None,) * 4),
            *size,
            as_is,
            *colours,
            stage,
            marks_note,
            revision,
            frame_id,
        ),
    )


def set_fingerprint(connection: sqlite3.Connection, frame_id: int, content: str, picture: str) -> None:
    """What a file that cannot be read is known by."""
    connection.execute("UPDATE frame SET content = ?, picture = ? WHERE id = ?", (content, picture, frame_id))


class ProblemKind(StrEnum):
    """LASTING: of the file itself, which no second try mends. PASSING: of what is around it (no disk, no room, no
    permission): tried again at the next opening. CRASHED: tried again once, then only when asked for."""

    LASTING = "lasting"
    PASSING = "passing"
    CRASHED = "crashed"


MAX_CRASHES = 2


def set_problem(
    connection: sqlite3.Connection, frame_id: int, problem: str, kind: ProblemKind, revision: int
) -> None:
    """The picture cannot be shown. Counts as fully worked on until it is tried again."""
    connection.execute(
        """UPDATE frame SET problem = ?, problem_kind = ?, crashes = crashes + ?, stage = 3, revision = ?
           WHERE id = ?""",
        (problem, kind, kind is ProblemKind.CRASHED, revision, frame_id),
    )


def count_crash(connection: sqlite3.Connection, frame_id: int) -> None:
    """A frame made a worker crash while it was measured."""
    connection.execute("UPDATE frame SET crashes = crashes + 1 WHERE id = ?", (frame_id,))


def try_again(connection: sqlite3.Connection, shoot_id: int, revision: int, *, asked: bool) -> int:
    """Forgets the problems that may have passed, pictures and evidence alike; returns of how many frames.

    asked: a person wants it, so crashes are tried whatever their number.
    """
    crashes = MAX_CRASHES if not asked else 1 << 30
    evidence = connection.execute(
        """DELETE FROM evidence WHERE problem IS NOT NULL AND NOT lasting AND frame_id IN
           (SELECT id FROM frame WHERE shoot_id = ? AND crashes < ?)""",
        (shoot_id, crashes),
    ).rowcount
    pictures = connection.execute(
        """UPDATE frame SET problem = NULL, problem_kind = NULL, stage = 0, revision = ?
           WHERE shoot_id = ? AND (problem_kind = 'passing' OR problem_kind = 'crashed' AND crashes < ?)""",
        (revision, shoot_id, crashes),
    ).rowcount
    return evidence + pictures


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


def set_people(connection: sqlite3.Connection, people: Mapping[int, Iterable[int]], revision: int) -> None:
    """Stores which people of its scene each frame shows; a frame that shows those it showed is not touched."""
    connection.executemany(
        "UPDATE frame SET people = ?1, revision = ?2 WHERE id = ?3 AND people <> ?1",
        [(" ".join(map(str, numbers)), revision, frame_id) for frame_id, numbers in people.items()],
    )


def set_copies(connection: sqlite3.Connection, shoot_id: int, revision: int) -> None:
    """Brings up to date how many other frames in the shoot's place have the content of a frame. Digests of whole
    files decide where both were decoded."""
    connection.execute(
        """WITH counted AS (SELECT id, (SELECT count(*) FROM frame AS other
             WHERE other.shoot_id = ?1 AND other.content = one.content AND other.id <> one.id
             AND other.place = 'shoot' AND other.problem IS NULL AND coalesce(other.digest = one.digest, 1)) AS copies
             FROM frame AS one
             WHERE shoot_id = ?1 AND place = 'shoot' AND content IS NOT NULL AND problem IS NULL)
           UPDATE frame SET copies = counted.copies, revision = ?2 FROM counted
           WHERE frame.id = counted.id AND frame.copies <> counted.copies""",
        (shoot_id, revision),
    )


SETTINGS, DERIVED = 1, 2
"""What `frame.edited` is made of: settings in a sidecar, a newer file made from it."""


def set_edited(connection: sqlite3.Connection, frame_id: int, has_settings: bool) -> None:
    """Whether a sidecar of a frame holds settings of an editing program."""
    connection.execute(
        "UPDATE frame SET edited = (edited & ?) | ? WHERE id = ?",
        (DERIVED, has_settings * SETTINGS, frame_id),
    )


def settle_incoming(
    connection: sqlite3.Connection, frame_id: int, waits: bool, settled: bool, revision: int
) -> None:
    """Whether marks on disk still wait. settled: some were taken over, so that what was noted of them is past."""
    connection.execute(
        """UPDATE frame SET incoming = ?1, marks_note = CASE WHEN ?2 THEN NULL ELSE marks_note END, revision = ?3
           WHERE id = ?4 AND (incoming <> ?1 OR ?2 AND marks_note NOTNULL)""",
        (waits, settled, revision, frame_id),
    )


def is_known(connection: sqlite3.Connection, frame_id: int) -> bool:
    """Whether a frame's head was ever read."""
    row = connection.execute("SELECT content FROM frame WHERE id = ?", (frame_id,)).fetchone()
    return row is not None and row[0] is not None


def set_incoming(connection: sqlite3.Connection, frame_id: int, waits: bool) -> None:
    """Whether marks on disk wait to be taken over or turned down."""
    connection.execute("UPDATE frame SET incoming = ? WHERE id = ?", (waits, frame_id))


def read_incoming(connection: sqlite3.Connection, shoot_id: int, revision: int) -> None:
    """The heads of frames whose marks on disk wait are to be read again."""
    connection.execute(
        "UPDATE frame SET stage = 0, revision = ? WHERE shoot_id = ? AND incoming AND place = 'shoot'",
        (revision, shoot_id),
    )


def set_orientation(connection: sqlite3.Connection, frame_id: int, code: int) -> None:
    """Which way up the picture of a frame is stored (Exif code)."""
    connection.execute("UPDATE frame SET orientation = ? WHERE id = ?", (code, frame_id))


def orientations(connection: sqlite3.Connection, shoot_id: int) -> dict[int, int | None]:
    """Which way up the pictures of a shoot are stored (Exif codes); None before their heads were read."""
    rows = connection.execute("SELECT id, orientation FROM frame WHERE shoot_id = ?", (shoot_id,))
    return {row[0]: row[1] for row in rows}


def orientation(connection: sqlite3.Connection, frame_id: int) -> int | None:
    """Which way up the picture of a frame is stored (Exif code); None before its head was read."""
    row = connection.execute("SELECT orientation FROM frame WHERE id = ?", (frame_id,)).fetchone()
    return None if row is None else row[0]


def addresses(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, str]:
    """What addresses of the pictures of frames are made of: the version, and how it is turned."""
    found: dict[int, str] = {}
    for some in in_chunks(list(frame_ids)):
        rows = connection.execute(
            f"""SELECT id, CASE WHEN turn > 0 THEN version || '.' || turn ELSE version END
                FROM frame LEFT JOIN mark ON frame_id = id WHERE id IN ({places(some)})""",
            some,
        )
        found |= {row[0]: row[1] for row in rows}
    return found


def turns(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, Turned]:
    """How frames are turned, with their sizes before that, px."""
    found: dict[int, Turned] = {}
    for some in in_chunks(list(frame_ids)):
        rows = connection.execute(
            f"""SELECT id, coalesce(turn, 0), coalesce(width, 0), coalesce(height, 0)
                FROM frame LEFT JOIN mark ON frame_id = id WHERE id IN ({places(some)})""",
            some,
        )
        found |= {row[0]: Turned(*row[1:]) for row in rows}
    return found


def saved(connection: sqlite3.Connection, shoot_id: int) -> list[Saved]:
    """The shown files of the frames in the shoot's place."""
    rows = connection.execute(
        """SELECT frame.id, name, max(mtime_ns), content FROM frame JOIN file ON file.frame_id = frame.id
           WHERE shoot_id = ? AND place = 'shoot' AND role <> 'sidecar' GROUP BY frame.id""",
        (shoot_id,),
    )
    return [Saved(*row) for row in rows]


def set_stacks(
    connection: sqlite3.Connection, shoot_id: int, stacks: Mapping[int, int], revision: int
) -> None:
    """Which frame each edited file came of; a frame of which the same was known is not touched."""
    had = {
        row[0]: (row[1], row[2])
        for row in connection.execute(
            "SELECT id, original, edited & ? FROM frame WHERE shoot_id = ? AND (original NOTNULL OR edited & ?)",
            (DERIVED, shoot_id, DERIVED),
        )
    }
    originals = set(stacks.values())
    now = {one: (stacks.get(one), DERIVED * (one in originals)) for one in {*stacks, *originals}}
    connection.executemany(
        "UPDATE frame SET original = ?1, edited = (edited & ?2) | ?3, revision = ?4 WHERE id = ?5",
        [
            (original, SETTINGS, flag, revision, one)
            for one in {*had, *now}
            for original, flag in [now.get(one, (None, 0))]
            if had.get(one, (None, 0)) != (original, flag)
        ],
    )


def touch(connection: sqlite3.Connection, frame_id: int) -> None:
    """Something that is asked of a frame has changed beside its row."""
    connection.execute(
        "UPDATE shoot SET revision = revision + 1 WHERE id = (SELECT shoot_id FROM frame WHERE id = ?)",
        (frame_id,),
    )
    connection.execute(
        "UPDATE frame SET revision = (SELECT revision FROM shoot WHERE shoot.id = shoot_id) WHERE id = ?",
        (frame_id,),
    )


def set_digest(connection: sqlite3.Connection, frame_id: int, version: str, digest: str) -> bool:
    """Keeps the digest of the whole file that was decoded for a version. False if another frame goes by the same
    version with other bytes: then what was made under it may be of either."""
    connection.execute(
        "UPDATE frame SET digest = ? WHERE id = ? AND version = ?", (digest, frame_id, version)
    )
    return (
        connection.execute(
            "SELECT 1 FROM frame WHERE version = ? AND id <> ? AND digest <> ? LIMIT 1",
            (version, frame_id, digest),
        ).fetchone()
        is None
    )


def of_version(connection: sqlite3.Connection, version: str) -> list[tuple[int, str | None]]:
    """(frame, digest) of all frames that go by a version, in whatever shoot."""
    rows = connection.execute("SELECT id, digest FROM frame WHERE version = ? ORDER BY id", (version,))
    return [(row[0], row[1]) for row in rows]


def set_version(connection: sqlite3.Connection, frame_id: int, version: str, revision: int) -> None:
    """The picture goes by another version from now on: all that was made of it is made again."""
    connection.execute(
        "UPDATE frame SET version = ?, stage = 1, revision = ? WHERE id = ?", (version, revision, frame_id)
    )


@dataclass(frozen=True, slots=True)
class Findings:
    """What lists and filters need of a judgement. warnings, looks: words; sigma: blur at the subject, px; light:
    stops to the group; judged: tells one judgement from another."""

    lead: bool
    faces: int
    warnings: str
    judged: str
    looks: str = ""
    sigma: float | None = None
    light: float | None = None


def set_findings(connection: sqlite3.Connection, frame_id: int, found: Findings, revision: int) -> None:
    """Stores what was found; a frame of which the same was found before is not touched."""
    connection.execute(
        """UPDATE frame SET lead = ?1, faces = ?2, warnings = ?3, judged = ?4, looks = ?5, sigma = ?6, light = ?7,
           revision = ?8 WHERE id = ?9 AND (lead <> ?1 OR faces IS NOT ?2 OR warnings <> ?3 OR judged IS NOT ?4
           OR looks <> ?5 OR sigma IS NOT ?6 OR light IS NOT ?7)""",
        (
            found.lead,
            found.faces,
            found.warnings,
            found.judged,
            found.looks,
            found.sigma,
            found.light,
            revision,
            frame_id,
        ),
    )
