"""The same point in the other frames of a group, from prepared data. Previews are decoded in a process of its own."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

import simplejpeg

from winnow.core.match import EDGE, Match, Prepared, find_point, prepare
from winnow.core.similarity import Descriptor
from winnow.pipeline.cache import Cache, Kind
from winnow.pipeline.workers import Worker
from winnow.store import evidence, frames
from winnow.store.database import Database

KEPT = 48
"""Prepared frames that the process keeps, about 1.2 MB each."""


class NotPreparedError(RuntimeError):
    """A frame has no preview or no evidence yet; the message says so to a person."""


@dataclass(frozen=True, slots=True)
class FindTask:
    """A point (x, y) in px of the full picture, to be found in the frames after the first."""

    frames: Sequence[_Frame]
    x: float
    y: float


@dataclass(frozen=True, slots=True)
class _Frame:
    """A frame with a preview. width, height: of the full picture, px."""

    id: int
    version: str
    preview: str
    width: int
    height: int
    descriptor: Descriptor


class PointFinder:
    """Finds points again. Its process starts when it is first asked."""

    def __init__(self, database: Database, cache: Cache) -> None:
        self.database = database
        self.cache = cache
        self._worker: Worker | None = None
        self._lock = Lock()

    def find(self, frame_id: int, x: float, y: float, others: list[int]) -> dict[int, Match]:
        """Find where the other frames show what a frame shows at (x, y), px of the full picture. Frames that are not
        prepared yet are left out. Raises NotPreparedError if the frame itself is not, and WorkerCrashedError."""
        ready = self._ready([frame_id, *others])
        if frame_id not in ready:
            raise NotPreparedError("This frame is not measured yet.")
        task = FindTask([ready[i] for i in (frame_id, *others) if i in ready], x, y)
        with self._lock:
            self._worker = self._worker or Worker()
            worker = self._worker
        found: dict[int, Match] = worker.run(find_points, task).result()
        return found

    def close(self) -> None:
        with self._lock:
            if self._worker is not None:
                self._worker.stop()

    def _ready(self, frame_ids: list[int]) -> dict[int, _Frame]:
        connection = self.database.connection()
        measured = evidence.load(connection, frame_ids)
        ready = {}
        for frame_id, found in measured.items():
            picture = frames.picture(connection, frame_id)
            if picture is None or not self.cache.has(Kind.PREVIEW, picture.version):
                continue
            preview = str(self.cache.path(Kind.PREVIEW, picture.version))
            size = found.width, found.height
            ready[frame_id] = _Frame(frame_id, picture.version, preview, *size, found.descriptor)
        return ready


_kept: OrderedDict[tuple[int, str], Prepared] = OrderedDict()


def find_points(task: FindTask) -> dict[int, Match]:
    """Find a point in frames. Runs in the process of a `PointFinder`."""
    first, *others = task.frames
    one = _prepared(first)
    found = {other.id: find_point(one, _prepared(other), task.x, task.y) for other in others}
    return {frame_id: match for frame_id, match in found.items() if match is not None}


def _prepared(frame: _Frame) -> Prepared:
    key = (frame.id, frame.version)
    made = _kept.pop(key, None)
    if made is None:
        jpeg = Path(frame.preview).read_bytes()
        height, width = simplejpeg.decode_jpeg_header(jpeg)[:2]
        scale = min(1.0, EDGE / max(height, width))
        least = {"min_width": int(width * scale), "min_height": int(height * scale)}
        grey = simplejpeg.decode_jpeg(jpeg, "GRAY", **least)[..., 0]
        made = prepare(grey, (frame.width, frame.height), frame.descriptor)
    _kept[key] = made
    while len(_kept) > KEPT:
        _kept.popitem(last=False)
    return made
