"""What waits in holding folders: how much, since when."""

from __future__ import annotations

import os
from collections import defaultdict
from dataclasses import dataclass
from datetime import UTC, datetime
from sqlite3 import Connection

from winnow.pipeline.scan import HOLDING_MARKER
from winnow.store import frame_files


@dataclass(frozen=True, slots=True)
class Holding:
    """A folder that rejects wait in. bytes: on disk; since: when it was made, ISO 8601, UTC, None where it cannot be
    reached."""

    path: str
    frames: int
    bytes: int
    since: str | None


def folder_around(path: str) -> str | None:
    """The holding folder that a file lies in, told by the marker that Winnow leaves in each; None if it lies in
    none."""
    folder = os.path.dirname(path)
    while not os.path.exists(os.path.join(folder, HOLDING_MARKER)):
        if folder == os.path.dirname(folder):
            return None
        folder = os.path.dirname(folder)
    return folder


def holdings(connection: Connection, shoot_id: int) -> list[Holding]:
    """The holding folders of a shoot, with what is in them."""
    around: dict[str, str] = {}
    frames: dict[str, set[int]] = defaultdict(set)
    sizes: dict[str, int] = defaultdict(int)
    for frame_id, path, size in frame_files.held(connection, shoot_id):
        folder = os.path.dirname(path)
        if folder not in around:
            around[folder] = folder_around(path) or folder
        frames[around[folder]].add(frame_id)
        sizes[around[folder]] += size
    return [Holding(path, len(frames[path]), sizes[path], _since(path)) for path in sizes]


def _since(folder: str) -> str | None:
    try:
        made = os.stat(os.path.join(folder, HOLDING_MARKER)).st_mtime
    except OSError:
        return None
    return datetime.fromtimestamp(made, UTC).isoformat(timespec="seconds")
