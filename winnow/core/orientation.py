"""Exif orientation: which way up a picture is stored.

Source: CIPA DC-008, tag 0x0112. The code names the side of the scene at which row 0 and column 0 of
the stored picture lie.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

Number = TypeVar("Number", int, float)


def upright(pixels: NDArray[np.uint8], orientation: int) -> NDArray[np.uint8]:
    """The stored picture turned upright.

    pixels: (rows, columns, channels) as stored. orientation: Exif code 1–8; anything else counts
    as 1. Returns a contiguous array of the same type; rows and columns swap for codes 5–8.
    """
    turns: dict[int, Callable[[Any], Any]] = {
        2: lambda p: cv2.flip(p, 1),
        3: lambda p: cv2.rotate(p, cv2.ROTATE_180),
        4: lambda p: cv2.flip(p, 0),
        5: cv2.transpose,
        6: lambda p: cv2.rotate(p, cv2.ROTATE_90_CLOCKWISE),
        7: lambda p: cv2.rotate(cv2.transpose(p), cv2.ROTATE_180),
        8: lambda p: cv2.rotate(p, cv2.ROTATE_90_COUNTERCLOCKWISE),
    }
    if orientation not in turns:
        return np.ascontiguousarray(pixels)
    turned = turns[orientation](pixels)
    # OpenCV drops a single channel.
    return np.ascontiguousarray(turned.reshape(*turned.shape[:2], *pixels.shape[2:]))


def upright_size(width: Number, height: Number, orientation: int) -> tuple[Number, Number]:
    """(width, height) after turning upright."""
    return (height, width) if orientation in (5, 6, 7, 8) else (width, height)


def upright_point(x: float, y: float, width: int, height: int, orientation: int) -> tuple[float, float]:
    """A point of the stored picture, px, in the upright one. width, height: of the stored picture."""
    right, bottom = width - 1 - x, height - 1 - y
    return {
        2: (right, y),
        3: (right, bottom),
        4: (x, bottom),
        5: (y, x),
        6: (bottom, x),
        7: (bottom, right),
        8: (y, right),
    }.get(orientation, (x, y))
