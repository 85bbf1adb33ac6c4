"""A whole shoot out of the database, and into another."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Mapping, Sequence
from dataclasses import replace

from winnow import __version__
from winnow.core import archive as rules
from winnow.core import passes
from winnow.core.archive import (
    About,
    Archive,
    ArchivedBatch,
    ArchivedChange,
    ArchivedFrame,
    ArchivedPlace,
    ArchivedWalk,
    Merged,
)
from winnow.core.group_edits import Word
from winnow.core.history import BatchKind
from winnow.core.marks import MARK_FIELDS, UNMARKED, Change, Field, Marks, Value, replay, value_of
from winnow.core.pairing import fold
from winnow.core.points import Point
from winnow.core.proposals import Proposal, settle
from winnow.store import evidence, labels, listing, marks, named_filters, proposals, shoots
from winnow.store.mark_rows import COLUMNS, PLACES, marks_of, values
from winnow.store.shoots import Shoot

ACTOR = "archive"


def read(connection: sqlite3.Connection, shoot: Shoot, now: str) -> Archive:
    """All that is known of a shoot but its evidence, which is measured again, and its plans, which are of this
    disk."""
    frames = tuple(_frames(connection, shoot.id))
    about = About(
        shoot.title,
        now,
        __version__,
        len(frames),
        labels.as_json(labels.current(connection)),
        {
            one.name: one.sentence
            for one in named_filters.of_shoot(connection, shoot.id)
            if one.shoot_id is not None
        },
        evidence.clocks(connection, shoot.id),
    )
    return Archive(about, frames, tuple(_history(connection, shoot.id)), tuple(_walks(connection, shoot.id)))


def _frames(connection: sqlite3.Connection, shoot_id: int) -> list[ArchivedFrame]:
    words, points = evidence.words(connection, shoot_id), evidence.points(connection, shoot_id)
    rows = connection.execute(
        f"""SELECT frame.*, coalesce(decision, 'undecided') AS decision, coalesce(rating, 0) AS rating,
            coalesce(turn, 0) AS turn, {", ".join(f for f in MARK_FIELDS if f not in ("decision", "rating", "turn"))}
            FROM frame LEFT JOIN mark ON mark.frame_id = frame.id WHERE shoot_id = ? ORDER BY position, frame.id""",
        (shoot_id,),
    )
    return [
        ArchivedFrame(
            row["id"],
            row["name"],
            row["content"],
            row["picture"],
            row["captured_at"],
            row["serial"],
            row["camera"],
            row["image_id"],
            row["place"],
            _said(marks_of(row)),
            str(words[row["id"]]) if row["id"] in words else None,
            str(points[row["id"]]) if row["id"] in points else None,
        )
        for row in rows
    ]


def _said(held: Marks) -> dict[Field, Value]:
    return {f: value_of(held, f) for f in MARK_FIELDS if value_of(held, f) != value_of(UNMARKED, f)}


def _history(connection: sqlite3.Connection, shoot_id: int) -> list[ArchivedBatch]:
    changes: dict[int, list[ArchivedChange]] = {}
    for batch_id, frame_id, field, before, after in connection.execute(
        """SELECT batch_id, frame_id, field, before, after FROM journal JOIN batch ON batch.id = batch_id
           WHERE shoot_id = ? ORDER BY journal.id""",
        (shoot_id,),
    ):
        changes.setdefault(batch_id, []).append(ArchivedChange(frame_id, Field(field), before, after))
    rows = connection.execute("SELECT * FROM batch WHERE shoot_id = ? ORDER BY id", (shoot_id,))
    return [
        ArchivedBatch(
            row["id"],
            BatchKind(row["kind"]),
            row["reverts"],
            row["actor"],
            row["at"],
            row["title"],
            row["seen"],
            row["walk_id"],
            tuple(changes.get(row["id"], ())),
        )
        for row in rows
    ]


def _walks(connection: sqlite3.Connection, shoot_id: int) -> list[ArchivedWalk]:
    frames: dict[int, list[ArchivedPlace]] = {}
    for walk_id, frame_id, seen, started in connection.execute(
        """SELECT walk_id, walk_frame.frame_id, seen, started FROM walk_frame JOIN walk ON walk.id = walk_id
           WHERE shoot_id = ? ORDER BY walk_id, place""",
        (shoot_id,),
    ):
        frames.setdefault(walk_id, []).append(ArchivedPlace(frame_id, bool(seen), started))
    rows = connection.execute("SELECT * FROM walk WHERE shoot_id = ? ORDER BY id", (shoot_id,))
    return [
        ArchivedWalk(
            row["id"],
            json.loads(row["definition"]),
            row["begun_at"],
            row["ended_at"],
            row["frame_id"],
            row["seconds"],
            row["starting"],
            row["taken_back"],
            tuple(frames.get(row["id"], ())),
        )
        for row in rows
    ]


def has_history(connection: sqlite3.Connection, shoot_id: int) -> bool:
    """Whether a person has done anything to a shoot."""
    found = connection.execute(
        "SELECT EXISTS (SELECT 1 FROM batch WHERE shoot_id = ?1 AND kind <> 'import')"
        " OR EXISTS (SELECT 1 FROM walk WHERE shoot_id = ?1)",
        (shoot_id,),
    )
    return bool(found.fetchone()[0])


def frames_here(connection: sqlite3.Connection, shoot_id: int, archive: Archive) -> dict[int, int]:
    """Number of a frame in the archive → frame of the shoot."""
    known = [one.known for one in listing.remembered(connection, shoot_id).values() if one.place != "missing"]
    return rules.found_here(archive, known)


def take_labels(
    connection: sqlite3.Connection, archive: Archive, frames: Mapping[int, int], now: str
) -> dict[str, str]:
    """Defines the labels that an archive uses and that are missing here; returns what each id there is here. Raises
    ArchiveError."""
    try:
        there = labels.from_json(archive.about.labels)
    except (ValueError, KeyError, TypeError, AttributeError) as error:
        raise rules.ArchiveError("The labels in this archive cannot be understood: it is damaged.") from error
    used = [one.marks[Field.LABEL] for one in archive.frames if one.id in frames and Field.LABEL in one.marks]
    used += [
        c.after for b in archive.history for c in b.changes if c.field is Field.LABEL and c.frame in frames
    ]
    here = labels.current(connection)
    joined, ids = rules.labels_joined(here, there, [str(one) for one in used if one])
    if joined != here:
        labels.define(connection, joined, f"labels of the archive “{archive.about.title}”", now)
    return ids


def marks_there(archive: Archive, frames: Mapping[int, int], ids: Mapping[str, str]) -> dict[int, Marks]:
    """What an archive says of the frames that are here. Raises ArchiveError."""
    found = {}
    for one in archive.frames:
        if one.id in frames:
            label = one.marks.get(Field.LABEL)
            more = {Field.LABEL: ids.get(str(label), str(label))} if label else {}
            try:
                found[frames[one.id]] = replace(one, marks={**one.marks, **more}).as_marks()
            except ValueError as error:
                raise rules.ArchiveError(
                    f"The marks of {one.name} in this archive cannot be: {error}"
                ) from error
    return found


def words_there(archive: Archive, frames: Mapping[int, int]) -> tuple[dict[int, Word], dict[int, Point]]:
    """What an archive says of groups and of what matters in frames that are here. Raises ArchiveError."""
    words, points = {}, {}
    for one in archive.frames:
        if one.id not in frames:
            continue
        word = rules.word_here(one.word, frames) if one.word else None
        if word is not None:
            words[frames[one.id]] = word
        if one.point:
            points[frames[one.id]] = rules.point_here(one.point)
    return words, points


def restore(
    connection: sqlite3.Connection,
    shoot_id: int,
    archive: Archive,
    frames: Mapping[int, int],
    ids: Mapping[str, str],
    now: str,
) -> None:
    """Brings a shoot in which nobody has done anything to where the archive has it, with all that led there. Raises
    ArchiveError."""
    there = marks_there(archive, frames, ids)
    words, points = words_there(archive, frames)
    history = rules.translated(archive, frames, ids)
    before = marks.current(connection, there)
    touched = {(c.frame_id, c.field) for _, changes in history for c in changes}
    blank = {f: value_of(UNMARKED, f) for f in MARK_FIELDS}
    _import(connection, shoot_id, {i: blank for i, held in before.items() if held != UNMARKED}, now)
    walks = _restore_walks(connection, shoot_id, archive, frames)
    batches = _restore_batches(connection, shoot_id, history, walks)
    for one in archive.walks:
        if one.id in walks:
            connection.execute(
                "UPDATE walk SET starting = ?, taken_back = ? WHERE id = ?",
                (batches.get(one.starting or 0), batches.get(one.taken_back or 0), walks[one.id]),
            )
    replayed = replay(c for _, changes in history for c in changes if c.field in MARK_FIELDS)
    connection.executemany(
        f"INSERT OR REPLACE INTO mark (frame_id, {COLUMNS}) VALUES (?, {PLACES})",
        [(i, *values(held)) for i, held in replayed.items()],
    )
    # What the archive never spoke of stays as files here said it: they may have been marked since.
    wanted = {
        i: {
            f: value_of(m if (i, f) in touched or value_of(m, f) != value_of(UNMARKED, f) else before[i], f)
            for f in MARK_FIELDS
        }
        for i, m in there.items()
    }
    _import(connection, shoot_id, wanted, now)
    evidence.set_words(connection, words)
    evidence.set_points(connection, points)
    said = {c.frame_id: c.after for _, changes in history for c in changes if c.field is Field.PROPOSED}
    proposals.keep(connection, {i: Proposal.parse(str(text)) if text else None for i, text in said.items()})
    known = evidence.clocks(connection, shoot_id)
    for camera, ahead_s in archive.about.clocks.items():
        if camera not in known:
            evidence.set_clock(connection, shoot_id, camera, ahead_s)
    connection.execute(
        "UPDATE shoot SET stacked = 0, done_top = NULL, undone_top = NULL WHERE id = ?", (shoot_id,)
    )
    marks.stack(connection, shoot_id)
    revision = shoots.next_revision(connection, shoot_id)
    connection.executemany("UPDATE frame SET revision = ? WHERE id = ?", [(revision, i) for i in there])


def _import(
    connection: sqlite3.Connection, shoot_id: int, wanted: Mapping[int, Mapping[Field, Value]], now: str
) -> None:
    marks.set_marks(
        connection,
        shoot_id,
        wanted,
        kind=BatchKind.IMPORT,
        actor=ACTOR,
        title="marks read from the archive",
        now=now,
    )


def _restore_batches(
    connection: sqlite3.Connection,
    shoot_id: int,
    history: Sequence[tuple[ArchivedBatch, list[Change]]],
    walks: Mapping[int, int],
) -> dict[int, int]:
    """Number of a batch in the archive → batch here."""
    batches: dict[int, int] = {}
    for batch, changes in history:
        row = connection.execute(
            """INSERT INTO batch (shoot_id, kind, reverts, actor, at, title, seen, walk_id)
               VALUES (?, ?, ?, ?, ?, ?, ?, ?)""",
            (
                shoot_id,
                batch.kind,
                batches.get(batch.reverts or 0),
                batch.actor,
                batch.at,
                batch.title,
                batch.seen,
                walks.get(batch.walk or 0),
            ),
        )
        assert row.lastrowid is not None
        batches[batch.id] = row.lastrowid
        connection.executemany(
            "INSERT INTO journal (batch_id, frame_id, field, before, after) VALUES (?, ?, ?, ?, ?)",
            [(row.lastrowid, c.frame_id, c.field, c.before, c.after) for c in changes],
        )
    return batches


def _restore_walks(
    connection: sqlite3.Connection, shoot_id: int, archive: Archive, frames: Mapping[int, int]
) -> dict[int, int]:
    """Number of a walk in the archive → walk here; those of which no frame is here are left out."""
    walks: dict[int, int] = {}
    for one in archive.walks:
        placed = [(frames[p.frame], p.seen, p.started) for p in one.frames if p.frame in frames]
        if not placed:
            continue
        try:
            definition = passes.as_json(passes.from_json(one.definition))
        except ValueError as error:
            raise rules.ArchiveError(f"A pass in this archive cannot be understood: {error}") from error
        row = connection.execute(
            """INSERT INTO walk (shoot_id, definition, begun_at, ended_at, frame_id, seconds)
               VALUES (?, ?, ?, ?, ?, ?)""",
            (
                shoot_id,
                json.dumps(definition, ensure_ascii=False),
                one.begun_at,
                one.ended_at,
                frames.get(one.frame or 0, placed[0][0]),
                one.seconds,
            ),
        )
        assert row.lastrowid is not None
        walks[one.id] = row.lastrowid
        connection.executemany(
            "INSERT INTO walk_frame (walk_id, place, frame_id, seen, started) VALUES (?, ?, ?, ?, ?)",
            [(row.lastrowid, place, *rest) for place, rest in enumerate(placed)],
        )
    return walks


def merge(
    connection: sqlite3.Connection,
    shoot_id: int,
    archive: Archive,
    frames: Mapping[int, int],
    found: Merged,
    now: str,
) -> None:
    """Takes marks, words on groups and points of an archive over as one action, which can be undone. Words and points
    only where there are none. Raises ArchiveError."""
    words, points = words_there(archive, frames)
    here = marks.current(connection, found.take)
    changes = [
        Change(i, field, value_of(here[i], field), value)
        for i, said in found.take.items()
        for field, value in said.items()
    ]
    standing = proposals.of(connection, found.proposed)
    for i, new in found.proposed.items():
        left = settle(standing.get(i), frozenset(found.take[i]))
        both = Proposal(new.fields | left.fields, new.by) if left else new
        changes.append(Change(i, Field.PROPOSED, str(standing[i]) if i in standing else None, str(both)))
    had = evidence.words(connection, shoot_id)
    changes += [Change(i, Field.GROUP, None, str(word)) for i, word in words.items() if i not in had]
    put = evidence.points(connection, shoot_id)
    changes += [Change(i, Field.POINT, None, str(point)) for i, point in points.items() if i not in put]
    touched = len({change.frame_id for change in changes})
    title = f"marks of {touched} frames from the archive “{archive.about.title}”"
    marks.write(connection, shoot_id, changes, ACTOR, title, now)


def keep_filters(connection: sqlite3.Connection, shoot_id: int, archive: Archive) -> None:
    """The filters that were named for the shoot, where none is called so here."""
    known = {fold(one.name) for one in named_filters.of_shoot(connection, shoot_id)}
    for name, sentence in archive.about.filters.items():
        if fold(name) not in known:
            named_filters.keep(connection, shoot_id, name, sentence)
