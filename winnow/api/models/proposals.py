"""Marks that others propose."""

from __future__ import annotations

from pydantic import Field

from winnow.api.models.base import BodyId, Model, shown
from winnow.core.marks import MAX_LABEL_LENGTH


class ProposedBy(Model):
    """On how many frames somebody proposes marks."""

    name: str
    frames: int


class ProposalsView(Model):
    """Who proposes marks in a shoot, the most first."""

    by: list[ProposedBy]


class ProposalsWish(Model):
    """Which proposals: on these frames (none: on all), of one person or of anybody."""

    model_config = shown({"frame_ids": [212, 213]}, {"by": "Mia"})

    frame_ids: list[BodyId] = Field(default=[], max_length=100_000)
    by: str | None = Field(default=None, max_length=MAX_LABEL_LENGTH)
