"""Searching over all shoots."""

from __future__ import annotations

from winnow.api.models.base import CaptureTime, Model
from winnow.core.marks import Decision


class FoundFrame(Model):
    """A frame that was found, as a list shows it. prepared: it has a thumbnail."""

    id: int
    version: str
    name: str
    decision: Decision
    rating: int
    captured_at: CaptureTime | None
    width: int | None
    height: int | None
    prepared: bool


class FoundShoot(Model):
    """A shoot in which something was found: how many frames, and the first of them."""

    id: int
    title: str
    frames: int
    first: list[FoundFrame]


class SearchAnswer(Model):
    """shoots: the one opened last first; frames: in all; more: there are more than were counted; behind: shoots of
    which not everything is known yet, because it changed just now."""

    shoots: list[FoundShoot]
    frames: int
    more: bool
    behind: int
