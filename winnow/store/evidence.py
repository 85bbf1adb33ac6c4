"""Evidence and judgements of frames."""

from __future__ import annotations

import hashlib
import io
import json
import math
import sqlite3
import struct
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from winnow.core.evidence import VERSION, Evidence, Face, Focus, Subject, SubjectKind
from winnow.core.exposure import Exposure
from winnow.core.faces.landmarks import EyePoints, FacePoints
from winnow.core.faces.people import Seen
from winnow.core.focus.blurmap import BlurMap, Spot
from winnow.core.focus.motion import Motion, MotionKind
from winnow.core.group_edits import Word
from winnow.core.order import Stamp
from winnow.core.points import Point
from winnow.core.similarity import GRID, SKETCH, Descriptor


@dataclass(frozen=True, slots=True)
class Measured:
    """Evidence as it is kept: JSON, and the descriptor as bytes; or why there is none. lasting: a second try would
    end the same. point: the person's own at which it was measured too, px."""

    content: str | None
    descriptor: bytes | None
    problem: str | None = None
    lasting: bool = False
    point: Point | None = None


def pack(evidence: Evidence) -> Measured:
    """Evidence as it is kept."""
    focus = evidence.focus
    content = {
        "width": evidence.width,
        "height": evidence.height,
        "focus": {
            "tile_px": round(focus.map.tile_px, 3),
            "sigma_px": [
                [None if math.isnan(value) else round(float(value), 2) for value in row]
                for row in focus.map.sigma
            ],
            "sharpest": asdict(focus.sharpest) if focus.sharpest else None,
            "subject": asdict(focus.subject) if focus.subject else None,
            "motion": asdict(focus.motion) if focus.motion else None,
            "point": asdict(focus.point) if focus.point else None,
        },
        "exposure": asdict(evidence.exposure),
        "faces": [_pack_face(face) for face in evidence.faces],
    }
    return Measured(
        json.dumps(_rounded(content), separators=(",", ":")),
        _pack_descriptor(evidence.descriptor),
        point=Point(focus.point.x, focus.point.y) if focus.point else None,
    )


def unpack(content: str, descriptor: bytes) -> Evidence:
    """What `pack` was given, rounded."""
    kept = json.loads(content)
    focus = kept["focus"]
    sigma = np.array([[np.nan if v is None else v for v in row] for row in focus["sigma_px"]], np.float32)
    exposure = kept["exposure"]
    lists = ("by_channel", "high_at", "low_at", "histogram")
    exposure |= {name: tuple(exposure[name]) if exposure[name] is not None else None for name in lists}
    return Evidence(
        width=kept["width"],
        height=kept["height"],
        focus=Focus(
            BlurMap(focus["tile_px"], sigma),
            Spot(**focus["sharpest"]) if focus["sharpest"] else None,
            _unpack_subject(focus["subject"]),
            _unpack_motion(focus["motion"]),
            _unpack_subject(focus["point"]),
        ),
        exposure=Exposure(**exposure),
        faces=tuple(_unpack_face(face) for face in kept["faces"]),
        descriptor=unpack_descriptor(descriptor),
    )


def _unpack_subject(kept: dict[str, Any] | None) -> Subject | None:
    return Subject(**kept | {"kind": SubjectKind(kept["kind"])}) if kept else None


def _unpack_motion(kept: dict[str, Any] | None) -> Motion | None:
    return Motion(**kept | {"kind": MotionKind(kept["kind"])}) if kept else None


def _pack_face(face: Face) -> dict[str, Any]:
    look = [[None if math.isnan(v) else float(v) for v in row] for row in face.seen.look]
    seen = {"x": face.seen.x, "y": face.seen.y, "width": face.seen.width, "look": look}
    return {"points": asdict(face.points), "seen": seen, "eye_sigma": face.eye_sigma, "sigma": face.sigma}


def _unpack_face(kept: dict[str, Any]) -> Face:
    points = kept["points"]
    eyes = tuple(EyePoints(**eye) for eye in points["eyes"])
    points |= {"box": tuple(points["box"]), "eyes": eyes}
    seen = kept["seen"]
    return Face(FacePoints(**points), unpack_seen(seen), tuple(kept["eye_sigma"]), kept["sigma"])


