"""Programs that frames are opened in, as a person named them."""

from __future__ import annotations

import sqlite3


def every(connection: sqlite3.Connection) -> dict[str, str]:
    """Name → command, see `core.editor_command`."""
    return dict(connection.execute("SELECT name, command FROM editor ORDER BY name").fetchall())


def keep(connection: sqlite3.Connection, name: str, command: str) -> None:
    """Keeps a program in the place of another of that name."""
    connection.execute("INSERT OR REPLACE INTO editor (name, command) VALUES (?, ?)", (name, command))


def forget(connection: sqlite3.Connection, name: str) -> None:
    connection.execute("DELETE FROM editor WHERE name = ?", (name,))
