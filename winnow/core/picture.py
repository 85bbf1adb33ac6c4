"""A decoded picture in either of the forms that decoders give: RGB, or planes as most JPEG files hold them; and the
smaller pictures of it that are measured and shown, each made once.

What is measured looks mostly at brightness, and what is shown is smaller than the frame: with planes, turning all
pixels into RGB is left out.

Sources: JFIF 1.02 (colour equations, full range; where colour samples lie), ITU-T T.81.
"""

from __future__ import annotations

from abc import ABC, abstractmethod
from dataclasses import dataclass
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.orientation import upright

Bytes = NDArray[np.uint8]

SMALLEST = 200
"""Pictures are halved until their short side, px, is below this."""


class Picture(ABC):
    """An upright picture in sRGB. Level n is the picture halved n times."""

    def __init__(self) -> None:
        self._rgb: dict[int, Bytes] = {}

    @property
    @abstractmethod
    def luma(self) -> Bytes:
        """Brightness, (rows, columns), 0 to 255."""

    @abstractmethod
    def part(self, level: int, left: int, top: int, right: int, bottom: int) -> Bytes:
        """RGB (rows, columns, 3) of a part of level 0 or 1, px of the level."""

    @abstractmethod
    def sampled(self, step: int) -> Bytes:
        """RGB of every `step`-th pixel of every `step`-th row."""

    @abstractmethod
    def preview(self, long_edge: int) -> Picture:
        """The picture reduced to a long edge to be encoded; itself if it is not longer."""

    @abstractmethod
    def _halved(self, level: int) -> Bytes:
        """RGB of a level, in a way that is cheap for the form it is in."""

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.luma.shape[0], self.luma.shape[1]

    @cached_property
    def levels(self) -> list[Bytes]:
        """Brightness of levels 0, 1, 2, …: `pyramid`."""
        return pyramid(self.luma)

    def rgb(self, level: int = 0) -> Bytes:
        """RGB (rows, columns, 3) of a level."""
        if level not in self._rgb:
            self._rgb[level] = self._halved(level)
        return self._rgb[level]

    def reduced(self, long_edge: int) -> tuple[Bytes, float]:
        """RGB at a long edge, and px of it a px of the picture."""
        rows, columns = self.shape
        scale = min(1.0, long_edge / max(rows, columns))
        if scale == 1:
            return self.rgb(), 1.0
        size = (max(1, round(columns * scale)), max(1, round(rows * scale)))
        # Less than half is left to do, and the source was averaged: linear is as good, at a tenth of the time.
        return _fitted(self.rgb(self._level_at(long_edge)), size), scale

    def _level_at(self, long_edge: int) -> int:
        """The smallest level that is at least as long."""
        level, side = 0, max(self.shape)
        while side // 2 >= long_edge:
            level, side = level + 1, side // 2
        return level


class Rgb(Picture):
    """A picture as sRGB pixels (rows, columns, 3), 0 to 255."""

    def __init__(self, pixels: Bytes) -> None:
        super().__init__()
        self._pixels = pixels

    @property
    def shape(self) -> tuple[int, int]:
        return self._pixels.shape[0], self._pixels.shape[1]

    @cached_property
    def luma(self) -> Bytes:
        return np.asarray(cv2.cvtColor(self._pixels, cv2.COLOR_RGB2GRAY), np.uint8)

    def part(self, level: int, left: int, top: int, right: int, bottom: int) -> Bytes:
        return self.rgb(level)[top:bottom, left:right]

    def sampled(self, step: int) -> Bytes:
        return np.ascontiguousarray(self._pixels[::step, ::step])

    def preview(self, long_edge: int) -> Rgb:
        return Rgb(self.reduced(long_edge)[0])

    def _halved(self, level: int) -> Bytes:
        return halved(self.rgb(level - 1)) if level else self._pixels


@dataclass(frozen=True, slots=True)
class _Colour:
    """Cb and Cr."""

    cb: Bytes
    cr: Bytes

    def fitted(self, size: tuple[int, int]) -> _Colour:
        return _Colour(_fitted(self.cb, size), _fitted(self.cr, size))

    def halved(self) -> _Colour:
        return _Colour(halved(self.cb), halved(self.cr))