def unpack_seen(kept: dict[str, Any]) -> Seen:
    look = np.array([[np.nan if v is None else v for v in row] for row in kept["look"]], np.float32)
    return Seen(kept["x"], kept["y"], kept["width"], look)


def _rounded(value: Any) -> Any:
    """Floats to five significant digits: more would only be noise on the disk."""
    if isinstance(value, float):
        return float(f"{value:.5g}")
    if isinstance(value, dict):
        return {key: _rounded(inner) for key, inner in value.items()}
    if isinstance(value, (list, tuple)):
        return [_rounded(inner) for inner in value]
    return value


DESCRIPTOR = struct.Struct("<4sQHHH")
"""Before the arrays of a descriptor: mark, hash, width, height, number of points."""
DESCRIPTOR_MARK = b"WnD1"


def _pack_descriptor(descriptor: Descriptor) -> bytes:
    head = DESCRIPTOR.pack(DESCRIPTOR_MARK, descriptor.hash, *descriptor.size, len(descriptor.points))
    parts = (descriptor.colours, descriptor.sketch, descriptor.points.astype("<f2"), descriptor.features)
    return head + b"".join(part.tobytes() for part in parts)


def unpack_descriptor(kept: bytes) -> Descriptor:
    """What was packed, by this release or by one before it."""
    if not kept.startswith(DESCRIPTOR_MARK):
        return _unpack_archive(kept)
    _, hashed, width, height, count = DESCRIPTOR.unpack_from(kept)
    place = DESCRIPTOR.size
    parts: list[NDArray[Any]] = []
    for shape, kind in (
        ((GRID, GRID, 3), "u1"), ((SKETCH, SKETCH), "u1"), ((count, 2), "<f2"), ((count, 32), "u1")
    ):  # fmt: skip
        length = math.prod(shape)
        parts.append(np.frombuffer(kept, kind, length, place).reshape(shape))
        place += length * parts[-1].itemsize
    colours, sketch, points, features = parts
    return Descriptor(hashed, colours, sketch, points, features, (width, height))


def _unpack_archive(kept: bytes) -> Descriptor:
    """As the first releases kept it, which takes eighty times as long to read."""
    with np.load(io.BytesIO(kept), allow_pickle=False) as parts:
        width, height = parts["size"]
        return Descriptor(
            int(parts["hash"][0]), parts["colours"], parts["sketch"], parts["points"], parts["features"],
            (int(width), int(height)),
        )  # fmt: skip


def store(connection: sqlite3.Connection, frame_id: int, version: str, measured: Measured) -> bool:
    """Store what was measured on a version of a frame's picture; its judgement beside other frames is deleted. A late
    result changes nothing: the frame goes by another version by now, or has evidence of the point that the person put
    down, which this is not of. Returns whether it was stored."""
    at = (measured.point.x, measured.point.y) if measured.point else (None, None)
    is_late = connection.execute(
        """SELECT frame.version <> ?2 OR (evidence.version = ?2 AND method = ?3 AND evidence.content IS NOT NULL
             AND point_x = point.x AND point_y = point.y AND (point.x IS NOT ?4 OR point.y IS NOT ?5))
           FROM frame LEFT JOIN point ON point.frame_id = frame.id LEFT JOIN evidence ON evidence.frame_id = frame.id
           WHERE frame.id = ?1""",
        (frame_id, version, VERSION, *at),
    ).fetchone()
    if is_late is None or is_late[0]:
        return False
    connection.execute(
        """INSERT INTO evidence (frame_id, version, method, content, descriptor, problem, lasting, point_x, point_y)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
           ON CONFLICT (frame_id) DO UPDATE SET version = excluded.version, method = excluded.method,
           content = excluded.content, descriptor = excluded.descriptor, problem = excluded.problem,
           lasting = excluded.lasting, point_x = excluded.point_x, point_y = excluded.point_y,
           judged_as = NULL, judgement = NULL""",
        (
            frame_id,
            version,
            VERSION,
            measured.content,
            measured.descriptor,
            measured.problem,
            measured.lasting,
            *at,
        ),
    )
    return True


