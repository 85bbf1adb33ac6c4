"""News over server-sent events."""

from __future__ import annotations

import asyncio
import json
from collections.abc import AsyncIterator

from fastapi import Request
from fastapi.responses import StreamingResponse

from winnow.api.desk import Desk, OnDesk
from winnow.api.problems import answers
from winnow.api.routes import routes
from winnow.pipeline.events import Event

router = routes("/api", "events")

KEEP_ALIVE_S = 15.0
MOST_WAITING = 1000
"""Events that wait for a reader. One that falls further behind is disconnected, reconnects and asks what is new."""
WITHDRAWN = "device-withdrawn"
"""Published when a device is not let in any more: its streams end."""
CLOSING = "closing"
"""Published when the server ends: open streams would keep it waiting."""


@router.get(
    "/events",
    response_class=StreamingResponse,
    responses=answers() | {200: {"content": {"text/event-stream": {"schema": {"type": "string"}}}}},
)
async def follow_events(desk: OnDesk, request: Request) -> StreamingResponse:
    """A stream of `data:` lines, each a JSON object with a `kind`. The first, of kind `hello`, says which data folder
    this is."""
    device = request.scope.get("device")
    return StreamingResponse(
        _stream(desk, device.id if device else None),
        media_type="text/event-stream",
        headers={"Cache-Control": "no-store"},
    )


async def _stream(desk: Desk, device_id: int | None = None) -> AsyncIterator[str]:
    loop = asyncio.get_running_loop()
    waiting: asyncio.Queue[Event] = asyncio.Queue()

    def put(event: Event) -> None:
        if waiting.qsize() < MOST_WAITING:
            waiting.put_nowait(event)
        elif waiting.qsize() == MOST_WAITING:
            waiting.put_nowait({"kind": CLOSING})

    def hand_over(event: Event) -> None:
        loop.call_soon_threadsafe(put, event)

    with desk.events.listening(hand_over):
        yield f"data: {json.dumps({'kind': 'hello', 'library': desk.library})}\n\n"
        while True:
            try:
                event = await asyncio.wait_for(waiting.get(), KEEP_ALIVE_S)
                if event["kind"] == CLOSING:
                    return
                if event["kind"] == WITHDRAWN:
                    if event["device_id"] == device_id:
                        return
                    continue
                yield f"data: {json.dumps(event)}\n\n"
            except TimeoutError:
                yield ": still here\n\n"
