"""What a mouth does, as far as its points tell: no word on how that looks.

Common practice, no source; read off the demo shoot, where the opening of 142 mouths in 9 of 10 lies below 0.05
unless they laugh (above 0.06 in 9 of 10), and smiling ones are wider than straight ones (0.55 to 0.64 against 0.49
to 0.56 of the distance between the eyes' outer corners).
"""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from statistics import median

from winnow.core.faces.eyes import FACING
from winnow.core.faces.landmarks import FacePoints

OPEN = 0.06
SMILE = 0.57
STRAIGHT = 0.9
"""A mouth narrower than this share of what it is in the group does not smile as it does there."""
LEAST_FRAMES = 3
"""So many frames of a group tell how a person looks in it."""
LEAST_WIDTH = 60.0
"""Narrower faces, px, do not tell."""


class Mouth(StrEnum):
    """Against the other frames of the group: SMILING includes laughing, SPEAKING is open but no smile, UNSMILING is
    straight where most frames show a smile."""

    UNKNOWN = "unknown"
    PLAIN = "plain"
    SMILING = "smiling"
    SPEAKING = "speaking"
    UNSMILING = "unsmiling"


def mouth_of(face: FacePoints, grins: Sequence[float]) -> Mouth:
    """What a mouth does. grins: widths of the same person's mouth (`FacePoints.grin`) in all frames of the group."""
    if face.box[2] - face.box[0] < LEAST_WIDTH or abs(face.yaw) > FACING:
        return Mouth.UNKNOWN
    usual = median(grins)
    if face.gape >= OPEN and face.grin < SMILE:
        return Mouth.SPEAKING
    if len(grins) >= LEAST_FRAMES and usual >= SMILE and face.grin < STRAIGHT * usual:
        return Mouth.UNSMILING
    return Mouth.SMILING if face.grin >= SMILE else Mouth.PLAIN
