"""Requests that were done, by their idempotency keys."""

from __future__ import annotations

import sqlite3
from datetime import UTC, datetime, timedelta

KEPT = timedelta(days=30)
"""Longer than anybody leaves a browser with marks that the server has not confirmed."""


class OtherRequestError(ValueError):
    """The key belongs to another request."""


def earlier(connection: sqlite3.Connection, key: str, request: str) -> int | None:
    """What came of a request that was done before, or None. Raises OtherRequestError."""
    row = connection.execute("SELECT request, outcome FROM answered WHERE key = ?", (key,)).fetchone()
    if row is None:
        return None
    if row["request"] != request:
        raise OtherRequestError(key)
    return int(row["outcome"])


def keep(connection: sqlite3.Connection, key: str, request: str, outcome: int, now: str) -> None:
    """Remembers what came of a request, and forgets those that nobody will ask for again."""
    long_ago = (datetime.now(UTC) - KEPT).isoformat(timespec="milliseconds")
    connection.execute("DELETE FROM answered WHERE at < ?", (long_ago,))
    connection.execute("INSERT INTO answered VALUES (?, ?, ?, ?)", (key, request, outcome, now))
