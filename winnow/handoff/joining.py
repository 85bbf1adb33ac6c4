"""A whole shoot saved as an archive, and an archive joined to the shoot whose pictures lie here."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from sqlite3 import Connection

from winnow.core.archive import Archive, ArchiveError, Merged, merged, proposed_there
from winnow.formats.archive import TOO_MUCH, packed, unpacked
from winnow.store import archives, marks
from winnow.store.database import Database
from winnow.store.shoots import Shoot


@dataclass(frozen=True, slots=True)
class Joined:
    """What joining does or would do. found: frames of the archive that are here; missing: names of the others; whole:
    nobody did anything to the shoot yet, so history and passes come along; taken: frames that get marks; differ:
    frames that are marked otherwise here."""

    title: str
    made_at: str
    frames: int
    found: int
    missing: list[str]
    whole: bool
    taken: int
    differ: int
    actions: int
    walks: int


def save(connection: Connection, shoot: Shoot, now: str) -> bytes:
    """Return the archive of a shoot, as a file."""
    connection.execute("BEGIN")  # one moment of it, without keeping anybody from writing
    try:
        return packed(archives.read(connection, shoot, now))
    finally:
        connection.execute("ROLLBACK")


def join(
    database: Database,
    shoot_id: int,
    content: bytes,
    now: str,
    *,
    theirs: bool = False,
    dry_run: bool = False,
) -> Joined:
    """Joins an archive to a shoot by the content of its frames; says what it did. theirs: what the archive says wins
    where both say something. dry_run: only says it. Raises ArchiveError: then nothing is done."""
    archive = unpacked(content)
    connection = database.connection()
    frames = archives.frames_here(connection, shoot_id, archive)  # the long part: nobody waits for it
    if not frames:
        raise ArchiveError(
            f"None of the {len(archive.frames):,} frames of “{archive.about.title}” is in this shoot: open the "
            "folder in which they lie, and join it there."
        )
    proposed = proposed_there(archive, frames)
    with database.transaction() as connection:
        whole = not archives.has_history(connection, shoot_id)
        connection.execute("SAVEPOINT joining")
        ids = archives.take_labels(connection, archive, frames, now)
        there = archives.marks_there(archive, frames, ids)
        found = merged(there, proposed, marks.current(connection, there), theirs=theirs)
        if dry_run:
            connection.execute("ROLLBACK TO joining")
        elif whole:
            archives.restore(connection, shoot_id, archive, frames, ids, now)
        else:
            archives.merge(connection, shoot_id, archive, frames, found, now)
        if not dry_run:
            archives.keep_filters(connection, shoot_id, archive)
        connection.execute("RELEASE joining")
    return _told(archive, frames, found, whole=whole)


@dataclass(frozen=True, slots=True)
class JoinTask:
    """An archive to be joined in a worker process, whose memory is limited. archive: the file it lies in."""

    database: Path
    shoot_id: int
    archive: Path
    now: str
    theirs: bool
    dry_run: bool


def join_apart(task: JoinTask) -> Joined:
    """`join` as a task of a worker process. Raises ArchiveError."""
    try:
        content = task.archive.read_bytes()
        return join(
            Database(task.database),
            task.shoot_id,
            content,
            task.now,
            theirs=task.theirs,
            dry_run=task.dry_run,
        )
    except MemoryError:
        raise ArchiveError(TOO_MUCH) from None


def _told(archive: Archive, frames: dict[int, int], found: Merged, *, whole: bool) -> Joined:
    return Joined(
        archive.about.title,
        archive.about.made_at,
        len(archive.frames),
        len(frames),
        [one.name for one in archive.frames if one.id not in frames],
        whole,
        sum(bool(one.marks) for one in archive.frames if one.id in frames) if whole else len(found.take),
        0 if whole else len(found.differ),
        sum(batch.kind == "mark" for batch in archive.history) if whole else 0,
        len(archive.walks) if whole else 0,
    )
