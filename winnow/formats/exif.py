"""Exif out of files, as plain tags by their standard names."""

from __future__ import annotations

import io
from typing import BinaryIO

import exifread
from PIL import ExifTags, Image, TiffImagePlugin

_EXIF_IFD = 0x8769
_INTEROP_INDEX = 1
_RATING = 0x4746
_STANDARD_NAMES = {
    "SubsecTimeOriginal": "SubSecTimeOriginal",
    "SubsecTimeDigitized": "SubSecTimeDigitized",
}
"""Where Pillow spells a tag otherwise than the standard does."""
_THUMBNAIL_OFFSET, _THUMBNAIL_LENGTH = 0x0201, 0x0202


def tags_of(picture: Image.Image) -> dict[str, object]:
    """Exif tags of a picture that Pillow has opened; {} where there are none or they are broken."""
    tags: dict[str, object] = {}
    try:
        exif = picture.getexif()
        for ifd in (exif, exif.get_ifd(_EXIF_IFD)):
            for number, value in ifd.items():
                tags[ExifTags.TAGS.get(number, hex(number))] = value
    except Exception:  # noqa: BLE001 - broken Exif must not hide a readable picture
        return tags
    return {_STANDARD_NAMES.get(name, name): value for name, value in tags.items()}


def announces_adobe_rgb(picture: Image.Image) -> bool:
    """Whether the interoperability index of an opened picture is R03 (DCF 2.0, CIPA DC-009)."""
    try:
        index = picture.getexif().get_ifd(ExifTags.IFD.Interop).get(_INTEROP_INDEX)
    except Exception:  # noqa: BLE001 - as above
        return False
    return str(index or "").strip("\0 ") == "R03"


def space_of(tags: dict[str, object]) -> str | None:
    """The colour space that Exif names: only sRGB has a number of its own (CIPA DC-008, ColorSpace)."""
    return "sRGB" if tags.get("ColorSpace") == 1 else None


def tags_of_raw(file: BinaryIO) -> dict[str, object]:
    """Exif tags of a RAW file; {} where there are none that can be read."""
    try:
        found = exifread.process_file(file, details=False)
    except Exception:  # noqa: BLE001 - the reader meets arbitrary bytes here
        return {}
    tags: dict[str, object] = {}
    for name, value in found.items():
        group, _, short = name.partition(" ")
        if group in ("Image", "EXIF"):
            values = getattr(value, "values", None)
            tags[short] = values[0] if isinstance(values, list) and values else values
    return tags


def embedded_thumbnail(data: bytes) -> bytes | None:
    """The small JPEG inside the Exif of a JPEG, or None.

    data: at least the first 128 KiB of the file.
    """
    try:
        with Image.open(io.BytesIO(data)) as picture:
            block = picture.info.get("exif", b"")
        if not block.startswith(b"Exif\0\0"):
            return None
        tiff = block[6:]
        info = TiffImagePlugin.ImageFileDirectory_v2(tiff[:8])
        stream = io.BytesIO(tiff)
        stream.seek(info.next)
        info.load(stream)
        stream.seek(info.next)
        if not info.next:
            return None
        info.load(stream)
        start, length = int(info[_THUMBNAIL_OFFSET]), int(info[_THUMBNAIL_LENGTH])
    except Exception:  # noqa: BLE001 - a thumbnail is a courtesy; without one the picture is decoded
        return None
    jpeg = tiff[start : start + length]
    return jpeg if jpeg.startswith(b"\xff\xd8") else None


def rating_of(tags: dict[str, object]) -> int | None:
    """The stars that some cameras write as Exif tag 0x4746. XMP, where there, is preferred
    (Metadata Working Group, Guidelines for handling image metadata 2.0)."""
    value = tags.get("Rating", tags.get(hex(_RATING)))
    return value if isinstance(value, int) and 0 <= value <= 5 else None
