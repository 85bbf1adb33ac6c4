"""What worker processes do. Each task is plain data in, plain data out, and writes only the cache."""

from __future__ import annotations

import faulthandler
import logging
import os
import sys
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, field, replace
from functools import lru_cache
from importlib import resources
from multiprocessing import connection, parent_process
from pathlib import Path

import cv2
import psutil
from threadpoolctl import threadpool_limits

from winnow.core.agreement import Source
from winnow.core.capture import Area, Capture, from_tags
from winnow.core.evidence import Sheet, measure
from winnow.core.faces.nets import FaceNets, Model
from winnow.core.identity import LIKE_COLOUR, LIKE_STRUCTURE, Exposure, same_exposure
from winnow.core.orientation import upright, upright_point, upright_size
from winnow.core.picture import Picture, Rgb
from winnow.core.points import Point
from winnow.core.similarity import compare, describe
from winnow.core.xmp_marks import XmpMarks
from winnow.formats import budget, exif, images, xmp
from winnow.formats.colour import Colours
from winnow.formats.fingerprint import Fingerprint, digest_of_all, digest_of_bytes, fingerprint_of
from winnow.formats.opening import read_plain
from winnow.formats.whole import read_whole
from winnow.pipeline import logs
from winnow.pipeline.cache import MEDIUM_EDGE, PREVIEW_EDGE, THUMBNAIL_EDGE, TINY_EDGE, Cache, Kind
from winnow.pipeline.scan import date_of
from winnow.store.database import display
from winnow.store.evidence import Measured, pack
from winnow.store.frame_files import ListedFile
from winnow.store.frames import ProblemKind
from winnow.store.listing import Identified

log = logging.getLogger(__name__)

TASK_LIMIT_S = 180
"""A worker that needs longer for one task is taken for stuck and ends itself."""

GLIMPSE_EDGE = 320
SAID = 500
"""Characters of what a decoder says of a file: it may quote from it."""
WHOLE = 0.9
"""Cameras trim a little off the JPEG inside a RAW file; what is smaller than this share is not all of a picture."""
TOO_LARGE = Measured(
    None,
    None,
    "It is not measured: measuring needs all its pixels in memory, and that would take more than Winnow gives to "
    "one picture. It can be seen and marked.",
    lasting=True,
)

LEAST_EDGE, LEAST_SIDE = 300, 100
"""Long and short side, px, of the smallest pictures that are measured."""
TOO_SMALL = Measured(None, None, "It is too small to measure. It can be seen and marked.", lasting=True)

TINY_QUALITY, THUMBNAIL_QUALITY = 78, 82
PREVIEW_QUALITY = 88
FULL_QUALITY = 94


@dataclass(frozen=True, slots=True)
class HeadTask:
    """below: folder of the shoot, which its files must lie in (see `formats.opening`), as in the other tasks. listed:
    all files of the frame, as they were listed."""

    frame_id: int
    path: str
    below: str
    sidecars: tuple[str, ...]
    listed: tuple[ListedFile, ...] = ()


@dataclass(frozen=True, slots=True)
class Problem:
    """Why a picture cannot be read or shown, in words for a person."""

    text: str
    kind: ProblemKind


@dataclass(frozen=True, slots=True)
class HeadResult:
    """`problem`: why the picture cannot be read; `notes`: why its marks cannot. `sources`: files that speak of its
    marks, the ones that count first come first. `fingerprint` is None where the file cannot be read at all."""

    frame_id: int
    capture: Capture = field(default_factory=Capture)
    width: int = 0
    height: int = 0
    subject: Area | None = None
    as_is: bool = False
    space: str | None = None
    profiled: bool = False
    fingerprint: Fingerprint | None = None
    problem: Problem | None = None
    notes: tuple[str, ...] = ()
    sources: tuple[Source, ...] = ()
    edited: bool = False


