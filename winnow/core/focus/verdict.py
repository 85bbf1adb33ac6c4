"""Focus in a word, with where it fell instead."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from winnow.core.focus.blurmap import Spot
from winnow.core.focus.motion import Motion, MotionKind

SHARP_PX, SOFT_PX = 1.7, 2.2
"""σ at the subject, px of the full picture: up to the first it is sharp at 100 %, beyond the second the focus
was missed. (Common practice, no source: 1 px is what a good lens and a sensor leave of an edge; grain and soft
lashes make sharp eyes measure up to 1.6.)"""
MUCH_WORSE = 2.2
"""A subject that is so many times softer than in the best frame of its group, and plainly sharper elsewhere, was
missed also below `SOFT_PX`."""
ELSEWHERE = 0.7
"""A place is the one that the focus fell on instead if its σ is below this share of the subject's."""
PLAINLY, FAR_SHARPER = 0.5, 0.25
"""Shares of the subject's σ: plainly sharper; and so much sharper that the focus fell there, even if it is not sharp
by itself."""
MOST_TOLD_PX = 6.0
"""On photographs σ beyond this is too far off to be given as a number."""


class FocusVerdict(StrEnum):
    """In a word."""

    SHARP = "sharp"
    SOFT = "soft"
    MISSED = "missed"
    MOVED = "moved"
    SHAKE = "shake"
    NOTHING = "nothing"


@dataclass(frozen=True, slots=True)
class Judged:
    """The word, and where the focus fell instead, if it was missed and fell somewhere."""

    verdict: FocusVerdict
    instead: Spot | None = None


def judge_focus(
    subject_sigma: float | None, sharpest: Spot | None, motion: Motion | None, best_sigma: float | None
) -> Judged:
    """subject_sigma: at the subject, px, None: nothing to measure there. best_sigma: the smallest of the group
    at the same subject, None for a frame that stands alone.

    Missed means that another place is sharp; where nothing is, the frame is soft.
    """
    if motion is not None and motion.kind is MotionKind.SHAKE:
        return Judged(FocusVerdict.SHAKE)
    if subject_sigma is None:
        return Judged(FocusVerdict.NOTHING)
    if subject_sigma <= SHARP_PX:
        return Judged(FocusVerdict.SHARP)
    if motion is not None and motion.kind is MotionKind.SUBJECT:
        return Judged(FocusVerdict.MOVED)
    instead = sharpest
    if instead is not None and instead.sigma_px > ELSEWHERE * subject_sigma:
        instead = None
    much_worse = best_sigma is not None and subject_sigma > MUCH_WORSE * best_sigma
    if instead is None:
        return Judged(FocusVerdict.SOFT)
    share = instead.sigma_px / subject_sigma
    elsewhere = instead.sigma_px <= SOFT_PX or share <= FAR_SHARPER
    missed = elsewhere and (subject_sigma > SOFT_PX or (much_worse and share <= PLAINLY))
    return Judged(FocusVerdict.MISSED if missed else FocusVerdict.SOFT, instead)


def in_words(sigma_px: float) -> str:
    """σ as a person reads it, px."""
    return f"{sigma_px:.1f} px" if sigma_px <= MOST_TOLD_PX else f"more than {MOST_TOLD_PX:.0f} px"
