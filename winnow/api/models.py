"""What travels between server and interface."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Annotated, Literal

from pydantic import AfterValidator, AwareDatetime, BaseModel, ConfigDict, Field, StrictBool

from winnow.core.evidence import SubjectKind
from winnow.core.exposure import ExposureVerdict
from winnow.core.faces.eyes import EyeState
from winnow.core.focus.motion import MotionKind
from winnow.core.focus.verdict import FocusVerdict
from winnow.core.group_edits import Regrouping
from winnow.core.history import BatchKind
from winnow.core.labels import LONGEST_MEANING, MOST_LABELS, Colour, Shape
from winnow.core.marks import MAX_LABEL_LENGTH, MAX_RATING, Decision
from winnow.core.pairing import Role
from winnow.core.warned import Warned
from winnow.pipeline.progress import ProgressState
from winnow.store.frames import FramePlace
from winnow.store.plans import PlanKind, PlanState

MarkField = Literal["decision", "rating", "label", "turn"]

Id = Annotated[int, Field(ge=1, le=2**63 - 1)]
"""As the database numbers things."""

BodyId = Annotated[Id, Field(strict=True)]
"""In a body numbers are numbers; in addresses they are text that reads as one."""

Revision = Annotated[int, Field(ge=0, le=2**63 - 1)]

Finite = Annotated[float, Field(allow_inf_nan=False)]


def _speakable(path: str) -> str:
    if "\0" in path:
        raise ValueError("a path holds no NUL")
    return path


PathText = Annotated[str, Field(min_length=1, max_length=4096), AfterValidator(_speakable)]

CaptureTime = Annotated[
    str,
    Field(description="ISO 8601, with the offset where the camera gave one, else the camera's own time."),
]

StageName = Literal["listed", "read", "thumbnail", "preview"]
"""How far the background work has come with a frame."""


def moment(text: str) -> datetime:
    """A time as the database keeps it (ISO 8601, UTC)."""
    found = datetime.fromisoformat(text)
    return found if found.tzinfo else found.replace(tzinfo=UTC)


class Model(BaseModel):
    model_config = ConfigDict(extra="forbid", from_attributes=True)


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
    word; again: frames whose problem may have passed."""

    id: int
    title: str
    folders: list[str]
    opened_at: AwareDatetime
    revision: int
    scan_note: str | None
    gone: bool
    half_done: bool
    frames: int
    keepers: int
    rejects: int
    problems: int
    again: int
    missing: int
    held: int
    first_at: CaptureTime | None
    last_at: CaptureTime | None
    cover: FrameAddress | None
    progress: Progress


class FrameAddress(Model):
    """What addresses of a frame's pictures are made of."""

    id: int
    version: str


class FolderPath(Model):
    path: PathText


class FolderWish(FolderPath):
    """as_new: a new shoot is wanted, although the folder looks like a known one that has moved."""

    as_new: StrictBool = False


class FolderMatch(Model):
    """How much of a shoot lies in a folder: frames of the shoot, how many of them are there, and how many frames are
    there that the shoot does not have."""

    frames: int
    found: int
    others: int


class Position(Model):
    position: int = Field(ge=0, le=2**31, strict=True)


class FrameSummary(Model):
    """A frame as lists and walls need it. profiled: a profile says what its colours are; turn: quarters clockwise
    that it is shown turned by, which is in `version`, `width` and `height` already."""

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
    warnings: list[Warned]
    judged: str | None
    copies: int
    again: bool
    profiled: bool


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


class Tally(Model):
    """How the frames of the shoot are marked. ratings: how many have so many stars; labels: by the id of the label;
    warned: with notes on their files; again: whose problem may have passed."""

    model_config = ConfigDict(extra="ignore", from_attributes=True)

    decisions: dict[Decision, int]
    ratings: list[int]
    labels: dict[str, int]
    warned: int
    again: int


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
    reasons: list[ReasonView] = []


class CoverFrame(Model):
    """A frame of a cover set; people: for whom it is there, from 0 within the group."""

    id: int
    people: list[int]


class CoverSetView(Model):
    """The fewest frames in which everybody is well shown; nobody: people who are well shown in none."""

    frames: list[CoverFrame]
    nobody: list[int]


class GroupEdit(Model):
    """What a person does to the group of a frame."""

    frame_id: BodyId
    action: Regrouping


class LeadWish(Model):
    """The lead of this frame's group is kept; the others are rejected or left as they are.

    among: the frames that the person sees; no other is touched. None: all of the group.
    """

    frame_id: BodyId
    reject_rest: StrictBool = False
    among: list[BodyId] | None = Field(default=None, max_length=100_000)


class PointWish(Model):
    """What matters in a frame: a point, px of its upright full picture. The same point in the other frames of its
    group matters too. Put down where it is already, it is taken back from the whole group."""

    frame_id: BodyId
    x: Finite = Field(ge=0, le=1e6)
    y: Finite = Field(ge=0, le=1e6)


class ClockWish(Model):
    """How far the clock of a camera (serial number, or name) is ahead of the others, seconds."""

    camera: str = Field(min_length=1, max_length=200)
    ahead_s: Finite = Field(strict=True, ge=-10 * 366 * 86400, le=10 * 366 * 86400)


class SameMoment(Model):
    """Two frames of two cameras that show the same moment; the clock of the second's camera is set by it."""

    frame_id: BodyId
    other_id: BodyId


