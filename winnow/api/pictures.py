"""Pictures of frames. Addresses hold the content version, so a browser may keep them for ever.

Nothing is decoded here: what is not made yet is made in a worker.
"""

from __future__ import annotations

import asyncio
import os
from collections.abc import AsyncIterator
from concurrent.futures import Future
from contextlib import suppress
from functools import partial
from io import BufferedReader
from pathlib import Path
from typing import Annotated, Any
from urllib.parse import quote

from fastapi import Path as PathParameter
from fastapi import Response
from fastapi.responses import StreamingResponse
from starlette.concurrency import run_in_threadpool

from winnow.api.desk import FRAME_PROBLEMS, Desk, OfFrame, OnDesk, demand_frames
from winnow.api.models.base import Id
from winnow.api.models.frames import FrameDetails, FrameFile
from winnow.api.problems import Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.orientation import turned
from winnow.core.pairing import Role
from winnow.formats.display import shown_as
from winnow.formats.first_look import first_look, thumbnail
from winnow.formats.opening import open_plain
from winnow.pipeline.cache import Kind
from winnow.pipeline.disks import DiskSilentError
from winnow.pipeline.engine import EngineStoppedError
from winnow.pipeline.intake import CRASHED
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import frame_files, frames
from winnow.store.database import display
from winnow.store.frames import Picture

router = routes("/api", "pictures")

FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}
NOT_KEPT = {"Cache-Control": "no-store"}
JPEG = "image/jpeg"
BLOCK = 1024 * 1024
READ_LIMIT_S = 60.0
"""How long a disk that has answered may take to deliver."""

Version = Annotated[str, PathParameter(pattern=r"^[0-9a-f]{1,64}(\.[123])?$")]
"""Of the content, and after a point by how many quarters it is shown turned."""

PICTURE_PROBLEMS = (
    *FRAME_PROBLEMS,
    Code.PICTURE_CHANGED,
    Code.PICTURE_UNREADABLE,
    Code.FILE_GONE,
    Code.ENDING,
    Code.NO_ROOM,
)


def _of_type(*media_types: str) -> dict[int | str, dict[str, Any]]:
    content = {media_type: {"schema": {"type": "string", "format": "binary"}} for media_type in media_types}
    return answers(*PICTURE_PROBLEMS) | {200: {"content": content}}


@router.get("/frames/{frame_id}", responses=answers(*FRAME_PROBLEMS))
def get_frame(desk: OnDesk, frame_id: OfFrame) -> FrameDetails:
    """Everything known of one frame."""
    connection = desk.database.connection()
    row = frames.details(connection, frame_id)
    assert row is not None
    files = frame_files.files_of(connection, [frame_id])[frame_id]
    wanted = {name: row[name] for name in FrameDetails.model_fields if name != "files"}
    return FrameDetails(
        **wanted,
        files=[FrameFile(path=display(f.path), role=Role(f.role), size=f.size) for f in files],
    )


