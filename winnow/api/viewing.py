"""The filter of a question, and what a change makes of what passes it."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import Depends, Query

from winnow.api.desk import Desk, OnDesk
from winnow.api.models.viewing import FilterPart, Tally, ViewChange
from winnow.api.problems import Code, ProblemError
from winnow.core import sentence
from winnow.core.facets.registry import BY_NAME
from winnow.core.filters import FrameFilter
from winnow.core.labels import LabelSet
from winnow.store import census, labels
from winnow.store.frames import FramePlace

Sentence = Annotated[
    str, Query(max_length=sentence.LONGEST, description="A filter as a sentence; see docs/filters.md.")
]


@dataclass(frozen=True, slots=True)
class Asked:
    """The filter that a question carries, and the labels that it was read with."""

    filter: FrameFilter
    labels: LabelSet

    @property
    def show(self) -> str:
        return sentence.say(self.filter, self.labels)


def _asked(desk: OnDesk, show: Sentence = "") -> Asked:
    named = labels.current(desk.database.connection())
    try:
        return Asked(sentence.parse(show, named), named)
    except sentence.SentenceError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error


Wanted = Annotated[Asked, Depends(_asked)]
"""The filter that a question carries; without one, everything passes."""


def parts(asked: Asked) -> list[FilterPart]:
    """A filter taken apart, as it is shown."""
    return [
        FilterPart(
            facet=part.facet,
            title=BY_NAME[part.facet].title,
            words=[BY_NAME[part.facet].say(one, asked.labels) for one in part.wanted],
            negated=part.negated,
            text=sentence.say_part(part, asked.labels),
        )
        for part in asked.filter.parts
    ]


def counts(tally: census.Tally) -> dict[str, Any]:
    """The fields of `Counts`."""
    return {
        "total": tally.places[FramePlace.SHOOT],
        "tally": Tally.model_validate(tally),
        "held": tally.places[FramePlace.HELD],
        "moved": tally.places[FramePlace.MOVED],
        "missing": tally.places[FramePlace.MISSING],
    }


def view_after(desk: Desk, shoot_id: int, asked: Asked, changed: Iterable[int]) -> ViewChange:
    """What the view through a filter is after some frames changed."""
    census, connection = desk.census(shoot_id), desk.database.connection()
    passing, tally, _ = census.look(connection, asked.filter, asked.labels, among=list(changed))
    return ViewChange.model_validate({"passing": passing, **counts(tally)})
