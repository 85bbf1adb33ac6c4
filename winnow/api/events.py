"""News over server-sent events."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator

from fastapi.responses import StreamingResponse

from winnow.api.desk import Desk, OnDesk
from winnow.api.problems import answers
from winnow.api.routes import routes
from winnow.pipeline.events import Event

router = routes("/api", "events")

KEEP_ALIVE_S = 15.0
CLOSING = "closing"
"""Published when the server ends: open streams would keep it waiting."""


@router.get(
    "/events",
    response_class=StreamingResponse,
    responses=answers() | {200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}},
)
async def follow_events(desk: OnDesk) -> StreamingResponse:
    """A stream of `data:` lines, each a JSON object with a `kind`. The first, of kind `hello`, says which data folder
    this is."""
    return StreamingResponse(
        _stream(desk), media_type="text/event-stream", headers={"Cache-Control": "no-store"}
    )


async def _stream(desk: Desk) -> AsyncIterator[str]:
    loop = asyncio.get_running_loop()
    waiting: asyncio.Queue[Event] = asyncio.Queue()

    def hand_over(event: Event) -> None:
        loop.call_soon_threadsafe(waiting.put_nowait, event)

    with desk.events.listening(hand_over):
        yield f"data: {json.dumps({'kind': 'hello', 'library': desk.library})}\n\n"
        while True:
            try:
                event = await asyncio.wait_for(waiting.get(), KEEP_ALIVE_S)
                if event["kind"] == CLOSING:
                    return
                yield f"data: {json.dumps(event)}\n\n"
            except TimeoutError:
                yield ": still here\n\n"
