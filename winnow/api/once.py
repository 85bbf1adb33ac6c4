"""Changes that are asked for twice are done once: requests may carry an idempotency key.

A client that got no answer cannot know whether its request arrived; it sends it again with the same key. The answer
is kept in the transaction of the change itself, so that there is no moment at which one is there without the other.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from sqlite3 import Connection
from typing import Annotated

from fastapi import Depends, Header, Request

from winnow.api.desk import now
from winnow.api.problems import Code, ProblemError
from winnow.store import answered
from winnow.store.answered import OtherRequestError


@dataclass(frozen=True, slots=True)
class Once:
    """The key of a request (None: it has none), and a digest over its address and body."""

    key: str | None
    request: str

    def earlier(self, connection: Connection) -> int | None:
        """What came of the request when it was done before: the id that `keep` was given."""
        if self.key is None:
            return None
        try:
            return answered.earlier(connection, self.key, self.request)
        except OtherRequestError:
            raise ProblemError(
                Code.KEY_REUSED, "This idempotency key was used for another request: use a new one."
            ) from None

    def keep(self, connection: Connection, outcome: int) -> None:
        """Remembers what came of the request, by an id."""
        if self.key is not None:
            answered.keep(connection, self.key, self.request, outcome, now())


async def _once(
    request: Request,
    idempotency_key: Annotated[str | None, Header(min_length=8, max_length=200)] = None,
) -> Once:
    digest = hashlib.blake2b(request.url.path.encode("utf-8", "replace") + b"\0", digest_size=16)
    digest.update(await request.body())
    return Once(idempotency_key, digest.hexdigest())


DoneOnce = Annotated[Once, Depends(_once)]
