"""What is answered when something cannot be done: problem details with a stable code, never a bare status.

Source: RFC 9457, Problem Details for HTTP APIs. `code` is an extension member: programs tell problems apart by it,
people read `detail`, which says what to do.
"""

from __future__ import annotations

import logging
import sqlite3
from enum import StrEnum
from http import HTTPStatus
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from pydantic import BaseModel, ConfigDict
from starlette.exceptions import HTTPException
from starlette.responses import Response

from winnow.pipeline.disks import DiskSilentError
from winnow.store.database import Database, NoRoomError

log = logging.getLogger(__name__)

PROBLEM_JSON = "application/problem+json"


class Code(StrEnum):
    """Stable names of problems; each goes with one status."""

    NOT_UNDERSTOOD = "not-understood"
    NO_ACCESS = "no-access"
    REFUSED = "refused"
    OUTSIDE_ROOTS = "outside-roots"
    NOTHING_HERE = "nothing-here"
    NOT_THIS_METHOD = "not-this-method"
    SHOOT_UNKNOWN = "shoot-unknown"
    FRAME_UNKNOWN = "frame-unknown"
    PLAN_UNKNOWN = "plan-unknown"
    WALK_UNKNOWN = "walk-unknown"
    PICTURE_CHANGED = "picture-changed"
    PICTURE_UNREADABLE = "picture-unreadable"
    FILE_GONE = "file-gone"
    SHOOT_MOVED = "shoot-moved"
    NOT_MEASURED = "not-measured"
    OVERTAKEN = "overtaken"
    BUSY = "busy"
    NOT_NOW = "not-now"
    TOO_LARGE = "too-large"
    FOLDER_REFUSED = "folder-refused"
    NOT_OF_THIS_SHOOT = "not-of-this-shoot"
    CANNOT_BE_DONE = "cannot-be-done"
    KEY_REUSED = "key-reused"
    FAILED = "failed"
    ENDING = "ending"
    NO_ROOM = "no-room"


_STATUS = {
    Code.NOT_UNDERSTOOD: 422,
    Code.NO_ACCESS: 401,
    Code.REFUSED: 403,
    Code.OUTSIDE_ROOTS: 403,
    Code.NOTHING_HERE: 404,
    Code.NOT_THIS_METHOD: 405,
    Code.SHOOT_UNKNOWN: 404,
    Code.FRAME_UNKNOWN: 404,
    Code.PLAN_UNKNOWN: 404,
    Code.WALK_UNKNOWN: 404,
    Code.PICTURE_CHANGED: 404,
    Code.PICTURE_UNREADABLE: 404,
    Code.FILE_GONE: 404,
    Code.SHOOT_MOVED: 409,
    Code.NOT_MEASURED: 409,
    Code.OVERTAKEN: 409,
    Code.BUSY: 409,
    Code.NOT_NOW: 409,
    Code.TOO_LARGE: 413,
    Code.FOLDER_REFUSED: 422,
    Code.NOT_OF_THIS_SHOOT: 422,
    Code.CANNOT_BE_DONE: 422,
    Code.KEY_REUSED: 422,
    Code.FAILED: 500,
    Code.ENDING: 503,
    Code.NO_ROOM: 507,
}
_OF_STATUS = {404: Code.NOTHING_HERE, 405: Code.NOT_THIS_METHOD, 413: Code.TOO_LARGE}
ALWAYS = (Code.NOT_UNDERSTOOD, Code.NO_ACCESS, Code.REFUSED, Code.TOO_LARGE, Code.FAILED)
CHANGING = (Code.KEY_REUSED, Code.NO_ROOM)
"""What every request that changes something may be answered with."""


class NotUnderstood(BaseModel):
    """A part of a request that was not as it must be."""

    where: str
    why: str


class MovedMatch(BaseModel):
    """The known shoot whose frames were found, and how many of its frames are there."""

    shoot_id: int
    title: str
    frames: int
    found: int
    others: int


