"""Lists read from the database: one row that cannot be read never breaks the whole list."""

from __future__ import annotations

import logging
from collections.abc import Callable, Iterable
from typing import TypeVar

log = logging.getLogger(__name__)

Row = TypeVar("Row")
Model = TypeVar("Model")


def readable(rows: Iterable[Row], make: Callable[[Row], Model]) -> list[Model]:
    """Convert each row with `make`. Rows that cannot be read are left out, and logged."""
    made = []
    for row in rows:
        try:
            made.append(make(row))
        except (ValueError, TypeError, KeyError) as error:
            log.warning("a stored row cannot be read: %s", type(error).__name__, exc_info=error)
    return made
