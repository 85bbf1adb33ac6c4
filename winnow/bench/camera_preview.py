"""JPEG files with a second, smaller picture behind the main one, as most cameras write them.

Source: CIPA DC-007, *Multi-Picture Format*, 2009 (from memory; Pillow reads what is written here): an APP2 segment
that begins with `MPF\\0` holds a TIFF structure whose MP Index IFD lists the pictures by type, length and offset.
Offsets count from the header of that structure; that of the first picture is 0.
"""

from __future__ import annotations

import struct

PREVIEW_HD = 0x010002
"""MP type code of a large thumbnail, full HD equivalent."""
_PRIMARY = 0x030000
_PARENT, _CHILD, _REPRESENTATIVE = 1 << 31, 1 << 30, 1 << 29
_MARK = b"MPF\0"
_VERSION, _COUNT, _ENTRIES = 0xB000, 0xB001, 0xB002
_UNDEFINED, _LONG = 7, 4
_ENTRY = 16


def with_preview(jpeg: bytes, preview: bytes, kind: int = PREVIEW_HD) -> bytes:
    """A JPEG that lists and carries another: the list behind the leading APP0 and APP1 segments, the other picture
    behind the end. Raises ValueError where one of them is no JPEG."""
    if jpeg[:2] != b"\xff\xd8" or preview[:2] != b"\xff\xd8":
        raise ValueError("not a JPEG")
    place = 2
    while jpeg[place : place + 2] in (b"\xff\xe0", b"\xff\xe1"):
        place += 2 + int.from_bytes(jpeg[place + 2 : place + 4], "big")
    base = place + 4 + len(_MARK)
    fields = 3
    entries_at = 8 + 2 + 12 * fields + 4
    length = 2 + len(_MARK) + entries_at + 2 * _ENTRY
    whole = len(jpeg) + 2 + length
    index = struct.pack(">2sHIH", b"MM", 42, 8, fields)
    index += struct.pack(">HHI4s", _VERSION, _UNDEFINED, 4, b"0100")
    index += struct.pack(">HHII", _COUNT, _LONG, 1, 2)
    index += struct.pack(">HHII", _ENTRIES, _UNDEFINED, 2 * _ENTRY, entries_at)
    index += struct.pack(">I", 0)
    index += struct.pack(">IIIHH", _PARENT | _REPRESENTATIVE | _PRIMARY, whole, 0, 2, 0)
    index += struct.pack(">IIIHH", _CHILD | kind, len(preview), whole - base, 0, 0)
    segment = b"\xff\xe2" + length.to_bytes(2, "big") + _MARK + index
    return jpeg[:place] + segment + jpeg[place:] + preview
