"""What the workers came back with, kept in the database."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable
from concurrent.futures import Future
from datetime import UTC, datetime

from winnow.core.history import BatchKind
from winnow.core.marks import MARK_FIELDS, UNMARKED, value_of
from winnow.pipeline import tasks
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import frames, marks, shoots
from winnow.store.database import Database
from winnow.store.frames import Stage

CRASHED = "Reading it made the reader crash; it is left out. The file may be damaged."


def keep_heads(
    database: Database, shoot_id: int, results: Iterable[tasks.HeadResult], without_preview: set[int]
) -> None:
    """Capture data, sizes and marks found on disk; or why a file could not be read. `without_preview`: ids of the
    frames whose pictures are still to be made."""
    with database.transaction() as connection:
        revision = shoots.next_revision(connection, shoot_id)
        for result in results:
            note = _import_marks(connection, shoot_id, result)
            if result.problem:
                frames.set_problem(connection, result.frame_id, result.problem, revision)
                continue
            frames.set_head(
                connection,
                result.frame_id,
                result.capture,
                (result.width, result.height),
                result.subject,
                Stage.READ if result.frame_id in without_preview else Stage.PREVIEW,
                note,
                revision,
            )


def _import_marks(connection: sqlite3.Connection, shoot_id: int, result: tasks.HeadResult) -> str | None:
    """Reads in marks found on disk. Those of a person are never overwritten: where they differ
    and the file is newer, the returned note says so."""
    found = result.marks
    if found is None:
        return result.note
    here = marks.current(connection, [result.frame_id])[result.frame_id]
    marked_at = marks.last_marked_by_person(connection, result.frame_id)
    if marked_at is None:
        marks.set_marks(
            connection,
            shoot_id,
            {result.frame_id: {field: value_of(found.marks, field) for field in MARK_FIELDS}},
            kind=BatchKind.IMPORT,
            actor=found.source,
            title=f"marks read from the {found.source}",
            now=datetime.now(UTC).isoformat(timespec="milliseconds"),
        )
    elif found.marks not in (here, UNMARKED) and found.written_at > marked_at:
        there = found.marks
        return (
            f"Its {found.source} is newer than your marks and says: {there.decision}, "
            f"{there.rating} stars, label {there.label or 'none'}. Yours were kept."
        )
    return result.note


def keep_derived(
    database: Database, shoot_id: int, picture: frames.Picture, done: Future[tasks.DeriveResult]
) -> None:
    """That the pictures of a frame are made; or why they could not be."""
    try:
        result = done.result()
    except WorkerCrashedError:
        result = tasks.DeriveResult(picture.frame_id, problem=CRASHED)
    except OSError as error:
        result = tasks.DeriveResult(
            picture.frame_id,
            problem=f"Its preview could not be written ({error.strerror}): "
            "make room on the disk of the data folder, then open the shoot again.",
        )
    with database.transaction() as connection:
        revision = shoots.next_revision(connection, shoot_id)
        if result.problem:
            frames.set_problem(connection, picture.frame_id, result.problem, revision)
            return
        frames.set_stage(connection, picture.frame_id, Stage.PREVIEW, revision)
        if result.note:
            frames.set_note(connection, picture.frame_id, result.note, revision)


def correct_stages(
    database: Database, shoot_id: int, known: Iterable[frames.Picture], previews: set[str]
) -> None:
    """The database says what was made once; the cache, which may have been deleted, decides. `previews`: the versions
    of pictures that are in the cache."""
    wrong = [
        (p, Stage.PREVIEW if p.version in previews else Stage.READ)
        for p in known
        if p.stage != Stage.LISTED and not p.problem and (p.stage >= Stage.PREVIEW) != (p.version in previews)
    ]
    if not wrong:
        return
    with database.transaction() as connection:
        revision = shoots.next_revision(connection, shoot_id)
        for picture, stage in wrong:
            frames.set_stage(connection, picture.frame_id, stage, revision)
