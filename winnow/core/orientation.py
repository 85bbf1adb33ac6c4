"""Exif orientation: which way up a picture is stored.

Source: CIPA DC-008, tag 0x0112. The code names the side of the scene at which row 0 and column 0 of
the stored picture lie.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray


def upright(pixels: NDArray[np.uint8], orientation: int) -> NDArray[np.uint8]:
    """The stored picture turned upright.

    pixels: (rows, columns, channels) as stored. orientation: Exif code 1–8; anything else counts
    as 1. Returns a contiguous array of the same type; rows and columns swap for codes 5–8.
    """
    turned = {
        2: lambda p: p[:, ::-1],
        3: lambda p: p[::-1, ::-1],
        4: lambda p: p[::-1],
        5: lambda p: p.swapaxes(0, 1),
        6: lambda p: np.rot90(p, -1),
        7: lambda p: p[::-1, ::-1].swapaxes(0, 1),
        8: lambda p: np.rot90(p, 1),
    }.get(orientation, lambda p: p)(pixels)
    return np.ascontiguousarray(turned)


def upright_size(width: int, height: int, orientation: int) -> tuple[int, int]:
    """(width, height) after turning upright."""
    return (height, width) if orientation in (5, 6, 7, 8) else (width, height)