class Planes(Picture):
    """A picture as brightness (rows, columns) and Cb and Cr, as large or half as large along either side. 0 to 255.
    The sides of the whole picture are even."""

    def __init__(self, luma: Bytes, cb: Bytes, cr: Bytes) -> None:
        super().__init__()
        self._luma = luma
        self._colours = {0: _Colour(cb, cr)}

    @property
    def luma(self) -> Bytes:
        return self._luma

    @property
    def planes(self) -> tuple[Bytes, Bytes, Bytes]:
        """Brightness, Cb, Cr."""
        return self._luma, self._stored.cb, self._stored.cr

    @property
    def _stored(self) -> _Colour:
        return self._colours[0]

    def turned(self, orientation: int) -> Planes:
        """Upright, if these are planes as stored. orientation: Exif code."""
        return Planes(*(upright(plane, orientation) for plane in self.planes))

    def part(self, level: int, left: int, top: int, right: int, bottom: int) -> Bytes:
        luma = self._at(level)
        colour = self._stored if level == 0 else self._colour(level)
        down, across = (-(-whole // part) for whole, part in zip(luma.shape, colour.cb.shape, strict=True))
        # Colour between samples is interpolated: one more on every side, so that parts join without a seam.
        x0, y0 = max(0, left // across - 1), max(0, top // down - 1)
        columns, rows = slice(x0, -(-right // across) + 1), slice(y0, -(-bottom // down) + 1)
        x, y = left - x0 * across, top - y0 * down
        near = []
        for plane in (colour.cb[rows, columns], colour.cr[rows, columns]):
            whole = _fitted(plane, (plane.shape[1] * across, plane.shape[0] * down))
            near.append(whole[y : y + bottom - top, x : x + right - left])
        return _rgb(luma[top:bottom, left:right], *near)

    def sampled(self, step: int) -> Bytes:
        """Each with the colour sample that lies nearest."""
        down, across = (
            whole // part for whole, part in zip(self.luma.shape, self._stored.cb.shape, strict=True)
        )
        rows = (np.arange(0, self.luma.shape[0], step) // down)[:, None]
        columns = np.arange(0, self.luma.shape[1], step) // across
        luma = np.ascontiguousarray(self.luma[::step, ::step])
        return _rgb(luma, self._stored.cb[rows, columns], self._stored.cr[rows, columns])

    def preview(self, long_edge: int) -> Planes:
        """With colour at half of that size (4:2:0)."""
        rows, columns = self.shape
        scale = min(1.0, long_edge / max(rows, columns))
        size = max(1, round(columns * scale)), max(1, round(rows * scale))
        half = -(-size[0] // 2), -(-size[1] // 2)
        near = max(self._stored.cb.shape) < 2 * max(half)
        small = (self._stored if near else self._colour(self._level_at(max(half)))).fitted(half)
        return Planes(_fitted(self._at(self._level_at(max(size))), size), small.cb, small.cr)

    def _halved(self, level: int) -> Bytes:
        if level == 0:
            return self.part(0, 0, 0, self.shape[1], self.shape[0])
        colour = self._colour(level)
        return _rgb(self._at(level), colour.cb, colour.cr)

    def _at(self, level: int) -> Bytes:
        """Brightness of a level, also beyond those that are measured."""
        luma = self.levels[min(level, len(self.levels) - 1)]
        for _ in range(level - len(self.levels) + 1):
            luma = halved(luma)
        return luma

    def _colour(self, level: int) -> _Colour:
        """Cb and Cr at the size of a level from 1 on."""
        if level not in self._colours:
            if level == 1:
                self._colours[1] = self._stored.fitted(self._at(1).shape[1::-1])
            else:
                self._colours[level] = self._colour(level - 1).halved()
        return self._colours[level]


def pyramid(luma: Bytes) -> list[Bytes]:
    """Brightness at full size, half, a quarter, …, until the short side is below `SMALLEST`."""
    found = [luma]
    while min(found[-1].shape) >= SMALLEST:
        found.append(halved(found[-1]))
    return found


def halved(pixels: Bytes) -> Bytes:
    """Half the size by averaging 2 × 2 pixels, by far the cheapest way to reduce. (rows, columns) or (…, 3)."""
    height, width = max(1, pixels.shape[0] // 2), max(1, pixels.shape[1] // 2)
    even = pixels[: height * 2, : width * 2]
    return np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), np.uint8)


def _fitted(pixels: Bytes, size: tuple[int, int]) -> Bytes:
    """At another size (width, height), no less than half. Linear interpolation to half of a side reads midway between
    two samples: their mean."""
    if pixels.shape[1::-1] == size:
        return pixels
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_LINEAR), np.uint8)


def _rgb(luma: Bytes, cb: Bytes, cr: Bytes) -> Bytes:
    # OpenCV's equations are JFIF's; it wants Cr before Cb.
    return np.asarray(cv2.cvtColor(cv2.merge([luma, cr, cb]), cv2.COLOR_YCrCb2RGB), np.uint8)