def measured_frames(connection: sqlite3.Connection, shoot_id: int) -> set[int]:
    """Frames whose evidence is that of their present picture and of the point that the person put down in it, or who
    failed to be measured."""
    return {
        row[0]
        for row in connection.execute(
            """SELECT frame.id FROM frame JOIN evidence ON evidence.frame_id = frame.id
               AND evidence.version = frame.version AND method = ?
               LEFT JOIN point ON point.frame_id = frame.id
               WHERE shoot_id = ? AND (point.x IS NULL OR evidence.content IS NULL
                 OR (point.x = point_x AND point.y = point_y))""",
            (VERSION, shoot_id),
        )
    }


def points_unmeasured(connection: sqlite3.Connection, shoot_id: int) -> list[int]:
    """Frames in which the person put down a point, and that were measured, but not there."""
    rows = connection.execute(
        """SELECT frame.id FROM point JOIN frame ON frame.id = point.frame_id AND shoot_id = ? AND place = 'shoot'
           JOIN evidence ON evidence.frame_id = frame.id AND evidence.content IS NOT NULL
           WHERE point_x IS NULL OR point_x <> point.x OR point_y <> point.y""",
        (shoot_id,),
    )
    return [row[0] for row in rows]


def load(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, Evidence]:
    """Evidence of frames; the ones that have none are left out."""
    found = {}
    for frame_id in frame_ids:
        row = connection.execute(
            """SELECT evidence.content, descriptor FROM evidence JOIN frame ON frame.id = frame_id
               AND frame.version = evidence.version
               WHERE frame_id = ? AND evidence.content IS NOT NULL AND method = ?""",
            (frame_id, VERSION),
        ).fetchone()
        if row:
            found[frame_id] = unpack(row["content"], row["descriptor"])
    return found


def details(connection: sqlite3.Connection, frame_id: int) -> sqlite3.Row | None:
    """content, problem and judgement of one frame (JSON texts), None before it is measured."""
    row: sqlite3.Row | None = connection.execute(
        """SELECT evidence.content, evidence.problem, judgement FROM evidence JOIN frame ON frame.id = frame_id
           AND frame.version = evidence.version WHERE frame_id = ?""",
        (frame_id,),
    ).fetchone()
    return row


def failed(connection: sqlite3.Connection, shoot_id: int) -> int:
    """How many frames of the shoot's place can be seen but failed to be measured, with a chance another time."""
    row = connection.execute(
        """SELECT count(*) FROM evidence INDEXED BY evidence_failed CROSS JOIN frame ON frame.id = frame_id
           WHERE evidence.problem IS NOT NULL AND NOT lasting AND shoot_id = ? AND place = 'shoot'
           AND coalesce(problem_kind, '') NOT IN ('passing', 'crashed')""",
        (shoot_id,),
    ).fetchone()
    return int(row[0])


def for_grouping(connection: sqlite3.Connection, shoot_id: int) -> list[sqlite3.Row]:
    """What grouping needs of all frames of a shoot, without the descriptors: `measured` tells which picture
    the evidence is of."""
    return connection.execute(
        """SELECT frame.id, name, captured_at, coalesce(serial, camera) AS camera, camera AS model, serial,
                  folder_id, lens, focal_mm, aperture, shutter_s, iso, width, height,
                  CASE WHEN evidence.version = frame.version AND method = ? AND evidence.content IS NOT NULL
                       THEN evidence.version END AS measured,
                  point_x || ' ' || point_y AS point_measured, place, frame.problem, frame.content, digest, judged_as
           FROM frame LEFT JOIN evidence ON evidence.frame_id = frame.id WHERE shoot_id = ?""",
        (VERSION, shoot_id),
    ).fetchall()


def stamps(rows: Iterable[sqlite3.Row]) -> list[Stamp]:
    """When the frames of `for_grouping` were taken."""
    return [Stamp(row["id"], row["captured_at"], row["name"], row["camera"]) for row in rows]


def faces(connection: sqlite3.Connection, frame_id: int) -> tuple[Seen, ...]:
    """What the faces of a frame are compared by. The frame must have evidence."""
    row = connection.execute(
        "SELECT json_extract(content, '$.faces') FROM evidence WHERE frame_id = ?", (frame_id,)
    ).fetchone()
    return tuple(unpack_seen(face["seen"]) for face in json.loads(row[0]))


