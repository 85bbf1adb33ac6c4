"""Proof sets, and what clients answered."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from pydantic import Field, StrictBool, StringConstraints

from winnow.api.models.base import Id, Model, SavedName, shown
from winnow.api.models.plans import PlanView
from winnow.core.answer import How, Verdict
from winnow.core.marks import Decision
from winnow.core.proof import LONGEST


class ProofWish(Model):
    """A set to be laid out in a folder of its own. show, frames: which, see `PlanWish`; the rest: see
    `core.proof.Proof`."""

    model_config = shown(
        {"target": "/proofs/kiln", "title": "Open evening", "show": "keepers", "watermark": "proof"}
    )

    target: str = Field(min_length=1, max_length=4096)
    show: str = Field("", max_length=2000)
    frames: list[Id] = Field(default_factory=list, max_length=10_000)
    title: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=LONGEST)]
    contact: str = Field("", max_length=LONGEST)
    note: str = Field("", max_length=LONGEST)
    expires: str = Field("", max_length=LONGEST)
    names: StrictBool = True
    watermark: str = Field("", max_length=200)
    long_edge: int = Field(1600, ge=400, le=6000, strict=True)


class ProofView(Model):
    """A set that was laid out, or is planned."""

    id: str
    title: str
    made_at: datetime
    frames: int


class ProofMade(Model):
    """The set, and the plan that lays it out."""

    proof: str
    plan: PlanView


class AnswerText(Model):
    """What a client gave back: text, the file of a set's page, or a table. proof: the set that it speaks of; none:
    what the file says, or the frames named here, numbered in their order."""

    text: str = Field(max_length=1_000_000)
    proof: str | None = Field(None, max_length=64)
    frames: list[Id] = Field(default_factory=list, max_length=10_000)


class NamedFrame(Model):
    """A frame that an answer names: quote is where."""

    frame_id: int
    verdict: Verdict
    how: How
    quote: str
    comment: str


class DoubtView(Model):
    """Something that may name a picture, why it was not taken, and which it may mean."""

    quote: str
    why: str
    suggested: list[int]


class AnswerRead(Model):
    """What an answer says. client: as its file says; proof: the set that it speaks of; numbers: the number of each
    frame in it."""

    client: str
    proof: str | None
    named: list[NamedFrame]
    doubts: list[DoubtView]
    numbers: dict[int, int]


class Said(Model):
    frame_id: Id
    verdict: Verdict
    comment: str = Field("", max_length=2000)


class AsDecision(Model):
    field: Literal["decision"]
    value: Decision


class AsRating(Model):
    field: Literal["rating"]
    value: int = Field(ge=0, le=5, strict=True)


class AsLabel(Model):
    """value: id of a label."""

    field: Literal["label"]
    value: str = Field(min_length=1, max_length=80)


As = AsDecision | AsRating | AsLabel


class AnswerTaken(Model):
    """An answer to be taken over. liked, refused: which mark it becomes; none: none."""

    client: SavedName
    said: list[Said] = Field(min_length=1, max_length=10_000)
    liked: As | None = None
    refused: As | None = None


class KeptAnswerView(Model):
    id: int
    client: str
    at: datetime
    liked: list[int]
    refused: list[int]
    comments: dict[int, str]


class AnswersView(Model):
    """The sets and answers of a shoot, the newest first. agreed: frames that every client likes who said anything, if
    there are several."""

    proofs: list[ProofView]
    answers: list[KeptAnswerView]
    agreed: list[int]


class SheetWish(Model):
    """A contact sheet. show, frames: which, see `PlanWish`; columns, rows: of a page."""

    show: str = Field("", max_length=2000)
    frames: list[Id] = Field(default_factory=list, max_length=10_000)
    title: str = Field("", max_length=200)
    columns: int = Field(4, ge=1, le=12, strict=True)
    rows: int = Field(5, ge=1, le=16, strict=True)
    paper: Literal["a4", "letter"] = "a4"
    names: StrictBool = True
    marks: StrictBool = True
