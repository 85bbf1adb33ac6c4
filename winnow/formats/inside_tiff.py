"""An XMP packet put into a TIFF or DNG: tag 700 (XMP Specification Part 3), appended; nothing there moves."""

from __future__ import annotations

import hashlib
import struct

from winnow.formats.splices import InsideError, Splice

XMP_TAG = 700


def splices_for(data: bytes, packet: bytes) -> list[Splice]:
    order, first, entries, after = _directory(data)
    pad = b"\0" * (len(data) & 1)
    for at, tag, _, _, _ in entries:
        if tag == XMP_TAG:
            entry = struct.pack(f"{order}HHII", XMP_TAG, 1, len(packet), len(data) + len(pad))
            return [Splice(at, data[at : at + 12], entry), Splice(len(data), b"", pad + packet)]
    place = len(data) + len(pad)
    count = len(entries) + 1
    inside = place + 2 + 12 * count + 4
    new = struct.pack(f"{order}HHII", XMP_TAG, 1, len(packet), inside)
    rows = sorted(
        [(tag, data[at : at + 12]) for at, tag, _, _, _ in entries] + [(XMP_TAG, new)], key=lambda r: r[0]
    )
    table = (
        struct.pack(f"{order}H", count) + b"".join(row for _, row in rows) + struct.pack(f"{order}I", after)
    )
    return [
        Splice(4, struct.pack(f"{order}I", first), struct.pack(f"{order}I", place)),
        Splice(len(data), b"", pad + table + packet),
    ]


_Entry = tuple[int, int, int, int, bytes]
_SIZES = {1: 1, 2: 1, 3: 2, 4: 4, 5: 8, 6: 1, 7: 1, 8: 2, 9: 4, 10: 8, 11: 4, 12: 8, 13: 4}
_STRIPS = ((273, 279), (324, 325))
"""Where strips and tiles lie, and how long they are."""


def _directory(data: bytes, at: int | None = None) -> tuple[str, int, list[_Entry], int]:
    """Byte order, offset, entries (place, tag, type, count, value) and the next offset of a directory; the first,
    where none is said. Raises InsideError."""
    order = {b"II": "<", b"MM": ">"}.get(data[:2])
    if order is None or len(data) < 8 or struct.unpack(f"{order}H", data[2:4])[0] != 42:
        raise InsideError("It is no TIFF of the usual kind, whatever it is called.")
    first = struct.unpack(f"{order}I", data[4:8])[0] if at is None else at
    try:
        count = struct.unpack(f"{order}H", data[first : first + 2])[0]
        entries = []
        for n in range(count):
            place = first + 2 + 12 * n
            tag, kind, number = struct.unpack(f"{order}HHI", data[place : place + 8])
            entries.append((place, tag, kind, number, data[place + 8 : place + 12]))
        end = first + 2 + 12 * count
        return order, first, entries, struct.unpack(f"{order}I", data[end : end + 4])[0]
    except struct.error as error:
        raise InsideError("Its first directory is damaged.") from error


def picture_of(data: bytes) -> str:
    """All strips and tiles of the first picture and of those that it holds."""
    order, _, _, _ = _directory(data)
    digest = hashlib.sha256()
    waiting: list[int | None] = [None]
    seen: set[int] = set()
    while waiting:
        _, at, entries, _ = _directory(data, waiting.pop())
        if at in seen or len(seen) > 64:
            continue
        seen.add(at)
        values = {tag: _numbers(data, order, kind, count, value) for _, tag, kind, count, value in entries}
        for places, lengths in _STRIPS:
            for place, length in zip(values.get(places, ()), values.get(lengths, ()), strict=False):
                digest.update(data[place : place + length])
        waiting += values.get(330, ())
    return digest.hexdigest()


def _numbers(data: bytes, order: str, kind: int, count: int, value: bytes) -> tuple[int, ...]:
    size = _SIZES.get(kind, 0) * count
    code = {3: "H", 4: "I", 13: "I"}.get(kind)
    if code is None:
        return ()
    if size > 4:
        place = struct.unpack(f"{order}I", value)[0]
        value = data[place : place + size]
    try:
        return struct.unpack(f"{order}{count}{code}", value[:size])
    except struct.error as error:
        raise InsideError("Its directory is damaged.") from error
