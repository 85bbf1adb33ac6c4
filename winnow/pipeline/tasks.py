"""What worker processes do. Each task is plain data in, plain data out, and writes only the cache."""

from __future__ import annotations

import faulthandler
import logging
import os
import sys
import threading
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from importlib import resources
from multiprocessing import connection, parent_process
from pathlib import Path

import cv2
from threadpoolctl import threadpool_limits

from winnow.core.capture import Capture, from_tags
from winnow.core.evidence import Sheet, measure
from winnow.core.faces.nets import FaceNets, Model
from winnow.core.marks import UNMARKED, Marks
from winnow.core.orientation import upright_point, upright_size
from winnow.core.xmp_marks import XmpMarks, from_xmp
from winnow.formats import exif, images, xmp
from winnow.pipeline.cache import PREVIEW_EDGE, THUMBNAIL_EDGE, Cache, Kind
from winnow.store.evidence import Measured, pack

log = logging.getLogger(__name__)

TASK_LIMIT_S = 180
"""A worker that needs longer for one task is taken for stuck and ends itself."""

THUMBNAIL_QUALITY = 82
PREVIEW_QUALITY = 88
FULL_QUALITY = 94


@dataclass(frozen=True, slots=True)
class DiskMarks:
    """Marks found in files: in which, when that was written (ISO 8601, UTC), and what they say."""

    source: str
    written_at: str
    marks: Marks


@dataclass(frozen=True, slots=True)
class HeadTask:
    frame_id: int
    path: str
    sidecars: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class HeadResult:
    """`problem`: why the picture cannot be read; `note`: why its marks cannot."""

    frame_id: int
    capture: Capture
    width: int = 0
    height: int = 0
    subject: tuple[float, float] | None = None
    problem: str | None = None
    note: str | None = None
    marks: DiskMarks | None = None


@dataclass(frozen=True, slots=True)
class DeriveTask:
    frame_id: int
    path: str
    version: str
    cache: str


@dataclass(frozen=True, slots=True)
class DeriveResult:
    """`problem`: why the picture cannot be shown; `note`: damage that did not keep it from being shown.
    `measured`: evidence, where it was asked for."""

    frame_id: int
    problem: str | None = None
    note: str | None = None
    measured: Measured | None = None


@dataclass(frozen=True, slots=True)
class PrepareTask:
    """Everything on one frame: thumbnail and preview where they are missing, and the evidence."""

    derive: DeriveTask
    subject: tuple[float, float] | None


def start_worker() -> None:
    """Run once in every worker: give way to the interface, end with the parent."""
    os.nice(5)
    use_one_thread()
    parent = parent_process()

    def follow_parent() -> None:
        if parent is not None:
            connection.wait([parent.sentinel])
            os._exit(0)

    threading.Thread(target=follow_parent, daemon=True).start()


def use_one_thread() -> None:
    """No threads inside a worker: there is a worker for every core, and idle threads of the algebra library
    would wait for work in a loop that takes a third of the processor's time."""
    cv2.setNumThreads(1)
    threadpool_limits(1, user_api="blas")


def warm_up() -> None:
    """Nothing: being asked for it makes the worker start and import what it needs."""


def read_heads(tasks: Sequence[HeadTask]) -> list[HeadResult]:
    """Capture data, size and marks on disk of some frames."""
    with _time_limit():
        return [_read_head(task) for task in tasks]


def _read_head(task: HeadTask) -> HeadResult:
    path = Path(task.path)
    note = None
    try:
        head = images.read_head(path)
    except images.UnreadableError as error:
        marks, note = _marks_on_disk(task, None)
        return HeadResult(task.frame_id, Capture(), problem=str(error), note=note, marks=marks)
    marks, note = _marks_on_disk(task, head)
    capture = from_tags(head.tags)
    return HeadResult(
        task.frame_id, capture, head.width, head.height, _subject(head, capture), note=note, marks=marks
    )


def _subject(head: images.Head, capture: Capture) -> tuple[float, float] | None:
    """Middle of the subject area in upright px."""
    if capture.subject_at is None:
        return None
    stored = upright_size(head.width, head.height, capture.orientation)
    x, y = upright_point(*capture.subject_at, *stored, capture.orientation)
    return (x, y) if 0 <= x < head.width and 0 <= y < head.height else None


