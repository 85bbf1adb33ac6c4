"""Walks: a pass gone through in a shoot, as far as it is, and what it did."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass

from winnow.core import passes
from winnow.core.history import BatchKind
from winnow.core.marks import Change, Decision, Field, Value
from winnow.core.passes import Asked, Pass, Start
from winnow.store import marks
from winnow.store.database import in_chunks, places
from winnow.store.marks import Batch


@dataclass(frozen=True, slots=True)
class Walk:
    """A pass gone through in a shoot. frame: where the person is; seconds: spent on it; starting: the batch of what
    frames started as; total, seen: how many frames it asks about, and from how many of them the person has gone on;
    taken_back: all of it was taken back, and not redone since."""

    id: int
    shoot_id: int
    of: Pass
    begun_at: str
    ended_at: str | None
    frame: int | None
    seconds: float
    starting: int | None
    total: int
    seen: int
    taken_back: bool


_WALK = """
    SELECT walk.*, count(walk_frame.frame_id) AS total, coalesce(sum(seen), 0) AS seen,
           taken_back IS NOT NULL AND coalesce(
             (SELECT kind FROM batch WHERE reverts = taken_back ORDER BY id DESC LIMIT 1), 'redo') <> 'undo' AS gone
    FROM walk LEFT JOIN walk_frame ON walk_id = walk.id WHERE {which} GROUP BY walk.id ORDER BY walk.id DESC
"""


def of_shoot(connection: sqlite3.Connection, shoot_id: int) -> list[Walk]:
    """Those of a shoot, the newest first."""
    rows = connection.execute(_WALK.format(which="walk.shoot_id = ?"), (shoot_id,))
    return [_walk(row) for row in rows]


def get(connection: sqlite3.Connection, walk_id: int) -> Walk | None:
    row = connection.execute(_WALK.format(which="walk.id = ?"), (walk_id,)).fetchone()
    return _walk(row) if row else None


def _walk(row: sqlite3.Row) -> Walk:
    return Walk(
        row["id"],
        row["shoot_id"],
        passes.from_json(json.loads(row["definition"])),
        row["begun_at"],
        row["ended_at"],
        row["frame_id"],
        row["seconds"],
        row["starting"],
        row["total"],
        row["seen"],
        bool(row["gone"]),
    )


def asked(
    connection: sqlite3.Connection, shoot_id: int, frame_ids: Iterable[int], warned: Collection[int]
) -> list[Asked]:
    """Frames as a pass begins, in the order given."""
    rows = connection.execute(
        """SELECT frame.id, frame_group, coalesce(decision, 'undecided'),
           (SELECT batch_id FROM journal WHERE frame_id = frame.id AND field = 'decision'
            ORDER BY journal.id DESC LIMIT 1) IN (SELECT starting FROM walk WHERE starting IS NOT NULL)
           FROM frame LEFT JOIN mark ON mark.frame_id = frame.id WHERE shoot_id = ?""",
        (shoot_id,),
    )
    known = {row[0]: (row[1], Decision(row[2]), bool(row[3])) for row in rows}
    found = []
    for frame_id in frame_ids:
        group, decision, by_start = known[frame_id]
        found.append(Asked(frame_id, group, decision, frame_id in warned, by_start))
    return found


def begin(
    connection: sqlite3.Connection,
    shoot_id: int,
    one: Pass,
    frames: Sequence[Asked],
    *,
    actor: str,
    now: str,
) -> tuple[int, Batch | None]:
    """Begins a walk through frames (at least one); returns its number, and the batch of what frames start as, if
    anything changes."""
    order = passes.queue(one, frames)
    walk_id = connection.execute(
        "INSERT INTO walk (shoot_id, definition, begun_at, frame_id) VALUES (?, ?, ?, ?)",
        (shoot_id, json.dumps(passes.as_json(one), ensure_ascii=False), now, order[0]),
    ).lastrowid
    assert walk_id is not None
    wanted = passes.starting(one, frames)
    started = {frame.id: wanted.get(frame.id, frame.decision) for frame in frames}
    connection.executemany(
        "INSERT INTO walk_frame (walk_id, place, frame_id, started) VALUES (?, ?, ?, ?)",
        [(walk_id, place, i, started[i]) for place, i in enumerate(order)],
    )
    if not wanted:
        return walk_id, None
    title = (
        f"{one.name} begins: {len(wanted)} frames start {'kept' if one.start is Start.KEPT else 'undecided'}"
    )
    batch = marks.set_marks(
        connection,
        shoot_id,
        {i: {Field.DECISION: decision.value} for i, decision in wanted.items()},
        kind=BatchKind.MARK,
        actor=actor,
        title=title,
        now=now,
    )
    if batch:
        note(connection, batch.id, walk_id)
        connection.execute("UPDATE walk SET starting = ? WHERE id = ?", (batch.id, walk_id))
    return walk_id, batch


def fields_of(connection: sqlite3.Connection, batch_id: int) -> set[Field]:
    """What a batch changed."""
    rows = connection.execute("SELECT DISTINCT field FROM journal WHERE batch_id = ?", (batch_id,))
    return {Field(row[0]) for row in rows}


def walk_of(connection: sqlite3.Connection, batch_id: int) -> int | None:
    """The walk in which something was done."""
    row = connection.execute("SELECT walk_id FROM batch WHERE id = ?", (batch_id,)).fetchone()
    return row[0] if row else None


def note(connection: sqlite3.Connection, batch_id: int, walk_id: int) -> None:
    """Something was done in a walk."""
    connection.execute("UPDATE batch SET walk_id = ? WHERE id = ?", (walk_id, batch_id))


def frames_of(connection: sqlite3.Connection, walk_id: int) -> tuple[list[int], list[int]]:
    """The frames that a walk asks about, in its order, and those that the person has gone on from; without those that
    are not in the shoot's place now."""
    rows = connection.execute(
        """SELECT frame_id, seen FROM walk_frame JOIN frame ON frame.id = frame_id
           WHERE walk_id = ? AND frame.place = 'shoot' ORDER BY walk_frame.place""",
        (walk_id,),
    ).fetchall()
    return [row[0] for row in rows], [row[0] for row in rows if row[1]]


