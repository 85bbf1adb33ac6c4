"""Bodies that are larger than anything Winnow takes are refused before they are read."""

from __future__ import annotations

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from winnow.api.problems import Code, ProblemError, response

MAX_BODY = 8 * 1024 * 1024
"""Marks for 100,000 frames take about 2 MB."""
MAX_ARCHIVE = 256 * 1024 * 1024
"""A whole shoot of 50,000 frames with a long history, packed, takes 20 MB."""


class BodyLimit:
    """Answers 413 to what announces too much, and to what turns out to be too much on the way."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        most = MAX_ARCHIVE if scope["path"].endswith("/archive") else MAX_BODY
        announced = Headers(scope=scope).get("content-length", "0")
        if announced.isdecimal() and len(announced) < 20 and int(announced) <= most:
            await self.app(scope, _counted(receive, most), send)
            return
        answer = response(Code.TOO_LARGE, _message(most), headers={"Connection": "close"})
        await answer(scope, receive, send)


def _message(most: int) -> str:
    return f"The request is larger than {most // 1024**2} MB."


def _counted(receive: Receive, most: int) -> Receive:
    taken = 0

    async def count() -> Message:
        nonlocal taken
        message = await receive()
        taken += len(message.get("body", b""))
        if taken > most:
            raise ProblemError(Code.TOO_LARGE, _message(most))
        return message

    return count
