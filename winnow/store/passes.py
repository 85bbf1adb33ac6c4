"""Passes that the person made, and in which order a new shoot is gone through."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable, Sequence
from dataclasses import replace

from winnow.core import passes
from winnow.core.pairing import fold
from winnow.core.passes import OURS, Pass
from winnow.store.readable import readable

ORDER = "passes"
"""The setting that holds the order of passes for a new shoot."""


def own(connection: sqlite3.Connection) -> list[Pass]:
    """The passes that the person made, by name."""
    rows = connection.execute("SELECT definition FROM pass ORDER BY name")
    return readable(rows, lambda row: passes.from_json(json.loads(row[0])))


def named(connection: sqlite3.Connection, name: str) -> Pass | None:
    """A pass, ours or the person's own."""
    return next((one for one in (*OURS, *own(connection)) if fold(one.name) == fold(name)), None)


def keep(connection: sqlite3.Connection, one: Pass) -> None:
    """Keeps a pass, in the place of another of that name."""
    forget(connection, one.name)
    connection.execute(
        "INSERT INTO pass VALUES (?, ?)",
        (one.name, json.dumps(passes.as_json(one), ensure_ascii=False)),
    )


def forget(connection: sqlite3.Connection, name: str) -> None:
    """Forgets a pass; walks that were made with it stay."""
    if known := named(connection, name):
        connection.execute("DELETE FROM pass WHERE name = ?", (known.name,))


def order(connection: sqlite3.Connection) -> list[str]:
    """The names of the passes that a new shoot is gone through with, in that order."""
    row = connection.execute("SELECT value FROM setting WHERE name = ?", (ORDER,)).fetchone()
    if row is None:
        return [one.name for one in OURS]
    known = {one.name for one in (*OURS, *own(connection))}
    return [name for name in json.loads(row[0]) if name in known]


def set_order(connection: sqlite3.Connection, names: Sequence[str]) -> None:
    connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (ORDER, json.dumps(list(names))))


def say_anew(connection: sqlite3.Connection, again: Callable[[str], str]) -> None:
    """Rewrites the sentences of all passes: what they call things by has changed."""
    for one in own(connection):
        keep(connection, replace(one, scope=again(one.scope), bulk=tuple(map(again, one.bulk))))
