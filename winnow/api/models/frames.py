"""Frames, as lists, walls and the evidence name them."""

from __future__ import annotations

from typing import Literal

from winnow.api.models.base import CaptureTime, Model
from winnow.core.marks import Decision
from winnow.core.pairing import Role
from winnow.core.warned import Warned
from winnow.store.frames import FramePlace

StageName = Literal["listed", "read", "thumbnail", "preview"]
"""How far the background work has come with a frame."""


class FrameAddress(Model):
    """What addresses of a frame's pictures are made of."""

    id: int
    version: str


class FrameSummary(Model):
    """A frame as lists and walls need it. people: those of its scene that it shows, by numbers of the shoot;
    profiled: a profile says what its colours are; turn: quarters clockwise that it is shown turned by, which is in
    `version`, `width` and `height` already; original: the frame that this edited file came of; edited: it was edited
    in a program, or edited files came of it; incoming: marks on disk changed and wait to be asked for; proposed:
    who proposes the marks that it has."""

    id: int
    name: str
    position: int
    scene: int
    group: int
    captured_at: CaptureTime | None
    width: int | None
    height: int | None
    version: str
    stage: StageName
    problem: str | None
    place: FramePlace
    note: str | None
    decision: Decision
    rating: int
    label: str | None
    turn: int
    roles: list[Role]
    bracket: bool
    lead: bool
    faces: int | None
    people: list[int]
    warnings: list[Warned]
    judged: str | None
    copies: int
    again: bool
    profiled: bool
    original: int | None
    edited: bool
    incoming: bool
    proposed: str | None


class Frames(Model):
    """A page of the frames of a shoot, all or those changed since a revision, by id. `more`: ask again with `after`
    the last of these. `revision`: of this page; that of the first page is what to ask `since` the next time."""

    revision: int
    frames: list[FrameSummary]
    more: bool


class FrameFile(Model):
    path: str
    role: Role
    size: int


class FrameDetails(Model):
    """Everything known of one frame."""

    id: int
    name: str
    captured_at: CaptureTime | None
    camera: str | None
    serial: str | None
    lens: str | None
    focal_mm: float | None
    aperture: float | None
    shutter_s: float | None
    iso: int | None
    bias_ev: float | None
    width: int | None
    height: int | None
    space: str | None
    profiled: bool
    files: list[FrameFile]