@dataclass(frozen=True, slots=True)
class IdentifyTask:
    """A shown file of which it must be told whose it is. contents: of the frames that are looked for. at: content
    of the frame that was last seen under this path, `thumbnail` its small picture, `exposure` what its camera
    said."""

    path: str
    below: str
    contents: frozenset[str]
    at: str | None = None
    exposure: Exposure | None = None
    thumbnail: str | None = None


@dataclass(frozen=True, slots=True)
class DeriveTask:
    frame_id: int
    path: str
    below: str
    version: str
    cache: str


@dataclass(frozen=True, slots=True)
class DeriveResult:
    """`problem`: why the picture cannot be shown; `note`: damage that did not keep it from being shown.
    `measured`: evidence, where it was asked for. `digest`: over all bytes of the file that was decoded."""

    frame_id: int
    problem: Problem | None = None
    note: str | None = None
    measured: Measured | None = None
    digest: str | None = None


@dataclass(frozen=True, slots=True)
class GlimpseResult:
    """A small JPEG that is not kept, or why there is none."""

    jpeg: bytes | None
    problem: Problem | None = None


@dataclass(frozen=True, slots=True)
class PrepareTask:
    """Everything on one frame: thumbnail and preview where they are missing, and the evidence."""

    derive: DeriveTask
    subject: Area | None
    point: Point | None = None


@dataclass(frozen=True, slots=True)
class TidyTask:
    """limit: bytes."""

    cache: str
    limit: int


def start_worker(log: Mapping[str, str] | None = None) -> None:
    """Run once in every worker: give way to the interface, end with the parent. log: see `logs.settled`."""
    os.environ.update(log or {})
    logs.join()
    if sys.platform == "win32":
        psutil.Process().nice(psutil.BELOW_NORMAL_PRIORITY_CLASS)
    else:
        os.nice(10)
    use_one_thread()
    budget.bind()
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
    """Makes the worker start and load what it needs."""
    import winnow.pipeline.loaded  # noqa: F401


def read_heads(tasks: Sequence[HeadTask]) -> list[HeadResult]:
    """Capture data, size, fingerprint and marks on disk of some frames. What goes wrong with one stays with it."""
    with _time_limit():
        return [_read_head_alone(task) for task in tasks]


def _read_head_alone(task: HeadTask) -> HeadResult:
    try:
        return _read_head(task)
    except Exception as error:
        # One file that nobody thought of must not take the others of its task with it.
        log.exception("reading %s", logs.picture(task.path))
        problem = Problem(
            f"It cannot be read ({type(error).__name__}; the log has more).", ProblemKind.LASTING
        )
        return HeadResult(task.frame_id, problem=problem)


def _read_head(task: HeadTask) -> HeadResult:
    path = Path(task.path)
    try:
        fingerprint = fingerprint_of(path, task.below)
    except OSError:
        fingerprint = None  # reading the head says why
    head, problem = None, None
    try:
        head = images.read_head(path, task.below)
    except images.UnreadableError as error:
        problem = _problem(error)
    sources, notes, edited = _marks_on_disk(task, head)
    if head is None:
        return HeadResult(
            task.frame_id, fingerprint=fingerprint, problem=problem, notes=notes, sources=sources
        )
    capture = from_tags(head.tags)
    subject = _subject(head, capture)
    return HeadResult(
        task.frame_id,
        capture,
        head.width,
        head.height,
        subject,
        head.as_is,
        head.space,
        head.profiled,
        fingerprint,
        None,
        notes,
        sources,
        edited,
    )


def _problem(error: images.UnreadableError) -> Problem:
    return Problem(_clean(error), ProblemKind.PASSING if error.passing else ProblemKind.LASTING)


def _clean(error: Exception) -> str:
    """What an error says, in characters that can be stored: names of files need not be valid text."""
    return str(error).encode("utf-8", "replace").decode()[:SAID]


def _subject(head: images.Head, capture: Capture) -> Area | None:
    """The subject area in upright px."""
    area = capture.subject_area
    if area is None:
        return None
    stored = upright_size(head.width, head.height, capture.orientation)
    x, y = upright_point(area.x, area.y, *stored, capture.orientation)
    if not (0 <= x < head.width and 0 <= y < head.height):
        return None
    return Area(x, y, *upright_size(area.width, area.height, capture.orientation))


