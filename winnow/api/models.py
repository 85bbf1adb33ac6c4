"""What travels between server and interface."""

from __future__ import annotations

from typing import Any, Literal

from pydantic import BaseModel, ConfigDict, Field

from winnow.core.marks import MAX_LABEL_LENGTH, MAX_RATING, Decision
from winnow.store.plans import PlanKind, PlanState


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True)


class Progress(Model):
    """Background work on a shoot; counts are frames, the rate is frames a second of the slowest stage left."""

    shoot_id: int
    state: str
    listed: int
    read: int
    thumbnailed: int
    previewed: int
    measured: int
    rate: float | None
    seconds_left: float | None
    message: str | None


class ShootCard(Model):
    """A shoot as the list of shoots shows it."""

    id: int
    title: str
    folders: list[str]
    opened_at: str
    revision: int
    scan_note: str | None
    frames: int
    picks: int
    rejects: int
    problems: int
    held: int
    first_at: str | None
    last_at: str | None
    cover: FrameAddress | None
    progress: Progress


class FrameAddress(Model):
    """What addresses of a frame's pictures are made of."""

    id: int
    version: str


class FolderPath(Model):
    path: str = Field(min_length=1, max_length=4096)


class Position(Model):
    position: int = Field(ge=0)


class FrameSummary(Model):
    """A frame as lists and walls need it."""

    id: int
    name: str
    position: int
    scene: int
    group: int
    captured_at: str | None
    width: int | None
    height: int | None
    version: str
    stage: int
    problem: str | None
    place: str
    note: str | None
    decision: Decision
    rating: int
    label: str | None
    roles: str
    bracket: bool
    lead: bool
    faces: int | None
    warnings: str


class Frames(Model):
    """Frames of a shoot, all or those changed since a revision."""

    revision: int
    frames: list[FrameSummary]


class FrameFile(Model):
    path: str
    role: str
    size: int


class FrameDetails(Model):
    """Everything known of one frame."""

    id: int
    name: str
    captured_at: str | None
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
    files: list[FrameFile]


class Tally(Model):
    """How many frames of the shoot each filter would show on its own."""

    decisions: dict[Decision, int]
    ratings: list[int]
    warned: int


class View(Model):
    """The frames that pass a filter, in capture order, and what it hides."""

    ids: list[int]
    total: int
    hidden: int
    tally: Tally
    held: int
    moved: int
    missing: int


class MarkWish(Model):
    """Marks for frames; fields that are left out stay as they are."""

    frame_ids: list[int] = Field(min_length=1, max_length=100_000)
    decision: Decision | None = None
    rating: int | None = Field(default=None, ge=0, le=MAX_RATING)
    label: str | None = Field(default=None, max_length=MAX_LABEL_LENGTH)


class FrameMarks(Model):
    id: int
    decision: Decision
    rating: int
    label: str | None


class LastActions(Model):
    """What undo and redo would act on, in words."""

    undo: str | None
    redo: str | None


class Marked(Model):
    """The outcome of a mark, an undo or a redo: the frames that changed, as they are now."""

    frames: list[FrameMarks]
    title: str | None
    actions: LastActions
    revision: int


class PlanWish(Model):
    kind: PlanKind
    target: str | None = Field(default=None, max_length=4096)
    with_marks: bool = True
    keep_folders: bool = False


class StepLine(Model):
    action: Literal["copy", "move", "write"]
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
    """A plan with what it would do, or what has become of it."""

    id: int
    shoot_id: int
    kind: PlanKind
    state: PlanState
    target: str | None
    made_at: str
    ended_at: str | None
    error: str | None
    frames: int
    files: int
    bytes: int
    renamed: list[Renamed]
    renamed_count: int
    warnings: list[str]
    blocked: str | None
    done: int
    running: bool
    left: list[Left]
    steps: list[StepLine]


class FolderEntry(Model):
    name: str
    path: str


class FolderListing(Model):
    """A folder for the chooser: `parent` is None at an allowed root, `path` None above them."""

    path: str | None
    parent: str | None
    folders: list[FolderEntry]
    pictures: int
    note: str | None


class Problem(BaseModel):
    """An error: the message says what to do."""

    detail: str | list[dict[str, Any]]


ShootCard.model_rebuild()
