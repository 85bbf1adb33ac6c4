"""Settings of this Winnow, by name."""

from __future__ import annotations

import sqlite3

LIBRARY = "library"
CACHE_GB = "cache-gb"
CACHE_GB_DEFAULT = 40


TAKES_IN = "takes-in"
"""Marks that only other programs changed are taken over when a shoot is opened."""


FULL_NAMES = "full-sidecar-names"


def full_sidecar_names(connection: sqlite3.Connection) -> bool:
    """Whether new sidecars are called NAME.EXT.xmp, and not NAME.xmp."""
    return _is_on(connection, FULL_NAMES, False)


def set_full_sidecar_names(connection: sqlite3.Connection, full: bool) -> None:
    _switch(connection, FULL_NAMES, full)


def takes_in(connection: sqlite3.Connection) -> bool:
    """Whether marks that only other programs changed are taken over when a shoot is opened; else they wait."""
    return _is_on(connection, TAKES_IN, True)


def set_takes_in(connection: sqlite3.Connection, takes: bool) -> None:
    _switch(connection, TAKES_IN, takes)


def library(connection: sqlite3.Connection, new: str) -> str:
    """What tells this data folder from others, for good; `new` if it has nothing yet. Within a transaction."""
    connection.execute("INSERT OR IGNORE INTO setting VALUES (?, ?)", (LIBRARY, new))
    return str(connection.execute("SELECT value FROM setting WHERE name = ?", (LIBRARY,)).fetchone()[0])


def cache_gb(connection: sqlite3.Connection) -> int:
    """How much room the derived pictures may take, GB."""
    row = connection.execute("SELECT value FROM setting WHERE name = ?", (CACHE_GB,)).fetchone()
    return int(row[0]) if row else CACHE_GB_DEFAULT


def set_cache_gb(connection: sqlite3.Connection, value: int) -> None:
    connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (CACHE_GB, str(value)))


def _is_on(connection: sqlite3.Connection, name: str, unsaid: bool) -> bool:
    row = connection.execute("SELECT value FROM setting WHERE name = ?", (name,)).fetchone()
    return unsaid if row is None else row[0] == "1"


def _switch(connection: sqlite3.Connection, name: str, on: bool) -> None:
    connection.execute("INSERT OR REPLACE INTO setting VALUES (?, ?)", (name, "1" if on else "0"))
