"""Completed requests by their idempotency keys, each with its answer.

Source: IETF draft *The Idempotency-Key HTTP Header Field*: a request repeated under one key acts once.
"""

from __future__ import annotations

import sqlite3
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta

KEPT = timedelta(days=30)
"""Longer than anybody leaves a browser with marks that the server has not confirmed."""


class OtherRequestError(ValueError):
    """The key belongs to another request."""


@dataclass(frozen=True, slots=True)
class RequestKey:
    """An idempotency key, and a digest of the request that was sent with it."""

    key: str
    digest: str


@dataclass(frozen=True, slots=True)
class Completed:
    """A request that was carried out. outcome: the id of the row that it made, 0 if it made none; answer: what the
    client was told, as JSON, where that cannot be read off the row."""

    outcome: int
    answer: str | None


def completed(connection: sqlite3.Connection, request: RequestKey) -> Completed | None:
    """Return the outcome of a request that was carried out before, or None. Raises OtherRequestError."""
    row = connection.execute(
        "SELECT request, outcome, answer FROM completed_request WHERE key = ?", (request.key,)
    ).fetchone()
    if row is None:
        return None
    if row["request"] != request.digest:
        raise OtherRequestError(request.key)
    return Completed(int(row["outcome"]), row["answer"])


def complete(
    connection: sqlite3.Connection, request: RequestKey, outcome: int, now: str, answer: str | None = None
) -> None:
    """Record the outcome of a request, and delete records too old to be asked for. Belongs in the transaction of the
    change itself. Raises sqlite3.IntegrityError if the key is recorded already."""
    long_ago = (datetime.now(UTC) - KEPT).isoformat(timespec="milliseconds")
    connection.execute("DELETE FROM completed_request WHERE at < ?", (long_ago,))
    connection.execute(
        "INSERT INTO completed_request (key, request, outcome, at, answer) VALUES (?, ?, ?, ?, ?)",
        (request.key, request.digest, outcome, now, answer),
    )