@router.get(
    "/frames/{frame_id}/file", response_class=Response, responses=_of_type("application/octet-stream")
)
async def get_file(desk: OnDesk, frame_id: OfFrame) -> Response:
    """The picture's own file, as it lies on the disk, for dragging it out of the browser."""
    found = await run_in_threadpool(lambda: frames.picture(desk.database.connection(), frame_id))
    if found is None:
        raise ProblemError(Code.FILE_GONE, "This picture is not on the disk any more.")
    name = quote(display(Path(found.path).name), safe="")
    headers = NOT_KEPT | {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return await _as_it_lies(desk, found, "application/octet-stream", headers)


@router.get("/pictures/{frame_id}/{version}/glimpse", response_class=Response, responses=_of_type(JPEG))
async def get_glimpse(desk: OnDesk, frame_id: Id, version: Version) -> Response:
    """Something to look at before the thumbnail is made: the camera's own small picture, or a fast
    scaled decode. Not to be kept, so it may be asked for under a version that is out of date."""
    turn = _turn_of(version)
    found, kept = await run_in_threadpool(_kept, desk, frame_id, None, Kind.THUMB)
    if kept is None:
        with suppress(OSError):  # the decode that is tried next says why
            kept = await desk.disks.answer(found.below, partial(thumbnail, Path(found.path), found.below))
        if kept is not None:
            code = await run_in_threadpool(_code_of, desk, frame_id, turn)
            return Response(kept if code is None else shown_as(kept, code), media_type=JPEG, headers=NOT_KEPT)
    if kept is not None:
        return Response(_turned(kept, turn), media_type=JPEG, headers=NOT_KEPT)
    made = await _outcome(desk.engine.glimpse(found))
    if made.jpeg is None:
        raise ProblemError(Code.PICTURE_UNREADABLE, made.problem.text)
    return Response(_turned(made.jpeg, turn), media_type=JPEG, headers=NOT_KEPT)


@router.get(
    "/pictures/{frame_id}/{version}/first",
    response_class=Response,
    responses=_of_type(JPEG) | {204: {"description": "The camera put no preview into this file."}},
)
async def get_first_look(desk: OnDesk, frame_id: Id, version: Version) -> Response:
    """The camera's own preview, as it lies in the file: to be looked at until ours is there."""
    found, _ = await run_in_threadpool(_kept, desk, frame_id, version, None)
    try:
        jpeg = await desk.disks.answer(found.below, partial(first_look, Path(found.path), found.below))
    except OSError as error:
        raise _gone(error) from error
    if jpeg is None:
        return Response(status_code=204, headers=NOT_KEPT)
    code = await run_in_threadpool(_code_of, desk, frame_id, _turn_of(version))
    return Response(jpeg if code is None else shown_as(jpeg, code), media_type=JPEG, headers=FOR_EVER)


@router.get("/pictures/{frame_id}/{version}/tiny", response_class=Response, responses=_of_type(JPEG))
async def get_tiny(desk: OnDesk, frame_id: Id, version: Version) -> Response:
    """A picture of some hundred pixels, where hundreds are shown; there once the thumbnail is."""
    _, thumbnail_made = await run_in_threadpool(_kept, desk, frame_id, version, Kind.THUMB)
    if thumbnail_made is None:
        raise ProblemError(Code.PICTURE_CHANGED, "Its thumbnail is not made yet: ask again soon.")
    return await _derived(desk, frame_id, version, Kind.TINY)


@router.get("/pictures/{frame_id}/{version}/{kind}", response_class=Response, responses=_of_type(JPEG))
async def get_picture(desk: OnDesk, frame_id: Id, version: Version, kind: Kind) -> Response:
    """Thumbnail, preview or all pixels; made now if it is not there yet."""
    if kind is Kind.FULL:
        own_file = await _own_file(desk, frame_id, version)
        if own_file is not None:
            return own_file
    return await _derived(desk, frame_id, version, kind)


async def _derived(desk: Desk, frame_id: int, version: str, kind: Kind) -> Response:
    """A picture out of the cache, made now if it is not there."""
    found, kept = await run_in_threadpool(_kept, desk, frame_id, version, kind)
    if kept is None:
        made = await _outcome(desk.engine.picture(found, kind))
        if made.problem:
            raise ProblemError(Code.PICTURE_UNREADABLE, made.problem.text)
        kept = await run_in_threadpool(desk.cache.read, kind, found.version)
    if kept is None:
        raise ProblemError(Code.PICTURE_CHANGED, "This picture was forgotten meanwhile: load the page again.")
    turn = _turn_of(version)
    return Response(_turned(kept, turn), media_type=JPEG, headers=FOR_EVER | _lying(turned(1, turn)))


async def _own_file(desk: Desk, frame_id: int, version: str) -> Response | None:
    """The picture's own file, where a browser can show that; else None."""

    def ask() -> tuple[Picture, int | None, int]:
        found, _ = _kept(desk, frame_id, version, None)
        code = _code_of(desk, frame_id, _turn_of(version))
        return found, code, code or frames.orientation(desk.database.connection(), frame_id) or 1

    found, code, own = await run_in_threadpool(ask)
    if not found.as_is:
        return None
    return await _as_it_lies(desk, found, JPEG, FOR_EVER | _lying(own), code)


def _lying(orientation: int) -> dict[str, str]:
    """Says of a picture that it lies otherwise in its file than it is shown: some readers cut it in another way."""
    return {"Winnow-Orientation": str(orientation)} if orientation != 1 else {}


def _turn_of(version: str) -> int:
    return int(version.partition(".")[2] or 0)


def _turned(jpeg: bytes, turn: int) -> bytes:
    """A picture that stands upright, to be shown turned."""
    return shown_as(jpeg, turned(1, turn)) if turn else jpeg


def _code_of(desk: Desk, frame_id: int, turn: int) -> int | None:
    """The orientation that a file is to be shown by; None: as it says itself."""
    code = frames.orientation(desk.database.connection(), frame_id)
    return turned(code or 1, turn) if turn else None


def _kept(desk: Desk, frame_id: int, version: str | None, kind: Kind | None) -> tuple[Picture, bytes | None]:
    """What is to be shown, and its picture if it is made: all in one go, for it is asked for hundreds at a time."""
    demand_frames(desk, [frame_id])
    found = frames.picture(desk.database.connection(), frame_id)
    if found is None or (version or found.version).partition(".")[0] != found.version:
        raise ProblemError(Code.PICTURE_CHANGED, "This picture has changed or is gone: load the page again.")
    if found.problem:
        raise ProblemError(Code.PICTURE_UNREADABLE, found.problem)
    if kind is None:
        return found, None
    return found, desk.cache.read(kind, found.version)


async def _outcome(promise: Future[Any]) -> Any:
    """What a worker made."""
    try:
        return await asyncio.wrap_future(promise)
    except WorkerCrashedError as error:
        raise ProblemError(Code.PICTURE_UNREADABLE, CRASHED) from error
    except EngineStoppedError as error:
        raise ProblemError(Code.ENDING, "Winnow is ending.") from error
    except OSError as error:
        message = f"It could not be kept ({error.strerror}): make room on the disk of the data folder."
        raise ProblemError(Code.NO_ROOM, message) from error


async def _as_it_lies(
    desk: Desk, found: Picture, media_type: str, headers: dict[str, str], orientation: int | None = None
) -> Response:
    """The file itself, opened where it was listed and nowhere else. orientation: what it says of it is replaced."""
    try:
        file = await desk.disks.answer(found.below, partial(open_plain, found.path, found.below))
        if orientation is not None:
            with file:
                content = await desk.disks.answer(found.below, file.read, READ_LIMIT_S)
            return Response(shown_as(content, orientation), media_type=media_type, headers=headers)
    except OSError as error:
        raise _gone(error) from error
    length = os.fstat(file.fileno()).st_size
    return StreamingResponse(
        _blocks(desk, found.below, file, length),
        media_type=media_type,
        headers=headers | {"Content-Length": str(length)},
    )


def _gone(error: OSError) -> ProblemError:
    if isinstance(error, DiskSilentError):
        return ProblemError(Code.FILE_GONE, str(error))
    reason = error.strerror or "it cannot be read"
    return ProblemError(Code.FILE_GONE, f"This picture is not on the disk as it was listed ({reason}).")


async def _blocks(desk: Desk, place: str, file: BufferedReader, left: int) -> AsyncIterator[bytes]:
    """No more than was announced, should the file grow meanwhile."""
    with file:
        while left > 0:
            block = await desk.disks.answer(place, partial(file.read, min(BLOCK, left)), READ_LIMIT_S)
            if not block:
                return
            left -= len(block)
            yield block
