"""The heads of frames: what is to be read, and reading it at once where no engine runs."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from concurrent.futures import Future
from sqlite3 import Connection
from typing import Any

from winnow.pipeline import outcomes, tasks
from winnow.pipeline.cache import Cache
from winnow.pipeline.listing import list_shoot
from winnow.store import frame_files, frames
from winnow.store.database import Database
from winnow.store.frames import Picture, Stage
from winnow.store.shoots import Shoot

HEADS_A_TASK = 24


def head_tasks(connection: Connection, unread: Sequence[Picture]) -> list[list[tasks.HeadTask]]:
    """What the workers are told to read, some frames a task."""
    files = frame_files.files_of(connection, [p.frame_id for p in unread])
    heads = [
        tasks.HeadTask(
            p.frame_id,
            p.path,
            p.below,
            tuple(f.path for f in files[p.frame_id] if f.role == "sidecar"),
            tuple(files[p.frame_id]),
        )
        for p in unread
    ]
    return [heads[i : i + HEADS_A_TASK] for i in range(0, len(heads), HEADS_A_TASK)]


def read_now(
    database: Database,
    cache: Cache,
    shoot: Shoot,
    told: Callable[[int, int], None] = lambda done, total: None,
) -> None:
    """Lists a shoot and reads the heads of what is new, in this process. told: (frames read, of how many). Raises
    FolderUnreadableError, NoRoomError."""
    list_shoot(database, cache, at_once, shoot)
    known = frames.pictures(database.connection(), shoot.id)
    unread = [p for p in known if p.stage == Stage.LISTED]
    for number, chunk in enumerate(head_tasks(database.connection(), unread)):
        told(min(len(unread), number * HEADS_A_TASK), len(unread))
        without = {task.frame_id for task in chunk}
        read = zip(chunk, tasks.read_heads(chunk), strict=True)
        outcomes.keep_heads(database, shoot.id, read, without_preview=without)
    told(len(unread), len(unread))


def at_once(function: Callable[..., Any], argument: Any) -> Future[Any]:
    """Does here what a worker would do."""
    done: Future[Any] = Future()
    done.set_result(function(argument))
    return done