def descriptor(connection: sqlite3.Connection, frame_id: int) -> Descriptor:
    """What a frame is compared by. The frame must have evidence."""
    row = connection.execute("SELECT descriptor FROM evidence WHERE frame_id = ?", (frame_id,)).fetchone()
    return unpack_descriptor(row[0])


def judgement(connection: sqlite3.Connection, frame_id: int) -> dict[str, Any] | None:
    """What was judged of a frame in its group; None before that."""
    row = connection.execute("SELECT judgement FROM evidence WHERE frame_id = ?", (frame_id,)).fetchone()
    found: dict[str, Any] | None = json.loads(row[0]) if row and row[0] else None
    return found


def set_judgement(connection: sqlite3.Connection, frame_id: int, judged_as: str, judgement: str) -> None:
    connection.execute(
        "UPDATE evidence SET judged_as = ?, judgement = ? WHERE frame_id = ?",
        (judged_as, judgement, frame_id),
    )


def words(connection: sqlite3.Connection, shoot_id: int) -> dict[int, Word]:
    """What a person said of the groups of frames."""
    rows = connection.execute(
        """SELECT frame_id, goes_with FROM group_word JOIN frame ON frame.id = frame_id
           WHERE shoot_id = ?""",
        (shoot_id,),
    )
    return {row["frame_id"]: Word(row["goes_with"]) for row in rows}


def set_words(connection: sqlite3.Connection, said: Mapping[int, Word | None]) -> None:
    """Keeps words on frames; None takes them back."""
    for frame_id, word in said.items():
        connection.execute("DELETE FROM group_word WHERE frame_id = ?", (frame_id,))
        if word is not None:
            connection.execute("INSERT INTO group_word VALUES (?, ?)", (frame_id, word.goes_with))


def points(connection: sqlite3.Connection, shoot_id: int) -> dict[int, Point]:
    """What matters in frames, where the person said so."""
    rows = connection.execute(
        "SELECT frame_id, x, y FROM point JOIN frame ON frame.id = frame_id WHERE shoot_id = ?", (shoot_id,)
    )
    return {row["frame_id"]: Point(row["x"], row["y"]) for row in rows}


def set_points(connection: sqlite3.Connection, points: Mapping[int, Point | None]) -> None:
    """Keeps points of frames; None takes them back."""
    for frame_id, point in points.items():
        connection.execute("DELETE FROM point WHERE frame_id = ?", (frame_id,))
        if point is not None:
            connection.execute("INSERT INTO point VALUES (?, ?, ?)", (frame_id, point.x, point.y))


def clocks(connection: sqlite3.Connection, shoot_id: int) -> dict[str, float]:
    """Seconds by which the clock of each camera is ahead, where the person said so."""
    rows = connection.execute("SELECT camera, ahead_s FROM clock WHERE shoot_id = ?", (shoot_id,))
    return {row["camera"]: row["ahead_s"] for row in rows}


def cameras(connection: sqlite3.Connection, shoot_id: int) -> list[tuple[str, str, int]]:
    """The cameras of a shoot, those of most frames first: serial number or name, name, and frames."""
    rows = connection.execute(
        """SELECT coalesce(serial, camera) AS one, max(coalesce(camera, serial)), count(*) AS frames FROM frame
           WHERE shoot_id = ? AND one IS NOT NULL GROUP BY one ORDER BY frames DESC, one""",
        (shoot_id,),
    )
    return [(row[0], row[1], row[2]) for row in rows]


def set_clock(connection: sqlite3.Connection, shoot_id: int, camera: str, ahead_s: float) -> None:
    connection.execute("INSERT OR REPLACE INTO clock VALUES (?, ?, ?)", (shoot_id, camera, ahead_s))


def signature(
    frame_ids: Sequence[int],
    versions: Sequence[str | None],
    bracket: bool,
    points: Sequence[tuple[Point | None, str | None]],
) -> str:
    """Names a group by its frames, their pictures, and the person's points in them with where they were measured:
    judgements hold as long as it stays."""
    text = json.dumps([list(frame_ids), list(versions), bracket, [[str(put), at] for put, at in points]])
    return hashlib.blake2b(text.encode(), digest_size=10).hexdigest()


def forget_clocks(connection: sqlite3.Connection, shoot_id: int) -> None:
    connection.execute("DELETE FROM clock WHERE shoot_id = ?", (shoot_id,))
