"""RAW files through LibRaw: the largest embedded JPEG, or a development where there is none."""

from __future__ import annotations

import errno
from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
import rawpy
import simplejpeg
from numpy.typing import NDArray

from winnow.formats import budget

LEAST_EMBEDDED = 1600
"""An embedded JPEG shorter than this (long edge, px) is only good for a camera's own screen."""

DEVELOPED, DEVELOPED_HALF = 14.0, 6.0
"""Bytes a pixel of the sensor that LibRaw needs to develop all of it, and half its width and height."""
HALF = "It is shown at half its size: developing all of it would take more memory than Winnow gives to one picture."

_TURNS = {0: 1, 3: 3, 5: 8, 6: 6}
"""LibRaw's `flip` to the Exif orientation code."""


class RawError(ValueError):
    """A RAW file that LibRaw cannot read; the message is meant for a person."""


@dataclass(frozen=True, slots=True)
class Embedded:
    """A JPEG found inside a RAW file, the turn it needs, and the upright size of the whole."""

    jpeg: bytes
    orientation: int
    width: int
    height: int


@dataclass(frozen=True, slots=True)
class Developed:
    """Upright sRGB pixels developed from the sensor data, and the upright size of the whole. note: what was
    left out."""

    pixels: NDArray[np.uint8]
    width: int
    height: int
    note: str | None = None


def size_of(source: BinaryIO) -> tuple[int, int]:
    """Upright (width, height) of the full picture. source: the open file. Raises RawError."""
    with _open(source) as file:
        return _upright_size(file)


def best_picture(source: BinaryIO, long_edge: int) -> Embedded | Developed:
    """The cheapest picture of at least `long_edge` px, 0 asking for all pixels. source: the open file. Raises
    RawError, and TooMuchMemoryError where even half the size takes more than a worker has.

    An embedded JPEG serves where it is long enough, or, for reduced pictures, longer than
    `LEAST_EMBEDDED`; else the sensor data are developed, at half size unless all is asked for.
    """
    with _open(source) as file:
        width, height = _upright_size(file)
        whole = max(width, height)
        jpeg = _embedded(file)
        if jpeg is not None:
            rows, columns = simplejpeg.decode_jpeg_header(jpeg)[:2]
            # Cameras trim a few rows and columns off the edges of their JPEG.
            enough = 0.95 * whole if not long_edge else min(long_edge, LEAST_EMBEDDED, 0.95 * whole)
            if max(rows, columns) >= enough:
                turn = _TURNS.get(file.sizes.flip, 1)
                stored_upright = (columns < rows) == (width < height) and width != height
                turned = turn in (6, 8) and stored_upright
                return Embedded(jpeg, 1 if turned else turn, width, height)
        half = bool(long_edge) or not budget.fits(width, height, DEVELOPED)
        if half:
            budget.demand(width, height, DEVELOPED_HALF)
        try:
            pixels = file.postprocess(half_size=half, use_camera_wb=True, output_bps=8)
        except (rawpy.LibRawError, OSError) as error:
            if errno.ENOMEM in (abs(code) for code in error.args if isinstance(code, int)):
                # Sensors that give all colours of a pixel take more than their size tells beforehand.
                raise MemoryError from error
            raise RawError(f"LibRaw cannot develop it ({_text(error)}).") from error
        return Developed(pixels, width, height, HALF if half and not long_edge else None)


def _open(source: BinaryIO) -> rawpy.RawPy:
    try:
        # By the open file, not by its name, which need not be valid UTF-8 and may be another's by now.
        return rawpy.imread(f"/dev/fd/{source.fileno()}")
    except rawpy.LibRawError as error:
        raise RawError(f"LibRaw cannot open it ({_text(error)}).") from error


def _embedded(file: rawpy.RawPy) -> bytes | None:
    try:
        thumb = file.extract_thumb()
    except (rawpy.LibRawError, ValueError):
        return None
    if thumb.format is not rawpy.ThumbFormat.JPEG:
        return None
    data = bytes(thumb.data)
    try:
        simplejpeg.decode_jpeg_header(data)
    except ValueError:
        return None
    return data


def _upright_size(file: rawpy.RawPy) -> tuple[int, int]:
    sizes = file.sizes
    # LibRaw gives the size of what it will put out, already turned.
    width, height = sizes.iwidth, sizes.iheight
    if sizes.flip in (5, 6) and (width, height) == (sizes.width, sizes.height):
        width, height = height, width
    return width, height


def _text(error: Exception) -> str:
    value = error.args[0] if error.args else "no reason given"
    return value.decode("utf-8", "replace") if isinstance(value, bytes) else str(value)
