"""Filters that a person gave a name, for one shoot or for all."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class NamedFilter:
    """shoot_id: None for all shoots; sentence: see `core.sentence`."""

    id: int
    shoot_id: int | None
    name: str
    sentence: str


def of_shoot(connection: sqlite3.Connection, shoot_id: int) -> list[NamedFilter]:
    """Those of a shoot and those of all shoots, by name."""
    rows = connection.execute(
        """SELECT id, shoot_id, name, sentence FROM named_filter WHERE shoot_id = ? OR shoot_id IS NULL
           ORDER BY name COLLATE NOCASE, id""",
        (shoot_id,),
    )
    return [NamedFilter(*row) for row in rows]


def keep(connection: sqlite3.Connection, shoot_id: int | None, name: str, sentence: str) -> int:
    """Keeps a filter in the place of another of that name; returns its number."""
    connection.execute("DELETE FROM named_filter WHERE name = ? AND shoot_id IS ?", (name, shoot_id))
    kept = connection.execute(
        "INSERT INTO named_filter (shoot_id, name, sentence) VALUES (?, ?, ?)", (shoot_id, name, sentence)
    ).lastrowid
    assert kept is not None
    return kept


def forget(connection: sqlite3.Connection, shoot_id: int, filter_id: int) -> None:
    connection.execute(
        "DELETE FROM named_filter WHERE id = ? AND (shoot_id = ? OR shoot_id IS NULL)", (filter_id, shoot_id)
    )


def say_anew(connection: sqlite3.Connection, again: Callable[[str], str]) -> None:
    """Rewrites all sentences: what they call things by has changed."""
    for filter_id, sentence in connection.execute("SELECT id, sentence FROM named_filter").fetchall():
        connection.execute("UPDATE named_filter SET sentence = ? WHERE id = ?", (again(sentence), filter_id))
