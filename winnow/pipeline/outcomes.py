"""What the workers came back with, kept in the database."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Container, Iterable, Sequence
from dataclasses import replace
from datetime import UTC, datetime

from winnow.core.agreement import Reading, Source, read_in
from winnow.core.history import BatchKind
from winnow.core.identity import content_version
from winnow.core.marks import clean_label, in_words
from winnow.pipeline import tasks
from winnow.store import bases, frame_files, frames, labels, marks, shoots
from winnow.store.database import Database
from winnow.store.frames import ProblemKind, Stage

log = logging.getLogger(__name__)


def keep_heads(
    database: Database,
    shoot_id: int,
    read: Iterable[tuple[tasks.HeadTask, tasks.HeadResult]],
    without_preview: Container[int],
    *,
    quiet: bool = False,
) -> set[int]:
    """Capture data, sizes, fingerprints and marks found on disk; or why a file could not be read.

    without_preview: ids of the frames whose pictures are still to be made. quiet: nobody asked for what other
    programs wrote on frames that are known; it waits, and the frame says so. Returns the frames whose files are
    others by now (a plan wrote marks into them): what was read of them is old, and is not kept."""
    read, old = list(read), set()
    with database.transaction() as connection:
        revision = shoots.next_revision(connection, shoot_id)
        quiet = quiet or not database.settings.now().takes_in
        now = frame_files.files_of(connection, [task.frame_id for task, _ in read])
        for task, result in read:
            if now[task.frame_id] != list(task.listed):
                old.add(task.frame_id)
                continue
            connection.execute("SAVEPOINT one")
            try:
                waits = quiet and frames.is_known(connection, result.frame_id)
                if waits and _waits(connection, result):
                    note = " ".join(result.notes) or None
                else:
                    note = _import_marks(connection, shoot_id, result)
                _keep_head(connection, result, result.frame_id in without_preview, note, revision)
            except (ValueError, sqlite3.InterfaceError, sqlite3.DataError, OverflowError) as error:
                # What one file says must not keep the others of its task from being kept.
                log.exception("keeping the head of frame %d", result.frame_id)
                connection.execute("ROLLBACK TO one")
                text = f"What it says of itself cannot be kept ({type(error).__name__})."
                frames.set_problem(connection, result.frame_id, text, ProblemKind.LASTING, revision)
            connection.execute("RELEASE one")
    return old


def _keep_head(
    connection: sqlite3.Connection,
    result: tasks.HeadResult,
    without_preview: bool,
    note: str | None,
    revision: int,
) -> None:
    fingerprint = result.fingerprint
    if result.problem or fingerprint is None:
        if fingerprint is not None:
            frames.set_fingerprint(connection, result.frame_id, fingerprint.content, fingerprint.picture)
        problem = result.problem or tasks.Problem("It cannot be read.", ProblemKind.PASSING)
        frames.set_problem(connection, result.frame_id, problem.text, problem.kind, revision)
        return
    capture = result.capture
    frames.set_edited(connection, result.frame_id, result.edited)
    frames.set_orientation(connection, result.frame_id, capture.orientation)
    version = content_version(fingerprint.picture, capture.orientation, capture.exposure)
    frames.set_head(
        connection,
        result.frame_id,
        capture,
        (result.width, result.height),
        result.as_is,
        (result.space, result.profiled),
        result.subject,
        Stage.READ if without_preview else Stage.PREVIEW,
        note,
        (fingerprint.content, fingerprint.picture, version),
        revision,
    )


def _import_marks(connection: sqlite3.Connection, shoot_id: int, result: tasks.HeadResult) -> str | None:
    """Takes over marks found on disk, property by property, where no mark of a person stands. Where one does and
    the file was changed since both sides agreed, theirs is not taken, and the returned note says what it is."""
    frame_id = result.frame_id
    sources = _sources(connection, result)
    reading = _read_in(connection, result, sources)
    frames.set_incoming(connection, frame_id, False)
    for kind in dict.fromkeys(source.kind for _, source in reading.take.values()):
        marks.set_marks(
            connection,
            shoot_id,
            {frame_id: {f: value for f, (value, source) in reading.take.items() if source.kind == kind}},
            kind=BatchKind.IMPORT,
            actor=kind,
            title=f"marks read from the {kind}",
            now=datetime.now(UTC).isoformat(timespec="milliseconds"),
        )
    for source in sources:
        base = bases.Base(source.path, source.digest, source.at, reading.agreed[source.path])
        bases.keep(connection, frame_id, base)
    notes = list(result.notes)
    if reading.differ:
        source = next(iter(reading.differ.values()))[1]
        names = labels.current(connection)
        said = ", ".join(in_words(f, value, names.name_of) for f, (value, _) in reading.differ.items())
        where = "sidecar" if source.kind == "sidecar" else "file"
        notes.append(f"Its {where} is newer than your marks and says: {said}. Yours were kept.")
    return " ".join(notes) or None


def _waits(connection: sqlite3.Connection, result: tasks.HeadResult) -> bool:
    """Whether marks on disk changed that are left to wait; what was agreed stays what it was."""
    reading = _read_in(connection, result, _sources(connection, result))
    waits = bool(reading.take or reading.differ)
    frames.set_incoming(connection, result.frame_id, waits)
    return waits


def _sources(connection: sqlite3.Connection, result: tasks.HeadResult) -> list[Source]:
    """What files say of a frame, labels by their ids."""
    names = labels.current(connection)
    return [
        replace(source, found=replace(source.found, label=names.id_of(label)))
        if (label := clean_label(source.found.label or ""))
        else source
        for source in result.sources
    ]


def _read_in(connection: sqlite3.Connection, result: tasks.HeadResult, sources: Sequence[Source]) -> Reading:
    frame_id = result.frame_id
    return read_in(
        sources,
        {path: base.marks for path, base in bases.of_frame(connection, frame_id).items()},
        marks.current(connection, [frame_id])[frame_id],
        marks.standing(connection, frame_id),
        result.capture.orientation if result.fingerprint and not result.problem else None,
    )


def keep_derived(
    database: Database, shoot_id: int, picture: frames.Picture, result: tasks.DeriveResult
) -> None:
    """That the pictures of a frame are made; or why they could not be. A frame that goes by another version by now
    is not touched: they are not its pictures."""
    with database.transaction() as connection:
        now = frames.picture(connection, picture.frame_id)
        if now is None or now.version != picture.version:
            return
        revision = shoots.next_revision(connection, shoot_id)
        if result.problem:
            problem = result.problem
            frames.set_problem(connection, picture.frame_id, problem.text, problem.kind, revision)
            return
        if now.stage != Stage.LISTED:
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
