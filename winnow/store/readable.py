"""Rows of the database as what they stand for: a row that cannot be read never keeps the others from being shown."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from typing import TypeVar

log = logging.getLogger(__name__)

Row = TypeVar("Row")
Model = TypeVar("Model")


def readable(rows: Iterable[Row], make: Callable[[Row], Model]) -> list[Model]:
    """Return what is made of the rows that can be read. The log says what is wrong with the others."""
    made = []
    for row in rows:
        try:
            made.append(make(row))
        except (ValueError, TypeError, KeyError) as error:
            log.warning("a stored row cannot be read: %s", type(error).__name__, exc_info=error)
    return made
