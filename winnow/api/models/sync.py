"""Marks here against marks on disk."""

from __future__ import annotations

from datetime import datetime

from pydantic import Field, StrictBool, StrictInt, StrictStr

from winnow.api.models.base import Id, Model
from winnow.api.models.plans import PlanView
from winnow.core.marks import Field as MarkField
from winnow.core.sync import Side, Take

Shown = StrictStr | StrictInt | None
"""A mark as it is kept; words as the JSON that they are kept as."""


class SyncWish(Model):
    """frames: only these; none: all of the shoot."""

    frames: list[Id] = Field(default_factory=list, max_length=10_000)


class SyncRow(Model):
    """A property that differs. here, base, there: marks as they are kept; `*_said`: as a person says them; here_at,
    here_by: when and by whom it was marked here, where a person did; file, there_at: where and since when the other
    value stands."""

    frame_id: int
    field: MarkField
    side: Side
    here: Shown
    there: Shown
    here_said: str
    base_said: str
    there_said: str
    here_at: datetime | None
    here_by: str | None
    file: str | None
    there_at: datetime | None


class SyncView(Model):
    """frames: how many were held against the disk; agree: of them, how many say the same; notes: what could not be
    read."""

    rows: list[SyncRow]
    frames: int
    agree: int
    notes: list[str]


class SyncTake(Model):
    """How a property changed on both sides is settled; here, there: what was shown of it."""

    frame_id: Id
    field: MarkField
    take: Take
    here: Shown
    there: Shown


class SettleWish(SyncWish):
    """takes: of properties that were changed on both sides; those not named wait. incoming, outgoing: all that comes
    in, or goes out."""

    takes: list[SyncTake] = Field(default_factory=list, max_length=20_000)
    incoming: StrictBool
    outgoing: StrictBool


class SettledView(Model):
    """taken: marks that came in; batch: the action that they are; plan: that writes what goes out, made and not
    applied yet; changed: how many were left because they are not what was shown any more."""

    taken: int
    batch: int | None
    plan: PlanView | None
    changed: int
