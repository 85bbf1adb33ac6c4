"""All that is known of frames, a row a frame: for lists."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from typing import Any

from winnow.store.database import in_chunks, places


def known(connection: sqlite3.Connection, frame_ids: Sequence[int]) -> list[dict[str, Any]]:
    """What is known of frames, by name of the database's column, in the order of the ids. width, height: as the
    picture is shown; proposed: which marks are only that, and by whom."""
    found: dict[int, dict[str, Any]] = {}
    for some in in_chunks(frame_ids):
        rows = connection.execute(
            f"""SELECT frame.*, mark.*, frame.id AS id, coalesce(decision, 'undecided') AS decision,
                coalesce(rating, 0) AS rating,
                (SELECT replace(fields, ',', ', ') || ', by ' || by FROM proposed WHERE frame_id = frame.id)
                  AS proposed,
                CASE WHEN turn % 2 THEN height ELSE width END AS width,
                CASE WHEN turn % 2 THEN width ELSE height END AS height
                FROM frame LEFT JOIN mark ON mark.frame_id = frame.id WHERE frame.id IN ({places(some)})""",
            some,
        )
        found |= {row["id"]: dict(zip(row.keys(), tuple(row), strict=True)) for row in rows}
    return [found[i] for i in frame_ids if i in found]
