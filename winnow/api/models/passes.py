"""Passes and walks through a shoot with them."""

from __future__ import annotations

from typing import Annotated

from pydantic import AwareDatetime, Field, StrictBool, StringConstraints

from winnow.api.models.base import BodyId, Model, shown
from winnow.core import passes
from winnow.core.marks import Decision
from winnow.core.passes import Does, Done, Goes, Layout, Leaves, Order, Start, Zoom
from winnow.core.sentence import LONGEST

PassName = Annotated[
    str, StringConstraints(strip_whitespace=True, min_length=1, max_length=passes.LONGEST_NAME)
]
Said = Annotated[str, Field(max_length=LONGEST)]


class PassKey(Model):
    """A command in force; see `core.passes.Key`."""

    does: Does
    says: Annotated[str, Field(max_length=80)] = ""


class Pass(Model):
    """A pass; see `core.passes.Pass`."""

    name: PassName
    question: Annotated[str, Field(min_length=1, max_length=passes.LONGEST_QUESTION)]
    scope: Said = ""
    start: Start = Start.AS_IS
    order: Order = Order.FRAMES
    warned_first: StrictBool = False
    layout: Layout = Layout.ONE
    zoom: Zoom = Zoom.WHOLE
    keys: list[PassKey] = Field(min_length=1, max_length=passes.MOST_KEYS)
    goes_on: list[Goes] = Field(default=[], max_length=10)
    leaves: Leaves = Leaves.NOTHING
    done: Done = Done.SEEN
    bulk: list[Said] = Field(default=[], max_length=passes.MOST_BULK)
    beside_keeper: StrictBool = False
    full: StrictBool = False


class Passes(Model):
    """ours: those that come with Winnow, which cannot be changed; own: the person's; order: names, as a new shoot is
    gone through."""

    ours: list[Pass]
    own: list[Pass]
    order: list[str]


class PassNamed(Model):
    name: PassName


class PassOrder(Model):
    names: list[PassName] = Field(max_length=100)


LONGEST_FILE = 200_000


class PassesText(Model):
    """Passes as a file holds them."""

    text: str = Field(max_length=LONGEST_FILE)


class PassesRead(Passes):
    """read: names of the passes that were taken in; misfits: what was not, and why."""

    read: list[str]
    misfits: list[str]


class PassesOfShoot(Model):
    """asked: of how many frames each pass asks now, by its name; walks: the newest first."""

    asked: dict[str, int]
    walks: list[WalkView]


class WalkView(Model):
    """A pass gone through in a shoot; see `store.walks.Walk`."""

    id: int
    shoot_id: int
    name: str
    begun_at: AwareDatetime
    ended_at: AwareDatetime | None
    total: int
    seen: int
    seconds: float
    taken_back: bool


class WalkWish(Model):
    """Which pass is to be gone through. warned_first: otherwise than it says, this time."""

    model_config = shown({"name": "Weed"})

    name: PassName
    warned_first: StrictBool | None = None


class OpenWalk(WalkView):
    """With all that is needed to go on. frames: what it asks about, in its order; seen_frames: those gone on from;
    frame: where the person is; starting: the batch of what frames started as; fields: what may change in it."""

    definition: Pass
    frames: list[int]
    seen_frames: list[int]
    frame: int | None
    starting: int | None
    fields: list[str]


class WalkNews(Model):
    """How far a walk is. seen: frames gone on from since it was told last; seconds: spent since then."""

    frame: BodyId | None = None
    seen: list[BodyId] = Field(default=[], max_length=100_000)
    seconds: float = Field(default=0, ge=0, le=86_400, allow_inf_nan=False, strict=True)
    ended: StrictBool = False


class NextPass(Model):
    name: str
    frames: int


class WalkOutcome(Model):
    """What a walk did; see `store.walks.Outcome`. next: the pass after it, if that asks about anything."""

    walk: WalkView
    decisions: dict[Decision, int]
    changed: int
    rated: int
    labelled: int
    next: NextPass | None


class TakenBack(Model):
    """frames: how many are as they were before; later: how many were marked otherwise since, and stay so."""

    frames: int
    later: int
