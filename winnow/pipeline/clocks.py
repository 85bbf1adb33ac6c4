"""What the frames of a shoot say of the clocks of its cameras."""

from __future__ import annotations

from sqlite3 import Connection

from winnow.core.moments import Glance, Suggestion, suggest
from winnow.core.order import arrange
from winnow.store import evidence, frames


def suggested(connection: Connection, shoot_id: int) -> list[Suggestion]:
    """Shifts by the cameras' own clocks, whatever was said of them; from frames that are measured and have a time."""
    rows = evidence.for_grouping(connection, shoot_id)
    if len({row["camera"] for row in rows}) < 2:
        return []
    seconds = {timed.frame_id: timed.seconds for timed in arrange(evidence.stamps(rows))}
    groups = dict(frames.placed(connection, shoot_id))
    glances = []
    for row in rows:
        at = seconds[row["id"]]
        if row["measured"] and row["camera"] and at is not None and row["id"] in groups:
            looks = evidence.descriptor(connection, row["id"]), evidence.faces(connection, row["id"])
            glances.append(Glance(row["id"], row["camera"], at, groups[row["id"]], *looks))
    return suggest(glances)