def _marks_on_disk(task: HeadTask, head: images.Head | None) -> tuple[DiskMarks | None, str | None]:
    """Marks that other programs left: the newest sidecar, else inside the file, XMP before Exif."""
    note = None
    newest = sorted(task.sidecars, key=lambda s: _modified(s) or 0, reverse=True)
    for sidecar in newest:
        try:
            found = xmp.read_marks(Path(sidecar).read_bytes())
        except (xmp.XmpError, OSError) as error:
            note = f"The marks in {Path(sidecar).name} cannot be read: {error}"
            continue
        return _disk_marks("sidecar", sidecar, found), note
    if head is None:
        return None, note
    if head.packet:
        try:
            found = xmp.read_marks(head.packet)
        except xmp.XmpError as error:
            note = f"The marks inside the file cannot be read: {error}"
        else:
            if found != XmpMarks():
                return _disk_marks("embedded", task.path, found), note
    stars = exif.rating_of(head.tags)
    return (_disk_marks("embedded", task.path, XmpMarks(rating=stars)) if stars else None), note


def _disk_marks(source: str, path: str, found: XmpMarks) -> DiskMarks | None:
    modified = _modified(path)
    marks = from_xmp(found)
    if modified is None or (marks == UNMARKED and source == "embedded"):
        return None
    when = datetime.fromtimestamp(modified, UTC).isoformat(timespec="seconds")
    return DiskMarks(source, when, marks)


def _modified(path: str) -> float | None:
    try:
        return os.stat(path).st_mtime
    except OSError:
        return None


def derive(task: DeriveTask) -> DeriveResult:
    """Thumbnail and preview of one frame at once, from a reduced decode."""
    with _time_limit():
        try:
            decoded = images.decode(Path(task.path), PREVIEW_EDGE)
        except images.UnreadableError as error:
            return DeriveResult(task.frame_id, problem=str(error))
        preview = images.shrink(decoded.pixels, PREVIEW_EDGE)
        _write_reduced(task, preview, images.shrink(preview, THUMBNAIL_EDGE))
        return DeriveResult(task.frame_id, note=decoded.note)


def prepare(task: PrepareTask) -> DeriveResult:
    """Thumbnail, preview and evidence of one frame, from one full decode."""
    with _time_limit():
        wanted = task.derive
        try:
            decoded = images.decode(Path(wanted.path))
        except images.UnreadableError as error:
            return DeriveResult(wanted.frame_id, problem=str(error))
        sheet = Sheet(decoded.pixels, task.subject)
        cache = Cache(Path(wanted.cache))
        if not (cache.has(Kind.PREVIEW, wanted.version) and cache.has(Kind.THUMB, wanted.version)):
            _write_reduced(wanted, sheet.reduced(PREVIEW_EDGE)[0], sheet.reduced(THUMBNAIL_EDGE)[0])
        try:
            measured = pack(measure(sheet, face_nets()))
        except Exception as error:
            # Measuring is an extra: the frame can be seen and marked without it.
            log.exception("measuring %s", wanted.path)
            measured = Measured(None, None, f"It could not be measured ({error}).")
        return DeriveResult(wanted.frame_id, note=decoded.note, measured=measured)


def _write_reduced(task: DeriveTask, preview: images.Pixels, thumbnail: images.Pixels) -> None:
    cache = Cache(Path(task.cache))
    cache.write(Kind.THUMB, task.version, images.encode_jpeg(thumbnail, THUMBNAIL_QUALITY))
    cache.write(Kind.PREVIEW, task.version, images.encode_jpeg(preview, PREVIEW_QUALITY))


@lru_cache(maxsize=1)
def face_nets() -> FaceNets:
    """The networks, loaded at the first frame that a process measures."""
    folder = resources.files("winnow.models")
    return FaceNets({name: (folder / f"{name}.tflite").read_bytes() for name in Model})


def develop_full(task: DeriveTask) -> DeriveResult:
    """All pixels of a frame whose file a browser cannot show by itself."""
    with _time_limit():
        try:
            decoded = images.decode(Path(task.path))
        except images.UnreadableError as error:
            return DeriveResult(task.frame_id, problem=str(error))
        cache = Cache(Path(task.cache))
        cache.write(Kind.FULL, task.version, images.encode_jpeg(decoded.pixels, FULL_QUALITY))
        cache.trim_full()
        return DeriveResult(task.frame_id, note=decoded.note)


@contextmanager
def _time_limit() -> Iterator[None]:
    faulthandler.dump_traceback_later(TASK_LIMIT_S, exit=True, file=sys.__stderr__ or sys.stderr)
    try:
        yield
    finally:
        faulthandler.cancel_dump_traceback_later()
