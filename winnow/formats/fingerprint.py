"""Fingerprints of picture files: cheap to read, the same wherever the file lies.

BLAKE2b: RFC 7693, here with 128 bits. Segments of a JPEG: ISO/IEC 10918-1, annex B.
"""

from __future__ import annotations

import hashlib
import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from winnow.formats.opening import open_plain

EDGE_BYTES = 64 * 1024
BLOCK = 1024 * 1024
READERS = 8

_START_OF_SCAN = 0xDA
_WITHOUT_LENGTH = frozenset({0x01, *range(0xD0, 0xD9)})
_COMMENT = 0xFE
_PROFILE, _ADOBE = 0xE2, 0xEE


@dataclass(frozen=True, slots=True)
class Fingerprint:
    """`content`: over the size and the first and last 64 KiB of the file. `picture`: over what the pixels come from
    alone, so that it stays when tags are written; only JPEG tells the two apart."""

    content: str
    picture: str


def fingerprint_of(path: Path, below: str | None = None) -> Fingerprint:
    """Reads at most 256 KiB and the headers in between. below: see `opening`. Raises OSError."""
    with open_plain(path, below) as file:
        size = os.fstat(file.fileno()).st_size
        content = _over(file, 0, size)
        return Fingerprint(content, _picture_of_jpeg(file, size) or content)


def content_of(path: Path, below: str | None = None) -> str:
    """The `content` part alone. Raises OSError."""
    with open_plain(path, below) as file:
        return _over(file, 0, os.fstat(file.fileno()).st_size)


def contents_of(paths: Sequence[str]) -> list[str | None]:
    """The `content` parts of many files, None where one cannot be read: several are read at once, as most of the time
    is spent waiting for the disk."""

    def read(path: str) -> str | None:
        try:
            return content_of(Path(path))
        except OSError:
            return None

    with ThreadPoolExecutor(READERS) as readers:
        return list(readers.map(read, paths))


def digest_of_all(path: Path, below: str | None = None) -> str:
    """BLAKE2b-128 over every byte of a file. Raises OSError."""
    with open_plain(path, below) as file:
        return digest_of_file(file)


def digest_of_file(file: BinaryIO) -> str:
    """The same of an open file, from wherever it was read. Raises OSError."""
    digest = hashlib.blake2b(digest_size=16)
    file.seek(0)
    while block := file.read(BLOCK):
        digest.update(block)
    return digest.hexdigest()


def digest_of_bytes(data: bytes) -> str:
    """BLAKE2b-128 of data that was read already."""
    return hashlib.blake2b(data, digest_size=16).hexdigest()


def _over(file: BinaryIO, start: int, end: int, before: bytes = b"") -> str:
    digest = hashlib.blake2b(before, digest_size=16)
    digest.update(str(end - start).encode())
    file.seek(start)
    digest.update(file.read(min(EDGE_BYTES, end - start)))
    file.seek(max(start, end - EDGE_BYTES))
    digest.update(file.read(EDGE_BYTES))
    return digest.hexdigest()


def _picture_of_jpeg(file: BinaryIO, size: int) -> str | None:
    """Over the tables, the colour profile and the scans of a JPEG; None if it is none, or is broken."""
    file.seek(0)
    if file.read(2) != b"\xff\xd8":
        return None
    tables = b""
    while True:
        place = file.tell()
        head = file.read(4)
        while head[:2] == b"\xff\xff":  # fill bytes may stand before any marker
            place += 1
            head = head[1:] + file.read(1)
        if len(head) < 4 or head[0] != 0xFF:
            return None
        kind, length = head[1], int.from_bytes(head[2:], "big")
        if kind == _START_OF_SCAN:
            return _over(file, place, size, before=tables)
        if kind in _WITHOUT_LENGTH or length < 2:
            return None
        described = kind not in range(0xE0, 0xF0) and kind != _COMMENT
        if described or kind in (_PROFILE, _ADOBE):
            body = file.read(length - 2)
            if described or kind == _ADOBE or body.startswith(b"ICC_PROFILE\0"):
                tables += head + body
        file.seek(place + 2 + length)
