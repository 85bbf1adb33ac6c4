"""Patterns of file names that have a name of their own."""

from __future__ import annotations

from typing import Annotated

from fastapi import Query

from winnow.api.desk import OnDesk
from winnow.api.models.plans import NamedPattern, NamingWish
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.store import name_patterns
from winnow.store.readable import readable

router = routes("/api/name-patterns", "plans")


@router.get("", responses=answers())
def list_name_patterns(desk: OnDesk) -> list[NamedPattern]:
    """The patterns that were kept, by name."""
    return readable(
        name_patterns.every(desk.database.connection()).items(),
        lambda one: NamedPattern(name=one[0], naming=NamingWish.model_validate(one[1])),
    )


@router.put("", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def keep_name_pattern(desk: OnDesk, wish: NamedPattern) -> list[NamedPattern]:
    """Keeps a pattern under a name, in the place of another of that name."""
    name = wish.name.strip()
    try:
        naming = wish.naming.naming()
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    if not name:
        raise ProblemError(Code.CANNOT_BE_DONE, "Say how the pattern is to be called.")
    with desk.database.transaction() as connection:
        name_patterns.keep(connection, name, naming)
    return list_name_patterns(desk)


@router.delete("", status_code=204, responses=answers(*CHANGING))
def forget_name_pattern(desk: OnDesk, name: Annotated[str, Query(max_length=80)]) -> None:
    """Forgets a pattern."""
    with desk.database.transaction() as connection:
        name_patterns.forget(connection, name)
