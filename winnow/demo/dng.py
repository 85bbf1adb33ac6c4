"""A linear DNG as a camera would write it: a JPEG preview in the first directory, the sensor's values
in a sub-directory, the capture data in an Exif directory.

Source: DNG specification 1.4; TIFF 6.0. The directories are written by Pillow.
"""

from __future__ import annotations

import io
import struct

import numpy as np
import simplejpeg
from numpy.typing import NDArray
from PIL import Image, TiffImagePlugin
from PIL.TiffImagePlugin import ImageFileDirectory_v2 as Directory

_EXIF_IFD = 0x8769
_SUB_IFDS = 330
_MAGIC = b"II*\0"
_BYTE, _ASCII, _SHORT, _LONG, _RATIONAL, _UNDEFINED, _SIGNED_RATIONAL = 1, 2, 3, 4, 5, 7, 10

_EXIF_KINDS = {37121: _UNDEFINED, 37380: _SIGNED_RATIONAL}
"""Types that Pillow cannot tell from the value: ComponentsConfiguration, ExposureBiasValue."""

_XYZ_TO_SRGB = (3.2406, -1.5372, -0.4986, -0.9689, 1.8758, 0.0415, 0.0557, -0.2040, 1.0570)
"""IEC 61966-2-1: the made-up sensor sees in the primaries of sRGB."""

_CARRIED_OVER = (271, 272, 274, 282, 283, 296, 305, 306, 315, 33432)
"""Tags of the first directory that the Exif of the JPEG gives: who, with what, when, which way up."""


def from_jpeg(jpeg: bytes) -> bytes:
    """The RAW file that goes with a camera's JPEG: same picture, same Exif, the JPEG as its preview."""
    with Image.open(io.BytesIO(jpeg)) as picture:
        exif = picture.getexif()
    return encode(simplejpeg.decode_jpeg(jpeg), jpeg, exif)


def encode(pixels: NDArray[np.uint8], preview: bytes, exif: Image.Exif) -> bytes:
    """A DNG file.

    pixels: (rows, columns, 3) sRGB, the way the sensor lies. preview: a JPEG of any size and turn.
    exif: its Orientation says how to turn `pixels` upright.
    """
    curve = ((np.arange(256) / 255) ** 2.2 * 65535).round().astype("<u2")
    sensor = curve[pixels].tobytes()

    capture = Directory(prefix=b"II")
    for tag, value in exif.get_ifd(_EXIF_IFD).items():
        _put(capture, tag, _EXIF_KINDS.get(tag), value)
    capture_at = len(_MAGIC) + 4
    capture_bytes = _even(capture.tobytes(capture_at))

    rows, columns = pixels.shape[:2]
    picture = Directory(prefix=b"II")
    _put(picture, 254, _LONG, 0)  # NewSubfileType: the picture itself
    _put(picture, 256, _LONG, columns)
    _put(picture, 257, _LONG, rows)
    _put(picture, 258, _SHORT, (16, 16, 16))
    _put(picture, 259, _SHORT, 1)  # Compression: none
    _put(picture, 262, _SHORT, 34892)  # PhotometricInterpretation: LinearRaw
    _put(picture, 273, _LONG, 0)  # StripOffsets: behind the directory
    _put(picture, 277, _SHORT, 3)
    _put(picture, 278, _LONG, rows)
    _put(picture, 279, _LONG, len(sensor))
    _put(picture, 284, _SHORT, 1)  # PlanarConfiguration: contiguous
    picture_at = capture_at + len(capture_bytes)
    picture_bytes = picture.tobytes(picture_at) + sensor

    preview_rows, preview_columns = simplejpeg.decode_jpeg_header(preview)[:2]
    first = Directory(prefix=b"II")
    for tag in _CARRIED_OVER:
        if tag in exif:
            first[tag] = exif[tag]
    _put(first, 254, _LONG, 1)  # NewSubfileType: a reduced picture
    _put(first, 256, _LONG, preview_columns)
    _put(first, 257, _LONG, preview_rows)
    _put(first, 258, _SHORT, (8, 8, 8))
    _put(first, 259, _SHORT, 7)  # Compression: JPEG
    _put(first, 262, _SHORT, 6)  # PhotometricInterpretation: YCbCr
    _put(first, 273, _LONG, 0)
    _put(first, 277, _SHORT, 3)
    _put(first, 278, _LONG, preview_rows)
    _put(first, 279, _LONG, len(preview))
    _put(first, _SUB_IFDS, _LONG, picture_at)
    _put(first, _EXIF_IFD, _LONG, capture_at)
    _put(first, 50706, _BYTE, bytes((1, 4, 0, 0)))  # DNGVersion
    _put(first, 50708, _ASCII, f"{exif.get(271, 'Tarn')} {exif.get(272, 'T2')}")  # UniqueCameraModel
    _put(first, 50721, _SIGNED_RATIONAL, _rationals(_XYZ_TO_SRGB))  # ColorMatrix1
    _put(first, 50728, _RATIONAL, _rationals((1, 1, 1)))  # AsShotNeutral
    _put(first, 50778, _SHORT, 21)  # CalibrationIlluminant1: D65
    first_at = picture_at + len(picture_bytes)

    header = _MAGIC + struct.pack("<I", first_at)
    return header + capture_bytes + picture_bytes + first.tobytes(first_at) + preview


def _put(directory: Directory, tag: int, kind: int | None, value: object) -> None:
    if kind is not None:
        directory.tagtype[tag] = kind
    directory[tag] = value


def _rationals(values: tuple[float, ...]) -> tuple[TiffImagePlugin.IFDRational, ...]:
    return tuple(TiffImagePlugin.IFDRational(round(value * 10000), 10000) for value in values)


def _even(data: bytes) -> bytes:
    return data + b"\0" * (len(data) % 2)
