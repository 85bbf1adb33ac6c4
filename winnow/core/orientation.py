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


CLOCKWISE = {1: 6, 6: 3, 3: 8, 8: 1, 2: 7, 7: 4, 4: 5, 5: 2}
"""What a code becomes when the upright picture is turned by a quarter clockwise."""
_CODES = (1, 6, 3, 8)
"""The codes that stand for so many quarter turns and nothing else."""


def turned(orientation: int, turn: int) -> int:
    """The code of a stored picture that is turned on by quarters, clockwise, after it was set upright by its own."""
    for _ in range(turn % 4):
        orientation = CLOCKWISE.get(orientation, 6)
    return orientation


def turn_between(orientation: int, other: int) -> int:
    """By how many quarter turns clockwise one code shows a picture other than another does; 0 for codes of which one
    is mirrored and the other is not."""
    return next((turn for turn in range(4) if turned(orientation, turn) == other), 0)


def turned_size(width: Number, height: Number, turn: int) -> tuple[Number, Number]:
    """(width, height) after so many quarter turns."""
    return upright_size(width, height, _CODES[turn % 4])


def turned_point(x: float, y: float, width: int, height: int, turn: int) -> tuple[float, float]:
    """A point of a picture, px, after so many quarter turns clockwise. width, height: before them."""
    return upright_point(x, y, width, height, _CODES[turn % 4])
