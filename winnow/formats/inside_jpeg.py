"""An XMP packet put into a JPEG (ISO 16684-3), and IPTC-IIM kept in step where the file has it."""

from __future__ import annotations

import struct
from dataclasses import dataclass

from winnow.core.marks import Marks
from winnow.formats.iim import IRB_HEAD, with_words
from winnow.formats.splices import InsideError, Splice, sha256

XMP_HEAD = b"http://ns.adobe.com/xap/1.0/\0"
XMP_MORE = b"http://ns.adobe.com/xmp/extension/\0"
MPF_HEAD = b"MPF\0"
MOST_SEGMENT = 65_533


@dataclass(frozen=True, slots=True)
class _Segment:
    marker: int
    start: int
    end: int

    def body(self, data: bytes) -> bytes:
        return data[self.start + 4 : self.end]


def _segments(data: bytes) -> tuple[list[_Segment], int]:
    """The segments before the first scan, and where that begins. Raises InsideError."""
    if data[:2] != b"\xff\xd8":
        raise InsideError("It is no JPEG, whatever it is called.")
    found: list[_Segment] = []
    at = 2
    while at + 4 <= len(data) and data[at] == 0xFF:
        marker = data[at + 1]
        if marker == 0xFF:  # a fill byte
            at += 1
            continue
        if marker == 0xDA:
            return found, at
        length = struct.unpack(">H", data[at + 2 : at + 4])[0]
        if length < 2 or at + 2 + length > len(data):
            break
        found.append(_Segment(marker, at, at + 2 + length))
        at += 2 + length
    raise InsideError("Its JPEG segments are damaged.")


def picture_of(data: bytes) -> str:
    """All from the first scan on, and the tables that it is read by."""
    segments, at = _segments(data)
    tables = b"".join(
        data[s.start : s.end] for s in segments if not 0xE0 <= s.marker <= 0xEF and s.marker != 0xFE
    )
    return sha256(tables + data[at:])


def splices_for(data: bytes, packet: bytes, words: Marks) -> list[Splice]:
    segments, _ = _segments(data)
    body = XMP_HEAD + packet
    if len(body) + 2 > MOST_SEGMENT:
        raise InsideError("Its XMP would be larger than a JPEG segment holds (64 KB): write a sidecar.")
    old = [s for s in segments if s.marker == 0xE1 and s.body(data).startswith(XMP_HEAD)]
    if any(s.marker == 0xE1 and s.body(data).startswith(XMP_MORE) for s in segments) or len(old) > 1:
        raise InsideError("Its XMP is spread over several segments: write a sidecar.")
    mpf = next(
        (s.start for s in segments if s.marker == 0xE2 and s.body(data).startswith(MPF_HEAD)), len(data)
    )
    new = _segment(0xE1, body)
    splices = []
    if old:
        splices.append(Splice(old[0].start, data[old[0].start : old[0].end], new))
    else:
        # After JFIF and Exif, which readers look for first.
        first = [
            s
            for s in segments
            if s.marker == 0xE0 or (s.marker == 0xE1 and s.body(data).startswith(b"Exif\0"))
        ]
        splices.append(Splice(max((s.end for s in first), default=2), b"", new))
    for segment in segments:
        if segment.marker == 0xED and segment.body(data).startswith(IRB_HEAD):
            put = with_words(segment.body(data), words)
            if put is not None:
                splices.append(Splice(segment.start, data[segment.start : segment.end], _segment(0xED, put)))
    if any(splice.at > mpf for splice in splices):
        raise InsideError("It holds several pictures, and what would change stands behind their list.")
    return sorted(splices, key=lambda splice: splice.at)


def _segment(marker: int, body: bytes) -> bytes:
    if len(body) + 2 > MOST_SEGMENT:
        raise InsideError("Its captions would be larger than a JPEG segment holds: write a sidecar.")
    return struct.pack(">BBH", 0xFF, marker, len(body) + 2) + body
