"""Similarity, groups and the same point elsewhere, on real photographs and against reference libraries."""

from __future__ import annotations

import math

import cv2
import imagehash
import numpy as np
import pytest
from PIL import Image

from tests import edges as made
from tests import photographs
from winnow.core.group_edits import Word
from winnow.core.grouping import Shot, body_of, exposure_value, group_shots
from winnow.core.match import SURE, Prepared, find_point, prepare
from winnow.core.similarity import compare, describe, matched_points, perceptual_hash

PHOTOGRAPHS = range(len(photographs.PHOTOGRAPHS))
LEFT, RIGHT = (photographs.SKIMAGE / f"motorcycle_{side}.png" for side in ("left", "right"))


def picture(number: int) -> np.ndarray:
    return np.asarray(photographs.photograph(number))


@pytest.mark.parametrize("number", PHOTOGRAPHS)
def test_the_hash_is_that_of_imagehash(number: int) -> None:
    """Source: `ImageHash.phash` on the same 32 × 32 picture (it reduces to that size itself)."""
    small = photographs.photograph(number).convert("L").resize((32, 32), Image.Resampling.LANCZOS)
    theirs = int(str(imagehash.phash(small)), 16)
    assert (perceptual_hash(np.asarray(small, np.float32)) ^ theirs).bit_count() <= 2


def moved(number: int, degrees: float, scale: float, dx: float, dy: float) -> tuple[np.ndarray, np.ndarray]:
    """A photograph turned about its middle, scaled, shifted by shares of its width; and the affine."""
    source = picture(number)
    height, width = source.shape[:2]
    affine = cv2.getRotationMatrix2D((width / 2, height / 2), degrees, scale)
    affine[:, 2] += (dx * width, dy * width)
    return cv2.warpAffine(source, affine, (width, height), borderMode=cv2.BORDER_REFLECT), affine


@pytest.mark.parametrize("number", PHOTOGRAPHS)
def test_a_moved_camera_is_alike_and_another_scene_is_not(number: int) -> None:
    one = describe(picture(number))
    other, affine = moved(number, 4, 1.06, 0.03, -0.02)
    like = compare(one, describe(other), match=True)
    assert like.matched is not None and like.matched > 0.15
    found = matched_points(one, describe(other))
    assert found is not None
    assert math.degrees(math.atan2(found.affine[1, 0], found.affine[0, 0])) == pytest.approx(-4, abs=1)
    assert np.hypot(*found.affine[:, 0]) == pytest.approx(1.06, abs=0.02)
    assert np.allclose(np.hypot(*found.affine[:, 0]), np.hypot(*affine[:, 0]), atol=0.02)
    stranger = compare(one, describe(picture(number + 1)), match=True)
    assert stranger.matched is not None and stranger.matched < 0.08
    assert stranger.colour > like.colour


def shots(*pictures: np.ndarray, pause: float = 2.0, **same: object) -> list[Shot]:
    return [
        Shot(n, n * pause, "camera", "lens", 50.0, descriptor=describe(p), **same)  # type: ignore[arg-type]
        for n, p in enumerate(pictures)
    ]


def groups(found: list[Shot], said: dict[int, Word] | None = None) -> list[int]:
    return [placed.group for placed in group_shots(found, said)]


def test_the_same_scene_joins_another_does_not() -> None:
    frames = shots(
        picture(0), moved(0, 2, 1.02, 0.02, 0)[0], picture(2), moved(2, -2, 1, 0, 0.02)[0], picture(0)
    )
    assert groups(frames) == [0, 0, 1, 1, 2], "a return is a new group"


def test_a_burst_joins_though_the_subject_moves() -> None:
    frames = shots(*(moved(1, 3 * n, 1, 0.12 * n, 0)[0] for n in range(3)), pause=0.2)
    assert groups(frames) == [0, 0, 0]


def test_turning_the_camera_or_changing_the_lens_starts_a_group() -> None:
    base = shots(picture(0), picture(0), picture(0))
    turned = [base[0], Shot(**{**fields(base[1]), "upright_format": True}), base[2]]
    assert groups(turned) == [0, 1, 2]
    zoomed = [base[0], Shot(**{**fields(base[1]), "focal_mm": 85.0})]
    assert groups(zoomed) == [0, 1]


