"""Bodies that are larger than anything Winnow takes are refused before they are read."""

from __future__ import annotations

import asyncio
from contextlib import suppress

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from winnow.api.problems import Code, ProblemError, response

MAX_BODY = 8 * 1024 * 1024
"""Marks for 100,000 frames take about 2 MB."""
MAX_ARCHIVE = 256 * 1024 * 1024
"""A whole shoot of 50,000 frames with a long history, packed, takes 20 MB."""


DRAIN_MOST = 1024 * 1024 * 1024
DRAIN_S = 10.0
"""A body that is refused is read this far and this long, so that the client hears why."""


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
        # A connection that is closed while the body is on its way is reset, and the answer with it.
        with suppress(TimeoutError):
            await asyncio.wait_for(_drain(receive), DRAIN_S)
        answer = response(Code.TOO_LARGE, _message(most), headers={"Connection": "close"})
        await answer(scope, receive, send)


async def _drain(receive: Receive) -> None:
    """Read what comes, and keep none of it."""
    taken = 0
    while taken < DRAIN_MOST:
        message = await receive()
        taken += len(message.get("body", b""))
        if message["type"] == "http.disconnect" or not message.get("more_body", False):
            return


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
