"""What was done, step by step."""

from __future__ import annotations

from pydantic import AwareDatetime

from winnow.api.models.base import BodyId, Model
from winnow.api.models.frames import FrameAddress
from winnow.core.history import BatchKind


class HistoryEntry(Model):
    """Something that was done; see `store.past.Entry`. show: the filter it was done under; sample: some frames."""

    id: int
    kind: BatchKind
    title: str
    actor: str
    at: AwareDatetime
    show: str
    frames: int
    sample: list[FrameAddress]
    taken_back: bool
    can_go: bool
    walk: int | None
    in_pass: str | None


class HistoryPage(Model):
    """Actions, the newest first. more: ask again with `before` the last of these."""

    entries: list[HistoryEntry]
    more: bool


class PointInTime(Model):
    """The last action that is to stand; None: none is."""

    batch: BodyId | None = None


class OneAction(Model):
    batch: BodyId


class Stepped(Model):
    """How many steps were made, and how many frames they touched."""

    steps: int
    frames: int