def fields(shot: Shot) -> dict[str, object]:
    return {name: getattr(shot, name) for name in shot.__slots__}


def test_missing_and_equal_times_do_not_break_a_group() -> None:
    base = shots(picture(0), picture(0), picture(0))
    untimed = [Shot(**{**fields(shot), "seconds": None}) for shot in base]
    equal = [Shot(**{**fields(shot), "seconds": 5.0}) for shot in base]
    assert groups(untimed) == groups(equal) == [0, 0, 0]


def test_two_bodies_at_once_keep_their_groups() -> None:
    one, two = picture(0), picture(2)
    mixed = [
        Shot(n, float(n), "ab"[n % 2], "lens", 50.0, descriptor=describe(one if n % 2 == 0 else two))
        for n in range(6)
    ]
    assert groups(mixed) == [0, 1, 0, 1, 0, 1]


def test_two_bodies_of_one_model_without_serial_numbers_are_told_by_their_files() -> None:
    def body(name: str, folder: int = 1) -> str | None:
        return body_of(None, "Model", folder, name)

    assert body("100ABCDE/ABC_0001.JPG") == body("101ABCDE/ABC_0999.JPG"), (
        "a body goes on to the next directory"
    )
    assert body("100ABCDE/ABC_0001.JPG") != body("100ABCDE/XYZ_0001.JPG")
    assert body("one/100ABCDE/ABC_0001.JPG") != body("two/100ABCDE/ABC_0001.JPG")
    assert body("ABC_0001.JPG") != body("ABC_0001.JPG", folder=2)
    assert body_of("123", "Model", 1, "ABC_0001.JPG") == body_of("123", "Model", 2, "XYZ_0001.JPG")


HANDHELD = 0.1
"""Movement between two frames of a handheld burst or a video, of the width of the frame."""


@pytest.mark.parametrize("pause", [None, 8.0])
def test_a_handheld_burst_stays_together(pause: float | None) -> None:
    """Real photographs, each frame moved by a tenth of the frame and a little turned and zoomed against the last."""
    together = 0
    for number in PHOTOGRAPHS:
        frames = [
            Shot(n, None if pause is None else n * pause, "camera", descriptor=describe(seen))
            for n, seen in enumerate(handheld(number))
        ]
        together += groups(frames) == [0, 0, 0]
    assert together >= 5, f"of {len(PHOTOGRAPHS)} photographs"


def handheld(number: int) -> list[np.ndarray]:
    """Three frames out of a photograph, each about half as wide."""
    whole = picture(number)
    width, height = whole.shape[1] * 0.55, whole.shape[0] * 0.55
    found = []
    for n in range(3):
        left, top = (0.05 + 0.55 * HANDHELD * n) * whole.shape[1], (0.1 + 0.02 * n) * whole.shape[0]
        turn = cv2.getRotationMatrix2D((left, top), 1.0 * n, 960 / width)
        turn[:, 2] -= (left, top)
        found.append(
            cv2.warpAffine(whole, turn, (960, round(960 * height / width)), borderMode=cv2.BORDER_REFLECT_101)
        )
    return found


@pytest.mark.parametrize("pause", [None, 4.0])
def test_a_wide_bracket_stays_together(pause: float | None) -> None:
    """Two stops over and under in linear light (IEC 61966-2-1), as a camera on a tripod takes them."""
    together = 0
    for number in PHOTOGRAPHS:
        frames = [
            Shot(n, None if pause is None else n * pause, "camera", ev=10.0 - stops, descriptor=describe(lit))
            for n, stops in enumerate((0, -2, 2))
            for lit in [made.eight_bit(made.brighter(picture(number).astype(np.float64), stops))]
        ]
        together += groups(frames) == [0, 0, 0]
    assert together >= 5, f"of {len(PHOTOGRAPHS)} photographs"


def test_the_word_of_a_person_wins() -> None:
    frames = shots(picture(0), picture(0), picture(2), picture(2))
    assert groups(frames, {1: Word(None)}) == [0, 1, 2, 2]
    assert groups(frames, {2: Word(1), 3: Word(1)}) == [0, 0, 0, 0]


