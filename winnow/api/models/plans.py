"""Plans, as they are wished for and shown."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AwareDatetime, Field, StrictBool

from winnow.api.models.base import BodyId, Model, PathText, SavedName, shown
from winnow.api.models.frames import FrameAddress
from winnow.api.models.marks import MarkField
from winnow.core import file_names
from winnow.core.file_names import Naming, Per
from winnow.core.pairing import Role
from winnow.core.sentence import LONGEST
from winnow.core.sorting import Into
from winnow.formats.sized import MOST_EDGE, Metadata
from winnow.store.plans import PlanKind, PlanState


class OwnMark(Model):
    """A mark of which the person wants their own written, although another program changed it."""

    frame_id: BodyId
    field: MarkField


class NamingWish(Model):
    """How files are to be called; see `core.file_names.Naming`."""

    model_config = shown({"pattern": "{subject}_{counter:4}", "words": {"subject": "kiln"}, "start": 1})

    pattern: str = Field(min_length=1, max_length=file_names.LONGEST)
    words: dict[Annotated[str, Field(max_length=30)], Annotated[str, Field(max_length=100)]] = Field(
        default={}, max_length=30
    )
    start: int = Field(default=1, ge=0, le=10**8, strict=True)
    step: int = Field(default=1, ge=1, le=10**6, strict=True)
    per: Per = Per.ALL

    def naming(self) -> Naming:
        """Raises ValueError."""
        return Naming(self.pattern, self.words, self.start, self.step, self.per)


class NamedPattern(Model):
    """A pattern that is kept under a name."""

    name: SavedName
    naming: NamingWish


class SizedWish(Model):
    """JPEGs of a size; see `formats.sized.Sized`."""

    long_edge: int = Field(ge=64, le=MOST_EDGE, strict=True)
    quality: int = Field(default=88, ge=30, le=100, strict=True)
    sharpen: StrictBool = True
    metadata: Metadata = Metadata.ALL


class NamesWish(Model):
    """frames: which, in their order; else show: as a sentence (empty: the keepers). in_place: files stay where
    they are."""

    frames: list[BodyId] = Field(default=[], max_length=100_000)
    show: str = Field(default="", max_length=LONGEST)
    into: Into = Into.NOTHING
    naming: NamingWish
    in_place: StrictBool = False


class NewName(Model):
    """clash: another frame would be called the same."""

    before: str
    after: str
    clash: bool


class NamesView(Model):
    """Names as they would be, the first of them. words: those in the pattern that are to be said; missing: why there
    are no names yet."""

    names: list[NewName]
    frames: int
    clashes: int
    words: list[str]
    missing: str | None


class PlanWish(Model):
    """mine, all_mine: where another program changed a sidecar since both sides agreed, the person's own marks are
    written; elsewhere theirs stays. Of copies, moves and new names: frames, which, in their order; else show (empty:
    the keepers); into, a folder for each of what; only, files of one kind (copies alone); naming, other names;
    second, another folder that gets the same copies. sized, copies as JPEGs of a size. source: of an
    import, the folder on the card."""

    model_config = shown(
        {"kind": "copy-keepers", "target": "/handed-on/kiln"},
        {
            "kind": "copy-keepers",
            "target": "/web",
            "show": "keepers, 4 stars or more",
            "sized": {"long_edge": 2048},
        },
        {"kind": "hold-rejects"},
        {"kind": "write-sidecars", "all_mine": False},
    )

    kind: PlanKind
    target: PathText | None = None
    with_marks: StrictBool = True
    keep_folders: StrictBool = False
    mine: list[OwnMark] = Field(default=[], max_length=100_000)
    all_mine: StrictBool = False
    show: str = Field(default="", max_length=LONGEST)
    into: Into = Into.NOTHING
    only: Literal[Role.RAW, Role.PICTURE] | None = None
    naming: NamingWish | None = None
    second: PathText | None = None
    source: PathText | None = None
    frames: list[BodyId] = Field(default=[], max_length=100_000)
    sized: SizedWish | None = None


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
    action: Literal["copy", "move", "link", "write", "bin", "render", "embed"]
    source: str | None
    target: str


class Renamed(Model):
    """A name that was taken in the target, and the one the file gets there."""

    old: str
    new: str


class Left(Model):
    target: str
    reason: str


class HoldingFolder(Model):
    """Rejects that wait. since: when the folder was made, None where it cannot be reached."""

    path: str
    frames: int
    bytes: int
    since: AwareDatetime | None


class HeldFrame(FrameAddress):
    name: str
    bytes: int


class HeldView(Model):
    """What is held back, by folder and frame by frame."""

    folders: list[HoldingFolder]
    frames: list[HeldFrame]


class PlanView(Model):
    """A plan with what it would do, or what has become of it. second: folder of the second copy; skipped: files
    that are here already; final: it cannot be taken back here; named: frames that were
    named one by one; differs: what had changed when it was to be applied;
    wish: what it was made for, to make it anew; reversible: it was applied, and some of its files are where it has
    left them; undone: steps that were undone."""

    id: int
    shoot_id: int
    kind: PlanKind
    state: PlanState
    target: str | None
    second: str | None
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
    skipped: int
    final: bool
    reversible: bool
    undone: int
    named: int
    running: bool
    left: list[Left]
    remarks: list[Left]
    steps: list[StepLine]
    wish: PlanWish | None
