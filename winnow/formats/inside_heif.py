"""An XMP packet put into a HEIF file (ISO/IEC 14496-12, 23008-12) that has one: the new one goes into its room,
or is appended in a box of its own to which the table of places points. Nothing that was there moves. Where there is
none yet, every place in the file would change: that is refused."""

from __future__ import annotations

import hashlib
import struct
from collections.abc import Iterator
from dataclasses import dataclass

from winnow.formats.splices import InsideError, Splice

XMP_TYPE = b"application/rdf+xml"


@dataclass(frozen=True, slots=True)
class _Box:
    """start: of its head; body: of what it holds; end."""

    kind: bytes
    start: int
    body: int
    end: int


@dataclass(frozen=True, slots=True)
class _Place:
    """Where an item lies: `at` and `size`, and where these (or what `at` is counted from) stand in the file, with
    their widths."""

    item: int
    method: int
    at: int
    size: int
    at_place: int
    at_width: int
    size_place: int
    size_width: int


def splices_for(data: bytes, packet: bytes) -> list[Splice]:
    """Raises InsideError."""
    meta = _meta(data)
    wanted = _xmp_item(data, meta)
    place = next((one for one in _places(data, meta) if one.item == wanted), None)
    if place is None or place.method != 0 or not place.at_width or not place.size_width:
        raise InsideError("Its XMP lies where it cannot be replaced without moving others: write a sidecar.")
    if len(packet) <= place.size:
        # In the room that it has: white space may follow a packet.
        old = data[place.at : place.at + place.size]
        return [Splice(place.at, old, packet.ljust(place.size))]
    box = struct.pack(">I4s", 8 + len(packet), b"mdat") + packet
    offset = len(data) + 8
    fields = (
        (
            place.at_place,
            place.at_width,
            offset - (place.at - _written(data, place.at_place, place.at_width)),
        ),
        (place.size_place, place.size_width, len(packet)),
    )
    splices = [
        Splice(at, data[at : at + width], value.to_bytes(width, "big"))
        for at, width, value in sorted(fields)
        if 0 <= value < 1 << 8 * width
    ]
    if len(splices) != 2:
        raise InsideError("Its table of places cannot hold the new one: write a sidecar.")
    return [*splices, Splice(len(data), b"", box)]


def picture_of(data: bytes) -> str:
    """All items but the packet."""
    meta = _meta(data)
    left = _xmp_item(data, meta)
    idat = next((box for box in _boxes(data, meta.body + 4, meta.end) if box.kind == b"idat"), None)
    digest = hashlib.sha256()
    for place in _places(data, meta):
        if place.item != left:
            start = place.at + (idat.body if place.method == 1 and idat else 0)
            digest.update(b"%d:%b" % (place.item, data[start : start + place.size]))
    return digest.hexdigest()


def _boxes(data: bytes, at: int, end: int) -> Iterator[_Box]:
    while at + 8 <= end:
        size, kind = struct.unpack(">I4s", data[at : at + 8])
        body = at + 8
        if size == 1 and at + 16 <= end:
            size, body = struct.unpack(">Q", data[at + 8 : at + 16])[0], at + 16
        elif size == 0:
            size = end - at
        if size < body - at or at + size > end:
            raise InsideError("Its boxes are damaged.")
        yield _Box(kind, at, body, at + size)
        at += size


def _meta(data: bytes) -> _Box:
    boxes = list(_boxes(data, 0, len(data)))
    if not boxes or boxes[0].kind != b"ftyp":
        raise InsideError("It is no HEIF file, whatever it is called.")
    meta = next((box for box in boxes if box.kind == b"meta"), None)
    if meta is None:
        raise InsideError("It has no table of what it holds.")
    return meta


def _child(data: bytes, meta: _Box, kind: bytes) -> _Box:
    found = next((box for box in _boxes(data, meta.body + 4, meta.end) if box.kind == kind), None)
    if found is None:
        raise InsideError("It has no table of what it holds.")
    return found


def _xmp_item(data: bytes, meta: _Box) -> int:
    """The number of the item that is the packet. Raises InsideError where there is none."""
    table = _child(data, meta, b"iinf")
    version = data[table.body]
    for box in _boxes(data, table.body + (6 if version == 0 else 8), table.end):
        if box.kind != b"infe" or data[box.body] < 2:
            continue
        wide = data[box.body] > 2
        at = box.body + 4
        number = int.from_bytes(data[at : at + (4 if wide else 2)], "big")
        at += (4 if wide else 2) + 2
        if data[at : at + 4] == b"mime" and XMP_TYPE in data[at : box.end]:
            return number
    raise InsideError(
        "It has no XMP yet, and making room for it would move all that it holds: write a sidecar."
    )


def _places(data: bytes, meta: _Box) -> list[_Place]:
    """Items that lie in one piece. Raises InsideError."""
    table = _child(data, meta, b"iloc")
    version = data[table.body]
    at = table.body + 4
    try:
        at_width, size_width = data[at] >> 4, data[at] & 15
        base_width, index_width = data[at + 1] >> 4, data[at + 1] & 15 if version else 0
        wide = 4 if version == 2 else 2
        count = int.from_bytes(data[at + 2 : at + 2 + wide], "big")
        at += 2 + wide
        found = []
        for _ in range(count):
            item = int.from_bytes(data[at : at + wide], "big")
            at += wide
            method = 0
            if version:
                method = data[at + 1] & 15
                at += 2
            base_place = at + 2
            base = _written(data, base_place, base_width)
            at += 2 + base_width
            extents = int.from_bytes(data[at : at + 2], "big")
            at += 2
            for _ in range(extents):
                at += index_width
                # Some readers heed the base alone: where there is one, it is what is changed.
                first, width = (base_place, base_width) if base_width else (at, at_width)
                second = at + at_width
                offset = base + _written(data, at, at_width)
                size = _written(data, at + at_width, size_width)
                at += at_width + size_width
                if extents == 1:
                    found.append(_Place(item, method, offset, size, first, width, second, size_width))
    except IndexError as error:
        raise InsideError("Its table of places is damaged.") from error
    return found


def _written(data: bytes, at: int, width: int) -> int:
    return int.from_bytes(data[at : at + width], "big")
