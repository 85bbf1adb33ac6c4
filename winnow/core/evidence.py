"""Evidence: everything that is measured on one frame, out of one decode.

`measure` runs the measurements in order; each is one function of the picture at hand and of what was
measured before it. What needs the other frames of the group is in `judge`.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from functools import cached_property

import numpy as np

from winnow.core.capture import Area
from winnow.core.exposure import Exposure, measure_exposure, step_of
from winnow.core.faces import detect
from winnow.core.faces.eyes import CLOSED
from winnow.core.faces.landmarks import FacePoints, read_face
from winnow.core.faces.nets import FaceNets
from winnow.core.faces.people import Seen, see
from winnow.core.focus import blurmap, edges, motion
from winnow.core.focus.blurmap import BlurMap, Spot
from winnow.core.focus.motion import Motion
from winnow.core.focus.profiles import Grey
from winnow.core.focus.verdict import ELSEWHERE, SHARP_PX
from winnow.core.picture import Bytes, Picture
from winnow.core.points import Point
from winnow.core.similarity import SMALL_EDGE, Descriptor, describe

EyeBlur = tuple[tuple[float | None, float | None], float | None]
"""σ (px) at the right and the left eye, and at both together."""

VERSION = 4
"""Grows with every change of a measurement: evidence of older versions is measured again."""

READ_FACE = 220
"""Faces are read in a picture in which they are at least this wide, px, if there is one."""
FACE_VIEW = 2.5
"""How much of a large picture is at hand for that, to either side, in widths of the face."""
LARGE_LEVELS = 1
"""Up to this level (`Picture`) only the parts with faces are looked at."""
EYE_REACH = 0.6
"""Edges within this many distances between the eyes tell the blur at an eye."""
EYE_SHARE = 0.12
"""Of those edges: lashes and lids are sharp, the rest of a face is soft by nature."""
FACE_SHARE = 0.24
"""The same for a whole face and for a body: cloth and hair are softer than lashes."""
BODY_REACH, BODY_BELOW = 1.3, 1.6
"""What is looked at below a face: half the side of a square, and how far below the middle of the face its middle
lies, in widths of the face."""
SUBJECT_REACH = 0.04
"""Reach about a point without a face, of the long edge."""
STANDS_OUT = 2.0
"""A pan leaves most of the frame so many times softer than its sharpest place."""
FOLLOWED = 0.15
"""Reach about the sharpest place, of the long edge, of what the camera may have followed."""
LARGE_AREA = 0.06
"""A subject area that covers more of the frame than this is where to look for the sharpest place, not a place."""
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


class SubjectKind(StrEnum):
    """How it was found what should be sharp: the person said so (POINT); the eyes, else the face, else the body below
    it; where the camera says (EXIF), or the sharpest place of the large part of the frame that it gives (AREA); the
    sharpest place of all."""

    POINT = "point"
    EYES = "eyes"
    FACE = "face"
    BODY = "body"
    EXIF = "exif"
    AREA = "area"
    SHARPEST = "sharpest"


@dataclass(frozen=True, slots=True)
class Subject:
    """What should be sharp: a place (px), its σ (px) and how it was found."""

    x: float
    y: float
    sigma_px: float | None
    kind: SubjectKind


@dataclass(frozen=True, slots=True)
class Focus:
    """Focus of a frame: σ by tiles, the sharpest place, the subject, what moved, and σ at the point that the person
    put down, if there was one as it was measured."""

    map: BlurMap
    sharpest: Spot | None
    subject: Subject | None
    motion: Motion | None
    point: Subject | None = None


@dataclass(frozen=True, slots=True)
class Evidence:
    """All that was measured on a frame."""

    width: int
    height: int
    focus: Focus
    exposure: Exposure
    faces: tuple[Face, ...]
    descriptor: Descriptor


@dataclass(frozen=True, slots=True)
class View:
    """A reduced picture or a part of it: its pixels in RGB, px of it a px of the full picture, and the corner of the
    part, px of the reduced picture."""

    pixels: Bytes
    scale: float
    left: int = 0
    top: int = 0


class Sheet:
    """One decoded frame and the reduced pictures that several measurements share, each made once."""

    def __init__(
        self, picture: Picture, subject_area: Area | None = None, point: Point | None = None
    ) -> None:
        """picture: upright, at full size. subject_area: Exif's. point: what matters, as the person says. Both in
        px."""
        self.picture = picture
        self.subject_area = subject_area
        self.point = point
        self.height, self.width = picture.shape

    @cached_property
    def levels(self) -> list[Grey]:
        return self.picture.levels

    @cached_property
    def noise(self) -> float:
        return edges.noise_of(self.levels[0])

    @cached_property
    def edges(self) -> edges.Edges:
        return edges.find_edges(self.levels, self.noise, blurmap.tile_size(self.width, self.height))

    def for_face(self, x: float, y: float, width: float) -> View:
        """The smallest picture in which a face about a point, of a width (px of the full picture), is wide enough to
        be read; of large ones the part about the face."""
        level = 0
        while width / 2 ** (level + 1) >= READ_FACE:
            level += 1
        if level > LARGE_LEVELS:
            pixels = self.picture.rgb(level)
            return View(pixels, pixels.shape[1] / self.width)
        rows, columns = self.height >> level, self.width >> level
        scale, reach = columns / self.width, FACE_VIEW * width
        left, top = max(0, int((x - reach) * scale)), max(0, int((y - reach) * scale))
        right, bottom = min(columns, int((x + reach) * scale) + 1), min(rows, int((y + reach) * scale) + 1)
        return View(self.picture.part(level, left, top, right, bottom), scale, left, top)


def measure(sheet: Sheet, nets: FaceNets) -> Evidence:
    """Everything that is measured on one frame by itself."""
    faces = measure_faces(sheet, nets)
    small, _ = sheet.picture.reduced(2 * SMALL_EDGE)
    return Evidence(
        width=sheet.width,
        height=sheet.height,
        faces=faces,
        focus=measure_focus(sheet, faces),
        exposure=measure_exposure(sheet.picture.sampled(step_of(*sheet.picture.shape))),
        descriptor=describe(small),
    )


def measure_faces(sheet: Sheet, nets: FaceNets) -> tuple[Face, ...]:
    """Faces of a frame, the widest first."""
    search, scale = sheet.picture.reduced(detect.SEARCH_EDGE)
    found = []
    for candidate in detect.find_faces(search, nets):
        width = float(max(candidate.box[2:] - candidate.box[:2])) / scale
        x, y = (candidate.box[:2] + candidate.box[2:]) / 2 / scale
        view = sheet.for_face(x, y, width)
        corner = np.array([view.left, view.top])
        near = detect.Candidate(
            candidate.box * (view.scale / scale) - np.tile(corner, 2),
            candidate.points * (view.scale / scale) - corner,
            candidate.score,
        )
        found.append(_in_full(read_face(view.pixels, near, nets), view))
    found = _apart(found)
    small, small_scale = sheet.picture.reduced(SMALL_EDGE)
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


def _in_full(face: FacePoints, view: View) -> FacePoints:
    """What was read in a view, in px of the full picture."""

    def x(value: float) -> float:
        return (value + view.left) / view.scale

    def y(value: float) -> float:
        return (value + view.top) / view.scale

    left, top, right, bottom = face.box
    eyes = tuple(replace(eye, x=x(eye.x), y=y(eye.y), width=eye.width / view.scale) for eye in face.eyes)
    return replace(face, box=(x(left), y(top), x(right), y(bottom)), eyes=eyes)  # type: ignore[arg-type]


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
    """Where the frame is sharp, whether the subject is, and what moved."""
    found = blurmap.blur_map(sheet.edges, sheet.width, sheet.height)
    sharpest = blurmap.sharpest(sheet.edges, found)
    subject = _subject(sheet, faces, sharpest)
    moved = _where_it_is(sheet, faces) if _may_have_moved(subject, sharpest) else None
    followed = _about(sheet, sharpest) if _stands_out(sharpest, found) else None
    return Focus(
        found,
        sharpest,
        subject,
        motion.find_motion(sheet.levels, sheet.noise, sheet.edges, moved, followed),
        _at_point(sheet, sheet.point.x, sheet.point.y, SubjectKind.POINT) if sheet.point else None,
    )


def _subject(sheet: Sheet, faces: tuple[Face, ...], sharpest: Spot | None) -> Subject | None:
    """The first of the places that matter at which there is something to measure."""
    main = main_faces(faces)
    found = _eyes(main) or _of_person(sheet, main) or _where_the_camera_says(sheet)
    if found is None and sharpest is not None:
        found = Subject(sharpest.x, sharpest.y, sharpest.sigma_px, SubjectKind.SHARPEST)
    return found


def main_faces(faces: Sequence[Face]) -> list[Face]:
    """Those that may be the subject; faces come the widest first."""
    return [face for face in faces if face.width >= MAIN_FACE * faces[0].width]


def _eyes(main: Sequence[Face]) -> Subject | None:
    """The sharper eye of the sharpest face."""
    told = [(face.sigma, face) for face in main if face.sigma is not None]
    if not told:
        return None
    sigma, face = min(told, key=lambda pair: pair[0])
    sigmas = [sigma if sigma is not None else math.inf for sigma in face.eye_sigma]
    eye = face.points.eyes[int(sigmas[1] < sigmas[0])]
    return Subject(eye.x, eye.y, sigma, SubjectKind.EYES)


def _of_person(sheet: Sheet, main: Sequence[Face]) -> Subject | None:
    """The sharpest of faces whose eyes cannot be measured; else the sharpest of the bodies below them."""
    for kind, below, reach in ((SubjectKind.FACE, 0.0, 0.5), (SubjectKind.BODY, BODY_BELOW, BODY_REACH)):
        squares = [_square(face, below, reach) for face in main]
        told = [
            Subject(square.x, square.y, sigma, kind)
            for square, near in zip(squares, _edges_in(sheet, squares), strict=True)
            if (sigma := edges.typical_sigma(near, FACE_SHARE)) is not None
        ]
        if told:
            return min(told, key=lambda subject: subject.sigma_px or math.inf)
    return None


def _square(face: Face, below: float, reach: float) -> edges.Square:
    """About a face, or below it; in widths of the face."""
    left, top, right, bottom = face.points.box
    return edges.Square((left + right) / 2, (top + bottom) / 2 + below * face.width, reach * face.width)


def _where_the_camera_says(sheet: Sheet) -> Subject | None:
    area = sheet.subject_area
    if area is None:
        return None
    if area.width * area.height <= LARGE_AREA * sheet.width * sheet.height:
        found = _at_point(sheet, area.x, area.y, SubjectKind.EXIF, max(area.width, area.height) / 2)
        return found if found.sigma_px is not None else None
    inside = sheet.edges.where(
        (np.abs(sheet.edges.x - area.x) <= area.width / 2)
        & (np.abs(sheet.edges.y - area.y) <= area.height / 2)
    )
    spot = blurmap.sharpest(inside, blurmap.blur_map(inside, sheet.width, sheet.height))
    return Subject(spot.x, spot.y, spot.sigma_px, SubjectKind.AREA) if spot else None


def _at_point(sheet: Sheet, x: float, y: float, kind: SubjectKind, reach: float = 0.0) -> Subject:
    """A point of the full picture as the subject. reach: px, at least `SUBJECT_REACH`."""
    reach = max(reach, SUBJECT_REACH * max(sheet.width, sheet.height))
    (near,) = _edges_in(sheet, [edges.Square(x, y, reach)])
    return Subject(x, y, edges.typical_sigma(near), kind)


def _edges_in(sheet: Sheet, squares: Sequence[edges.Square]) -> list[edges.Edges]:
    return edges.edges_in(sheet.levels, sheet.noise, squares) if squares else []


def _may_have_moved(subject: Subject | None, sharpest: Spot | None) -> bool:
    """Whether the subject is soft and another place sharper: without that nothing tells that it moved."""
    if subject is None or subject.sigma_px is None or sharpest is None:
        return sharpest is not None
    return subject.sigma_px > max(SHARP_PX, sharpest.sigma_px / ELSEWHERE)


def _stands_out(spot: Spot | None, found: BlurMap) -> bool:
    """Whether the sharpest place is far sharper than most of the frame."""
    return spot is not None and float(np.nanmedian(found.sigma)) > STANDS_OUT * spot.sigma_px


def _about(sheet: Sheet, spot: Spot | None) -> edges.Square | None:
    """What would be sharp about the sharpest place if the camera had followed it."""
    return edges.Square(spot.x, spot.y, FOLLOWED * max(sheet.width, sheet.height)) if spot else None


def _where_it_is(sheet: Sheet, faces: Sequence[Face]) -> edges.Square | None:
    """The part of the frame that would be smeared if the subject moved: the widest face and what is below it."""
    if faces:
        return _square(faces[0], 0.5 * BODY_BELOW, BODY_REACH + 0.5 * BODY_BELOW)
    if sheet.point is not None:
        return edges.Square(sheet.point.x, sheet.point.y, 2 * SUBJECT_REACH * max(sheet.width, sheet.height))
    return None