def _marks_on_disk(
    task: HeadTask, head: images.Head | None
) -> tuple[tuple[Source, ...], tuple[str, ...], bool]:
    """Files that speak of marks: sidecars, the newest first, then the picture itself, XMP before Exif; what of that
    could not be read, in words; and whether a sidecar holds settings of an editing program."""
    sources, notes, edited = [], [], False
    for sidecar in sorted(task.sidecars, key=lambda s: _modified(s) or 0, reverse=True):
        try:
            packet = read_plain(sidecar, task.below, xmp.MAX_PACKET)
            read = xmp.Packet(xmp.not_empty(packet))
        except (xmp.XmpError, OSError) as error:
            reason = error.strerror if isinstance(error, OSError) else _clean(error)
            notes.append(f"The marks in {display(Path(sidecar).name)} cannot be read: {reason}")
            continue
        edited |= read.has_settings
        sources.append(_source("sidecar", sidecar, packet, read.marks))
    if head is not None:
        found = XmpMarks()
        if head.packet:
            try:
                found = xmp.read_marks(head.packet)
            except xmp.XmpError as error:
                notes.append(f"The marks inside the file cannot be read: {_clean(error)}")
        if found.rating is None:
            found = replace(found, rating=exif.rating_of(head.tags))
        if found != XmpMarks():
            sources.append(_source("embedded", task.path, head.packet or b"", found))
    return tuple(sources), tuple(notes), edited


@dataclass(frozen=True, slots=True)
class MarksRead:
    """What files say of a frame's marks, see `HeadResult`."""

    frame_id: int
    sources: tuple[Source, ...]
    notes: tuple[str, ...]


def read_marks(tasks: Sequence[tuple[HeadTask, bool]]) -> list[MarksRead]:
    """What files say of the marks of frames. With each goes whether the picture itself is to be asked too."""
    with _time_limit():
        found = []
        for task, inside in tasks:
            head = None
            if inside:
                with suppress(images.UnreadableError):
                    head = images.read_head(Path(task.path), task.below)
            sources, notes, _ = _marks_on_disk(task, head)
            found.append(MarksRead(task.frame_id, sources, notes))
        return found


def _source(kind: str, path: str, packet: bytes, found: XmpMarks) -> Source:
    return Source(path, kind, digest_of_bytes(packet), date_of(os.stat(path)), found)


def _modified(path: str) -> float | None:
    try:
        return os.stat(path).st_mtime
    except OSError:
        return None


def identify(tasks: Sequence[IdentifyTask]) -> dict[str, Identified]:
    """What tells whose some files are, by path; files that cannot be read are left out."""
    with _time_limit():
        found = {}
        for task in tasks:
            try:
                found[task.path] = _identify(task)
            except (images.UnreadableError, OSError):
                continue
            except Exception:
                log.exception("identifying %s", logs.picture(task.path))
        return found


def _identify(task: IdentifyTask) -> Identified:
    path = Path(task.path)
    fingerprint = fingerprint_of(path, task.below)
    if fingerprint.content == task.at:
        # Only the middle may have changed, as when a damaged file is replaced by a good one.
        whole = digest_of_all(path, task.below)
    elif fingerprint.content in task.contents:
        return Identified(fingerprint.content, fingerprint.picture, Exposure())
    else:
        whole = None
    capture = from_tags(images.read_head(path, task.below).tags)
    alike = None
    if task.thumbnail and task.exposure and same_exposure(task.exposure, capture.exposure) is None:
        alike = _looks_like(task, Path(task.thumbnail))
    return Identified(
        fingerprint.content, fingerprint.picture, capture.exposure, capture.orientation, whole, alike
    )


