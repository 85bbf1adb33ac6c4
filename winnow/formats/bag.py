"""Bags: files with a manifest of their sums beside them, so that they can be verified years later.

Source: RFC 8493, *The BagIt File Packaging Format (V1.0)*, 2018: the payload lies in `data/`, its SHA-256 sums in
`manifest-sha256.txt`, those of the tag files in `tagmanifest-sha256.txt`.
"""

from __future__ import annotations

import hashlib
import os
import re
from collections.abc import Mapping
from pathlib import Path

PAYLOAD = "data"
DECLARATION = "bagit.txt"
INFO = "bag-info.txt"
MANIFEST = "manifest-sha256.txt"
TAG_MANIFEST = "tagmanifest-sha256.txt"
AGENT = "Bag-Software-Agent: Winnow"

_LINE = re.compile(rb"([0-9A-Fa-f]{64})[ \t]+\*?(.+)")


class BagError(ValueError):
    """A folder that is no bag, or whose manifest cannot be used; the message says why."""


def tag_files(sums: Mapping[str, str], octets: int, day: str) -> dict[str, bytes]:
    """The tag files of a bag by name, in the order in which they should be written. sums: SHA-256 by path below the
    bag, with `/`; octets: bytes of the payload; day: ISO 8601."""
    info = f"{AGENT}\nBagging-Date: {day}\nPayload-Oxum: {octets}.{len(sums)}\n"
    files = {
        DECLARATION: b"BagIt-Version: 1.0\nTag-File-Character-Encoding: UTF-8\n",
        INFO: info.encode(),
        MANIFEST: _lines(sums),
    }
    return {
        **files,
        TAG_MANIFEST: _lines({name: hashlib.sha256(text).hexdigest() for name, text in files.items()}),
    }


def manifest_of(folder: Path) -> dict[str, str]:
    """SHA-256 by path below a bag. Raises BagError, or OSError."""
    try:
        sums = _read((folder / MANIFEST).read_bytes())
    except FileNotFoundError as error:
        raise BagError("There is no manifest in this folder.") from error
    if any(path.split("/")[0] != PAYLOAD or ".." in path.split("/") for path in sums):
        raise BagError("Its manifest names files outside the bag.")
    return sums


def demand_ours(folder: Path) -> None:
    """Raises BagError for a folder that is a bag of another program, or whose manifest could not be gone on with:
    what is said there would be lost by writing it anew."""
    if not (folder / DECLARATION).exists():
        return
    try:
        ours = AGENT in (folder / INFO).read_text("utf-8", "replace").splitlines()
    except OSError:
        ours = False
    if not ours:
        raise BagError("It is a bag of another program.")
    manifest_of(folder)


def tags_differ(folder: Path) -> list[str]:
    """The tag files that are not as they were written; empty as well where nothing says how they were. Raises
    BagError, or OSError."""
    path = folder / TAG_MANIFEST
    if not path.exists():
        return []
    return [name for name, digest in _read(path.read_bytes()).items() if _digest(folder / name) != digest]


def _digest(path: Path) -> str | None:
    return hashlib.sha256(path.read_bytes()).hexdigest() if path.is_file() else None


def _lines(sums: Mapping[str, str]) -> bytes:
    return b"".join(b"%b  %b\n" % (digest.encode(), _escaped(path)) for path, digest in sorted(sums.items()))


def _read(text: bytes) -> dict[str, str]:
    found = {}
    for number, line in enumerate(re.split(rb"\r\n|\n|\r", text), 1):
        if not line.strip():
            continue
        parts = _LINE.fullmatch(line)
        if parts is None:
            raise BagError(f"Line {number} of its manifest is none.")
        found[_plain(parts[2])] = parts[1].decode().lower()
    return found


def _escaped(path: str) -> bytes:
    """Line feeds, carriage returns and percent signs are percent-encoded, and nothing else (RFC 8493, 2.1.3)."""
    return re.sub(rb"[\n\r%]", lambda found: b"%%%02X" % found[0][0], os.fsencode(path))


def _plain(path: bytes) -> str:
    text = re.sub(rb"%(0A|0D|25)", lambda found: bytes([int(found[1], 16)]), path, flags=re.IGNORECASE)
    return os.fsdecode(text.removeprefix(b"./"))
