"""Finding faces: two single-shot detectors on the whole frame, one of them on overlapping parts too; every
answer is looked at again, close up.

Source of the method (anchors, blending of overlapping answers): Bazarevsky et al., *BlazeFace: sub-
millisecond neural face detection on mobile GPUs*, 2019 (from memory); constants read off the models.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.faces.nets import FaceNets, Floats, Model

SEARCH_EDGE = 1024
"""Faces are looked for in a picture of this long edge, px."""
LEAST_FACE = 26
"""Smaller faces, px of that picture, are not looked for."""
PART = 0.5
"""Side of the overlapping parts, of the long edge."""
OVERLAP = 0.25
LEAST_SCORE = 0.4
SAME_FACE = 0.3
"""Overlap (intersection over union) from which two answers are one face."""
INSIDE = 0.6
"""A box that lies in a better one by this share is part of the same face."""
CLOSE, WIDE = 2.2, 4.0
"""Squares for the second look, of the side of the face."""
LEAST_CLOSE = 0.5
"""Score of the second look from which it is a face (pots with faces reach 0.42, faces in focus 0.57)."""
LEAST_WIDE = 0.65
"""The same for a face that is out of focus, seen with what is around it."""
LEAST_LARGE = (0.7, 0.75)
"""The same for a large face far out of focus, by the other detector: close up, and wide."""
LEAST_TEXTURE = 6.0
"""Parts of less contrast (standard deviation, grey levels, at a quarter of the size) are not searched."""

_SIZES = {Model.SMALL_FACES: 192, Model.LARGE_FACES: 256}
_ANCHORS = {Model.SMALL_FACES: ((4, 1),), Model.LARGE_FACES: ((16, 2), (32, 6))}
"""(stride, anchors a cell) of each model."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """Perhaps a face, in px of the picture searched: box (left, top, right, bottom), six points (right eye,
    left eye, nose, mouth, right ear, left ear; the person's own right), score 0 to 1."""

    box: NDArray[np.float64]
    points: NDArray[np.float64]
    score: float


def find_faces(picture: NDArray[np.uint8], nets: FaceNets) -> list[Candidate]:
    """Faces, best first. picture: (rows, columns, 3) sRGB of about `SEARCH_EDGE` px."""
    return [found for found in _candidates(picture, nets) if _stands(picture, nets, found)]


def _stands(picture: NDArray[np.uint8], nets: FaceNets, found: Candidate) -> bool:
    def seen(model: Model, reach: float) -> float:
        centre = (found.box[:2] + found.box[2:]) / 2
        side = float(max(found.box[2:] - found.box[:2]))
        square = (centre[0] - side * reach / 2, centre[1] - side * reach / 2, side * reach)
        return max((c.score for c in _search(picture, nets, model, square) if _alike(c, found)), default=0.0)

    return (
        seen(Model.SMALL_FACES, CLOSE) >= LEAST_CLOSE
        or seen(Model.SMALL_FACES, WIDE) >= LEAST_WIDE
        or (
            seen(Model.LARGE_FACES, CLOSE) >= LEAST_LARGE[0]
            and seen(Model.LARGE_FACES, WIDE) >= LEAST_LARGE[1]
        )
    )


def _alike(one: Candidate, other: Candidate) -> bool:
    """Whether two answers mean the same place at about the same size."""
    sides = [float(max(c.box[2:] - c.box[:2])) for c in (one, other)]
    apart = np.linalg.norm((one.box[:2] + one.box[2:] - other.box[:2] - other.box[2:]) / 2)
    return bool(apart < 0.35 * sides[1] and 0.6 < sides[0] / sides[1] < 1.6)


def _candidates(picture: NDArray[np.uint8], nets: FaceNets) -> list[Candidate]:
    height, width = picture.shape[:2]
    long_edge = max(height, width)
    whole = ((width - long_edge) / 2, (height - long_edge) / 2, float(long_edge))
    found = _search(picture, nets, Model.LARGE_FACES, whole)
    found += _search(picture, nets, Model.SMALL_FACES, whole)
    small = cv2.resize(picture, (width // 4, height // 4), interpolation=cv2.INTER_AREA)
    for left, top, side in _parts(width, height, long_edge * PART):
        seen = small[
            max(0, int(top / 4)) : int((top + side) / 4), max(0, int(left / 4)) : int((left + side) / 4)
        ]
        if seen.std() >= LEAST_TEXTURE:
            found += [
                c for c in _search(picture, nets, Model.SMALL_FACES, (left, top, side))
                if not _cut(c, left, top, side, width, height)
            ]  # fmt: skip
    return blend([c for c in found if min(c.box[2:] - c.box[:2]) >= LEAST_FACE])


def _parts(width: int, height: int, side: float) -> Iterator[tuple[float, float, float]]:
    """Squares that cover the picture and overlap."""
    for top in _starts(height, side):
        for left in _starts(width, side):
            yield left, top, side


def _starts(length: int, side: float) -> list[float]:
    if length <= side:
        return [(length - side) / 2]
    count = int(np.ceil((length - side) / (side * (1 - OVERLAP)))) + 1
    return [float(start) for start in np.linspace(0, length - side, count)]


def _cut(found: Candidate, left: float, top: float, side: float, width: int, height: int) -> bool:
    """Whether the box runs over a border of the part that is no border of the picture."""
    margin = 0.01 * side
    x0, y0, x1, y1 = found.box
    return bool(
        (x0 < left + margin and left > 1)
        or (y0 < top + margin and top > 1)
        or (x1 > left + side - margin and left + side < width - 1)
        or (y1 > top + side - margin and top + side < height - 1)
    )


def _search(
    picture: NDArray[np.uint8], nets: FaceNets, model: Model, square: tuple[float, float, float]
) -> list[Candidate]:
    left, top, side = square
    outputs = nets[model].run(_window(picture, square, _SIZES[model]))
    anchors = _anchors(model)
    values, scores = outputs[0].reshape(len(anchors), 16), outputs[1].reshape(-1)
    likely = 1 / (1 + np.exp(-np.clip(scores, -50, 50)))
    chosen = np.flatnonzero(likely >= LEAST_SCORE)
    points = values[chosen].reshape(-1, 8, 2) / _SIZES[model]
    centres = points[:, 0] + anchors[chosen]
    halves = points[:, 1] / 2
    corner = np.array([left, top])
    boxes = np.concatenate([centres - halves, centres + halves], axis=1) * side + np.tile(corner, 2)
    marks = (points[:, 2:] + anchors[chosen][:, None]) * side + corner
    return [
        Candidate(box.astype(np.float64), mark.astype(np.float64), float(likely[index]))
        for box, mark, index in zip(boxes, marks, chosen, strict=True)
    ]


def _window(picture: NDArray[np.uint8], square: tuple[float, float, float], size: int) -> Floats:
    """A square of the picture at the size of the network, −1 to 1; what lies outside is grey."""
    left, top, side = square
    scale = size / side
    height, width = picture.shape[:2]
    x0, y0 = max(0, int(left)), max(0, int(top))
    x1, y1 = min(width, int(np.ceil(left + side))), min(height, int(np.ceil(top + side)))
    target = (max(1, round((x1 - x0) * scale)), max(1, round((y1 - y0) * scale)))
    method = cv2.INTER_AREA if scale < 1 else cv2.INTER_LINEAR
    reduced = cv2.resize(picture[y0:y1, x0:x1], target, interpolation=method)
    across, down = max(0, round((x0 - left) * scale)), max(0, round((y0 - top) * scale))
    window = np.zeros((size, size, 3), np.float32)
    reduced = reduced[: size - down, : size - across]
    window[down : down + reduced.shape[0], across : across + reduced.shape[1]] = reduced / np.float32(127.5) - 1
    return window


@lru_cache(maxsize=2)
def _anchors(model: Model) -> Floats:
    """Centres of the anchors, 0 to 1: (n, 2) as x, y."""
    parts = []
    for stride, repeats in _ANCHORS[model]:
        cells = _SIZES[model] // stride
        line = (np.arange(cells) + 0.5) / cells
        y, x = np.meshgrid(line, line, indexing="ij")
        parts.append(np.repeat(np.stack([x.ravel(), y.ravel()], axis=1), repeats, axis=0))
    return np.concatenate(parts).astype(np.float32)


def blend(found: list[Candidate]) -> list[Candidate]:
    """One candidate a face: answers that overlap are averaged by their scores."""
    if not found:
        return []
    boxes = np.array([c.box for c in found])
    points = np.array([c.points for c in found])
    scores = np.array([c.score for c in found])
    areas = np.prod(boxes[:, 2:] - boxes[:, :2], axis=1)
    waiting = np.argsort(-scores, kind="stable")
    blended = []
    while len(waiting):
        best = waiting[0]
        low = np.maximum(boxes[waiting, :2], boxes[best, :2])
        high = np.minimum(boxes[waiting, 2:], boxes[best, 2:])
        common = np.prod(np.clip(high - low, 0, None), axis=1)
        together = areas[waiting] + areas[best] - common
        same = common > SAME_FACE * together
        swallowed = common > INSIDE * np.minimum(areas[waiting], areas[best])
        alike = waiting[same]
        weight = scores[alike] / scores[alike].sum()
        box = (boxes[alike] * weight[:, None]).sum(axis=0)
        marks = (points[alike] * weight[:, None, None]).sum(axis=0)
        blended.append(Candidate(box, marks, float(scores[best])))
        waiting = waiting[~(same | swallowed)]
    return blended
