"""Which place of a frame its focus is judged at: the first of those that matter at which there is something to
measure."""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from tests import edges as made
from tests import photographs
from winnow.core.capture import Area, from_tags
from winnow.core.evidence import Face, Sheet, SubjectKind, measure_faces, measure_focus
from winnow.core.picture import Rgb
from winnow.core.points import Point, takes_back
from winnow.pipeline.tasks import face_nets

COFFEE = photographs.PHOTOGRAPHS.index(photographs.SKIMAGE / "coffee.png")


def coffee(ground: float = 0.0) -> np.ndarray:
    """A cup, sharp at the right, blurred by σ px at the left."""
    picture = np.asarray(photographs.photograph(COFFEE)).astype(np.float64)
    blurred = made.blurred(picture, ground)
    blurred[:, 330:] = picture[:, 330:]
    return made.eight_bit(blurred)


def with_small_face(face_width: int) -> np.ndarray:
    """The astronaut small on a large plain ground, as a person far away: too few pixels for lashes."""
    astronaut = np.asarray(photographs.photograph(0))
    scale = face_width / 94
    small = cv2.resize(astronaut, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    ground = np.full((700, 1000, 3), 120, np.uint8)
    ground[200 : 200 + small.shape[0], 400 : 400 + small.shape[1]] = small
    return ground


@pytest.mark.parametrize("width", [30, 40, 60])
def test_a_person_whose_eyes_cannot_be_measured_is_measured_all_the_same(width: int) -> None:
    sheet = Sheet(Rgb(with_small_face(width)))
    faces = measure_faces(sheet, face_nets())
    assert len(faces) == 1
    focus = measure_focus(sheet, faces)
    assert focus.subject is not None
    assert focus.subject.kind in (SubjectKind.EYES, SubjectKind.FACE, SubjectKind.BODY)
    assert focus.subject.sigma_px is not None and focus.subject.sigma_px < 1.7


def test_the_order_of_places() -> None:
    """Eyes, face, body, camera, sharpest place: each stands in for the one before it that cannot be measured."""
    sheet = Sheet(Rgb(with_small_face(60)), Area(20, 20))
    (seen,) = measure_faces(sheet, face_nets())

    def kind(face: Face | None) -> SubjectKind:
        focus = measure_focus(sheet, (face,) if face else ())
        assert focus.subject is not None
        return focus.subject.kind

    blind = Face(seen.points, seen.seen, (None, None), None)
    assert kind(Face(seen.points, seen.seen, (1.0, 1.0), 1.0)) is SubjectKind.EYES
    assert kind(blind) in (SubjectKind.FACE, SubjectKind.BODY)
    assert kind(None) is SubjectKind.SHARPEST, (
        "there is nothing to measure in the corner that the camera gives"
    )
    there = Sheet(Rgb(with_small_face(60)), Area(440, 260))
    focus = measure_focus(there, ())
    assert focus.subject is not None and focus.subject.kind is SubjectKind.EXIF


def test_a_large_area_of_the_camera_is_where_to_look() -> None:
    """An area over half the frame is no place: its sharpest place is the subject, not its middle."""
    sheet = Sheet(Rgb(coffee(6)), Area(300, 200, 500, 380))
    subject = measure_focus(sheet, ()).subject
    assert subject is not None and subject.kind is SubjectKind.AREA
    assert subject.x > 320 and subject.sigma_px is not None and subject.sigma_px < 1.5
    point = measure_focus(Sheet(Rgb(coffee(6)), Area(200, 200, 20, 20)), ()).subject
    assert point is not None and point.kind is SubjectKind.EXIF
    assert point.sigma_px is not None and point.sigma_px > 2.2


def test_a_point_of_the_persons_own_is_measured_beside_the_rest() -> None:
    sheet = Sheet(Rgb(coffee(6)), point=Point(200, 200))
    focus = measure_focus(sheet, ())
    assert focus.point is not None and focus.point.sigma_px is not None and focus.point.sigma_px > 2.2
    assert focus.subject is not None and focus.subject.kind is SubjectKind.SHARPEST


def test_the_same_point_again_takes_it_back() -> None:
    assert takes_back(Point(100, 100), Point(110, 104), 1000)
    assert not takes_back(Point(100, 100), Point(140, 100), 1000)
    assert not takes_back(None, Point(100, 100), 1000)
    assert Point.parse(str(Point(12.3, 4000))) == Point(12.3, 4000)


# Source: CIPA DC-008, SubjectArea: two numbers are a point, three a circle (diameter), four a rectangle.
def test_subject_areas() -> None:
    def area(*numbers: int) -> Area | None:
        return from_tags({"SubjectArea": numbers}).subject_area

    assert area(100, 200) == Area(100, 200)
    assert area(100, 200, 50) == Area(100, 200, 50, 50)
    assert area(100, 200, 50, 30) == Area(100, 200, 50, 30)
    assert area(0, 0, 50, 30) is None and area(7) is None
