"""Evidence: everything that is measured on one frame, out of one decode.

`measure` runs the measurements in order; each is one function of the picture at hand and of what was
measured before it. What needs the other frames of the group is in `judge`.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.exposure import Exposure, measure_exposure
from winnow.core.faces import detect
from winnow.core.faces.eyes import CLOSED
from winnow.core.faces.landmarks import FacePoints, read_face
from winnow.core.faces.nets import FaceNets
from winnow.core.faces.people import Seen, see
from winnow.core.focus import blurmap, edges, motion
from winnow.core.focus.blurmap import BlurMap, Spot
from winnow.core.focus.motion import Motion
from winnow.core.similarity import SMALL_EDGE, Descriptor, describe

Picture = NDArray[np.uint8]
EyeBlur = tuple[tuple[float | None, float | None], float | None]
"""σ (px) at the right and the left eye, and at both together."""

VERSION = 2
"""Grows with every change of a measurement: evidence of older versions is measured again."""

READ_FACE = 220
"""Faces are read in a picture in which they are at least this wide, px, if there is one."""
EYE_REACH = 0.6
"""Edges within this many distances between the eyes tell the blur at an eye."""
EYE_SHARE = 0.12
"""Of those edges: lashes and lids are sharp, the rest of a face is soft by nature."""
SUBJECT_REACH = 0.04
"""The same for a point without a face, of the long edge."""
MAIN_FACE = 0.4
"""Faces of at least this share of the widest one may be the subject: people at a table, one behind the other."""


@dataclass(frozen=True, slots=True)
class Face:
    """A face: its points (px of the upright full picture), its looks, and the blur (σ, px) at its eyes
    (right, left) and at both together; None where there is nothing to measure."""

    points: FacePoints
    seen: Seen
    eye_sigma: tuple[float | None, float | None]
    sigma: float | None

    @property
    def width(self) -> float:
        return self.points.box[2] - self.points.box[0]


@dataclass(frozen=True, slots=True)
class Subject:
    """What should be sharp: a place (px), its σ (px) and how it was found: eyes, exif, sharpest, point."""

    x: float
    y: float
    sigma_px: float | None
    kind: str


@dataclass(frozen=True, slots=True)
class Focus:
    """Focus of a frame: σ by tiles, the sharpest place, the subject, and the smear of a shaken frame."""

    map: BlurMap
    sharpest: Spot | None
    subject: Subject | None
    motion: Motion | None


@dataclass(frozen=True, slots=True)
class Evidence:
    """All that was measured on a frame."""

    width: int
    height: int
    focus: Focus
    exposure: Exposure
    faces: tuple[Face, ...]
    descriptor: Descriptor


class Sheet:
    """One decoded frame and the reduced pictures that several measurements share, each made once."""

    def __init__(self, pixels: Picture, subject_area: tuple[float, float] | None = None) -> None:
        """pixels: (rows, columns, 3) upright sRGB at full size. subject_area: middle of Exif's SubjectArea, px."""
        self.pixels = pixels
        self.subject_area = subject_area
        self.height, self.width = pixels.shape[:2]

    @cached_property
    def levels(self) -> list[edges.Grey]:
        return edges.pyramid(np.asarray(cv2.cvtColor(self.pixels, cv2.COLOR_RGB2GRAY), np.uint8))

    @cached_property
    def noise(self) -> float:
        return edges.noise_of(self.levels[0])

    @cached_property
    def edges(self) -> edges.Edges:
        return edges.find_edges(self.levels, self.noise, blurmap.tile_size(self.width, self.height))

    @cached_property
    def _halves(self) -> list[Picture]:
        """The picture, half of it, a quarter, …: averaging 2 × 2 is by far the cheapest way to reduce."""
        found = [self.pixels]
        while max(found[-1].shape) >= 2 * SMALL_EDGE:
            height, width = found[-1].shape[0] // 2, found[-1].shape[1] // 2
            even = found[-1][: height * 2, : width * 2]
            found.append(
                np.asarray(cv2.resize(even, (width, height), interpolation=cv2.INTER_AREA), np.uint8)
            )
        return found

    def for_face(self, width: float) -> tuple[Picture, float]:
        """The smallest picture in which a face of a width (px of the full picture) is wide enough to be read, and
        px of it a px of the full one."""
        number = 0
        while number + 1 < len(self._halves) and width / 2 ** (number + 1) >= READ_FACE:
            number += 1
        picture = self._halves[number]
        return picture, picture.shape[1] / self.width

    def reduced(self, long_edge: int) -> tuple[Picture, float]:
        """The picture at a long edge, and px of it a px of the full one."""
        scale = min(1.0, long_edge / max(self.width, self.height))
        if scale == 1:
            return self.pixels, 1.0
        source = next(level for level in reversed(self._halves) if max(level.shape) >= long_edge)
        size = (max(1, round(self.width * scale)), max(1, round(self.height * scale)))
        # Less than half is left to do, and the source was averaged: linear is as good, at a tenth of the time.
        return np.asarray(cv2.resize(source, size, interpolation=cv2.INTER_LINEAR), np.uint8), scale


