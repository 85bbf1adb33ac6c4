"""Which marks are proposals."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterable, Mapping

from winnow.core.proposals import Proposal
from winnow.store.database import in_chunks, places

UNPROPOSED = "NOT EXISTS (SELECT 1 FROM proposed WHERE proposed.frame_id = frame.id)"
"""Of a frame: whatever is marked on it is no proposal."""


def of(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, Proposal]:
    """The proposals on frames; those without are left out."""
    found = {}
    for some in in_chunks(list(frame_ids)):
        for row in connection.execute(f"SELECT * FROM proposed WHERE frame_id IN ({places(some)})", some):
            found[row["frame_id"]] = Proposal.parse(f"{row['fields']} {row['by']}")
    return found


def keep(connection: sqlite3.Connection, said: Mapping[int, Proposal | None]) -> None:
    """Keeps proposals on frames; None: there is none any more."""
    for frame_id, proposal in said.items():
        connection.execute("DELETE FROM proposed WHERE frame_id = ?", (frame_id,))
        if proposal is not None:
            fields, _, by = str(proposal).partition(" ")
            connection.execute("INSERT INTO proposed VALUES (?, ?, ?)", (frame_id, fields, by))


def of_shoot(connection: sqlite3.Connection, shoot_id: int) -> dict[int, Proposal]:
    """All proposals on frames in the shoot's place."""
    rows = connection.execute(
        """SELECT proposed.* FROM proposed JOIN frame ON frame.id = frame_id
           WHERE shoot_id = ? AND place = 'shoot' ORDER BY position, frame.id""",
        (shoot_id,),
    )
    return {row["frame_id"]: Proposal.parse(f"{row['fields']} {row['by']}") for row in rows}


def counted(connection: sqlite3.Connection, shoot_id: int) -> Counter[str]:
    """How many frames each person proposes marks on."""
    return Counter(proposal.by for proposal in of_shoot(connection, shoot_id).values())
