"""JPEG files that say which way up they are shown, without a pixel touched.

Source: CIPA DC-008 (Exif), 4.5.4 and 4.7: an APP1 segment `Exif` with a TIFF structure, tag 0x0112 in its first IFD.
"""

from __future__ import annotations

import struct

from PIL import ExifTags, Image

EXIF = b"Exif\0\0"
START = b"\xff\xd8"
APP1, SCAN = 0xE1, 0xDA


def shown_as(jpeg: bytes, orientation: int) -> bytes:
    """The same picture with an Exif orientation (1 to 8) in the place of all that Exif said in it. What is no JPEG
    file is returned as it is."""
    if not jpeg.startswith(START):
        return jpeg
    kept, at = [START, orientation_segment(orientation)], 2
    while at + 4 <= len(jpeg) and jpeg[at] == 0xFF:
        marker, length = jpeg[at + 1], struct.unpack_from(">H", jpeg, at + 2)[0]
        if marker == SCAN:
            break
        end = at + 2 + length
        if not (marker == APP1 and jpeg[at + 4 : at + 10] == EXIF):
            kept.append(jpeg[at:end])
        at = end
    return b"".join([*kept, jpeg[at:]])


def orientation_segment(orientation: int) -> bytes:
    """An APP1 segment with nothing but the orientation."""
    block = Image.Exif()
    block[ExifTags.Base.Orientation] = orientation
    content = block.tobytes()
    return b"\xff\xe1" + struct.pack(">H", len(content) + 2) + content
