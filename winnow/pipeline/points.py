"""The same point in the other frames of a group, from prepared data."""

from __future__ import annotations

from collections import OrderedDict
from concurrent.futures import ThreadPoolExecutor
from threading import Lock

import simplejpeg

from winnow.core.match import EDGE, Match, Prepared, find_point, prepare
from winnow.pipeline.cache import Cache, Kind
from winnow.pipeline.workers import worker_count
from winnow.store import evidence, frames
from winnow.store.database import Database

KEPT = 48
"""Prepared frames in memory, about 1.2 MB each."""


class NotPreparedError(RuntimeError):
    """A frame has no preview or no evidence yet; the message says so to a person."""


class PointFinder:
    """Finds points again; frames that were asked for lately are kept prepared."""

    def __init__(self, database: Database, cache: Cache) -> None:
        self.database = database
        self.cache = cache
        self._kept: OrderedDict[tuple[int, str], Prepared] = OrderedDict()
        self._lock = Lock()
        self._threads = ThreadPoolExecutor(max_workers=worker_count(), thread_name_prefix="points")

    def find(self, frame_id: int, x: float, y: float, others: list[int]) -> dict[int, Match]:
        """Where the other frames show what a frame shows at (x, y), px of the full picture. Frames that are not
        prepared yet are left out. Raises NotPreparedError if the frame itself is not."""
        one = self._prepared(frame_id)
        ready = list(self._threads.map(self._try_to_prepare, others))
        found = self._threads.map(lambda other: find_point(one, other, x, y) if other else None, ready)
        return {other: match for other, match in zip(others, found, strict=True) if match is not None}

    def _try_to_prepare(self, frame_id: int) -> Prepared | None:
        try:
            return self._prepared(frame_id)
        except NotPreparedError:
            return None

    def _prepared(self, frame_id: int) -> Prepared:
        connection = self.database.connection()
        picture = frames.picture(connection, frame_id)
        if picture is None:
            raise NotPreparedError("This frame is not known any more.")
        key = (frame_id, picture.version)
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
                return self._kept[key]
        made = self._make(picture)
        with self._lock:
            self._kept[key] = made
            while len(self._kept) > KEPT:
                self._kept.popitem(last=False)
        return made

    def _make(self, picture: frames.Picture) -> Prepared:
        found = evidence.load(self.database.connection(), [picture.frame_id]).get(picture.frame_id)
        path = self.cache.path(Kind.PREVIEW, picture.version)
        if found is None or not path.is_file():
            raise NotPreparedError("This frame is not measured yet.")
        jpeg = path.read_bytes()
        height, width = simplejpeg.decode_jpeg_header(jpeg)[:2]
        scale = min(1.0, EDGE / max(height, width))
        grey = simplejpeg.decode_jpeg(
            jpeg, "GRAY", min_width=int(width * scale), min_height=int(height * scale)
        )[..., 0]
        return prepare(grey, (found.width, found.height), found.descriptor)
