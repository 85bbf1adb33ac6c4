"""Browsers on other machines that were let in, each with a token of its own that can be withdrawn."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Device:
    """made_at, seen_at: ISO 8601, UTC."""

    id: int
    name: str
    digest: str
    made_at: str
    seen_at: str


def digest_of(token: str) -> str:
    """What is kept of a token: it cannot be told from that."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def let_in(connection: sqlite3.Connection, name: str, token: str, now: str) -> None:
    connection.execute(
        "INSERT INTO device (name, digest, made_at, seen_at) VALUES (?, ?, ?, ?)",
        (name, digest_of(token), now, now),
    )


def every(connection: sqlite3.Connection) -> list[Device]:
    """All that are let in, the one seen last first."""
    return [Device(*row) for row in connection.execute("SELECT * FROM device ORDER BY seen_at DESC, id DESC")]


def note_seen(connection: sqlite3.Connection, device_id: int, now: str) -> None:
    connection.execute("UPDATE device SET seen_at = ? WHERE id = ?", (now, device_id))


def withdraw(connection: sqlite3.Connection, device_id: int) -> None:
    """Its token lets nobody in any more."""
    connection.execute("DELETE FROM device WHERE id = ?", (device_id,))
