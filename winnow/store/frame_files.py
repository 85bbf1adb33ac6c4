"""Files of frames, as they were last found on disk."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from winnow.store.database import from_blob, in_chunks, move_below, places, to_blob


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


def files_of(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, list[ListedFile]]:
    """The files of each frame, the RAW file first, sidecars last."""
    found: dict[int, list[ListedFile]] = {frame_id: [] for frame_id in frame_ids}
    for some in in_chunks(list(found)):
        for frame_id, path, role, size, mtime_ns in connection.execute(
            f"""SELECT frame_id, path, role, size, mtime_ns FROM file WHERE frame_id IN ({places(some)})
                ORDER BY role = 'sidecar', role DESC, path""",
            some,
        ):
            found[frame_id].append(ListedFile(from_blob(path), role, size, mtime_ns))
    return found


def every_file(connection: sqlite3.Connection) -> Iterator[tuple[str, int, int]]:
    """(path, size, mtime_ns) of all files of all shoots but the sidecars."""
    rows = connection.execute("SELECT path, size, mtime_ns FROM file WHERE role != 'sidecar'")
    return ((from_blob(path), size, mtime_ns) for path, size, mtime_ns in rows)


def held(connection: sqlite3.Connection, shoot_id: int) -> list[tuple[int, str, int]]:
    """(frame, path, size) of the files that are held back, by the place of their frames in capture order."""
    rows = connection.execute(
        """SELECT frame.id, path, size FROM file JOIN frame ON frame.id = file.frame_id
           WHERE shoot_id = ? AND place = 'held' ORDER BY position, frame.id""",
        (shoot_id,),
    )
    return [(frame_id, from_blob(path), size) for frame_id, path, size in rows]


def at_paths(connection: sqlite3.Connection, paths: Sequence[str]) -> dict[str, int]:
    """The frame that a path is a file of, for those that are."""
    found: dict[str, int] = {}
    for some in in_chunks([to_blob(path) for path in paths]):
        rows = connection.execute(f"SELECT path, frame_id FROM file WHERE path IN ({places(some)})", some)
        found |= {from_blob(path): frame_id for path, frame_id in rows}
    return found


def set_files(connection: sqlite3.Connection, frame_id: int, files: Iterable[ListedFile]) -> None:
    """Replaces the files of a frame."""
    connection.execute("DELETE FROM file WHERE frame_id = ?", (frame_id,))
    connection.executemany(
        "INSERT INTO file (frame_id, path, role, size, mtime_ns) VALUES (?, ?, ?, ?, ?)",
        [(frame_id, to_blob(f.path), f.role, f.size, f.mtime_ns) for f in files],
    )


def relocate_files(connection: sqlite3.Connection, shoot_id: int, old: str, new: str) -> None:
    """Files of a shoot below one folder lie below another."""
    which = "frame_id IN (SELECT id FROM frame WHERE shoot_id = ?)"
    move_below(connection, "file", "path", which, old, new, shoot_id)


def drop_file(connection: sqlite3.Connection, frame_id: int, path: str) -> None:
    """The path is another frame's now."""
    connection.execute("DELETE FROM file WHERE frame_id = ? AND path = ?", (frame_id, to_blob(path)))
