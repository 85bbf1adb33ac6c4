"""The labels that a person defined."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, StringConstraints

from winnow.api.models.base import Model
from winnow.core.labels import LONGEST_MEANING, MOST_LABELS, Colour, Shape
from winnow.core.marks import MAX_LABEL_LENGTH


class LabelView(Model):
    """A label as the person defined it; see `core.labels.Label`."""

    id: str = Field(min_length=1, max_length=MAX_LABEL_LENGTH)
    name: Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=MAX_LABEL_LENGTH)]
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
