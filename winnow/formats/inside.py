"""Marks written into pictures, for programs that read nothing else: by splices that leave the picture data alone.

JPEG: the XMP segment (ISO 16684-3), and IPTC-IIM (IPTC IIM 4.2) where the file has it already, kept in step as the
Metadata Working Group's *Guidelines for Handling Image Metadata* 2.0 ask. TIFF and DNG: tag 700, appended; nothing
that was there moves.
"""

from __future__ import annotations

import base64
import hashlib
import json
import struct
from collections.abc import Sequence
from dataclasses import dataclass

from winnow.core.marks import Marks
from winnow.core.pairing import split_name
from winnow.core.words import languages_of, list_of

XMP_HEAD = b"http://ns.adobe.com/xap/1.0/\0"
XMP_MORE = b"http://ns.adobe.com/xmp/extension/\0"
IRB_HEAD = b"Photoshop 3.0\0"
MPF_HEAD = b"MPF\0"
MOST_SEGMENT = 65_533
IIM, IIM_DIGEST = 0x0404, 0x0425
UTF8 = b"\x1b%G"
XMP_TAG = 700

JPEGS, TIFFS = frozenset({"jpg", "jpeg", "jpe"}), frozenset({"tif", "tiff", "dng"})


class InsideError(ValueError):
    """A file that is left as it is; the message says why."""


@dataclass(frozen=True, slots=True)
class Splice:
    """At a place of the old file, `taken` gives way to `put`."""

    at: int
    taken: bytes
    put: bytes


@dataclass(frozen=True, slots=True)
class Rewriting:
    """A file before and after, SHA-256 of both, and what is between them."""

    before: str
    after: str
    splices: tuple[Splice, ...]

    def packed(self) -> bytes:
        coded = [
            [s.at, *(base64.b64encode(part).decode() for part in (s.taken, s.put))] for s in self.splices
        ]
        return json.dumps([self.before, self.after, coded]).encode()

    @classmethod
    def unpacked(cls, content: bytes) -> Rewriting:
        before, after, coded = json.loads(content)
        return cls(before, after, tuple(Splice(at, *map(base64.b64decode, parts)) for at, *parts in coded))

    def apply(self, data: bytes) -> bytes:
        """The new file, of the old. Raises InsideError for any other file."""
        _demand(data, self.before)
        return _spliced(data, self.splices)

    def back(self, data: bytes) -> bytes:
        """The old file, of the new. Raises InsideError for any other file."""
        _demand(data, self.after)
        moved, reversed_ = 0, []
        for splice in self.splices:
            reversed_.append(Splice(splice.at + moved, splice.put, splice.taken))
            moved += len(splice.put) - len(splice.taken)
        return _spliced(data, reversed_)


def can_hold(name: str) -> bool:
    """Whether marks can be written into a file, by its name."""
    return split_name(name)[1] in JPEGS | TIFFS


def rewriting(name: str, data: bytes, packet: bytes, words: Marks) -> Rewriting:
    """What makes a file hold a packet. words: whose words go into IPTC-IIM too, where it is there. Raises
    InsideError. The picture data of the new file are proven to be those of the old."""
    ending = split_name(name)[1]
    if ending in JPEGS:
        splices, picture_of = _in_jpeg(data, packet, words), _scans
    elif ending in TIFFS:
        splices, picture_of = _in_tiff(data, packet), _strips
    else:
        raise InsideError("Marks cannot be written into files of this kind: write sidecars.")
    new = _spliced(data, splices)
    if picture_of(new) != picture_of(data):
        raise InsideError("Its picture data would not stay what they are: it is left alone.")
    return Rewriting(_sha(data), _sha(new), tuple(splices))


def _demand(data: bytes, digest: str) -> None:
    if _sha(data) != digest:
        raise InsideError("The file is not the one that this was made for.")


def _sha(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def _spliced(data: bytes, splices: Sequence[Splice]) -> bytes:
    parts: list[bytes] = []
    at = 0
    for splice in splices:
        parts += [data[at : splice.at], splice.put]
        at = splice.at + len(splice.taken)
    return b"".join([*parts, data[at:]])


# JPEG


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


def _scans(data: bytes) -> str:
    """All from the first scan on, and the tables that it is read by."""
    segments, at = _segments(data)
    tables = b"".join(
        data[s.start : s.end] for s in segments if not 0xE0 <= s.marker <= 0xEF and s.marker != 0xFE
    )
    return _sha(tables + data[at:])


def _in_jpeg(data: bytes, packet: bytes, words: Marks) -> list[Splice]:
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
            put = _with_iim(segment.body(data), words)
            if put is not None:
                splices.append(Splice(segment.start, data[segment.start : segment.end], _segment(0xED, put)))
    if any(splice.at > mpf for splice in splices):
        raise InsideError("It holds several pictures, and what would change stands behind their list.")
    return sorted(splices, key=lambda splice: splice.at)


def _segment(marker: int, body: bytes) -> bytes:
    if len(body) + 2 > MOST_SEGMENT:
        raise InsideError("Its captions would be larger than a JPEG segment holds: write a sidecar.")
    return struct.pack(">BBH", 0xFF, marker, len(body) + 2) + body


def _with_iim(body: bytes, words: Marks) -> bytes | None:
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


# TIFF


def _in_tiff(data: bytes, packet: bytes) -> list[Splice]:
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


def _strips(data: bytes) -> str:
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
