"""Points of a face: whether it is one, how it is turned, where its eyes are and how far they are open.

Sources: Kartynnik et al., *Real-time facial surface geometry from monocular video on mobile GPUs*, 2019
(468 points), and Ablavatski et al., *Real-time pupil tracking from monocular video*, 2020 (contour of the eye
and iris); both from memory, numbers of the points read off the models. Eye aspect ratio: Soukupová & Čech,
*Real-time eye blink detection using facial landmarks*, 2016, here on the contour of the eye model, which
separates open and closed where the ratio of the 468 points does not.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.faces.detect import Candidate
from winnow.core.faces.nets import FaceNets, Floats, Model

Points = NDArray[np.float64]
Picture = NDArray[np.uint8]

_FACE_SIZE, _EYE_SIZE = 192, 64
_FACE_MARGIN = 1.5
"""The square that is looked at, of the face box."""
_SAME_CENTRE, _SAME_SIDE, _SAME_TURN = 0.025, 0.04, math.radians(3.5)
"""One look is enough where what it finds lies within this share of its side, ratio of sizes (log) and turn of where
it looked."""
MOST_LOOKS, _FAR_TURN = 4, math.radians(10)
"""So many looks at most, the third and fourth while a face proves to be turned by more than this."""
_EYE_MARGIN = 2.3
"""The square that is looked at, of the width of the eye."""

LEAST_SCALE = 0.6
"""A picture that has to shrink by more is halved first."""

RIGHT_EYE, LEFT_EYE = (33, 133), (362, 263)
"""Corners of the eyes (the person's own right and left): outer and inner, inner and outer."""
_NOSE, _CHEEKS = 1, (234, 454)
_OVAL = (10, 152, 234, 454)
"""Forehead, chin, right and left side of the face."""
_LIPS, _INNER, _OUTER = (13, 14), (78, 308), (61, 291)
"""Middle of the upper and of the lower lip, inside; corners of the mouth inside and outside."""


@dataclass(frozen=True, slots=True)
class EyePoints:
    """An eye: its pupil (px), its width between the corners (px), the ratio of its opening to its width, and
    how far the pupil stands from the middle between the corners, in widths along the row of the eyes,
    positive to the right of the picture."""

    x: float
    y: float
    width: float
    ratio: float
    aside: float = 0.0


@dataclass(frozen=True, slots=True)
class FacePoints:
    """A face: the score that it is one (0 to 1), its box by its outline (left, top, right, bottom, px), its
    eyes (the person's own right, left), and its turn: `yaw` −1 to 1 from profile to profile, 0 facing;
    `roll` degrees. `gape`: opening of the mouth over its width; `grin`: width of the mouth over the distance between
    the outer corners of the eyes."""

    score: float
    box: tuple[float, float, float, float]
    eyes: tuple[EyePoints, EyePoints]
    yaw: float
    roll: float
    gape: float = 0.0
    grin: float = 0.0


def read_face(picture: Picture, candidate: Candidate, nets: FaceNets) -> FacePoints:
    """Points of a candidate. picture: (rows, columns, 3) sRGB; the candidate in its px."""
    right, left = candidate.points[0], candidate.points[1]
    centre = (candidate.box[:2] + candidate.box[2:]) / 2
    side = float(max(candidate.box[2:] - candidate.box[:2])) * _FACE_MARGIN
    window = _Window(centre, side, _angle(left - right))
    points, score = _face_points(picture, nets, window)
    for look in range(MOST_LOOKS - 1):
        # Once more around what was found: the detector's box is rough, above all for turned heads. Its eyes are too
        # where somebody lies down: then once more is not enough.
        wanted = _window_about(points)
        if wanted.agrees(window) if look == 0 else wanted.turned_from(window) <= _FAR_TURN:
            break
        better, again = _face_points(picture, nets, wanted)
        if again <= 0.5 * score:
            break
        points, score, window = better, max(score, again), wanted
    turn = _angle(points[LEFT_EYE[1]] - points[RIGHT_EYE[0]])
    eyes = (
        _read_eye(picture, nets, points, RIGHT_EYE, False),
        _read_eye(picture, nets, points, LEFT_EYE, True),
    )
    outline = points[list(_OVAL)]
    low, high = np.minimum(outline.min(axis=0), points.min(axis=0)), points.max(axis=0)
    to_nose = np.linalg.norm(points[[*_CHEEKS]] - points[_NOSE], axis=1)
    yaw = float((to_nose[1] - to_nose[0]) / (to_nose.sum() + 1e-6))
    box = (float(low[0]), float(low[1]), float(high[0]), float(high[1]))
    return FacePoints(
        score,
        box,
        eyes,
        yaw,
        math.degrees(turn),
        _length(points, _LIPS) / (_length(points, _INNER) + 1e-6),
        _length(points, _OUTER) / (_length(points, (RIGHT_EYE[0], LEFT_EYE[1])) + 1e-6),
    )


def _length(points: Points, ends: tuple[int, int]) -> float:
    return float(np.linalg.norm(points[ends[1]] - points[ends[0]]))


@dataclass(frozen=True, slots=True)
class _Window:
    """A turned square that is looked at: its middle and side, px, and its turn, radians."""

    centre: Points
    side: float
    turn: float

    def agrees(self, other: _Window) -> bool:
        """Whether looking there too would hardly move the points: on the demo shoot by 1.5 % of the distance between
        the eyes on nine of ten faces of which it is true, 3 % at most."""
        return bool(
            np.linalg.norm(self.centre - other.centre) <= _SAME_CENTRE * self.side
            and abs(math.log(self.side / other.side)) <= _SAME_SIDE
            and self.turned_from(other) <= _SAME_TURN
        )

    def turned_from(self, other: _Window) -> float:
        """Radians, 0 to π."""
        return abs((self.turn - other.turn + math.pi) % (2 * math.pi) - math.pi)


def _window_about(points: Points) -> _Window:
    """What to look at for a face whose points these are."""
    turn = _angle(points[LEFT_EYE[1]] - points[RIGHT_EYE[0]])
    upright = points @ _rotation(-turn).T
    low, high = upright.min(axis=0), upright.max(axis=0)
    return _Window(_rotation(turn) @ ((low + high) / 2), float(max(high - low)) * _FACE_MARGIN, turn)


def _face_points(picture: Picture, nets: FaceNets, window: _Window) -> tuple[Points, float]:
    square, back = _square(picture, window.centre, window.turn, window.side, _FACE_SIZE)
    found, presence = nets[Model.LANDMARKS].run(square / np.float32(255))
    points = found.reshape(468, 3)[:, :2].astype(np.float64)
    return _apply(back, points), float(1 / (1 + np.exp(-np.clip(presence.reshape(-1)[0], -50, 50))))


def _read_eye(
    picture: Picture, nets: FaceNets, points: Points, corners: tuple[int, int], mirrored: bool
) -> EyePoints:
    """The eye model knows right eyes only: left ones are shown to it in a mirror."""
    first, second = points[corners[0]], points[corners[1]]
    width = float(np.linalg.norm(second - first))
    square, back = _square(
        picture, (first + second) / 2, _angle(second - first), width * _EYE_MARGIN, _EYE_SIZE
    )
    if mirrored:
        square = square[:, ::-1]
    contour, iris = nets[Model.EYE].run(np.ascontiguousarray(square) / np.float32(255))
    lids = contour.reshape(71, 3)[:16, :2].astype(np.float64)
    pupil = iris.reshape(5, 3)[0, :2].astype(np.float64)
    ratio = float(
        np.linalg.norm(lids[[11, 12, 13]] - lids[[3, 4, 5]], axis=1).mean()
        / (np.linalg.norm(lids[0] - lids[8]) + 1e-6)
    )
    if mirrored:
        pupil[0] = _EYE_SIZE - 1 - pupil[0]
        lids[:, 0] = _EYE_SIZE - 1 - lids[:, 0]
    ends = lids[[0, 8]]
    aside = float((pupil[0] - ends[:, 0].mean()) / (abs(ends[1, 0] - ends[0, 0]) + 1e-6))
    x, y = _apply(back, pupil[None])[0]
    return EyePoints(float(x), float(y), width, ratio, aside)


def _square(picture: Picture, centre: Points, turn: float, side: float, size: int) -> tuple[Floats, Points]:
    """A turned square of the picture at the size of a network, and the affine from there back."""
    scale = size / side
    cos, sin = math.cos(-turn) * scale, math.sin(-turn) * scale
    there = np.array(
        [
            [cos, -sin, size / 2 - cos * centre[0] + sin * centre[1]],
            [sin, cos, size / 2 - sin * centre[0] - cos * centre[1]],
        ]
    )
    reach = 0.75 * side  # half the diagonal of the square, and a little
    x0, y0 = (max(0, int(c - reach)) for c in centre)
    x1, y1 = (min(limit, int(c + reach) + 1) for c, limit in zip(centre, picture.shape[1::-1], strict=True))
    source = picture[y0:y1, x0:x1]
    to_source = there @ np.array([[1, 0, x0], [0, 1, y0], [0, 0, 1]])
    while scale < LEAST_SCALE and min(source.shape[:2]) >= 4:
        # Halved first by averaging: the warp reads single pixels and would alias.
        height, width = source.shape[0] // 2, source.shape[1] // 2
        even = source[: 2 * height, : 2 * width]
        source = np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), dtype=np.uint8)
        to_source = to_source @ np.array([[2, 0, 0.5], [0, 2, 0.5], [0, 0, 1]])
        scale *= 2
    square = cv2.warpAffine(source, to_source, (size, size), flags=cv2.INTER_LINEAR)
    return square.astype(np.float32), np.asarray(cv2.invertAffineTransform(there))


def _apply(affine: Points, points: Points) -> Points:
    return points @ affine[:, :2].T + affine[:, 2]


def _angle(vector: Points) -> float:
    return math.atan2(vector[1], vector[0])


def _rotation(angle: float) -> Points:
    cos, sin = math.cos(angle), math.sin(angle)
    return np.array([[cos, -sin], [sin, cos]])
