"""Groups of a shoot brought up to date: order, scenes, groups, and what the evidence says in each group."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace
from functools import lru_cache, partial
from itertools import groupby
from sqlite3 import Connection, Row

from winnow import __version__
from winnow.core.derived import stacks
from winnow.core.faces.people import Seen
from winnow.core.group_edits import Word
from winnow.core.grouping import Compare, Grouped, Shot, body_of, compare_shots, exposure_value, group_shots
from winnow.core.judge import Judgement, judge_group
from winnow.core.order import Timed, arrange
from winnow.core.points import Point
from winnow.core.scene_people import people_of_scene
from winnow.core.similarity import Likeness
from winnow.store import evidence, frames, shoots
from winnow.store.database import Database

TRIES = 3
DESCRIPTORS = 64
"""So many are at hand while frames are compared with those just before them, of several cameras."""
MOST_FACES = 1000
"""More than any frame shows."""
JUDGED = 6
"""So many digits tell the judgements of a frame apart."""


Pictured = tuple[int, str]
"""A frame, and which picture of it."""


@dataclass
class GroupingMemory:
    """What is kept between two runs on one shoot: faces and likenesses by frame and picture. Descriptors are not:
    those of a large shoot would fill the memory, and a frame is compared with few others, once."""

    faces: dict[Pictured, tuple[Seen, ...]] = field(default_factory=dict)
    likenesses: dict[tuple[Pictured, Pictured, bool], Likeness] = field(default_factory=dict)

    def keep_only(self, pictures: set[Pictured]) -> None:
        """Forget what is known of pictures that the shoot has no more: frames that went, and earlier versions."""
        self.faces = {key: seen for key, seen in self.faces.items() if key in pictures}
        self.likenesses = {
            key: likeness
            for key, likeness in self.likenesses.items()
            if key[0] in pictures and key[1] in pictures
        }


@dataclass(frozen=True, slots=True)
class _Ground:
    """What a person said that groups rest on, as it was read at one moment. (Evidence that comes in meanwhile
    leads to another run anyway.) stacks: edited file → the frame it came of, by id."""

    clocks: dict[str, float]
    words: dict[int, Word]
    points: dict[int, Point]
    stacks: dict[int, int]


def regroup(database: Database, shoot_id: int, memory: GroupingMemory) -> None:
    """Stores order, scenes, groups and judgements of a shoot; its revision tells who listens.

    Frames that are not measured yet are grouped by time. Held and missing frames are included, so that one that
    comes back finds its place. Working groups out takes its time, and marking goes on meanwhile: they are stored in
    the transaction that has seen that nobody has said otherwise since, so that a split made meanwhile stands. Where
    nothing is known that was not known when they were stored last, they stay.
    """
    for _ in range(TRIES):
        with _reading(database) as connection:
            rows, ground = _read(connection, shoot_id)
            basis = _basis(rows, ground)
            if shoots.grouped_as(connection, shoot_id) == basis and all(map(_is_judged, rows.values())):
                return
            found = _work_out(connection, rows, ground, memory)
        memory.keep_only({(row["id"], row["measured"]) for row in rows.values() if row["measured"]})
        with database.transaction() as connection:
            if _ground(connection, shoot_id) == ground:
                _store(connection, shoot_id, ground.stacks, *found)
                shoots.set_grouped_as(connection, shoot_id, basis)
                return
    with database.transaction() as connection:
        # Somebody splits faster than groups are worked out: now nobody else writes until it is done.
        rows, ground = _read(connection, shoot_id)
        _store(connection, shoot_id, ground.stacks, *_work_out(connection, rows, ground, memory))
        shoots.set_grouped_as(connection, shoot_id, _basis(rows, ground))


def _basis(rows: Mapping[int, Row], ground: _Ground) -> str:
    """Names all that groups and judgements are worked out from, the program included."""
    named = hashlib.blake2b(f"{__version__} {ground}".encode(), digest_size=16)
    for row in rows.values():
        *known, _judged_as = row
        named.update(repr(known).encode())
    return named.hexdigest()


def _is_judged(row: Row) -> bool:
    """Measuring a frame once more takes its judgement away."""
    return row["measured"] is None or row["judged_as"] is not None


@contextmanager
def _reading(database: Database) -> Iterator[Connection]:
    """One moment of the database for all reads within, without keeping anybody from writing."""
    connection = database.connection()
    connection.execute("BEGIN")
    try:
        yield connection
    finally:
        connection.execute("ROLLBACK")


def _read(connection: Connection, shoot_id: int) -> tuple[dict[int, Row], _Ground]:
    rows = evidence.for_grouping(connection, shoot_id)
    return {row["id"]: row for row in rows}, _ground(connection, shoot_id)


def _ground(connection: Connection, shoot_id: int) -> _Ground:
    return _Ground(
        evidence.clocks(connection, shoot_id),
        evidence.words(connection, shoot_id),
        evidence.points(connection, shoot_id),
        stacks(frames.saved(connection, shoot_id)),
    )


def _work_out(
    connection: Connection, rows: dict[int, Row], ground: _Ground, memory: GroupingMemory
) -> tuple[list[Grouped], dict[int, list[int]], dict[int, tuple[str, Judgement]]]:
    """Edited files compete with nobody: they stand behind the frames they came of, and in their groups."""
    shot = [row for row in rows.values() if row["id"] not in ground.stacks]
    timed = arrange(evidence.stamps(shot), ground.clocks)
    for row in shot:
        key = (row["id"], row["measured"])
        if row["measured"] and key not in memory.faces:
            memory.faces[key] = evidence.faces(connection, row["id"])
    shots = [_shot(rows[frame.frame_id], frame, memory) for frame in timed]
    words = {one: word for one, word in ground.words.items() if one not in ground.stacks}
    ordered = _in_display_order(group_shots(shots, words, _remembering(connection, rows, memory)))
    seen = {shot.frame_id: shot.people for shot in shots}
    people = _people(ordered, seen)
    people |= {one: people.get(original, []) for one, original in ground.stacks.items()}
    placed = _with_stacks(ordered, ground.stacks)
    return placed, people, _judge(connection, rows, placed, ground)


def _with_stacks(ordered: Sequence[Grouped], made_of: Mapping[int, int]) -> list[Grouped]:
    """Every frame with the edited files that came of it right behind it."""
    edited: dict[int, list[int]] = {}
    for one, original in made_of.items():
        edited.setdefault(original, []).append(one)
    return [
        replace(placed, frame_id=one)
        for placed in ordered
        for one in (placed.frame_id, *edited.get(placed.frame_id, ()))
    ]


def _people(ordered: Sequence[Grouped], seen: Mapping[int, Sequence[Seen]]) -> dict[int, list[int]]:
    """The people of its scene that each frame shows. Each is numbered by the first frame that shows them, so that no
    number changes because somebody is found in another scene."""
    found: dict[int, list[int]] = {}
    for _, scene in groupby(ordered, key=lambda placed: placed.scene):
        groups = [
            {placed.frame_id: seen[placed.frame_id] for placed in group}
            for _, group in groupby(scene, key=lambda placed: placed.group)
        ]
        people = people_of_scene(groups)
        names: dict[int, int] = {}
        for frame_id, numbers in people.items():
            for place, number in enumerate(numbers):
                names.setdefault(number, frame_id * MOST_FACES + min(place, MOST_FACES - 1))
            found[frame_id] = [names[number] for number in numbers]
    return found


def _store(
    connection: Connection,
    shoot_id: int,
    made_of: dict[int, int],
    ordered: list[Grouped],
    people: dict[int, list[int]],
    judged: dict[int, tuple[str, Judgement]],
) -> None:
    revision = shoots.next_revision(connection, shoot_id)
    frames.set_places(connection, ordered, revision)
    frames.set_people(connection, people, revision)
    frames.set_copies(connection, shoot_id, revision)
    frames.set_stacks(connection, shoot_id, made_of, revision)
    for frame_id, (signature, judgement) in judged.items():
        evidence.set_judgement(connection, frame_id, signature, json.dumps(as_json(judgement)))
        frames.set_findings(
            connection,
            frame_id,
            frames.Findings(
                judgement.lead,
                len(judgement.faces),
                " ".join(judgement.warnings),
                signature[:JUDGED],
                " ".join(judgement.looks),
                judgement.subject.sigma_px if judgement.subject else None,
                judgement.group_stops,
            ),
            revision,
        )


def _shot(row: Row, frame: Timed, memory: GroupingMemory) -> Shot:
    return Shot(
        frame_id=frame.frame_id,
        seconds=frame.seconds,
        camera=body_of(row["serial"], row["model"], row["folder_id"], row["name"]),
        lens=row["lens"],
        focal_mm=row["focal_mm"],
        upright_format=(row["height"] or 0) > (row["width"] or 0),
        ev=exposure_value(row["aperture"], row["shutter_s"], row["iso"]),
        people=memory.faces.get((row["id"], row["measured"]), ()),
        kept=row["measured"] is not None,
    )


def _remembering(connection: Connection, rows: Mapping[int, Row], memory: GroupingMemory) -> Compare:
    """Compares two shots by what is kept of them, or remembers what comparing them said."""
    descriptor = lru_cache(DESCRIPTORS)(partial(evidence.descriptor, connection))

    def compared(one: Shot, other: Shot, match: bool) -> Likeness:
        pictured = [(shot.frame_id, rows[shot.frame_id]["measured"]) for shot in (one, other)]
        key = (pictured[0], pictured[1], match)
        found = memory.likenesses.get(key)
        if found is None:
            described = [replace(shot, descriptor=descriptor(shot.frame_id)) for shot in (one, other)]
            found = memory.likenesses[key] = compare_shots(described[0], described[1], match)
        return found

    return compared


def _in_display_order(grouped: Sequence[Grouped]) -> list[Grouped]:
    """Groups one after another, each in capture order: two bodies shooting at once would cut each other's
    groups to pieces."""
    return sorted(grouped, key=lambda placed: placed.group)


def _judge(
    connection: Connection,
    rows: dict[int, Row],
    ordered: Sequence[Grouped],
    ground: _Ground,
) -> dict[int, tuple[str, Judgement]]:
    """Judgements of the frames of groups that changed, with the signature of the group. An edited file is judged
    beside the frames of its group, which are judged without it."""
    found: dict[int, tuple[str, Judgement]] = {}
    for _, group in groupby(ordered, key=lambda placed: placed.group):
        members = [placed for placed in group if rows[placed.frame_id]["measured"]]
        shot = [placed.frame_id for placed in members if placed.frame_id not in ground.stacks]
        edited = [placed.frame_id for placed in members if placed.frame_id in ground.stacks]
        if shot:
            found |= _judge_frames(connection, rows, shot, shot, members[0].bracket, ground.points)
        for one in edited:
            beside = _judge_frames(connection, rows, [*shot, one], [one], False, ground.points)
            for signature, judgement in beside.values():
                found[one] = (signature, replace(judgement, rank=max(len(shot), 1)))
    return found


def _judge_frames(
    connection: Connection,
    rows: dict[int, Row],
    ids: Sequence[int],
    wanted: Sequence[int],
    bracket: bool,
    points: Mapping[int, Point],
) -> dict[int, tuple[str, Judgement]]:
    """Judgements of those wanted among measured frames beside each other, with their signature; none if they were
    all judged so before."""
    versions = [rows[frame_id]["measured"] for frame_id in ids]
    said = [(points.get(frame_id), rows[frame_id]["point_measured"]) for frame_id in ids]
    signature = evidence.signature(ids, versions, bracket, said)
    if all(rows[frame_id]["judged_as"] == signature for frame_id in wanted):
        return {}
    measured = evidence.load(connection, ids)
    if set(measured) != set(ids):
        return {}  # measured again meanwhile: the next run sees it
    own = {index: points[frame_id] for index, frame_id in enumerate(ids) if frame_id in points}
    judgements = judge_group([measured[frame_id] for frame_id in ids], bracket, own)
    judged = dict(zip(ids, judgements, strict=True))
    return {frame_id: (signature, judged[frame_id]) for frame_id in wanted}


def as_json(judgement: Judgement) -> dict[str, object]:
    """A judgement as it is kept and sent; coordinates in px of the upright full picture."""
    instead = judgement.focus.instead
    subject = judgement.subject
    return {
        "verdict": judgement.focus.verdict,
        "instead": {"x": instead.x, "y": instead.y, "sigma_px": instead.sigma_px} if instead else None,
        "subject": {
            "x": subject.x, "y": subject.y, "sigma_px": subject.sigma_px, "kind": subject.kind
        } if subject else None,
        "exposure": judgement.exposure,
        "group_stops": judgement.group_stops,
        "lead": judgement.lead,
        "rank": judgement.rank,
        "reasons": [
            {"about": r.about, "good": r.good, "text": r.text, "x": r.x, "y": r.y} for r in judgement.reasons
        ],
        "warnings": list(judgement.warnings),
        "faces": [
            {
                "box": list(face.box),
                "person": face.person,
                "facing": face.facing,
                "sigma_px": face.sigma_px,
                "eyes": [
                    {"x": eye.x, "y": eye.y, "state": eye.state, "ratio": eye.ratio, "sigma_px": eye.sigma_px}
                    for eye in face.eyes
                ],
            }
            for face in judgement.faces
        ],
    }  # fmt: skip
