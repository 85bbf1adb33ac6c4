"""Marks that other programs left on disk, read in."""

from __future__ import annotations

import sqlite3
from datetime import UTC, datetime

from winnow.core.history import BatchKind
from winnow.core.marks import MARK_FIELDS, UNMARKED, value_of
from winnow.pipeline import tasks
from winnow.store import marks


def import_marks(connection: sqlite3.Connection, shoot_id: int, result: tasks.HeadResult) -> str | None:
    """Reads in marks found on disk. Those of a person are never overwritten: where they differ
    and the file is newer, the returned note says so."""
    found = result.marks
    if found is None:
        return result.note
    here = marks.current(connection, [result.frame_id])[result.frame_id]
    marked_at = marks.last_marked_by_person(connection, result.frame_id)
    if marked_at is None:
        marks.set_marks(
            connection,
            shoot_id,
            {result.frame_id: {field: value_of(found.marks, field) for field in MARK_FIELDS}},
            kind=BatchKind.IMPORT,
            actor=found.source,
            title=f"marks read from the {found.source}",
            now=datetime.now(UTC).isoformat(timespec="milliseconds"),
        )
    elif found.marks not in (here, UNMARKED) and found.written_at > marked_at:
        there = found.marks
        return (
            f"Its {found.source} is newer than your marks and says: {there.decision}, "
            f"{there.rating} stars, label {there.label or 'none'}. Yours were kept."
        )
    return result.note