def measure(sheet: Sheet, nets: FaceNets) -> Evidence:
    """Everything that is measured on one frame by itself."""
    faces = measure_faces(sheet, nets)
    small, _ = sheet.reduced(2 * SMALL_EDGE)
    return Evidence(
        width=sheet.width,
        height=sheet.height,
        faces=faces,
        focus=measure_focus(sheet, faces),
        exposure=measure_exposure(sheet.pixels),
        descriptor=describe(small),
    )


def measure_faces(sheet: Sheet, nets: FaceNets) -> tuple[Face, ...]:
    """Faces of a frame, the widest first."""
    search, scale = sheet.reduced(detect.SEARCH_EDGE)
    found = []
    for candidate in detect.find_faces(search, nets):
        width = float(max(candidate.box[2:] - candidate.box[:2])) / scale
        picture, to_picture = sheet.for_face(width)
        near = detect.Candidate(
            candidate.box * (to_picture / scale), candidate.points * (to_picture / scale), candidate.score
        )
        found.append(_scaled(read_face(picture, near, nets), 1 / to_picture))
    found = _apart(found)
    small, small_scale = sheet.reduced(SMALL_EDGE)
    looks = see(small, [tuple(v * small_scale for v in face.box) for face in found])  # type: ignore[misc]
    faces = [
        Face(points, look, *blur)
        for points, look, blur in zip(found, looks, _eye_blurs(sheet, found), strict=True)
    ]
    return tuple(sorted(faces, key=lambda face: -face.width))


def _apart(found: list[FacePoints]) -> list[FacePoints]:
    """Two answers whose points came to lie on one face are one face: the surer stays."""
    kept: list[FacePoints] = []
    for face in sorted(found, key=lambda face: -face.score):
        middle = np.array([(eye.x, eye.y) for eye in face.eyes]).mean(axis=0)
        width = face.box[2] - face.box[0]
        if all(
            np.linalg.norm(middle - np.array([(eye.x, eye.y) for eye in other.eyes]).mean(axis=0))
            > 0.35 * width
            for other in kept
        ):
            kept.append(face)
    return kept


def _scaled(face: FacePoints, scale: float) -> FacePoints:
    eyes = tuple(replace(eye, x=eye.x * scale, y=eye.y * scale, width=eye.width * scale) for eye in face.eyes)
    box = tuple(side * scale for side in face.box)
    return FacePoints(face.score, box, eyes, face.yaw, face.roll)  # type: ignore[arg-type]


def _eye_blurs(sheet: Sheet, faces: list[FacePoints]) -> list[EyeBlur]:
    """σ at the eyes of each face."""
    squares = []
    for face in faces:
        right, left = face.eyes
        reach = EYE_REACH * max(math.dist((right.x, right.y), (left.x, left.y)), right.width, left.width)
        squares += [edges.Square(eye.x, eye.y, reach) for eye in face.eyes]
        # Closed lids have hardly an edge: the rest of the face tells.
        closed = (right.ratio + left.ratio) / 2 < CLOSED
        middle = (right.x + left.x) / 2, (right.y + left.y) / 2
        squares.append(edges.Square(*middle, 2 * reach if closed else 0))
    found = iter(edges.edges_in(sheet.levels, sheet.noise, squares))
    return [_eye_blur(right, left, whole) for right, left, whole in zip(found, found, found, strict=True)]


def _eye_blur(right: edges.Edges, left: edges.Edges, whole: edges.Edges) -> EyeBlur:
    at_eyes = edges.typical_sigma(edges.joined([right, left]), EYE_SHARE)
    sigmas = [s for s in (at_eyes, edges.typical_sigma(whole, 2 * EYE_SHARE)) if s is not None]
    each = (edges.typical_sigma(right, EYE_SHARE), edges.typical_sigma(left, EYE_SHARE))
    return each, min(sigmas, default=None)


def measure_focus(sheet: Sheet, faces: tuple[Face, ...]) -> Focus:
    """Where the frame is sharp, and whether the subject is."""
    found = blurmap.blur_map(sheet.edges, sheet.width, sheet.height)
    sharpest = blurmap.sharpest(sheet.edges, found)
    return Focus(
        found,
        sharpest,
        _subject(sheet, faces, sharpest),
        motion.find_motion(sheet.levels, sheet.noise, sheet.edges),
    )


def _subject(sheet: Sheet, faces: tuple[Face, ...], sharpest: Spot | None) -> Subject | None:
    """The sharpest of the main faces; else Exif's subject area; else the sharpest place."""
    main = [face for face in faces if face.width >= MAIN_FACE * faces[0].width]
    if main:
        face = min(main, key=lambda face: face.sigma if face.sigma is not None else math.inf)
        sigmas = [sigma if sigma is not None else math.inf for sigma in face.eye_sigma]
        eye = face.points.eyes[int(sigmas[1] < sigmas[0])]
        return Subject(eye.x, eye.y, face.sigma, "eyes")
    if sheet.subject_area is not None:
        return subject_at(sheet, *sheet.subject_area, kind="exif")
    if sharpest is not None:
        return Subject(sharpest.x, sharpest.y, sharpest.sigma_px, "sharpest")
    return None


def subject_at(sheet: Sheet, x: float, y: float, kind: str = "point") -> Subject:
    """A point of the full picture as the subject."""
    reach = SUBJECT_REACH * max(sheet.width, sheet.height)
    (near,) = edges.edges_in(sheet.levels, sheet.noise, [edges.Square(x, y, reach)])
    return Subject(x, y, edges.typical_sigma(near), kind)