def test_a_late_frame_disturbs_only_its_neighbours() -> None:
    frames = shots(*(picture(n) for n in (0, 0, 1, 1, 2, 2)))
    before = groups(frames)
    late = [*frames[:3], Shot(99, 5.0, "camera", "lens", 50.0, descriptor=describe(picture(4))), *frames[3:]]
    after = groups(late)
    assert after[:3] == before[:3]
    assert after[-2] == after[-1] != after[-3], "later groups hold together"


# Source: APEX, Exif annex: Av = log2 N², Tv = log2 1/t.
def test_exposure_values() -> None:
    assert exposure_value(1.0, 1.0, 100) == 0
    assert exposure_value(8.0, 1 / 125, 100) == pytest.approx(6 + math.log2(125))
    assert exposure_value(2.8, 1 / 60, 400) == pytest.approx(math.log2(2.8**2 * 60) - 2)
    assert exposure_value(None, 1.0, 100) is None


@pytest.mark.parametrize("stops", [1, 2])
def test_a_bracket_is_known_by_its_steps(stops: int) -> None:
    still = [describe(np.clip(picture(2) * (2.0 ** (0.4 * e)), 0, 255).astype(np.uint8)) for e in (-1, 0, 1)]
    frames = [
        Shot(n, n * 0.7, "c", "l", 35.0, ev=10.0 + stops * (n - 1), descriptor=still[n]) for n in range(3)
    ]
    assert [placed.bracket for placed in group_shots(frames)] == [True] * 3
    same = [Shot(**{**fields(shot), "ev": 10.0}) for shot in frames]
    assert [placed.bracket for placed in group_shots(same)] == [False] * 3


def ready(source: np.ndarray) -> Prepared:
    height, width = source.shape[:2]
    return prepare(cv2.cvtColor(source, cv2.COLOR_RGB2GRAY), (width, height), describe(source))


@pytest.mark.parametrize("number", [0, 1, 2, 4])
def test_the_same_point_is_found_after_known_movements(number: int) -> None:
    """Median error below 1 % of the long edge (here below 0.3 %), and what is sure is right."""
    rng = np.random.default_rng(number)
    errors, wrong = [], 0
    one = ready(picture(number))
    width, height = one.size
    for _ in range(12):
        other, affine = moved(
            number, rng.uniform(-8, 8), rng.uniform(0.88, 1.14), *rng.uniform(-0.06, 0.06, 2)
        )
        x, y = rng.uniform(0.3, 0.7, 2) * (width, height)
        there = affine @ (x, y, 1)
        found = find_point(one, ready(other), x, y)
        errors.append(math.dist((found.x, found.y), there) / max(width, height))
        wrong += found.confidence >= SURE and errors[-1] > 0.02
    assert np.median(errors) < 0.003
    assert wrong <= 1


def test_the_same_point_in_the_other_eye_of_a_stereo_pair() -> None:
    """Real parallax: Middlebury 'Motorcycle' as scikit-image carries it. Points and their places in the other
    picture come from dense block matching by OpenCV (`StereoSGBM`), an independent way."""
    left, right = (np.asarray(Image.open(path).convert("RGB")) for path in (LEFT, RIGHT))
    greys = [cv2.cvtColor(side, cv2.COLOR_RGB2GRAY) for side in (left, right)]
    matcher = cv2.StereoSGBM.create(
        0, 80, 7, 8 * 49, 32 * 49, uniquenessRatio=15, speckleWindowSize=100, speckleRange=2
    )
    disparity = matcher.compute(*greys).astype(np.float32) / 16
    one, other = ready(left), ready(right)
    rng = np.random.default_rng(5)
    rows, columns = np.nonzero(disparity > 4)
    errors = []
    for index in rng.choice(len(rows), 40, replace=False):
        x, y = float(columns[index]), float(rows[index])
        found = find_point(one, other, x, y)
        if found.confidence >= SURE:
            errors.append(math.dist((found.x, found.y), (x - disparity[rows[index], columns[index]], y)))
    assert len(errors) > 15
    assert np.median(errors) < 0.01 * max(left.shape)


def test_a_point_that_is_not_there_is_not_sure() -> None:
    found = find_point(ready(picture(0)), ready(picture(2)), 225, 118)
    assert found.confidence < SURE
