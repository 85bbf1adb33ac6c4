"""Filters: what can be asked for and what each answer shows, sentences as they are typed, filters with a name."""

from __future__ import annotations

import json
from typing import Annotated, Any

from fastapi import Query, Response

from winnow.api.desk import SHOOT_PROBLEMS, OfShoot, OnDesk
from winnow.api.models.base import Id
from winnow.api.models.filters import (
    CompletionView,
    FacetView,
    FilterTyped,
    NamedFilter,
    NamedFilterWish,
    SentenceProblem,
)
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.api.viewing import Asked, Sentence, Wanted, parts
from winnow.core import sentence
from winnow.core.facets.kinds import Counted, Facet, Numbers, Span
from winnow.core.facets.registry import FACETS
from winnow.core.filters import FrameFilter
from winnow.store import labels, named_filters

router = routes("/api/shoots/{shoot_id}", "filters")


@router.get(
    "/facets",
    response_model=list[FacetView],
    responses=answers(*SHOOT_PROBLEMS, Code.CANNOT_BE_DONE),
)
def list_facets(desk: OnDesk, shoot: OfShoot, wanted: Wanted) -> Response:
    """Everything that can be asked for, with how many frames each answer would show beside the rest of the filter."""
    found = desk.census(shoot.id).counts(desk.database.connection(), wanted.filter, wanted.labels)
    facets = [
        {
            "facet": facet.name,
            "title": facet.title,
            "figures": {"before": facet.before, "between": facet.between, "after": facet.after}
            if isinstance(facet, Numbers)
            else None,
            "values": [_value(one, facet) for one in found[facet.name]],
        }
        for facet in FACETS
    ]
    # Written as it is: hundreds of models of our own would take longer than the counting.
    return Response(json.dumps(facets), media_type="application/json")


def _value(one: Counted, facet: Facet) -> dict[str, Any]:
    """An answer as `FacetValue` says; the tests hold it against that."""
    ends = None
    span = one.wanted
    if (
        isinstance(facet, Numbers)
        and isinstance(span, Span)
        and span.low is not None
        and span.high is not None
    ):
        ends = [facet.written(span.low), facet.written(span.high)]
    return {"phrase": one.phrase, "count": one.count, "ends": ends}


@router.get("/filter", responses=answers(*SHOOT_PROBLEMS))
def read_sentence(
    desk: OnDesk,
    shoot: OfShoot,
    text: Sentence = "",
    at: Annotated[int, Query(ge=0, le=sentence.LONGEST)] = sentence.LONGEST,
) -> FilterTyped:
    """A sentence as far as it is typed: what it asks for, or what is wrong with it; and what can stand at the
    cursor."""
    connection = desk.database.connection()
    named = labels.current(connection)
    known = desk.census(shoot.id).counts(connection, FrameFilter(), named)
    completions = [
        CompletionView(start=one.start, end=one.end, phrase=one.phrase, count=one.count)
        for one in sentence.complete(text, min(at, len(text)), named, known)
    ]
    try:
        asked = Asked(sentence.parse(text, named), named)
    except sentence.SentenceError as error:
        problem = SentenceProblem(message=str(error), start=error.start, end=error.end)
        meant = [
            CompletionView(start=error.start, end=error.end, phrase=phrase, count=None)
            for phrase in error.instead
        ]
        completions = completions or meant
        return FilterTyped(show=None, parts=None, problem=problem, completions=completions)
    return FilterTyped(show=asked.show, parts=parts(asked), problem=None, completions=completions)


@router.get("/filters", responses=answers(*SHOOT_PROBLEMS))
def list_filters(desk: OnDesk, shoot: OfShoot) -> list[NamedFilter]:
    """The filters that have a name, for this shoot and for all."""
    return [
        NamedFilter(id=one.id, name=one.name, show=one.sentence, everywhere=one.shoot_id is None)
        for one in named_filters.of_shoot(desk.database.connection(), shoot.id)
    ]


@router.post("/filters", responses=answers(*SHOOT_PROBLEMS, *CHANGING, Code.CANNOT_BE_DONE))
def keep_filter(desk: OnDesk, shoot: OfShoot, wish: NamedFilterWish) -> NamedFilter:
    """Keeps a filter under a name, in the place of another of that name."""
    named = labels.current(desk.database.connection())
    try:
        show = sentence.say(sentence.parse(wish.show, named), named)
    except sentence.SentenceError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    with desk.database.transaction() as connection:
        kept = named_filters.keep(connection, None if wish.everywhere else shoot.id, wish.name.strip(), show)
    return NamedFilter(id=kept, name=wish.name.strip(), show=show, everywhere=wish.everywhere)


@router.delete("/filters/{filter_id}", status_code=204, responses=answers(*SHOOT_PROBLEMS, *CHANGING))
def forget_filter(desk: OnDesk, shoot: OfShoot, filter_id: Id) -> None:
    """Forgets a filter that has a name."""
    with desk.database.transaction() as connection:
        named_filters.forget(connection, shoot.id, filter_id)