class FoundPoint(Model):
    """The same point in another frame, px of its upright full picture; confidence 0 to 1."""

    frame_id: int
    x: float
    y: float
    confidence: float
    sure: bool


class Counts(Model):
    """How many frames of a shoot are in it, how they are marked, and how many are elsewhere."""

    total: int
    tally: Tally
    held: int
    moved: int
    missing: int


class FilterPart(Model):
    """A part of a filter. words: its alternatives, each a phrase; text: all of it, as it stands in the sentence."""

    facet: str
    title: str
    words: list[str]
    negated: bool
    text: str


class View(Counts):
    """The frames that pass a filter, in capture order, and what it hides. revision: of the shoot, when they were
    counted; show, parts: the filter, as a sentence and taken apart."""

    revision: int
    ids: list[int]
    hidden: int
    show: str
    parts: list[FilterPart]


class FacetValue(Model):
    """An alternative of a facet. count: frames it would show beside the rest of the filter; ends: of figures, the
    lower and the upper, as phrases write them."""

    phrase: str
    count: int
    ends: list[str] | None = Field(default=None, min_length=2, max_length=2)


class FigureForm(Model):
    """How phrases of figures are made: before, lower end, between, upper end, after."""

    before: str
    between: str
    after: str


class FacetView(Model):
    """What can be asked for. figures: it is a matter of ranges, and the values are the bars of a histogram."""

    facet: str
    title: str
    figures: FigureForm | None
    values: list[FacetValue]


class SentenceProblem(Model):
    """What cannot be understood, and where in the text."""

    message: str
    start: int
    end: int


class CompletionView(Model):
    """A phrase that can stand in the place `start` to `end` of the text."""

    start: int
    end: int
    phrase: str
    count: int | None


class FilterTyped(Model):
    """A sentence as far as it is typed. show, parts: what it asks for, None where it cannot be understood yet."""

    show: str | None
    parts: list[FilterPart] | None
    problem: SentenceProblem | None
    completions: list[CompletionView]


class NamedFilterWish(Model):
    """A filter to be kept under a name. everywhere: for all shoots."""

    name: str = Field(min_length=1, max_length=80)
    show: str = Field(min_length=1, max_length=2000)
    everywhere: StrictBool = False


class NamedFilter(NamedFilterWish):
    id: int


class LabelView(Model):
    """A label as the person defined it; see `core.labels.Label`."""

    id: str = Field(min_length=1, max_length=MAX_LABEL_LENGTH)
    name: str = Field(min_length=1, max_length=MAX_LABEL_LENGTH)
    meaning: str = Field(default="", max_length=LONGEST_MEANING)
    colour: Colour
    shape: Shape
    key: str | None = Field(default=None, min_length=1, max_length=1)
    texts: dict[str, str] = Field(default={}, max_length=20)
    also: list[str] = Field(default=[], max_length=100)


class LabelSetView(Model):
    """All labels. program: for which of the programs their texts are written; None: their names are."""

    labels: list[LabelView] = Field(max_length=MOST_LABELS)
    program: str | None = Field(default=None, max_length=80)


class LabelUse(Model):
    """A text that frames hold as their label. label: the id of the label that it means, None if nobody defined it."""

    text: str
    label: str | None
    frames: int
    shoots: int


class Labels(LabelSetView):
    """The labels in force. version: grows with every change; last: what was changed last, which can be taken back;
    colours: hexadecimal."""

    version: int
    last: str | None
    colours: dict[Colour, str]


class LabelsWish(LabelSetView):
    """Labels from now on. version: of those that were changed; said: what was changed, in words."""

    version: int = Field(ge=0, le=2**63 - 1, strict=True)
    said: str = Field(min_length=1, max_length=200)


class ViewChange(Counts):
    """What a change makes of a view. passing: of the frames that changed, those that pass the filter of the request
    now."""

    passing: list[int]


class MarkWish(Model):
    """Marks for frames; fields that are left out stay as they are. turn: by a quarter, and beside no other mark.

    of, continues: this is a part of an action on so many frames, and joins the batch of its earlier parts if nothing
    came after them.
    """

    frame_ids: list[BodyId] = Field(min_length=1, max_length=100_000)
    decision: Decision | None = None
    rating: int | None = Field(default=None, ge=0, le=MAX_RATING, strict=True)
    label: str | None = Field(default=None, max_length=MAX_LABEL_LENGTH)
    turn: Literal["left", "right"] | None = None
    of: int | None = Field(default=None, ge=1, le=10_000_000, strict=True)
    continues: BodyId | None = None


class FrameMarks(Model):
    id: int
    decision: Decision
    rating: int
    label: str | None
    turn: int


class ActionRef(Model):
    """Something that was done: the batch that holds it, and what it was, in words."""

    batch: int
    title: str


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
    conflicts: list[PlanConflict] = []
    conflict_count: int = 0
    differs: list[str] = []
    blocked: str | None
    done: int
    running: bool
    left: list[Left]
    remarks: list[Left]
    steps: list[StepLine]
    wish: PlanWish | None


class SettingsWish(Model):
    """cache_gb: room for derived pictures; the ones looked at longest ago give way."""

    cache_gb: int = Field(ge=1, le=100_000, strict=True)


class Settings(SettingsWish):
    """cache_bytes: what they take; None while that is being counted: ask again."""

    cache_bytes: int | None


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


ShootCard.model_rebuild()