def _looks_like(task: IdentifyTask, thumbnail: Path) -> bool | None:
    """Whether a picture, in any orientation, looks like the thumbnail of another; None without that thumbnail."""
    try:
        before = describe(images.decode(thumbnail).pixels)
    except images.UnreadableError:
        return None
    now = images.shrink(images.decode(Path(task.path), THUMBNAIL_EDGE, task.below).pixels, THUMBNAIL_EDGE)
    for orientation in range(1, 9):
        likeness = compare(before, describe(upright(now, orientation)))
        if likeness.structure >= LIKE_STRUCTURE and likeness.colour <= LIKE_COLOUR:
            return True
    return False


def derive(task: DeriveTask) -> DeriveResult:
    """Thumbnail and preview of one frame at once, from a reduced decode."""
    with _time_limit():
        try:
            decoded = images.decode(Path(task.path), PREVIEW_EDGE, task.below, Colours.WIDE)
        except images.UnreadableError as error:
            return DeriveResult(task.frame_id, problem=_problem(error))
        _write_reduced(task, Rgb(images.shrink(decoded.pixels, PREVIEW_EDGE)), decoded.wide)
        return DeriveResult(task.frame_id, note=decoded.note)


def derive_medium(task: DeriveTask) -> DeriveResult:
    """Make the picture for the stage of a frame whose preview was made before there was one."""
    return _derive_from(Kind.PREVIEW, task, Kind.MEDIUM, MEDIUM_EDGE, PREVIEW_QUALITY)


def derive_tiny(task: DeriveTask) -> DeriveResult:
    """Make the picture for dense walls of a frame whose thumbnail was made before there was one."""
    return _derive_from(Kind.THUMB, task, Kind.TINY, TINY_EDGE, TINY_QUALITY)


def _derive_from(larger: Kind, task: DeriveTask, kind: Kind, edge: int, quality: int) -> DeriveResult:
    with _time_limit():
        cache = Cache(Path(task.cache))
        jpeg = cache.read(larger, task.version)
        if jpeg is None:
            return derive(task)
        head = images.head_of_jpeg(jpeg, Path(task.path))
        made = images.decode_content(images.Jpeg(jpeg), Path(task.path), edge, head, Colours.STORED)
        pixels = images.shrink(made.pixels, edge)
        cache.write(kind, task.version, images.encode_jpeg(pixels, quality, bool(head.profile)))
        return DeriveResult(task.frame_id)


def derive_plain(task: DeriveTask) -> DeriveResult:
    """The preview of one frame as if its file had no profile."""
    with _time_limit():
        try:
            decoded = images.decode(Path(task.path), PREVIEW_EDGE, task.below, Colours.STORED)
        except images.UnreadableError as error:
            return DeriveResult(task.frame_id, problem=_problem(error))
        jpeg = images.encode_jpeg(images.shrink(decoded.pixels, PREVIEW_EDGE), PREVIEW_QUALITY)
        Cache(Path(task.cache)).write(Kind.PLAIN, task.version, jpeg)
        return DeriveResult(task.frame_id, note=decoded.note)


def prepare(task: PrepareTask) -> DeriveResult:
    """Thumbnail, preview and evidence of one frame, from one full decode where memory allows."""
    with _time_limit():
        wanted = task.derive
        try:
            read = read_whole(Path(wanted.path), wanted.below)
        except images.TooLargeError:
            return _without_evidence(wanted)
        except images.UnreadableError as error:
            return DeriveResult(wanted.frame_id, problem=_problem(error))
        sheet, note, digest = Sheet(read.picture, task.subject, task.point), read.note, read.digest
        wide = read.wide
        whole = max(sheet.width, sheet.height) >= WHOLE * max(read.full_width, read.full_height)
        del read
        cache = Cache(Path(wanted.cache))
        if not (cache.has(Kind.PREVIEW, wanted.version) and cache.has(Kind.THUMB, wanted.version)):
            picture = sheet.picture
            if wide:
                derive(wanted)  # what is measured is in sRGB: its other colours are gone
            else:
                _write_reduced(wanted, picture)
        if max(sheet.width, sheet.height) < LEAST_EDGE or min(sheet.width, sheet.height) < LEAST_SIDE:
            return DeriveResult(wanted.frame_id, note=note, measured=TOO_SMALL, digest=digest)
        if not whole or not budget.fits(sheet.width, sheet.height, budget.MEASURED):
            return DeriveResult(wanted.frame_id, note=note, measured=TOO_LARGE, digest=digest)
        try:
            measured = pack(measure(sheet, face_nets()))
        except MemoryError:
            measured = TOO_LARGE
        except Exception as error:
            # Measuring is an extra: the frame can be seen and marked without it.
            log.exception("measuring %s", logs.picture(wanted.path))
            what = f"It could not be measured ({type(error).__name__}; the log has more). It can be seen and marked."
            measured = Measured(None, None, what)
        return DeriveResult(wanted.frame_id, note=note, measured=measured, digest=digest)


