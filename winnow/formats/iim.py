"""IPTC-IIM 4.2 in the block of resources of a JPEG, kept in step with XMP as the Metadata Working Group's *Guidelines
for Handling Image Metadata* 2.0 ask: where it is, in UTF-8."""

from __future__ import annotations

import hashlib
import struct

from winnow.core.marks import Marks
from winnow.core.words import languages_of, list_of
from winnow.formats.splices import InsideError

IRB_HEAD = b"Photoshop 3.0\0"
IIM, IIM_DIGEST = 0x0404, 0x0425
UTF8 = b"\x1b%G"


def with_words(body: bytes, words: Marks) -> bytes | None:
    """The resource block with IPTC-IIM in step with the words; None where it holds none. Raises InsideError."""
    resources: list[tuple[int, bytes, bytes]] = []
    at = len(IRB_HEAD)
    while at < len(body):
        if body[at : at + 4] != b"8BIM":
            raise InsideError("Its block of resources cannot be read: write a sidecar.")
        named = (body[at + 6] + 2) & ~1
        start = at + 6 + named + 4
        size = struct.unpack(">I", body[start - 4 : start])[0]
        if start + size > len(body):
            raise InsideError("Its block of resources goes on in another segment: write a sidecar.")
        resources.append(
            (struct.unpack(">H", body[at + 4 : at + 6])[0], body[at : start - 4], body[start : start + size])
        )
        at = start + size + (size & 1)
    iim = next((content for number, _, content in resources if number == IIM), None)
    if iim is None:
        return None
    fresh = _iim(iim, words)
    changed = {IIM: fresh, IIM_DIGEST: hashlib.md5(fresh, usedforsecurity=False).digest()}
    out = [IRB_HEAD]
    for number, head, content in resources:
        content = changed.get(number, content)
        out.append(head + struct.pack(">I", len(content)) + content + b"\0" * (len(content) & 1))
    return b"".join(out)


_LENGTHS = {120: 2000, 105: 256, 25: 64, 80: 32, 116: 128}
"""Octets that a data set of IIM holds at most: caption, headline, keyword, by-line, copyright."""


def _iim(block: bytes, words: Marks) -> bytes:
    """IPTC-IIM with the words that are said; the rest stays, in UTF-8, and the block says that it is."""
    captions = languages_of(words.caption) if words.caption else {}
    said: dict[int, list[str]] = {
        120: [next(iter(captions.values()))] if captions else [],
        105: [words.headline] if words.headline else [],
        25: list_of(words.keywords),
        80: list_of(words.creator),
        116: [words.copyright] if words.copyright else [],
    }
    sets, coded = _data_sets(block)
    kept = [
        (record, number, content if record != 2 else _as_utf8(content, coded))
        for record, number, content in sets
        if (record, number) != (1, 90) and not (record == 2 and said.get(number))
    ]
    kept += [(2, number, _short(text, _LENGTHS[number])) for number, texts in said.items() for text in texts]
    ordered = sorted([(1, 90, UTF8), *kept], key=lambda one: one[0])
    return b"".join(struct.pack(">BBBH", 0x1C, record, number, len(c)) + c for record, number, c in ordered)


def _data_sets(block: bytes) -> tuple[list[tuple[int, int, bytes]], bool]:
    """Record, number and content of each; and whether they say that they are UTF-8."""
    found, at, coded = [], 0, False
    while at + 5 <= len(block) and block[at] == 0x1C:
        record, number, size = struct.unpack(">BBH", block[at + 1 : at + 5])
        if size & 0x8000 or at + 5 + size > len(block):
            raise InsideError("Its IPTC block cannot be read: write a sidecar.")
        content = block[at + 5 : at + 5 + size]
        coded = coded or ((record, number) == (1, 90) and content == UTF8)
        found.append((record, number, content))
        at += 5 + size
    if block[at:].strip(b"\0"):
        raise InsideError("Its IPTC block cannot be read: write a sidecar.")
    return found, coded


def _as_utf8(content: bytes, coded: bool) -> bytes:
    """Texts of a block that does not say how they are coded are Latin-1, as the guidelines have it, where they are
    not UTF-8 all the same."""
    if coded:
        return content
    try:
        content.decode()
    except UnicodeDecodeError:
        return content.decode("latin-1").encode()
    return content


def _short(text: str, most: int) -> bytes:
    return text.encode()[:most].decode(errors="ignore").encode()
