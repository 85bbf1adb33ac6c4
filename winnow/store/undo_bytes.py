"""What a file held before a step of a plan, compressed, and the functions that a migration needs for that."""

from __future__ import annotations

import hashlib
import sqlite3
import struct
import zlib

_HEADER = struct.Struct(">Q")


def pack_undo(previous: bytes, content: bytes = b"") -> bytes:
    """Compress what a file held before a step and what the step wrote: the two are alike, so the second costs little.
    Both are needed where an undo is cut off in the middle of the file."""
    return zlib.compress(_HEADER.pack(len(previous)) + previous + content)


def unpack_undo(undo: bytes) -> tuple[bytes, bytes]:
    """Return (previous, content) from `pack_undo`."""
    whole = zlib.decompress(undo)
    at = _HEADER.size + _HEADER.unpack_from(whole)[0]
    return whole[_HEADER.size : at], whole[at:]


def add_functions(connection: sqlite3.Connection) -> None:
    """Let SQL pack what steps of earlier releases hold uncompressed."""
    connection.create_function(
        "winnow_sha256", 1, lambda data: hashlib.sha256(data).hexdigest(), deterministic=True
    )
    connection.create_function("winnow_packed", 2, pack_undo, deterministic=True)
