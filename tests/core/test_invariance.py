"""Turning, mirroring or cropping a picture changes nothing of what is said of it."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np
import pytest

from tests import edges as made
from tests import photographs, wallpapers
from winnow.core.evidence import Sheet, measure
from winnow.core.exposure import verdict as exposure_verdict
from winnow.core.focus.verdict import judge_focus
from winnow.core.picture import Rgb
from winnow.pipeline.tasks import face_nets

SIDE = 1400


def portrait() -> np.ndarray:
    return np.asarray(photographs.photograph(0))


def softened(picture: np.ndarray, sigma: float) -> np.ndarray:
    return made.eight_bit(made.blurred(picture.astype(np.float64), sigma))


def shaken(picture: np.ndarray) -> np.ndarray:
    kernel = np.zeros((15, 15), np.float32)
    cv2.line(kernel, (1, 4), (13, 10), 1.0)
    return np.asarray(cv2.filter2D(picture, -1, kernel / kernel.sum()))


PICTURES: dict[str, Callable[[], np.ndarray]] = {
    "a sharp hill": lambda: wallpapers.colour("aitzgorri_by_Aitzol_Berasategi.jpg", SIDE),
    "one sharp flower": lambda: wallpapers.colour("seeding_by_Clements_Engelhardt.jpg", SIDE),
    "rocks out of focus": lambda: softened(
        wallpapers.colour("picosdeeuropa_by_Aitzol_Berasategi.jpg", SIDE), 5
    ),
    "rocks shaken": lambda: shaken(wallpapers.colour("picosdeeuropa_by_Aitzol_Berasategi.jpg", SIDE)),
    "a brook, three stops over": lambda: made.eight_bit(
        made.brighter(wallpapers.colour("life_by_Aitzol_Berasategi.jpg", SIDE).astype(np.float64), 3)
    ),
    "a face": portrait,
    "a face out of focus": lambda: softened(portrait(), 4),
}


def cropped(picture: np.ndarray) -> np.ndarray:
    rows, columns = (side // 20 for side in picture.shape[:2])
    return picture[rows:-rows, columns:-columns]


CHANGES: dict[str, Callable[[np.ndarray], np.ndarray]] = {
    "turned right": lambda p: np.rot90(p, 3),
    "turned left": lambda p: np.rot90(p, 1),
    "mirrored": lambda p: p[:, ::-1],
    "cropped by a twentieth all around": cropped,
}


def what_is_said(picture: np.ndarray) -> tuple[object, ...]:
    evidence = measure(Sheet(Rgb(np.ascontiguousarray(picture))), face_nets())
    focus = evidence.focus
    judged = judge_focus(focus.subject and focus.subject.sigma_px, focus.sharpest, focus.motion, None)
    return judged.verdict, focus.motion and focus.motion.kind, exposure_verdict(evidence.exposure)


@pytest.mark.parametrize("name", PICTURES)
def test_the_way_up_and_the_edges_of_a_picture_change_no_verdict(name: str) -> None:
    picture = PICTURES[name]()
    said = what_is_said(picture)
    assert {change: what_is_said(make(picture)) for change, make in CHANGES.items()} == dict.fromkeys(
        CHANGES, said
    )
