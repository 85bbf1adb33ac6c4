"""What was measured on frames."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from winnow.api.models.base import Model
from winnow.core.evidence import SubjectKind
from winnow.core.exposure import ExposureVerdict
from winnow.core.faces.eyes import EyeState
from winnow.core.focus.motion import MotionKind
from winnow.core.focus.verdict import FocusVerdict


class PointView(Model):
    """A point of the upright full picture, px, and the blur there, px."""

    x: float
    y: float
    sigma_px: float | None


class SubjectView(PointView):
    kind: SubjectKind


class MotionView(Model):
    """A smear: its length from end to end, its direction, what moved, and the chance that nothing did."""

    length_px: float
    angle_deg: float
    kind: MotionKind = MotionKind.SHAKE
    doubt: float = 0.0


class FocusView(Model):
    """Focus of a frame. `sigma_px`: by tiles of `tile_px`, row by row, None where there is nothing to measure."""

    verdict: FocusVerdict
    subject: SubjectView | None
    instead: PointView | None
    sharpest: PointView | None
    motion: MotionView | None
    sharp_share: float
    tile_px: float
    sigma_px: list[list[float | None]]


class ExposureView(Model):
    """Exposure of a frame: shares 0 to 1, stops below white, places in shares of width and height."""

    verdict: ExposureVerdict
    clipped_high: float
    clipped_low: float
    by_channel: tuple[float, float, float]
    high_at: tuple[float, float] | None
    low_at: tuple[float, float] | None
    median_stops: float
    spread_stops: float
    group_stops: float | None
    histogram: list[float]


class EyeView(Model):
    x: float
    y: float
    state: EyeState
    ratio: float
    sigma_px: float | None


class FaceView(Model):
    """A face: box (left, top, right, bottom, px); person counts from 0 in the group; eyes: right, left."""

    box: tuple[float, float, float, float]
    person: int
    facing: bool
    sigma_px: float | None
    eyes: tuple[EyeView, EyeView]


class ReasonView(Model):
    """A reason for the place of a frame in its group, with the point of the picture it was read from."""

    about: str
    good: bool
    text: str
    x: float | None
    y: float | None


class EvidenceView(Model):
    """What was measured on a frame. `state`: waiting (not measured yet), failed (`problem` says why), or
    measured; all the rest is None until then."""

    state: Literal["waiting", "failed", "measured"]
    problem: str | None = None
    focus: FocusView | None = None
    exposure: ExposureView | None = None
    faces: list[FaceView] | None = None
    lead: bool = False
    rank: int | None = None
    reasons: list[ReasonView] = Field(default=[])


class CoverFrame(Model):
    """A frame of a cover set; people: for whom it is there, from 0 within the group."""

    id: int
    people: list[int]


class CoverSetView(Model):
    """The fewest frames in which everybody is well shown; nobody: people who are well shown in none."""

    frames: list[CoverFrame]
    nobody: list[int]


class FoundPoint(Model):
    """The same point in another frame, px of its upright full picture; confidence 0 to 1."""

    frame_id: int
    x: float
    y: float
    confidence: float
    sure: bool
