"""The same point in another frame: where the eye that was clicked is in every frame of the group.

Source: Lewis, *Fast normalized cross-correlation*, 1995; over several scales at a quarter of the size, then
finer about the best places; the transform that matched features agree on says where to look first.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.similarity import Descriptor, matched_points

Picture = NDArray[np.uint8]

EDGE = 1280
"""Long edge of the pictures that points are looked for in, px."""
COARSE = 4
"""First the search goes over pictures smaller by this factor."""
REACHES = (0.022, 0.045)
"""Half sides of the patch about the point, of the long edge: the point itself, and with what is around it."""
SCALES = (0.84, 1.0, 1.19)
FURTHEST = 0.25
"""How far from where it is expected a point is looked for, of the long edge."""
STRAYING = 0.10
"""Distance from there at which a likeness counts less by 0.1."""
PLACES = 3
"""So many best places are looked at again at full size."""
SURE = 0.75
"""Confidence from which a view may follow."""


@dataclass(frozen=True, slots=True)
class Prepared:
    """A frame made ready for the search: grey pictures (fine, coarse), its descriptor, and its full
    (width, height), px."""

    fine: Picture
    coarse: Picture
    descriptor: Descriptor
    size: tuple[int, int]

    @property
    def scale(self) -> float:
        """px of the fine picture a px of the full one."""
        return float(self.fine.shape[1] / self.size[0])


@dataclass(frozen=True, slots=True)
class Match:
    """The point found (px of the full picture) and how sure that is, 0 to 1."""

    x: float
    y: float
    confidence: float


def prepare(grey: Picture, size: tuple[int, int], descriptor: Descriptor) -> Prepared:
    """grey: (rows, columns), upright, any size. size: full (width, height), px."""
    scale = min(1.0, EDGE / max(grey.shape))
    fine = grey
    if scale < 1:
        target = (max(8, round(grey.shape[1] * scale)), max(8, round(grey.shape[0] * scale)))
        fine = np.asarray(cv2.resize(grey, target, interpolation=cv2.INTER_AREA), np.uint8)
    coarse_size = (max(8, fine.shape[1] // COARSE), max(8, fine.shape[0] // COARSE))
    coarse = np.asarray(cv2.resize(fine, coarse_size, interpolation=cv2.INTER_AREA), np.uint8)
    return Prepared(fine, coarse, descriptor, size)


def expected(one: Prepared, other: Prepared, x: float, y: float) -> tuple[float, float]:
    """Where a point would be if nothing but the camera had moved; the same relative place where the
    features of the two frames do not agree on a movement. Points in px of the full pictures."""
    found = matched_points(one.descriptor, other.descriptor)
    least = 0.1 * min(len(one.descriptor.points), len(other.descriptor.points))
    if found is None or found.kept < max(10, least):
        return x / one.size[0] * other.size[0], y / one.size[1] * other.size[1]
    there = one.descriptor.size[0] / one.size[0]
    back = other.size[0] / other.descriptor.size[0]
    moved = found.affine @ np.array([x * there, y * there, 1.0]) * back
    return float(moved[0]), float(moved[1])


def find_point(one: Prepared, other: Prepared, x: float, y: float) -> Match:
    """The place in `other` that shows what `one` shows at (x, y), px of the full pictures."""
    guess = expected(one, other, x, y)
    places = _coarse_places(one, other, (x, y), guess)
    best = Match(*_inside(guess, other.size), 0.0)
    for place in places:
        found = _refined(one, other, (x, y), place)
        if found is not None and found.confidence > best.confidence:
            best = found
    return best


@dataclass(frozen=True, slots=True)
class _Place:
    x: float
    y: float
    scale: float
    score: float


def _coarse_places(
    one: Prepared, other: Prepared, point: tuple[float, float], guess: tuple[float, float]
) -> list[_Place]:
    """The likeliest places, px of the other coarse picture."""
    from_scale = one.coarse.shape[1] / one.size[0]
    to_scale = other.coarse.shape[1] / other.size[0]
    reach = max(4, round(REACHES[1] * max(one.coarse.shape)))
    patch = _patch(one.coarse, point[0] * from_scale, point[1] * from_scale, reach)
    gx, gy = guess[0] * to_scale, guess[1] * to_scale
    furthest = FURTHEST * max(other.coarse.shape)
    found: list[_Place] = []
    for scale in SCALES:
        side = max(5, round(patch.shape[0] * scale) | 1)
        template = cv2.resize(patch, (side, side), interpolation=cv2.INTER_AREA)
        # A border on all sides, so that points at the edge of the frame can be found.
        area = _patch(other.coarse, gx, gy, math.ceil(furthest + side / 2))
        likeness = cv2.matchTemplate(area, template, cv2.TM_CCOEFF_NORMED)
        likeness = np.nan_to_num(likeness, nan=0.0, posinf=0.0, neginf=0.0)
        rows, columns = np.indices(likeness.shape)
        middle = (likeness.shape[0] - 1) / 2
        away = np.hypot(rows - middle, columns - middle) / (STRAYING * max(other.coarse.shape))
        scores = likeness - 0.1 * away - 0.12 * abs(math.log(scale))
        for _ in range(2):
            row, column = np.unravel_index(int(scores.argmax()), scores.shape)
            found.append(
                _Place(
                    round(gx) + column - middle, round(gy) + row - middle, scale, float(scores[row, column])
                )
            )
            scores[max(0, row - 6) : row + 7, max(0, column - 6) : column + 7] = -1
    found.sort(key=lambda place: -place.score)
    return found[:PLACES]


def _refined(one: Prepared, other: Prepared, point: tuple[float, float], place: _Place) -> Match | None:
    """The place again, at full size, with a small patch about the point and a larger one."""
    x, y = point[0] * one.scale, point[1] * one.scale
    at_x, at_y = (place.x + 0.5) * COARSE - 0.5, (place.y + 0.5) * COARSE - 0.5
    best: tuple[float, float, float] | None = None
    for scale in (place.scale * 0.95, place.scale, place.scale * 1.05):
        total: NDArray[np.float32] | None = None
        for reach_share in REACHES:
            reach = max(8, round(reach_share * max(one.fine.shape)))
            patch = _patch(one.fine, x, y, reach)
            side = max(9, round(patch.shape[0] * scale) | 1)
            template = cv2.resize(patch, (side, side), interpolation=cv2.INTER_LINEAR)
            area = _patch(other.fine, at_x, at_y, side // 2 + 2 * COARSE + 2)
            likeness = np.asarray(
                np.nan_to_num(cv2.matchTemplate(area, template, cv2.TM_CCOEFF_NORMED), posinf=0.0), np.float32
            )
            total = likeness if total is None else total + likeness
        assert total is not None
        row, column = np.unravel_index(int(total.argmax()), total.shape)
        score = float(total[row, column]) / len(REACHES)
        if best is None or score > best[0]:
            middle = (total.shape[0] - 1) / 2
            dx, dy = _peak(total, int(row), int(column))
            best = (score, round(at_x) + column - middle + dx, round(at_y) + row - middle + dy)
    if best is None:
        return None
    # The patch was cut at whole px: what was cut off the point is added again.
    best_x = best[1] + (x - round(x)) * place.scale
    best_y = best[2] + (y - round(y)) * place.scale
    certain = float(np.clip(0.5 * best[0] + 0.5 * place.score, 0, 1))
    return Match(*_inside((best_x / other.scale, best_y / other.scale), other.size), certain)


def _peak(scores: NDArray[np.float32], row: int, column: int) -> tuple[float, float]:
    """What a parabola through the best place and its neighbours adds: (across, down), below one px."""

    def top(before: float, here: float, after: float) -> float:
        bend = before - 2 * here + after
        return 0.5 * (before - after) / bend if bend < -1e-9 else 0.0

    across = down = 0.0
    if 0 < column < scores.shape[1] - 1:
        across = top(*(float(scores[row, column + k]) for k in (-1, 0, 1)))
    if 0 < row < scores.shape[0] - 1:
        down = top(*(float(scores[row + k, column]) for k in (-1, 0, 1)))
    return across, down


def _patch(grey: Picture, x: float, y: float, reach: int) -> Picture:
    """(2 reach + 1)² px about a point, mirrored at the borders."""
    cx, cy = round(x), round(y)
    rows, columns = grey.shape
    x0, x1, y0, y1 = cx - reach, cx + reach + 1, cy - reach, cy + reach + 1
    inner = grey[max(0, y0) : max(0, min(rows, y1)), max(0, x0) : max(0, min(columns, x1))]
    if inner.shape == (2 * reach + 1, 2 * reach + 1):
        return inner
    if not inner.size:
        return np.zeros((2 * reach + 1, 2 * reach + 1), np.uint8)
    around = (max(0, -y0), max(0, y1 - rows), max(0, -x0), max(0, x1 - columns))
    padded = cv2.copyMakeBorder(inner, *around, borderType=cv2.BORDER_REPLICATE)
    return np.asarray(padded[: 2 * reach + 1, : 2 * reach + 1], np.uint8)


def _inside(point: tuple[float, float], size: tuple[int, int]) -> tuple[float, float]:
    return (
        float(np.clip(point[0], 0, size[0] - 1)),
        float(np.clip(point[1], 0, size[1] - 1)),
    )
