"""Words on frames."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from winnow.api.models.base import BodyId, Model, SavedName, shown
from winnow.core.vocabulary import LONGEST
from winnow.core.words import LONGEST_ITEM, LONGEST_TEXT, MOST_ITEMS

Text = Annotated[str, Field(max_length=LONGEST_TEXT)]
Item = Annotated[str, Field(min_length=1, max_length=LONGEST_ITEM)]
Items = Annotated[list[Item], Field(max_length=MOST_ITEMS)]
Language = Annotated[str, Field(pattern=r"^[A-Za-z]{1,8}(-[A-Za-z0-9]{1,8})*$", max_length=40)]
"""As RFC 5646 writes it, or x-default."""


class SomeFrames(Model):
    frame_ids: list[BodyId] = Field(min_length=1, max_length=100_000)


class HeldText(Model):
    """A text and on how many frames it is; None: that many have none."""

    text: str | None
    frames: int


class HeldCaption(Model):
    language: str
    texts: list[HeldText]


class HeldKeyword(Model):
    word: str
    frames: int


class CommonWords(Model):
    """The words of some frames: in each place the different texts, those of most frames first. captions: by
    language, the one that names none first, also where no frame has any."""

    frames: int
    captions: list[HeldCaption]
    headline: list[HeldText]
    creator: list[HeldText]
    copyright: list[HeldText]
    keywords: list[HeldKeyword]


class WordsWish(SomeFrames):
    """Words for frames; what is left out stays as it is. Tokens in them (see docs/words.md) are filled in for each
    frame. captions: by language, None takes one off; creators: all of them."""

    model_config = shown(
        {"frame_ids": [12, 13], "captions": {"x-default": "At the wheel"}, "add_keywords": ["kiln", "potter"]}
    )

    captions: dict[Language, Text | None] = Field(default={}, max_length=50)
    headline: Text | None = None
    creators: Items | None = None
    copyright: Text | None = None
    add_keywords: Items = Field(default=[])
    remove_keywords: Items = Field(default=[])


class FilledText(Model):
    text: str


class KeywordOffer(Model):
    """A keyword that goes on from what is typed. above: those it stands below in the vocabulary, the widest first."""

    word: str
    above: list[str]
    frames: int


class Vocabulary(Model):
    """One keyword a line, tabs before it for how far it stands below."""

    text: str = Field(max_length=LONGEST)


class VocabularyView(Vocabulary):
    words: int


class TemplateView(Model):
    """Words to be said again, with tokens; an empty text says nothing."""

    name: SavedName
    caption: Text = ""
    headline: Text = ""
    keywords: Items = Field(default=[])
    creators: Items = Field(default=[])
    copyright: Text = ""


class TemplateName(Model):
    name: SavedName
