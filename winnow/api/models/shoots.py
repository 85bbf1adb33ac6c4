"""Shoots, as their list shows them."""

from __future__ import annotations

from pydantic import AwareDatetime, Field

from winnow.api.models.base import CaptureTime, Model
from winnow.api.models.frames import FrameAddress
from winnow.pipeline.progress import ProgressState


class Progress(Model):
    """Background work on a shoot; counts are frames, the rate is frames a second of the slowest stage left."""

    shoot_id: int
    state: ProgressState
    listed: int
    read: int
    thumbnailed: int
    previewed: int
    measured: int
    rate: float | None
    seconds_left: float | None
    message: str | None


class ShootCard(Model):
    """A shoot as the list of shoots shows it. gone: its folder cannot be reached; half_done: a plan of it waits for a
    word; demo: it is the shoot that comes with Winnow; again: frames whose problem may have passed."""

    id: int
    title: str
    folders: list[str]
    opened_at: AwareDatetime
    revision: int
    scan_note: str | None
    gone: bool
    silent: bool
    half_done: bool
    demo: bool
    frames: int
    keepers: int
    rejects: int
    problems: int
    again: int
    missing: int
    held: int
    held_bytes: int
    held_since: AwareDatetime | None
    first_at: CaptureTime | None
    last_at: CaptureTime | None
    cover: FrameAddress | None
    progress: Progress


class Shoots(Model):
    """A page of the list of shoots, the one opened last first. `more`: ask again with `after` the last of these."""

    shoots: list[ShootCard]
    more: bool


class Position(Model):
    position: int = Field(ge=0, le=2**31, strict=True)
