"""What a person says of groups, places and clocks."""

from __future__ import annotations

from pydantic import Field, StrictBool

from winnow.api.models.base import BodyId, Finite, Model
from winnow.api.models.frames import FrameAddress
from winnow.core.group_edits import Regrouping


class GroupEdit(Model):
    """What a person does to the group of a frame."""

    frame_id: BodyId
    action: Regrouping


class LeadWish(Model):
    """The lead of this frame's group is kept; the others are rejected or left as they are.

    among: the frames that the person sees; no other is touched. None: all of the group.
    """

    frame_id: BodyId
    reject_rest: StrictBool = False
    among: list[BodyId] | None = Field(default=None, max_length=100_000)


class PointWish(Model):
    """What matters in a frame: a point, px of its upright full picture. The same point in the other frames of its
    group matters too. Put down where it is already, it is taken back from the whole group."""

    frame_id: BodyId
    x: Finite = Field(ge=0, le=1e6)
    y: Finite = Field(ge=0, le=1e6)


class ClockWish(Model):
    """How far the clock of a camera (serial number, or name) is ahead of the others, seconds."""

    camera: str = Field(min_length=1, max_length=200)
    ahead_s: Finite = Field(strict=True, ge=-10 * 366 * 86400, le=10 * 366 * 86400)


class MomentPair(Model):
    """Two frames that seem to show the same moment; ahead_s: what that says of the clock of the second's camera."""

    frame: FrameAddress
    other: FrameAddress
    ahead_s: float


class ClockView(Model):
    """A camera of a shoot. camera: serial number, or name; ahead_s: as the person says; suggested_s: as the pairs
    say, beside the camera `beside`; considered: frames that a counterpart was found for, agreeing or not."""

    camera: str
    name: str
    frames: int
    ahead_s: float
    suggested_s: float | None
    beside: str | None
    pairs: list[MomentPair]
    considered: int


class Clocks(Model):
    cameras: list[ClockView]


class SameMoment(Model):
    """Two frames of two cameras that show the same moment; the clock of the second's camera is set by it."""

    frame_id: BodyId
    other_id: BodyId
