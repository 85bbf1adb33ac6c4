"""Programs that frames are opened in."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from winnow.api.models.base import Id, Model

EditorName = Annotated[str, StringConstraints(strip_whitespace=True, min_length=1, max_length=60)]


class Editor(Model):
    """command: words as a shell splits them; `{files}` stands for the paths. problem: why it cannot be started, in an
    answer."""

    name: EditorName
    command: Annotated[str, Field(min_length=1, max_length=1000)]
    problem: str | None = None


class Editors(Model):
    """refusal: why commands can be neither kept nor run from here; None: they can."""

    editors: list[Editor]
    refusal: str | None


class OpeningWish(Model):
    """prefer: which file of a frame that has both."""

    editor: EditorName
    frames: Annotated[list[Id], Field(min_length=1, max_length=10_000)]
    prefer: Literal["raw", "picture"] = "raw"


class OpeningAnswer(Model):
    """files: how many were handed over; missing: those that are not where they were."""

    files: int
    missing: list[str]
