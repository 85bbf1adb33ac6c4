"""Settings of this Winnow, by name."""

from __future__ import annotations

import sqlite3

LIBRARY = "library"
CACHE_GB = "cache-gb"
CACHE_GB_DEFAULT = 40


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
