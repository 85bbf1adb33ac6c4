"""Filters as they are asked for, typed and kept."""

from __future__ import annotations

from pydantic import Field, StrictBool

from winnow.api.models.base import Model, SavedName
from winnow.api.models.viewing import FilterPart


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

    name: SavedName
    show: str = Field(min_length=1, max_length=2000)
    everywhere: StrictBool = False


class NamedFilter(Model):
    """A filter that was saved. everywhere: for all shoots."""

    id: int
    name: str
    show: str
    everywhere: bool
