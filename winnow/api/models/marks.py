"""Marks, and steps back and forth."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from winnow.api.models.base import BodyId, Model, shown
from winnow.api.models.viewing import ViewChange
from winnow.core.marks import MAX_LABEL_LENGTH, MAX_RATING, Decision

MarkField = Literal[
    "decision", "rating", "label", "turn", "caption", "headline", "keywords", "creator", "copyright"
]


class MarkWish(Model):
    """Marks for frames; fields that are left out stay as they are. turn: by a quarter, and beside no other mark.

    of, continues: this is a part of an action on so many frames, and joins the batch of its earlier parts if nothing
    came after them.
    """

    model_config = shown(
        {"frame_ids": [12, 13], "decision": "keep", "rating": 4}, {"frame_ids": [12], "label": "Retouch"}
    )

    frame_ids: list[BodyId] = Field(min_length=1, max_length=100_000)
    decision: Decision | None = None
    rating: int | None = Field(default=None, ge=0, le=MAX_RATING, strict=True)
    label: str | None = Field(default=None, max_length=MAX_LABEL_LENGTH)
    turn: Literal["left", "right"] | None = None
    of: int | None = Field(default=None, ge=1, le=10_000_000, strict=True)
    continues: BodyId | None = None


class FrameMarks(Model):
    """proposed: who proposes marks of it."""

    id: int
    decision: Decision
    rating: int
    label: str | None
    turn: int
    proposed: str | None


class ActionRef(Model):
    """Something that was done: the batch that holds it, what it was, in words, and the walk that it is a part of."""

    batch: int
    title: str
    walk: int | None


class LastActions(Model):
    """What undo and redo would act on."""

    undo: ActionRef | None
    redo: ActionRef | None


class StepWish(Model):
    """Which action is meant: if another came after it, nothing is done."""

    batch: BodyId


class Marked(Model):
    """The outcome of a mark, an undo or a redo: the frames that changed, as they are now. batch: what holds it in the
    journal; None: nothing changed. view: as the filter in the request sees it."""

    frames: list[FrameMarks]
    title: str | None
    batch: int | None
    actions: LastActions
    revision: int
    view: ViewChange
