"""Idempotency keys: a request that is sent again under the same key acts once and gets the same answer.

A client that got no answer cannot know whether its request arrived; it sends it again with the same key. The outcome
is stored in the transaction of the change itself, so that there is never one without the other. A second request
under a key in progress waits until the first has ended.

Source: IETF draft *The Idempotency-Key HTTP Header Field*.
"""

from __future__ import annotations

import asyncio
import hashlib
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from dataclasses import dataclass
from sqlite3 import Connection
from typing import Annotated, TypeVar

from fastapi import Depends, Header, Request
from pydantic import BaseModel

from winnow.api.desk import now
from winnow.api.problems import Code, ProblemError
from winnow.store import idempotency
from winnow.store.idempotency import Completed, OtherRequestError, RequestKey

Answer = TypeVar("Answer", bound=BaseModel)


@dataclass(frozen=True, slots=True)
class Idempotency:
    """The key of a request (None: it has none)."""

    request: RequestKey | None

    def earlier(self, connection: Connection) -> int | None:
        """Return the id that was recorded when the request was carried out before, or None."""
        found = self._completed(connection)
        return found.outcome if found else None

    def earlier_answer(self, connection: Connection, model: type[Answer]) -> Answer | None:
        """Return the answer that was recorded when the request was carried out before, or None."""
        found = self._completed(connection)
        return model.model_validate_json(found.answer) if found and found.answer else None

    def complete(self, connection: Connection, outcome: int, answer: BaseModel | None = None) -> None:
        """Record the outcome of the request, and its answer where the outcome alone does not give it."""
        if self.request is not None:
            written = answer.model_dump_json() if answer is not None else None
            idempotency.complete(connection, self.request, outcome, now(), written)

    def part(self, name: str) -> Idempotency:
        """Return the key of a part of the request that is stored in a transaction of its own."""
        if self.request is None:
            return self
        return Idempotency(RequestKey(f"{self.request.key}/{name}", self.request.digest))

    def _completed(self, connection: Connection) -> Completed | None:
        if self.request is None:
            return None
        try:
            return idempotency.completed(connection, self.request)
        except OtherRequestError:
            raise ProblemError(
                Code.KEY_REUSED, "This idempotency key was used for another request: use a new one."
            ) from None


class KeysInProgress:
    """The keys of the requests that are being carried out. Used on the event loop only, so that requests that wait
    occupy no thread."""

    def __init__(self) -> None:
        self._locks: dict[str, tuple[asyncio.Lock, int]] = {}

    @asynccontextmanager
    async def holding(self, key: str) -> AsyncIterator[None]:
        """Wait until no other request under the key is in progress, and hold the key."""
        lock, users = self._locks.get(key, (asyncio.Lock(), 0))
        self._locks[key] = lock, users + 1
        try:
            async with lock:
                yield
        finally:
            _, users = self._locks[key]
            if users == 1:
                del self._locks[key]
            else:
                self._locks[key] = lock, users - 1

    def __len__(self) -> int:
        return len(self._locks)


async def _idempotency(
    request: Request,
    idempotency_key: Annotated[str | None, Header(min_length=8, max_length=200)] = None,
) -> AsyncIterator[Idempotency]:
    if idempotency_key is None:
        yield Idempotency(None)
        return
    digest = hashlib.blake2b(request.url.path.encode("utf-8", "replace") + b"\0", digest_size=16)
    digest.update(await request.body())
    keys: KeysInProgress = request.app.state.keys_in_progress
    async with keys.holding(idempotency_key):
        yield Idempotency(RequestKey(idempotency_key, digest.hexdigest()))


InIdempotency = Annotated[Idempotency, Depends(_idempotency, scope="function")]
"""Held from before the route runs until it has returned."""
