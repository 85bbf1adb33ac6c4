"""Finding faces: a single-shot detector on the whole frame and on overlapping parts of it; every answer is
looked at again, close up.

Source of the method (anchors, blending of overlapping answers): Bazarevsky et al., *BlazeFace: sub-
millisecond neural face detection on mobile GPUs*, 2019 (from memory); constants read off the models.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.faces.nets import FaceNets, Floats, Model

SEARCH_EDGE = 1024
"""Faces are looked for in a picture of this long edge, px."""
LEAST_FACE = 22
"""Smaller faces, px of that picture, are not looked for. (The detector's box is a little smaller than a face.)"""
PART = 0.5
"""Side of the overlapping parts, of the long edge."""
OVERLAP = 0.25
LEAST_SCORE = 0.1
"""Of an answer that is looked at again."""
TOGETHER = 3
"""So many by so many close views make one picture for the network."""
LEAST_TOGETHER, SURE_TOGETHER = 0.3, 0.7
"""Scores in it from which an answer is looked at by itself, and from which it is a face. Of 1,500 answers without a
face none reached 0.65; of 170 faces that a look of their own accepts none lay below 0.35."""
SAME_FACE = 0.3
"""Overlap (intersection over union) from which two answers are one face."""
INSIDE = 0.6
"""A box that lies in a better one by this share is part of the same face."""
CLOSE, WIDE = 2.2, 4.0
"""Squares for the second look, of the side of the face."""
LEAST_CLOSE = 0.5
"""Score of the second look from which it is a face (pots with faces reach 0.42, faces in focus 0.57)."""
LEAST_WIDE, LEAST_FOR_WIDE = 0.65, 0.33
"""The same for a face that is out of focus, seen with what is around it; and the score of the first look that this
takes."""
LEANING = math.radians(12)
"""From this turn on a face is looked at again upright."""
SAME_PLACE, SAME_SIZE = 0.35, (0.6, 1.6)
"""A closer look means the same face if it lies within this share of its side, and within this ratio of sizes."""
SURE = 0.85
"""Score of the first look from which no second one is taken: what the second look refuses reaches 0.75."""
MOST_FACES = 45
"""Of so many answers, the best ones, a second look is taken."""
LEAST_TEXTURE = 6.0
"""Parts of less contrast (standard deviation, grey levels, at a quarter of the size) are not searched."""

_SIZE, _STRIDE = 192, 4
"""Side of the network's picture, px, and distance of its anchors."""

Scales = list[NDArray[np.uint8]]
"""A picture and its halves."""
Square = tuple[float, float, float]
"""Left, top and side."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """Perhaps a face, in px of the picture searched: box (left, top, right, bottom), six points (right eye,
    left eye, nose, mouth, right ear, left ear; the person's own right), score 0 to 1."""

    box: NDArray[np.float64]
    points: NDArray[np.float64]
    score: float


def find_faces(picture: NDArray[np.uint8], nets: FaceNets) -> list[Candidate]:
    """Faces, best first. picture: (rows, columns, 3) sRGB of about `SEARCH_EDGE` px."""
    scales = _scales(picture)
    found = _candidates(scales, nets)[:MOST_FACES]
    doubtful = [candidate for candidate in found if candidate.score < SURE]
    accepted = [candidate for candidate in found if candidate.score >= SURE]
    for start in range(0, len(doubtful), TOGETHER**2):
        some = doubtful[start : start + TOGETHER**2]
        for candidate, score in zip(some, _seen_together(scales, nets, some), strict=True):
            if score >= SURE_TOGETHER or (score >= LEAST_TOGETHER and _stands(scales, nets, candidate)):
                accepted.append(candidate)
    return accepted


def _stands(scales: Scales, nets: FaceNets, found: Candidate) -> bool:
    """Whether a closer look at this one alone says so too."""

    def seen(reach: float) -> float:
        looks = _search(scales, nets, *_around(found, reach))
        return max((c.score for c in looks if _alike(c, found)), default=0.0)

    return seen(CLOSE) >= LEAST_CLOSE or (found.score >= LEAST_FOR_WIDE and seen(WIDE) >= LEAST_WIDE)


def _seen_together(scales: Scales, nets: FaceNets, found: Sequence[Candidate]) -> Floats:
    """The scores of some answers in one look at close views of all of them, side by side."""
    side = _SIZE // TOGETHER
    sheet = np.zeros((_SIZE, _SIZE, 3), np.float32)
    corners = [(side * (n % TOGETHER), side * (n // TOGETHER)) for n in range(len(found))]
    for candidate, (x, y) in zip(found, corners, strict=True):
        sheet[y : y + side, x : x + side] = _window(scales, *_around(candidate, CLOSE), size=side)
    middles = np.array(corners) + side / 2
    scores = np.zeros(len(found), np.float32)
    for answer in _answers(nets, sheet):
        middle = (answer.box[:2] + answer.box[2:]) / 2 * _SIZE
        ratio = float(max(answer.box[2:] - answer.box[:2])) * _SIZE / (side / CLOSE)
        apart = np.linalg.norm(middles - middle, axis=1)
        nearest = int(apart.argmin())
        if apart[nearest] < SAME_PLACE * side / CLOSE and SAME_SIZE[0] < ratio < SAME_SIZE[1]:
            scores[nearest] = max(scores[nearest], answer.score)
    return scores


def _around(found: Candidate, reach: float) -> tuple[Square, float]:
    """The square about an answer, `reach` times its side, and how far it is turned (radians). Heads that lean are
    looked at upright: the network knows few others."""
    across = found.points[1] - found.points[0]
    turn = math.atan2(across[1], across[0])
    centre = (found.box[:2] + found.box[2:]) / 2
    side = float(max(found.box[2:] - found.box[:2])) * reach
    square = (centre[0] - side / 2, centre[1] - side / 2, side)
    return square, turn if abs(turn) >= LEANING else 0.0


def _alike(one: Candidate, other: Candidate) -> bool:
    """Whether two answers mean the same place at about the same size."""
    sides = [float(max(c.box[2:] - c.box[:2])) for c in (one, other)]
    apart = np.linalg.norm((one.box[:2] + one.box[2:] - other.box[:2] - other.box[2:]) / 2)
    return bool(apart < SAME_PLACE * sides[1] and SAME_SIZE[0] < sides[0] / sides[1] < SAME_SIZE[1])


def _candidates(scales: Scales, nets: FaceNets) -> list[Candidate]:
    height, width = scales[0].shape[:2]
    long_edge = max(height, width)
    whole = ((width - long_edge) / 2, (height - long_edge) / 2, float(long_edge))
    found = _search(scales, nets, whole)
    for left, top, side in _parts(width, height, long_edge * PART):
        rows = slice(max(0, int(top / 4)), int((top + side) / 4))
        columns = slice(max(0, int(left / 4)), int((left + side) / 4))
        if cv2.meanStdDev(scales[2][rows, columns])[1].max() >= LEAST_TEXTURE:
            found += [
                c for c in _search(scales, nets, (left, top, side))
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


def _search(scales: Scales, nets: FaceNets, square: Square, turn: float = 0.0) -> list[Candidate]:
    """Faces in a square; of one that is turned (radians) the answers are as if it stood upright."""
    left, top, side = square
    corner = np.array([left, top])
    return [
        Candidate(found.box * side + np.tile(corner, 2), found.points * side + corner, found.score)
        for found in _answers(nets, _window(scales, square, turn))
    ]


def _answers(nets: FaceNets, window: Floats) -> list[Candidate]:
    """What the network sees in a picture of its own size, places from 0 to 1."""
    outputs = nets[Model.DETECTOR].run(window)
    anchors = _anchors()
    values, scores = outputs[0].reshape(len(anchors), 16), outputs[1].reshape(-1)
    likely = 1 / (1 + np.exp(-np.clip(scores, -50, 50)))
    chosen = np.flatnonzero(likely >= LEAST_SCORE)
    points = values[chosen].reshape(-1, 8, 2) / _SIZE
    centres = points[:, 0] + anchors[chosen]
    halves = points[:, 1] / 2
    boxes = np.concatenate([centres - halves, centres + halves], axis=1)
    marks = points[:, 2:] + anchors[chosen][:, None]
    return [
        Candidate(box.astype(np.float64), mark.astype(np.float64), float(likely[index]))
        for box, mark, index in zip(boxes, marks, chosen, strict=True)
    ]


def _window(scales: Scales, square: Square, turn: float, size: int = _SIZE) -> Floats:
    """A square of the picture at the size of the network or another, −1 to 1; what lies outside is grey."""
    left, top, side = square
    # From the smallest of the reduced pictures that is no smaller than what is wanted.
    level = min(len(scales) - 1, max(0, int(np.log2(max(1.0, side / size)) + 0.05)))
    picture, shrunk = scales[level], 2.0**level
    left, top, side = left / shrunk, top / shrunk, side / shrunk
    scale = size / side
    affine = np.array(
        [[scale, 0, -left * scale + 0.5 * (scale - 1)], [0, scale, -top * scale + 0.5 * (scale - 1)]]
    )
    if turn:
        upright = cv2.getRotationMatrix2D((size / 2 - 0.5,) * 2, math.degrees(turn), 1)
        affine = upright @ np.vstack([affine, [0, 0, 1]])
    read = cv2.warpAffine(
        picture, affine, (size, size), flags=cv2.INTER_LINEAR, borderValue=(127.5, 127.5, 127.5)
    )
    return read.astype(np.float32) / np.float32(127.5) - 1


def _scales(picture: NDArray[np.uint8]) -> Scales:
    """The picture, half of it, a quarter, an eighth."""
    found = [picture]
    for _ in range(3):
        height, width = found[-1].shape[0] // 2, found[-1].shape[1] // 2
        even = found[-1][: height * 2, : width * 2]
        found.append(np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), np.uint8))
    return found


@lru_cache(maxsize=1)
def _anchors() -> Floats:
    """Centres of the anchors, 0 to 1: (n, 2) as x, y."""
    line = (np.arange(_SIZE // _STRIDE) + 0.5) / (_SIZE // _STRIDE)
    y, x = np.meshgrid(line, line, indexing="ij")
    return np.stack([x.ravel(), y.ravel()], axis=1).astype(np.float32)


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
