"""What a filter shows of a shoot."""

from __future__ import annotations

from typing import Literal

from pydantic import ConfigDict

from winnow.api.models.base import Model
from winnow.core.marks import Decision


class Tally(Model):
    """How the frames of the shoot are marked. ratings: how many have so many stars; labels: by the id of the label;
    warned: with notes on their files; again: whose problem may have passed; incoming: other programs marked them, and
    nobody has asked for that yet; proposed: their marks are a proposal."""

    model_config = ConfigDict(extra="ignore", from_attributes=True)

    decisions: dict[Decision, int]
    ratings: list[int]
    labels: dict[str, int]
    warned: int
    again: int
    incoming: int
    proposed: int


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


ColumnName = Literal[
    "sigma",
    "light",
    "focal",
    "aperture",
    "shutter",
    "iso",
    "faces",
    "width",
    "height",
    "camera",
    "serial",
    "lens",
    "folder",
    "type",
    "caption",
    "headline",
    "keywords",
    "creator",
    "copyright",
]


class ColumnsView(Model):
    """What is known of all frames in the shoot's place, in capture order. columns: for each, values in the order of
    ids; None: not known, or there is none."""

    ids: list[int]
    columns: dict[str, list[float | str | None]]


class ViewChange(Counts):
    """What a change makes of a view. passing: of the frames that changed, those that pass the filter of the request
    now."""

    passing: list[int]
