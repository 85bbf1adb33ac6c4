"""Plans, as they are wished for and shown."""

from __future__ import annotations

from typing import Literal

from pydantic import AwareDatetime, Field, StrictBool

from winnow.api.models.base import BodyId, Model, PathText
from winnow.api.models.marks import MarkField
from winnow.store.plans import PlanKind, PlanState


class OwnMark(Model):
    """A mark of which the person wants their own written, although another program changed it."""

    frame_id: BodyId
    field: MarkField


class PlanWish(Model):
    """mine, all_mine: where another program changed a sidecar since both sides agreed, the person's own marks are
    written; elsewhere theirs stays."""

    kind: PlanKind
    target: PathText | None = None
    with_marks: StrictBool = True
    keep_folders: StrictBool = False
    mine: list[OwnMark] = Field(default=[], max_length=100_000)
    all_mine: StrictBool = False


class PlanConflict(Model):
    """A mark that was changed here and, by somebody else, in the sidecar, with the dates of both. mine: the
    person's own will be written."""

    frame_id: int
    name: str
    field: MarkField
    ours: str | int | None
    ours_at: AwareDatetime | None
    theirs: str | int | None
    theirs_at: AwareDatetime
    mine: bool


class StepLine(Model):
    action: Literal["copy", "move", "link", "write"]
    source: str | None
    target: str


class Renamed(Model):
    """A name that was taken in the target, and the one the file gets there."""

    old: str
    new: str


class Left(Model):
    target: str
    reason: str


class PlanView(Model):
    """A plan with what it would do, or what has become of it. differs: what had changed when it was to be applied;
    wish: what it was made for, to make it anew."""

    id: int
    shoot_id: int
    kind: PlanKind
    state: PlanState
    target: str | None
    made_at: AwareDatetime
    ended_at: AwareDatetime | None
    error: str | None
    frames: int
    files: int
    bytes: int
    renamed: list[Renamed]
    renamed_count: int
    warnings: list[str]
    conflicts: list[PlanConflict] = Field(default=[])
    conflict_count: int = 0
    differs: list[str] = Field(default=[])
    blocked: str | None
    done: int
    running: bool
    left: list[Left]
    remarks: list[Left]
    steps: list[StepLine]
    wish: PlanWish | None
