"""What evidence says in a group: ranks, reasons, warnings; on evidence made up for the purpose."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from winnow.core.evidence import Evidence, Face, Focus, Subject, SubjectKind
from winnow.core.exposure import Exposure
from winnow.core.faces.landmarks import EyePoints, FacePoints
from winnow.core.faces.people import Seen
from winnow.core.focus.blurmap import BlurMap, Spot
from winnow.core.focus.motion import Motion, MotionKind
from winnow.core.judge import judge_group
from winnow.core.points import Point
from winnow.core.similarity import describe

PLAIN = describe(np.zeros((40, 60, 3), np.uint8))


def exposed(stops: float = -2.5) -> Exposure:
    return Exposure(0.0, 0.0, (0, 0, 0), None, None, stops, -0.3, 3.0, (0.0,) * 64)


def person(
    ratio: float = 0.32,
    sigma: float = 0.9,
    x: float = 300.0,
    aside: float = 0.02,
    gape: float = 0.01,
    grin: float = 0.5,
) -> Face:
    pair = tuple(EyePoints(x + dx, 200.0, 40.0, ratio, aside) for dx in (-30, 30))
    points = FacePoints(1.0, (x - 80, 120, x + 80, 320), pair, 0.0, 0.0, gape, grin)  # type: ignore[arg-type]
    return Face(points, Seen(x / 1000, 0.2, 0.16, np.zeros((3, 3), np.float32)), (sigma, sigma), sigma)


def frame(
    *faces: Face,
    sigma: float = 0.9,
    at: tuple[float, float] = (300.0, 200.0),
    sharpest: Spot | None = None,
    motion: Motion | None = None,
    stops: float = -2.5,
    tiles: np.ndarray | None = None,
) -> Evidence:
    spot = sharpest or Spot(*at, sigma)
    subject = (
        Subject(300, 200, faces[0].sigma, SubjectKind.EYES)
        if faces
        else Subject(*at, spot.sigma_px, SubjectKind.SHARPEST)
    )
    grid = np.full((6, 10), np.nan, np.float32) if tiles is None else tiles
    return Evidence(
        1000, 600, Focus(BlurMap(100.0, grid), spot, subject, motion), exposed(stops), faces, PLAIN
    )


def test_open_eyes_lead_and_the_reason_is_said() -> None:
    shut, fine = judge_group([frame(person(0.08)), frame(person())])
    assert (fine.lead, shut.lead, shut.rank) == (True, False, 1)
    assert shut.reasons[0].text == "eyes closed or lowered"
    assert fine.reasons[0].text == "eyes open"
    assert shut.warnings == ("eyes",) and fine.warnings == ()


def test_one_of_three_blinks() -> None:
    all_open = frame(person(), person(x=600), person(x=850))
    one_shut = frame(person(), person(0.07, x=600), person(x=850))
    first, second = judge_group([one_shut, all_open])
    assert second.lead
    assert first.reasons[0].text == "eyes of 2 of 3 open"
    assert first.reasons[0].x == 570, "where to look"
    assert second.reasons[0].text == "eyes of all 3 open"


def test_sharper_eyes_lead_but_not_by_a_hair() -> None:
    soft, sharp = judge_group([frame(person(sigma=1.6)), frame(person(sigma=0.8))])
    assert sharp.lead and soft.reasons[1].text == "σ 1.6 px at the eye, best 0.8 px"
    barely = judge_group([frame(person(sigma=0.95, aside=0.02)), frame(person(sigma=0.85, aside=0.3))])
    assert barely[0].lead, "looking into the camera counts more than a tenth of a pixel"


def test_shake_and_wrong_exposure_fall_back() -> None:
    group = [frame(person(), motion=Motion(14.2, 30)), frame(person(), stops=-4.5), frame(person())]
    shaken, dark, fine = judge_group(group)
    assert fine.lead
    assert shaken.warnings == ("shake",) and dark.warnings == ("under",)
    assert "shaken by 14 px at 30°" in [r.text for r in shaken.reasons]
    assert "2.0 stops darker than the group" in [r.text for r in dark.reasons]


def test_a_bracket_is_not_a_row_of_failures() -> None:
    group = [frame(stops=-4.5), frame(stops=-2.5), frame(stops=-0.8)]
    assert all(judged.warnings == () for judged in judge_group(group, bracket=True))
    assert [j.warnings for j in judge_group(group)] == [("under",), (), ("over",)]


def test_where_the_others_are_sharp_was_meant() -> None:
    """No faces: two frames are sharp at the pot, the third at the wall behind it."""

    def tiles(pot: float, wall: float) -> np.ndarray:
        grid = np.full((6, 10), np.nan, np.float32)
        grid[3:5, 2:4], grid[0:2, 7:9] = pot, wall
        return grid

    pot, wall = Spot(300, 400, 0.8), Spot(800, 100, 0.7)
    group = [frame(sharpest=pot, tiles=tiles(0.8, 4)), frame(sharpest=pot, tiles=tiles(0.8, 4)),
             frame(sharpest=wall, tiles=tiles(4, 0.7))]  # fmt: skip
    judged = judge_group(group)
    assert [j.focus.verdict for j in judged] == ["sharp", "sharp", "missed"]
    assert judged[2].focus.instead == wall


def test_soft_eyes_on_purpose() -> None:
    """All frames of the group are sharp at the hands and soft at the eyes: the hands were meant."""
    grid = np.full((6, 10), np.nan, np.float32)
    grid[4:6, 4:6] = 0.7
    hands = Spot(500, 500, 0.7)
    group = [frame(person(sigma=3.0), sharpest=hands, tiles=grid) for _ in range(3)]
    assert [j.focus.verdict for j in judge_group(group)] == ["sharp"] * 3


def test_what_a_mouth_does_decides_between_frames_alike() -> None:
    smiling, straight, speaking = (person(grin=0.62), person(grin=0.5), person(gape=0.12))
    group = judge_group([frame(straight), frame(smiling), frame(speaking), frame(smiling), frame(smiling)])
    said = [[reason.text for reason in judged.reasons if reason.about == "mouth"] for judged in group]
    assert said == [["not smiling as in the other frames"], [], ["mouth open as in speech"], [], []]
    assert {judged.rank for judged in (group[1], group[3], group[4])} == {0, 1, 2}
    softer = judge_group(
        [frame(person(sigma=0.8)), frame(person(sigma=1.6, grin=0.62)), frame(person(sigma=1.6, grin=0.62))]
    )
    assert softer[0].lead, "never against focus"


def test_a_point_of_the_persons_own_is_the_subject() -> None:
    """Measured there it counts; until then the map of the frame says what it can."""
    grid = np.full((6, 10), np.nan, np.float32)
    grid[4:6, 4:6] = 3.1
    measured = frame(person(sigma=0.8), sharpest=Spot(300, 200, 0.8), tiles=grid)
    at = Point(510, 520)
    (waiting,) = judge_group([measured], points={0: at})
    assert waiting.subject is not None
    assert (waiting.subject.kind, waiting.focus.verdict) == ("point", "missed")
    assert waiting.subject.sigma_px == pytest.approx(3.1)
    there = replace(measured.focus, point=Subject(510, 520, 1.1, SubjectKind.POINT))
    (judged,) = judge_group([replace(measured, focus=there)], points={0: at})
    assert judged.focus.verdict == "sharp" and "σ 1.1 px at your point" in [r.text for r in judged.reasons]
    (moved_on,) = judge_group([replace(measured, focus=there)], points={0: Point(300, 200)})
    assert moved_on.subject is not None and moved_on.subject.sigma_px is None, (
        "what was measured elsewhere is no answer"
    )


def test_a_frame_in_which_nothing_is_sharp_is_soft() -> None:
    (judged,) = judge_group([frame(person(sigma=4.0), sharpest=Spot(900, 50, 3.5))])
    assert judged.focus.verdict == "soft" and judged.warnings == ("soft",)
    assert "nothing in the frame is sharp" in [reason.text for reason in judged.reasons]


def test_what_moved_is_said() -> None:
    moved = Motion(11, 40, kind=MotionKind.SUBJECT)
    panned = Motion(20, 5, kind=MotionKind.PAN)
    blurred, followed = judge_group([frame(person(sigma=3.0), motion=moved), frame(person(), motion=panned)])
    assert blurred.warnings == ("moved",) and followed.warnings == () and followed.lead
    assert "the subject moved by 11 px at 40°" in [r.text for r in blurred.reasons]
    assert "panned: the ground is smeared by 20 px at 5°" in [r.text for r in followed.reasons]
    (unsure,) = judge_group([frame(motion=Motion(14, 30, doubt=0.2))])
    assert "shaken by 14 px at 30° (wrong in 20% of such cases)" in [r.text for r in unsure.reasons]


def test_a_frame_alone_leads_without_a_best() -> None:
    (alone,) = judge_group([frame(person(sigma=2.5), sharpest=Spot(900, 50, 0.7))])
    assert alone.lead and alone.group_stops is None
    assert alone.focus.verdict == "missed"
    assert "σ 2.5 px at the eye" in [r.text for r in alone.reasons]
