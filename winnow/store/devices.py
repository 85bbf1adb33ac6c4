"""Browsers on other machines that were let in, each with a token of its own that can be withdrawn."""

from __future__ import annotations

import hashlib
import sqlite3
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Device:
    """made_at, seen_at: ISO 8601, UTC. proposes: what is marked there is a proposal."""

    id: int
    name: str
    digest: str
    made_at: str
    seen_at: str
    proposes: bool


def digest_of(token: str) -> str:
    """What is kept of a token: it cannot be told from that."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def let_in(
    connection: sqlite3.Connection, name: str, token: str, now: str, *, proposes: bool = False
) -> None:
    connection.execute(
        "INSERT INTO device (name, digest, made_at, seen_at, proposes) VALUES (?, ?, ?, ?, ?)",
        (name, digest_of(token), now, now, proposes),
    )


def set_proposes(connection: sqlite3.Connection, device_id: int, proposes: bool) -> None:
    connection.execute("UPDATE device SET proposes = ? WHERE id = ?", (proposes, device_id))


def every(connection: sqlite3.Connection) -> list[Device]:
    """All that are let in, the one seen last first."""
    rows = connection.execute("SELECT * FROM device ORDER BY seen_at DESC, id DESC")
    return [Device(*row) for row in rows]


def note_seen(connection: sqlite3.Connection, device_id: int, now: str) -> None:
    connection.execute("UPDATE device SET seen_at = ? WHERE id = ?", (now, device_id))


def withdraw(connection: sqlite3.Connection, device_id: int) -> None:
    """Its token lets nobody in any more."""
    connection.execute("DELETE FROM device WHERE id = ?", (device_id,))
