"""A shoot listed: what lies on disk, whose the files are that moved or changed, and the store brought in line."""

from __future__ import annotations

import os
from collections.abc import Callable, Mapping, Sequence
from concurrent.futures import Future
from typing import Any

from winnow.pipeline import tasks
from winnow.pipeline.cache import Cache, Kind
from winnow.pipeline.scan import FolderUnreadableError, Listing, list_folder, mount_of
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import frames, listing, shoots
from winnow.store.database import Database, display
from winnow.store.listing import Identified, Question
from winnow.store.shoots import Shoot

IDENTIFIED_A_TASK = 40
NOTES = 200
"""So many are told of what was left out; the rest is counted."""

Ask = Callable[[Callable[..., Any], Any], "Future[Any]"]
"""Runs a task in a worker before other work."""


def list_shoot(
    database: Database, cache: Cache, ask: Ask, shoot: Shoot, *, asked: bool = False, quiet: bool = False
) -> None:
    """Reads the folders of a shoot and brings its frames in line with them.

    asked: a person wants what failed to be tried again, whatever it was. quiet: nobody asked for it; marks on disk
    that wait to be taken over go on waiting. Raises FolderUnreadableError, NoRoomError.
    """
    found = [(folder_id, list_folder(path)) for folder_id, path in shoot.folders]
    if is_gone(database, shoot):
        # Pulled out while it was read, or an empty mount point left: its frames do not count as gone for that.
        names = ", ".join(display(path) for _, path in shoot.folders)
        raise FolderUnreadableError(f"{names} cannot be reached: connect its disk again.")
    every = [(folder_id, frame) for folder_id, part in found for frame in part.frames]
    known = listing.remembered(database.connection(), shoot.id)
    compared = listing.compare(known, [frame for _, frame in every])
    folders = {
        frame.shown: path
        for (_, path), (_, part) in zip(shoot.folders, found, strict=True)
        for frame in part.frames
    }
    identified = _identify(cache, ask, compared.questions, compared.lost, folders)
    with database.transaction() as connection:
        revision = shoots.next_revision(connection, shoot.id)
        listing.reconcile(connection, shoot.id, every, identified, revision, _closed(found))
        frames.try_again(connection, shoot.id, revision, asked=asked)
        if not quiet:
            frames.read_incoming(connection, shoot.id, revision)
        notes = [note for _, part in found for note in part.notes]
        if len(notes) > NOTES:
            notes[NOTES:] = [f"And {len(notes) - NOTES:,} more."]
        shoots.set_scan_note(connection, shoot.id, "\n".join(notes) or None)
        for folder_id, path in shoot.folders:
            shoots.set_mount(connection, folder_id, mount_of(path))


def is_gone(database: Database, shoot: Shoot) -> bool:
    """Whether a folder of a shoot cannot be reached, or the disk that it was on is not there."""
    if any(not os.path.isdir(path) for _, path in shoot.folders):
        return True
    return not all(map(os.path.ismount, shoots.mounts(database.connection(), shoot.id)))


def _closed(found: Sequence[tuple[int, Listing]]) -> list[str]:
    return [folder + os.sep for _, part in found for folder in part.closed]


def _identify(
    cache: Cache,
    ask: Ask,
    questions: Sequence[Question],
    lost: Sequence[listing.Remembered],
    folders: Mapping[str, str],
) -> dict[str, Identified]:
    """Reads the files of which it must be told whose they are; a file that makes the worker crash is left out.
    folders: of the shoot, by shown path."""
    contents = frozenset(frame.known.content for frame in lost if frame.known.content)
    wanted = [_task(cache, question, contents, folders[question.listed.shown]) for question in questions]
    chunks = [wanted[i : i + IDENTIFIED_A_TASK] for i in range(0, len(wanted), IDENTIFIED_A_TASK)]
    identified: dict[str, Identified] = {}
    for chunk, answer in [(chunk, ask(tasks.identify, chunk)) for chunk in chunks]:
        try:
            identified |= answer.result()
        except WorkerCrashedError:
            for task in chunk:
                try:
                    identified |= ask(tasks.identify, [task]).result()
                except WorkerCrashedError:
                    continue
    return identified


def _task(cache: Cache, question: Question, contents: frozenset[str], below: str) -> tasks.IdentifyTask:
    at = question.at
    if at is None:
        return tasks.IdentifyTask(question.listed.shown, below, contents)
    return tasks.IdentifyTask(
        question.listed.shown,
        below,
        contents,
        at.known.content,
        at.known.exposure,
        str(cache.path(Kind.THUMB, at.version)),
    )
