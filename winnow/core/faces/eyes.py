"""Whether eyes are open.

Source: eye aspect ratio, Soukupová & Čech, *Real-time eye blink detection using facial landmarks*, 2016; here
on the contour of the eye model. Natural open eyes 0.25 to 0.40, closed and lowered ones below 0.18. Looking
down reads as closed: the words are 'closed or lowered'.
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from statistics import median

from winnow.core.faces.landmarks import EyePoints, FacePoints

CLOSED, NARROWED = 0.18, 0.22
"""Ratios below which an eye is closed or lowered, narrowed."""
OWN_CLOSED, OWN_NARROWED = 0.55, 0.75
"""The same as shares of what the person's eyes usually are in the group."""
LEAST_OTHERS = 2
"""Frames of the group with eyes open that it takes to know what is usual."""
LEAST_WIDTH = 7.0
"""Narrower eyes, px from corner to corner, cannot be told."""
LEAST_SCORE = 0.5
FAR_EYE = 0.55
"""Turned further than this (`FacePoints.yaw`), the far eye cannot be told."""
FACING = 0.6
"""Turned further than this, a face does not face the camera."""
GAZE_REST, GAZE_TURN = 0.02, 0.2
"""Where the pupil stands (`EyePoints.aside`) when somebody looks into the camera: eyes turn back as far as the
head turns away. Read off the demo shoot, where 95 of 100 such eyes lie within 0.063 of it."""
GAZE = 0.075
"""Further from there, the person looks past the camera."""
GAZE_WIDTH = 14.0
"""Narrower eyes, px, do not tell where they look."""
BLUR = 0.11
"""Blurred by more than this share of its width, an eye cannot be told."""
OWN_WEIGHT = 0.4
"""People rarely close one eye alone, and one eye is read less surely than two: an eye's ratio counts by this
much, the mean of both by the rest."""


class EyeState(StrEnum):
    """`closed` includes lowered lids."""

    OPEN = "open"
    NARROWED = "narrowed"
    CLOSED = "closed"
    UNKNOWN = "unknown"


def is_facing(face: FacePoints) -> bool:
    """Whether the head is turned to the camera and the eyes, where that can be told, look into it."""
    if abs(face.yaw) > FACING:
        return False
    clear = [eye.aside for eye in face.eyes if eye.width >= GAZE_WIDTH and eye.ratio >= NARROWED]
    if len(clear) < 2 or face.score < LEAST_SCORE:
        return True
    return abs(sum(clear) / 2 - GAZE_REST - GAZE_TURN * face.yaw) <= GAZE


def readable(face: FacePoints, sigmas: Sequence[float | None]) -> tuple[bool, bool]:
    """Whether each eye (the person's right, left) can be told. sigmas: blur at each, px, None: unknown."""
    # Positive yaw: the nose points to the person's right cheek's side of the picture, the left, so the
    # right eye is the far one.
    far = (face.yaw > FAR_EYE, face.yaw < -FAR_EYE)
    return tuple(  # type: ignore[return-value]
        face.score >= LEAST_SCORE
        and eye.width >= LEAST_WIDTH
        and not behind
        and (sigma is None or sigma <= BLUR * eye.width)
        for eye, behind, sigma in zip(face.eyes, far, sigmas, strict=True)
    )


def steadied(eyes: tuple[EyePoints, EyePoints], told: tuple[bool, bool]) -> tuple[float, float]:
    """Ratios of both eyes, each drawn to the mean of those that can be told."""
    counted = [eye.ratio for eye, can in zip(eyes, told, strict=True) if can] or [eye.ratio for eye in eyes]
    mean = sum(counted) / len(counted)
    return tuple(OWN_WEIGHT * eye.ratio + (1 - OWN_WEIGHT) * mean for eye in eyes)  # type: ignore[return-value]


def state_of(ratio: float, told: bool, others: Sequence[float] = ()) -> EyeState:
    """The state of an eye. others: ratios of the same person in the other frames of the group."""
    if not told:
        return EyeState.UNKNOWN
    usual = [other for other in others if other >= NARROWED]
    if len(usual) >= LEAST_OTHERS:
        share = ratio / median(usual)
        closed, narrowed = share < OWN_CLOSED, share < OWN_NARROWED
        # Somebody whose eyes are narrow by nature is not blinking; a blink is a blink all the same.
        if ratio < CLOSED * 0.8 or (closed and ratio < NARROWED):
            return EyeState.CLOSED
        return EyeState.NARROWED if narrowed else EyeState.OPEN
    if ratio < CLOSED:
        return EyeState.CLOSED
    return EyeState.NARROWED if ratio < NARROWED else EyeState.OPEN
