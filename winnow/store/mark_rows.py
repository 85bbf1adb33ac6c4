"""Marks as rows hold them: every table that keeps marks has a column for each field, under its name."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence

from winnow.core.marks import MARK_FIELDS, Decision, Marks, Value, value_of

COLUMNS = ", ".join(MARK_FIELDS)
PLACES = ", ".join("?" for _ in MARK_FIELDS)


def values(marks: Marks) -> list[Value]:
    """What stands in `COLUMNS`."""
    return [value_of(marks, field) for field in MARK_FIELDS]


def marks_of(row: sqlite3.Row | Sequence[Value]) -> Marks:
    """The marks of a row, or of the values of `COLUMNS`; a list that an earlier release wrote may be shorter."""
    if isinstance(row, sqlite3.Row):
        return Marks(Decision(row["decision"]), *(row[field] for field in MARK_FIELDS[1:]))
    decision, *rest = row
    return Marks(Decision(str(decision)), *rest)
