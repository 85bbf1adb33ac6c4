"""Patterns of file names that a person gave a name."""

from __future__ import annotations

import json
import sqlite3
from dataclasses import asdict

from winnow.core.file_names import Naming, Per
from winnow.store.readable import readable


def every(connection: sqlite3.Connection) -> dict[str, Naming]:
    """All of them, by name."""

    def make(row: sqlite3.Row) -> tuple[str, Naming]:
        held = json.loads(row["naming"])
        return row["name"], Naming(**{**held, "per": Per(held["per"])})

    return dict(readable(connection.execute("SELECT name, naming FROM name_pattern ORDER BY name"), make))


def keep(connection: sqlite3.Connection, name: str, naming: Naming) -> None:
    """Keeps a pattern in the place of another of that name."""
    connection.execute(
        "INSERT OR REPLACE INTO name_pattern (name, naming) VALUES (?, ?)", (name, json.dumps(asdict(naming)))
    )


def forget(connection: sqlite3.Connection, name: str) -> None:
    connection.execute("DELETE FROM name_pattern WHERE name = ?", (name,))
