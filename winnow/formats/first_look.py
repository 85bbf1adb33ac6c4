"""The smaller pictures that cameras put into their JPEG files: something to look at before anything is decoded.

Sources: CIPA DC-007, *Multi-Picture Format*, 2009: an APP2 segment lists the pictures of a file by type, length and
offset; CIPA DC-008 (Exif) for the thumbnail. Pillow reads those lists; only a preview's own bytes are read besides.
Whatever is wrong makes an empty answer: this is only a faster way to what a decode gives anyway.
"""

from __future__ import annotations

import io
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from PIL import Image

from winnow.formats import exif
from winnow.formats.display import orientation_segment
from winnow.formats.images import HEAD_BYTES, orientation_of, profile_of
from winnow.formats.opening import open_plain

LEAST_EDGE = 1000
"""Long edge, px, from which a preview is worth being looked at on a stage."""
MOST_BYTES = 8 * 1024 * 1024
MOST_THUMBNAIL_EDGE = 640
"""Long edge of a thumbnail, px: the standard asks for 160 x 120, some cameras write more. What claims to be larger
would take a browser time and memory."""
SHAPE = 0.02
"""Cameras trim their previews to a few pixels: the ratio of width to height may differ by this share."""

_END = b"\xff\xd9"
_ENTRIES = 0xB002
_PREVIEW = "Large Thumbnail"


@dataclass(frozen=True, slots=True)
class _Whole:
    """What the main picture says of itself: its size and how it is to be turned, and whether its colours are told."""

    width: int
    height: int
    orientation: int
    profile: bool


def first_look(path: Path, below: str | None = None) -> bytes | None:
    """The bytes of the camera's own preview, a JPEG that says itself how it is to be turned; None where there is none
    that shows what the picture shows. below: see `opening`. Raises OSError."""
    with open_plain(path, below) as file:
        if file.read(2) != b"\xff\xd8":
            return None
        file.seek(0)
        try:
            whole, places = _listed(file)
            for offset, length in sorted(places, key=lambda place: place[1]):
                file.seek(offset)
                jpeg = file.read(length)
                preview = _turned_as(whole, jpeg) if len(jpeg) == length else None
                if preview is not None:
                    return preview
        except Exception:  # noqa: BLE001 - arbitrary bytes; the picture is decoded then
            return None
    return None


def thumbnail(path: Path, below: str | None = None) -> bytes | None:
    """The same for the thumbnail in the Exif of a JPEG, of some 160 px. Raises OSError."""
    with open_plain(path, below) as file:
        head = file.read(HEAD_BYTES)
    try:
        small = exif.embedded_thumbnail(head)
        if small is None:
            return None
        with Image.open(io.BytesIO(head), formats=("JPEG", "MPO")) as picture:
            turn = orientation_of(exif.tags_of(picture))
        # Only the header is read: nothing is decoded here.
        with Image.open(io.BytesIO(small), formats=("JPEG",)) as picture:
            fits = max(picture.size) <= MOST_THUMBNAIL_EDGE
        if not fits or _END not in small:  # a broken one would be shown as nothing
            return None
    except Exception:  # noqa: BLE001 - as above
        return None
    return small if turn == 1 else small[:2] + orientation_segment(turn) + small[2:]


def _listed(file: BinaryIO) -> tuple[_Whole, list[tuple[int, int]]]:
    """The main picture, and offset and length of each preview."""
    with Image.open(file, formats=("JPEG", "MPO")) as picture:
        whole = _Whole(*picture.size, orientation_of(exif.tags_of(picture)), bool(profile_of(picture)))
        previews = []
        for number, entry in enumerate((getattr(picture, "mpinfo", None) or {}).get(_ENTRIES, ())):
            if entry["Size"] <= MOST_BYTES and str(entry["Attribute"]["MPType"]).startswith(_PREVIEW):
                picture.seek(number)
                previews.append((int(getattr(picture, "offset", 0)), int(entry["Size"])))
    return whole, previews


def _turned_as(whole: _Whole, jpeg: bytes) -> bytes | None:
    """A preview that a browser turns as the main picture; None where it is none of it."""
    with Image.open(io.BytesIO(jpeg), formats=("JPEG", "MPO")) as preview:
        width, height = preview.size
        own = orientation_of(exif.tags_of(preview)) if "exif" in preview.info else None
        told = whole.profile and not preview.info.get("icc_profile")
    same_shape = abs(width * whole.height / (height * whole.width) - 1) <= SHAPE
    if not same_shape or not LEAST_EDGE <= max(width, height) <= max(whole.width, whole.height) or told:
        return None
    if own is not None or whole.orientation == 1:
        return jpeg if (own or 1) == whole.orientation else None
    return jpeg[:2] + orientation_segment(whole.orientation) + jpeg[2:]
