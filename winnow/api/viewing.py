"""The filter of a question, and what a change makes of what passes it."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, Any

from fastapi import Depends, Query

from winnow.api import models
from winnow.api.desk import Desk
from winnow.api.problems import Code, ProblemError
from winnow.core.filters import FrameFilter, RatingRule, Warned
from winnow.core.marks import MAX_RATING, Decision
from winnow.store.census import Tally
from winnow.store.frames import FramePlace


def _filter(
    decision: Annotated[list[Decision] | None, Query(max_length=10)] = None,
    rating_rule: RatingRule | None = None,
    stars: Annotated[int, Query(ge=0, le=MAX_RATING)] = 0,
    warned: bool = False,
    warning: Annotated[list[Warned] | None, Query(max_length=20)] = None,
    faces: bool | None = None,
    similar: bool | None = None,
    copies: bool = False,
) -> FrameFilter:
    try:
        return FrameFilter(
            frozenset(decision or ()),
            rating_rule,
            stars,
            warned,
            frozenset(warning or ()),
            faces,
            similar,
            copies,
        )
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error


Wanted = Annotated[FrameFilter, Depends(_filter)]
"""The filter that a question carries; without one, everything passes."""


def counts(tally: Tally) -> dict[str, Any]:
    """The fields of `models.Counts`."""
    return {
        "total": tally.places[FramePlace.SHOOT],
        "tally": models.Tally.model_validate(tally),
        "held": tally.places[FramePlace.HELD],
        "moved": tally.places[FramePlace.MOVED],
        "missing": tally.places[FramePlace.MISSING],
    }


def view_after(desk: Desk, shoot_id: int, wanted: FrameFilter, changed: Iterable[int]) -> models.ViewChange:
    """What the view through a filter is after some frames changed."""
    passing, tally, _ = desk.census(shoot_id).look(desk.database.connection(), wanted, among=list(changed))
    return models.ViewChange.model_validate({"passing": passing, **counts(tally)})