def _without_evidence(task: DeriveTask) -> DeriveResult:
    """What there is memory for: a reduced decode. The rest of the file is read for its digest alone."""
    derived = derive(task)
    if derived.problem:
        return derived
    try:
        return replace(derived, measured=TOO_LARGE, digest=_digest(task))
    except images.UnreadableError as error:
        return DeriveResult(task.frame_id, problem=_problem(error))


def _digest(task: DeriveTask) -> str:
    """Over all bytes of the file that was decoded. Raises UnreadableError: its disk may go away in between."""
    path = Path(task.path)
    try:
        return digest_of_all(path, task.below)
    except OSError as error:
        raise images.unreadable(path, error) from error


REDUCED = (
    (Kind.TINY, TINY_EDGE, TINY_QUALITY),
    (Kind.THUMB, THUMBNAIL_EDGE, THUMBNAIL_QUALITY),
    (Kind.MEDIUM, MEDIUM_EDGE, PREVIEW_QUALITY),
    (Kind.PREVIEW, PREVIEW_EDGE, PREVIEW_QUALITY),
)


def _write_reduced(task: DeriveTask, picture: Picture, wide: bool = False) -> None:
    cache = Cache(Path(task.cache))
    for kind, edge, quality in REDUCED:
        cache.write(kind, task.version, images.encode_picture(picture.preview(edge), quality, wide))


@lru_cache(maxsize=1)
def face_nets() -> FaceNets:
    """The networks, loaded at the first frame that a process measures."""
    folder = resources.files("winnow.models")
    return FaceNets({name: (folder / f"{name}.tflite").read_bytes() for name in Model})


def glimpse(task: DeriveTask) -> GlimpseResult:
    """Something to look at before the thumbnail is made: a fast scaled decode."""
    with _time_limit():
        try:
            pixels = images.decode(Path(task.path), GLIMPSE_EDGE, task.below).pixels
        except images.UnreadableError as error:
            return GlimpseResult(None, _problem(error))
        return GlimpseResult(images.encode_jpeg(images.shrink(pixels, GLIMPSE_EDGE), 75))


def develop_full(task: DeriveTask) -> DeriveResult:
    """All pixels of a frame whose file a browser cannot show by itself."""
    with _time_limit():
        try:
            decoded = images.decode(Path(task.path), below=task.below, colours=Colours.WIDE)
        except images.UnreadableError as error:
            return DeriveResult(task.frame_id, problem=_problem(error))
        cache = Cache(Path(task.cache))
        cache.write(Kind.FULL, task.version, images.encode_jpeg(decoded.pixels, FULL_QUALITY, decoded.wide))
        return DeriveResult(task.frame_id, note=decoded.note)


def tidy_cache(task: TidyTask) -> int:
    """Keeps the derived pictures within their room; returns what they take, bytes."""
    return Cache(Path(task.cache)).trim(task.limit)


@contextmanager
def _time_limit() -> Iterator[None]:
    faulthandler.dump_traceback_later(TASK_LIMIT_S, exit=True, file=sys.__stderr__ or sys.stderr)
    try:
        yield
    finally:
        faulthandler.cancel_dump_traceback_later()
