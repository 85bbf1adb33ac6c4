"""The same person in the frames of a group: by place and by appearance (hair, skin, clothes)."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

Box = tuple[float, float, float, float]

PATCHES: tuple[tuple[float, float, float, float], ...] = (
    (0.2, -0.3, 0.8, 0.05),  # hair
    (0.25, 0.35, 0.75, 0.8),  # skin
    (-0.1, 1.3, 1.1, 2.0),  # clothes
)
"""Left, top, right, bottom of what is looked at, in widths and heights of the face box."""
EVERY = 4
"""The brightness of a frame is the mean of every so many-th pixel of every so many-th row."""
LEAST_SEEN = 0.4
"""A patch counts if this share of it lies in the picture."""
BRIGHTNESS_WEIGHT = 0.5
OTHER_LOOK = 16.0
"""Mean distance in CIELAB from which two faces look like two people (common practice, no source; 5 to 9 lie
between frames of one person on the demo shoot, 20 and more between people)."""
OTHER_PLACE = 1.6
"""A person who moved by this many face widths between two frames of a group is as unlikely."""


@dataclass(frozen=True, slots=True)
class Seen:
    """A face in a frame: its middle and its width, in shares of the frame's long edge, and its colours, one row
    a patch in CIELAB (L 0 to 100); NaN where the patch lies outside."""

    x: float
    y: float
    width: float
    look: NDArray[np.float32]


def see(picture: NDArray[np.uint8], boxes: Sequence[Box]) -> list[Seen]:
    """Appearance of faces. picture: (rows, columns, 3) sRGB, reduced; boxes in its px."""
    if not boxes:
        return []
    height, width = picture.shape[:2]
    # Brightness relative to the frame: exposures of a group may differ.
    brightness = float(_lab(picture[::EVERY, ::EVERY])[..., 0].mean())
    found = []
    for box in boxes:
        left, top, right, bottom = box
        across, down = right - left, bottom - top
        look = np.full((len(PATCHES), 3), np.nan, np.float32)
        for row, (x0, y0, x1, y1) in enumerate(PATCHES):
            xs = np.array([left + x0 * across, left + x1 * across])
            ys = np.array([top + y0 * down, top + y1 * down])
            inner_x, inner_y = np.clip(xs, 0, width).astype(int), np.clip(ys, 0, height).astype(int)
            seen = (inner_x[1] - inner_x[0]) * (inner_y[1] - inner_y[0])
            if seen > LEAST_SEEN * (xs[1] - xs[0]) * (ys[1] - ys[0]) and seen > 0:
                patch = _lab(picture[inner_y[0] : inner_y[1], inner_x[0] : inner_x[1]])
                look[row] = np.median(patch.reshape(-1, 3), axis=0) - (brightness, 0, 0)
        long_edge = max(width, height)
        found.append(
            Seen((left + right) / 2 / long_edge, (top + bottom) / 2 / long_edge, across / long_edge, look)
        )
    return found


def _lab(picture: NDArray[np.uint8]) -> NDArray[np.float32]:
    """sRGB in CIELAB, L 0 to 100."""
    return np.asarray(cv2.cvtColor(picture.astype(np.float32) / 255, cv2.COLOR_RGB2LAB), np.float32)


def difference(one: Seen, other: Seen) -> float:
    """How differently two faces look: mean distance in CIELAB over the patches that both show."""
    apart = one.look - other.look
    apart[:, 0] *= BRIGHTNESS_WEIGHT
    distances = np.sqrt((apart**2).sum(axis=1))
    return float(np.nanmean(distances)) if np.isfinite(distances).any() else 0.0


def _unlikely(one: Seen, other: Seen) -> float:
    """0: surely the same person, 1 and more: surely not."""
    size = max(one.width, other.width, 1e-6)
    moved = float(np.hypot(one.x - other.x, one.y - other.y)) / size
    grown = abs(np.log(max(one.width, 1e-6) / max(other.width, 1e-6)))
    return float(np.hypot(np.hypot(difference(one, other) / OTHER_LOOK, moved / OTHER_PLACE), grown / 1.2))


def same_people(frames: Sequence[Sequence[Seen]]) -> list[list[int]]:
    """Numbers of the people in the frames of a group, counted from 0 as they come up: one list a frame."""
    known: list[Seen] = []
    numbers: list[list[int]] = []
    for faces in frames:
        costs = sorted(
            (cost, face, person)
            for face, seen in enumerate(faces)
            for person, before in enumerate(known)
            if (cost := _unlikely(seen, before)) < 1
        )
        given: dict[int, int] = {}
        for _, face, person in costs:
            if face not in given and person not in given.values():
                given[face] = person
        for face, seen in enumerate(faces):
            if face not in given:
                given[face] = len(known)
                known.append(seen)
            known[given[face]] = seen
        numbers.append([given[face] for face in range(len(faces))])
    return numbers


def other_people(one: Sequence[Seen], other: Sequence[Seen]) -> bool:
    """Whether two frames show people in the same places who are not the same people."""
    pairs = [
        (first, second)
        for first in one
        for second in other
        if np.hypot(first.x - second.x, first.y - second.y) < 0.8 * max(first.width, second.width)
        and 0.6 < first.width / max(second.width, 1e-6) < 1.7
    ]
    return bool(pairs) and all(difference(first, second) > OTHER_LOOK for first, second in pairs)