class Problem(BaseModel):
    """Problem details (RFC 9457). `detail` says what to do; `errors` with code not-understood, `moved` with code
    shoot-moved."""

    model_config = ConfigDict(extra="forbid")

    type: str
    title: str
    status: int
    detail: str
    code: Code
    errors: list[NotUnderstood] | None = None
    moved: MovedMatch | None = None


class ProblemError(HTTPException):
    """Ends a request with a problem."""

    def __init__(self, code: Code, detail: str, *, moved: MovedMatch | None = None) -> None:
        super().__init__(_STATUS[code], detail)
        self.code = code
        self.moved = moved


def response(
    code: Code,
    detail: str,
    *,
    errors: list[NotUnderstood] | None = None,
    moved: MovedMatch | None = None,
    headers: dict[str, str] | None = None,
) -> Response:
    """A problem as an answer."""
    status = _STATUS[code]
    problem = Problem(
        type=f"urn:winnow:problem:{code}",
        title=HTTPStatus(status).phrase,
        status=status,
        detail=detail.encode("utf-8", "replace").decode(),
        code=code,
        errors=errors,
        moved=moved,
    )
    return Response(problem.model_dump_json(exclude_none=True), status, headers, PROBLEM_JSON)


def answers(*codes: Code) -> dict[int | str, dict[str, Any]]:
    """The `responses` of a route that may end with these problems, beside those that any may end with."""
    found: dict[int | str, dict[str, Any]] = {}
    for status in sorted({_STATUS[code] for code in (*ALWAYS, *codes)}):
        names = ", ".join(code for code in (*ALWAYS, *codes) if _STATUS[code] == status)
        content = {PROBLEM_JSON: {"schema": {"$ref": "#/components/schemas/Problem"}}}
        found[status] = {"description": names, "content": content}
    return found


def install(app: FastAPI, database: Database) -> None:
    """Every way in which a request can end without an answer of its own."""

    @app.exception_handler(RequestValidationError)
    def not_understood(_: Request, error: RequestValidationError) -> Response:
        # What was sent is not quoted: it may hold anything, and be of any size.
        errors = [
            NotUnderstood(where=".".join(_plain(part) for part in found["loc"]), why=_plain(found["msg"]))
            for found in error.errors()[:20]
        ]
        said = "; ".join(f"{found.where}: {found.why}" for found in errors[:3])
        return response(Code.NOT_UNDERSTOOD, f"The request was not understood ({said}).", errors=errors)

    @app.exception_handler(HTTPException)
    def ended(_: Request, error: HTTPException) -> Response:
        headers = dict(error.headers or {})
        if isinstance(error, ProblemError):
            return response(error.code, error.detail, moved=error.moved, headers=headers)
        code = _OF_STATUS.get(error.status_code, Code.NOT_UNDERSTOOD)
        detail = "There is nothing at this address." if code is Code.NOTHING_HERE else str(error.detail)
        return response(code, detail, headers=headers)

    @app.exception_handler(NoRoomError)
    def no_room(_: Request, error: NoRoomError) -> Response:
        return response(Code.NO_ROOM, str(error))

    @app.exception_handler(DiskSilentError)
    def silent(_: Request, error: DiskSilentError) -> Response:
        return response(Code.FILE_GONE, str(error))

    @app.exception_handler(sqlite3.Error)
    def database_failed(_: Request, error: sqlite3.Error) -> Response:
        if database.is_full(error):
            return response(Code.NO_ROOM, str(NoRoomError(database.path.parent)))
        log.exception("database", exc_info=error)
        return response(
            Code.FAILED,
            f"The database of Winnow failed ({error}): not saved. Check the disk of the data folder.",
        )

    @app.exception_handler(Exception)
    def failed(_: Request, error: Exception) -> Response:
        log.exception("request", exc_info=error)
        return response(Code.FAILED, "Winnow could not do this: what stands in its log helps to mend it.")


def _plain(part: object) -> str:
    return str(part).encode("utf-8", "replace").decode()[:300]
