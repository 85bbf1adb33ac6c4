"""Bodies that are larger than anything Winnow takes are refused before they are read."""

from __future__ import annotations

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from winnow.api.problems import Code, ProblemError, response

MAX_BODY = 8 * 1024 * 1024
"""Marks for 100,000 frames take about 2 MB."""
MESSAGE = f"The request is larger than {MAX_BODY // 1024**2} MB."


class BodyLimit:
    """Answers 413 to what announces too much, and to what turns out to be too much on the way."""

    def __init__(self, app: ASGIApp) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        announced = Headers(scope=scope).get("content-length", "0")
        if announced.isdecimal() and len(announced) < 20 and int(announced) <= MAX_BODY:
            await self.app(scope, _counted(receive), send)
            return
        answer = response(Code.TOO_LARGE, MESSAGE, headers={"Connection": "close"})
        await answer(scope, receive, send)


def _counted(receive: Receive) -> Receive:
    taken = 0

    async def count() -> Message:
        nonlocal taken
        message = await receive()
        taken += len(message.get("body", b""))
        if taken > MAX_BODY:
            raise ProblemError(Code.TOO_LARGE, MESSAGE)
        return message

    return count