def go_on(
    connection: sqlite3.Connection,
    walk_id: int,
    *,
    frame: int | None,
    seen: Iterable[int],
    seconds: float,
    ended_at: str | None,
) -> None:
    """Remembers how far a walk is. seen: frames gone on from since it was told last; seconds: spent since then."""
    connection.executemany(
        "UPDATE walk_frame SET seen = 1 WHERE walk_id = ? AND frame_id = ?", [(walk_id, i) for i in seen]
    )
    connection.execute(
        """UPDATE walk SET frame_id = coalesce(?, frame_id), seconds = seconds + ?, ended_at = ? WHERE id = ?""",
        (frame, seconds, ended_at, walk_id),
    )


@dataclass(frozen=True, slots=True)
class Outcome:
    """What a walk did. decisions: how the frames that it asked about stand now; changed: how many of them are decided
    otherwise than they started; rated, labelled: how many it gave another rating or label."""

    decisions: Mapping[Decision, int]
    changed: int
    rated: int
    labelled: int


def outcome(connection: sqlite3.Connection, walk_id: int) -> Outcome:
    decisions = dict.fromkeys(Decision, 0)
    changed = 0
    for now, started, count in connection.execute(
        """SELECT coalesce(decision, 'undecided'), started, count(*) FROM walk_frame
           LEFT JOIN mark ON mark.frame_id = walk_frame.frame_id WHERE walk_id = ? GROUP BY 1, 2""",
        (walk_id,),
    ):
        decisions[Decision(now)] += count
        changed += count if now != started else 0
    net = _net(connection, walk_id)
    counted = {
        field: sum(1 for (_, one), (first, last, _) in net.items() if one is field and first != last)
        for field in (Field.RATING, Field.LABEL)
    }
    return Outcome(decisions, changed, counted[Field.RATING], counted[Field.LABEL])


_Net = dict[tuple[int, Field], tuple[Value, Value, int]]


def _net(connection: sqlite3.Connection, walk_id: int) -> _Net:
    """For each field of each frame that a walk changed: the value before, the one after, and the last row of the
    journal that says so."""
    net: _Net = {}
    for row_id, frame_id, name, before, after in connection.execute(
        """SELECT journal.id, frame_id, field, before, after FROM journal JOIN batch ON batch.id = batch_id
           WHERE walk_id = ? ORDER BY journal.id""",
        (walk_id,),
    ):
        key = (frame_id, Field(name))
        first = net[key][0] if key in net else before
        net[key] = (first, after, row_id)
    return net


def take_back(connection: sqlite3.Connection, found: Walk, actor: str, now: str) -> tuple[Batch | None, int]:
    """Takes everything back that was done in a walk, as one action; and how many frames were marked otherwise since:
    those stay as they are."""
    net = _net(connection, found.id)
    newest = _newest(connection, {frame_id for frame_id, _ in net})
    changes, later = [], set()
    for (frame_id, field), (first, last, row_id) in net.items():
        if newest[frame_id, field] != row_id:
            later.add(frame_id)
        elif first != last:
            changes.append(Change(frame_id, field, last, first))
    title = f"all of {found.of.name} taken back: {len({change.frame_id for change in changes})} frames"
    batch = marks.write(connection, found.shoot_id, changes, actor, title, now)
    if batch:
        connection.execute("UPDATE walk SET taken_back = ? WHERE id = ?", (batch.id, found.id))
    return batch, len(later)


def _newest(connection: sqlite3.Connection, frame_ids: Collection[int]) -> dict[tuple[int, Field], int]:
    """The last row of the journal on each field of frames."""
    found: dict[tuple[int, Field], int] = {}
    for some in in_chunks(sorted(frame_ids)):
        for frame_id, name, row_id in connection.execute(
            f"""SELECT frame_id, field, max(id) FROM journal WHERE frame_id IN ({places(some)})
                GROUP BY frame_id, field""",
            some,
        ):
            found[frame_id, Field(name)] = row_id
    return found
