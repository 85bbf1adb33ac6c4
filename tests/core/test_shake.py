"""Shake on photographs that nobody here made, and on content that looks like it. How many of each kind are right is
counted over all, as a photographer meets them: figures are in docs/evidence.md."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator

import cv2
import numpy as np
import pytest

from tests import edges as made
from tests import patterns, wallpapers
from winnow.core.evidence import Sheet
from winnow.core.focus import blurmap, edges, motion, weighing
from winnow.core.focus.motion import Motion, MotionKind
from winnow.core.picture import Rgb, pyramid

EDGE = 1400
"""Long edge of the photographs here, px: at full size the same costs a minute a photograph."""
EVERY = {**wallpapers.PHOTOGRAPHS, **wallpapers.HELD_BACK}


def motion_of(
    picture: np.ndarray, subject: edges.Square | None = None, followed: bool = False
) -> Motion | None:
    grey = made.eight_bit(picture)
    levels, noise = pyramid(grey), edges.noise_of(grey)
    height, width = grey.shape
    found = edges.find_edges(levels, noise, blurmap.tile_size(width, height))
    spot = blurmap.sharpest(found, blurmap.blur_map(found, width, height)) if followed else None
    about = edges.Square(spot.x, spot.y, 0.15 * width) if spot else None
    return motion.find_motion(levels, noise, found, subject, about)


def is_shake(found: Motion | None) -> bool:
    return found is not None and found.kind is MotionKind.SHAKE


def sharpened(picture: np.ndarray) -> np.ndarray:
    return picture + 1.2 * (picture - made.blurred(picture, 1))


def enlarged(picture: np.ndarray) -> np.ndarray:
    return cv2.resize(
        cv2.resize(picture, None, fx=0.5, fy=0.5, interpolation=cv2.INTER_AREA), None, fx=2, fy=2
    )


def interlaced(picture: np.ndarray) -> np.ndarray:
    """Every other row of a moment in which the camera had moved on by 3 px."""
    combed = picture.copy()
    combed[1::2] = np.roll(picture, 3, axis=1)[1::2]
    return combed


WAYS: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "as it is": lambda p: p,
    "small": lambda p: cv2.resize(p, None, fx=0.45, fy=0.45, interpolation=cv2.INTER_AREA),
    "JPEG 60": lambda p: made.through_jpeg(p, 60),
    "sharpened, JPEG 75": lambda p: made.through_jpeg(sharpened(p), 75),
    "noise": lambda p: made.noisy(p, 8),
    "σ 2": lambda p: made.blurred(p, 2),
    "out of focus": lambda p: made.out_of_focus(p, 10),
    "enlarged": enlarged,
    "interlaced": interlaced,
}


def test_what_nobody_shook_is_not_called_shaken() -> None:
    """At most one in a hundred."""
    called = [
        (name, way)
        for name in EVERY
        for way, change in WAYS.items()
        if is_shake(motion_of(change(wallpapers.grey(name, EDGE))))
    ]
    assert len(called) <= 0.01 * len(EVERY) * len(WAYS), called


@pytest.mark.parametrize("name", wallpapers.GRAPHICS)
def test_graphics_are_not_surely_shaken(name: str) -> None:
    """Smooth shades without anything in them are told badly: here the doubt says so."""
    seen = motion_of(wallpapers.grey(name, EDGE))
    assert seen is None or seen.kind is not MotionKind.SHAKE or seen.doubt > 0.3


def smears() -> Iterator[tuple[str, float, float, float, float]]:
    """(photograph, length, direction, bow, defocus) of smears from 5 to 30 px: a third straight, a third that bow by
    up to a quarter, a third out of focus as well."""
    rng = np.random.default_rng(11)
    for name in EVERY:
        for kind in range(6):
            length, degrees = float(np.exp(rng.uniform(np.log(5), np.log(30)))), float(rng.uniform(0, 180))
            bow = float(rng.uniform(0.05, 0.25)) if kind % 3 == 1 else 0.0
            yield name, length, degrees, bow, float(rng.uniform(0.6, 1.3)) if kind % 3 == 2 else 0.0


def test_smears_are_found_with_length_and_direction() -> None:
    """19 in 20 found; 9 in 10 with direction to 10° and length to a quarter."""
    found, right, count, missed = 0, 0, 0, []
    for name, length, degrees, bow, defocus in smears():
        picture = made.blurred(wallpapers.grey(name, EDGE), defocus)
        seen = motion_of(made.smeared(picture, length, degrees, bow))
        count += 1
        if seen is None or seen.kind is not MotionKind.SHAKE:
            missed.append((name, round(length), round(degrees), round(bow, 2), seen))
            continue
        found += 1
        turned = abs((seen.angle_deg - degrees + 90) % 180 - 90)
        right += turned <= 10 and abs(seen.length_px / length - 1) <= 0.25
    assert found >= 0.95 * count, missed
    assert right >= 0.9 * count


@pytest.mark.parametrize("kind", patterns.KINDS)
def test_content_that_looks_like_a_smear(kind: str) -> None:
    """Whatever has a direction or repeats, at several sizes, turned, through JPEG and a little soft."""
    called = []
    for period in (7, 14, 70):
        for degrees in (0, 20):
            drawn = patterns.draw(kind, period, degrees)
            for way, picture in (
                ("", drawn),
                ("JPEG", made.through_jpeg(drawn, 70)),
                ("soft", made.blurred(drawn, 1.6)),
            ):
                if is_shake(motion_of(picture)):
                    called.append((period, degrees, way))
    assert not called


def place(number: int, shape: tuple[int, int]) -> tuple[int, int, int]:
    """Middle and radius of a subject, px."""
    rng = np.random.default_rng(number)
    height, width = shape
    return int(width * rng.uniform(0.35, 0.65)), int(height * rng.uniform(0.35, 0.65)), int(0.28 * height)


def composed(inside: np.ndarray, outside: np.ndarray, at: tuple[int, int, int]) -> np.ndarray:
    mask = np.zeros(inside.shape, np.float64)
    cv2.circle(mask, at[:2], at[2], 1.0, -1)
    mask = made.blurred(mask, 3)
    return mask * inside + (1 - mask) * outside


def test_a_subject_that_moved_by_itself_is_told_from_shake() -> None:
    """Before a sharp ground: never called shake, said of three in four, with its length; and never said of a subject
    that stood still."""
    told = 0
    for number, name in enumerate(EVERY):
        picture = wallpapers.grey(name, EDGE)
        at = place(number, picture.shape)
        subject = edges.Square(at[0], at[1], 0.8 * at[2])
        moved = motion_of(composed(made.smeared(picture, 16, 20 * number), picture, at), subject)
        assert not is_shake(moved), name
        told += (
            moved is not None and moved.kind is MotionKind.SUBJECT and abs(moved.length_px / 16 - 1) <= 0.25
        )
        assert motion_of(picture, subject) is None, name
    assert told >= 0.75 * len(EVERY)


def test_a_panned_frame_is_told_from_shake() -> None:
    """A sharp subject before a smeared ground: at most one in seven is called shaken."""
    kinds = []
    for number, name in enumerate(EVERY):
        picture = wallpapers.grey(name, EDGE)
        panned = composed(picture, made.smeared(picture, 20, 10 * number), place(number, picture.shape))
        seen = motion_of(panned, followed=True)
        kinds.append(seen.kind if seen else None)
    assert kinds.count(MotionKind.SHAKE) <= 0.15 * len(EVERY), kinds


@pytest.mark.parametrize("name", ["aitzgorri_by_Aitzol_Berasategi.jpg", "Wine_by_Jakkub_Mede.jpg"])
def test_turning_and_mirroring_turn_the_smear_and_change_nothing_else(name: str) -> None:
    picture = made.eight_bit(made.smeared(wallpapers.grey(name, EDGE), 13, 30))
    upright = motion_of(picture)
    mirrored, turned = motion_of(picture[:, ::-1]), motion_of(np.rot90(picture))
    assert upright and mirrored and turned
    for other, angle in ((mirrored, 150), (turned, 120)):
        assert other.kind is upright.kind
        assert abs((other.angle_deg - angle + 90) % 180 - 90) <= 6
        assert other.length_px == pytest.approx(upright.length_px, rel=0.12)
    assert [
        is_shake(motion_of(p)) for p in (wallpapers.grey(name, EDGE), wallpapers.grey(name, EDGE)[:, ::-1])
    ] == [False] * 2


def test_cropping_leaves_the_verdict() -> None:
    picture = made.smeared(wallpapers.grey("picosdeeuropa_by_Aitzol_Berasategi.jpg", EDGE), 12, 70)
    whole, part = motion_of(picture), motion_of(picture[100:900, 150:1250])
    assert is_shake(whole) and is_shake(part)


def test_the_chance_of_being_wrong_falls_with_the_evidence() -> None:
    assert weighing.chance_wrong(weighing.LEAST_EVIDENCE) <= 0.5
    assert weighing.chance_wrong(weighing.LEAST_EVIDENCE + 3) < 0.02
    plain = motion_of(made.smeared(wallpapers.grey("Picture_0B_by_freespace.jpg", EDGE), 15, 40))
    assert plain is not None and plain.doubt < 0.01


def test_colour_pictures_go_the_same_way() -> None:
    """Through the sheet that everything is measured on."""
    smeared = made.eight_bit(made.smeared(wallpapers.grey("life_by_Aitzol_Berasategi.jpg", EDGE), 14, 110))
    sheet = Sheet(Rgb(np.ascontiguousarray(np.repeat(smeared[..., None], 3, axis=2))))
    found = motion.find_motion(sheet.levels, sheet.noise, sheet.edges)
    assert found is not None and math.isclose(found.length_px, 14, rel_tol=0.25)
