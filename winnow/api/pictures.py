"""Pictures of frames. Addresses hold the content version, so a browser may keep them for ever."""

from __future__ import annotations

import asyncio
import threading
from pathlib import Path

from fastapi import APIRouter, HTTPException, Response
from fastapi.responses import FileResponse
from starlette.concurrency import run_in_threadpool

from winnow.api import models
from winnow.api.desk import Desk, OnDesk
from winnow.core.orientation import upright
from winnow.formats import exif, images
from winnow.pipeline import tasks
from winnow.pipeline.cache import Kind
from winnow.pipeline.engine import EngineStoppedError
from winnow.pipeline.intake import CRASHED
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import frames
from winnow.store.database import display
from winnow.store.frames import Picture

router = APIRouter(prefix="/api", tags=["pictures"])

FOR_EVER = {"Cache-Control": "private, max-age=31536000, immutable"}
NOT_KEPT = {"Cache-Control": "no-store"}
GLIMPSE_EDGE = 320

_glimpses = threading.Semaphore(2)


@router.get("/frames/{frame_id}")
def frame_details(desk: OnDesk, frame_id: int) -> models.FrameDetails:
    connection = desk.database.connection()
    row = frames.details(connection, frame_id)
    if row is None:
        raise HTTPException(404, "This frame is not known any more.")
    files = frames.files_of(connection, [frame_id])[frame_id]
    wanted = {name: row[name] for name in models.FrameDetails.model_fields if name != "files"}
    return models.FrameDetails(
        **wanted,
        files=[models.FrameFile(path=display(f.path), role=f.role, size=f.size) for f in files],
    )


@router.get("/frames/{frame_id}/file", response_class=FileResponse)
def frame_file(desk: OnDesk, frame_id: int) -> FileResponse:
    """The picture's own file, as it lies on the disk, for dragging it out of the browser."""
    found = frames.picture(desk.database.connection(), frame_id)
    if found is None or not Path(found.path).is_file():
        raise HTTPException(404, "This picture is not on the disk any more.")
    name = display(Path(found.path).name)
    return FileResponse(found.path, media_type="application/octet-stream", filename=name)


@router.get("/pictures/{frame_id}/{version}/glimpse", response_class=Response)
def glimpse(desk: OnDesk, frame_id: int, version: str) -> Response:
    """Something to look at before the thumbnail is made: the camera's own small picture, or a fast
    scaled decode. Not to be kept, so it may be asked for under a version that is out of date."""
    found = _picture(desk, frame_id)
    if desk.cache.has(Kind.THUMB, found.version):
        return FileResponse(desk.cache.path(Kind.THUMB, found.version), headers=NOT_KEPT)
    jpeg = _glimpse_of(Path(found.path))
    return Response(jpeg, media_type="image/jpeg", headers=NOT_KEPT)


def _glimpse_of(path: Path) -> bytes:
    try:
        with path.open("rb") as file:
            small = exif.embedded_thumbnail(file.read(images.HEAD_BYTES))
        if small:
            turn = images.orientation_of(images.read_head(path).tags)
            pixels = images.decode_jpeg(small, path, turn=1).pixels
            return images.encode_jpeg(upright(pixels, turn), 80)
        with _glimpses:
            pixels = images.decode(path, GLIMPSE_EDGE).pixels
        return images.encode_jpeg(images.shrink(pixels, GLIMPSE_EDGE), 75)
    except (images.UnreadableError, OSError) as error:
        raise HTTPException(404, str(error)) from error


@router.get("/pictures/{frame_id}/{version}/{kind}", response_class=Response)
async def picture(desk: OnDesk, frame_id: int, version: str, kind: Kind) -> Response:
    """Thumbnail, preview or all pixels; made now if it is not there yet."""
    found = await run_in_threadpool(_picture, desk, frame_id, version)
    if kind is Kind.FULL and await run_in_threadpool(images.is_browser_jpeg, Path(found.path)):
        return FileResponse(found.path, media_type="image/jpeg", headers=FOR_EVER)
    path = desk.cache.path(kind, version)
    if not path.is_file():
        made = await _made(desk, found, kind)
        if made.problem:
            raise HTTPException(404, made.problem.text)
    return FileResponse(path, media_type="image/jpeg", headers=FOR_EVER)


async def _made(desk: Desk, found: Picture, kind: Kind) -> tasks.DeriveResult:
    try:
        made: tasks.DeriveResult = await asyncio.wrap_future(desk.engine.picture(found, kind))
    except WorkerCrashedError as error:
        raise HTTPException(404, CRASHED) from error
    except EngineStoppedError as error:
        raise HTTPException(503, "Winnow is ending.") from error
    except OSError as error:
        message = f"It could not be kept ({error.strerror}): make room on the disk of the data folder."
        raise HTTPException(507, message) from error
    return made


def _picture(desk: Desk, frame_id: int, version: str | None = None) -> Picture:
    found = frames.picture(desk.database.connection(), frame_id)
    if found is None or version not in (None, found.version):
        raise HTTPException(404, "This picture has changed or is gone: load the page again.")
    if found.problem:
        raise HTTPException(404, found.problem)
    return found
