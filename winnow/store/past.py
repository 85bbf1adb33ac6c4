"""The list of what was done to a shoot, and going to any point of it."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from winnow.core.history import BatchKind
from winnow.core.marks import Field
from winnow.store import bases, marks
from winnow.store.database import in_chunks, places
from winnow.store.marks import Batch

SHOWN = 3
"""Frames of a batch that stand for it."""


class NotNowError(ValueError):
    """What is asked for cannot be done any more; the message says why."""


@dataclass(frozen=True, slots=True)
class Entry:
    """Something that was done. sample: some of its frames; seen: the filter it was done under; taken_back: it was
    undone and not redone since; can_go: undo or redo can lead to it; walk, in_pass: the walk that it is a part of,
    and the name of its pass."""

    id: int
    kind: BatchKind
    title: str
    actor: str
    at: str
    seen: str
    frames: int
    sample: tuple[int, ...]
    taken_back: bool
    can_go: bool
    walk: int | None
    in_pass: str | None


def page(
    connection: sqlite3.Connection, shoot_id: int, before: int | None, limit: int, search: str = ""
) -> list[Entry]:
    """Actions and imports, the newest first, from before a batch on. search: a part of what was done, of who did it,
    or of the filter."""
    like = "%" + search.replace("\\", r"\\").replace("%", r"\%").replace("_", r"\_") + "%"
    rows = connection.execute(
        r"""SELECT *,
           (SELECT kind FROM batch AS later WHERE later.reverts = batch.id ORDER BY id DESC LIMIT 1) AS last,
           (SELECT definition ->> 'name' FROM walk WHERE walk.id = walk_id) AS in_pass
           FROM batch WHERE shoot_id = ?1 AND id < ?2 AND kind IN ('mark', 'import')
           AND (?3 = '%%' OR title LIKE ?3 ESCAPE '\' OR actor LIKE ?3 ESCAPE '\' OR seen LIKE ?3 ESCAPE '\')
           ORDER BY id DESC LIMIT ?4""",
        (shoot_id, before if before is not None else 1 << 62, like, limit),
    ).fetchall()
    ahead = set(_chain(connection, marks.next_steps(connection, shoot_id)[1]))
    return [
        Entry(
            row["id"],
            BatchKind(row["kind"]),
            row["title"],
            row["actor"],
            row["at"],
            row["seen"],
            *_frames(connection, row["id"]),
            row["last"] == BatchKind.UNDO,
            row["kind"] == BatchKind.MARK and (row["last"] != BatchKind.UNDO or row["id"] in ahead),
            row["walk_id"],
            row["in_pass"],
        )
        for row in rows
    ]


def _frames(connection: sqlite3.Connection, batch_id: int) -> tuple[int, tuple[int, ...]]:
    found = connection.execute(
        "SELECT frame_id FROM journal WHERE batch_id = ? GROUP BY frame_id ORDER BY min(id)", (batch_id,)
    ).fetchall()
    return len(found), tuple(row[0] for row in found[:SHOWN])


def _chain(connection: sqlite3.Connection, top: int | None) -> Iterator[int]:
    """A stack of batches, from the top down."""
    while top is not None:
        yield top
        top = connection.execute("SELECT below FROM batch WHERE id = ?", (top,)).fetchone()[0]


def go_to(connection: sqlite3.Connection, shoot_id: int, batch_id: int, actor: str, now: str) -> list[Batch]:
    """Undoes or redoes step by step until a batch is the last that stands; 0: until none stands. Returns the steps.
    Raises NotNowError if none leads there."""
    marks.stack(connection, shoot_id)
    done, undone = marks.next_steps(connection, shoot_id)
    if batch_id == 0 or batch_id in set(_chain(connection, done)):
        step: Callable[[sqlite3.Connection, int, str, str], Batch | None] = marks.undo
    elif batch_id in set(_chain(connection, undone)):
        step = marks.redo
    else:
        raise NotNowError(
            "Something else was done in its place since: it can be taken back or done again by hand."
        )
    steps = []
    while (marks.next_steps(connection, shoot_id)[0] or 0) != batch_id:
        batch = step(connection, shoot_id, actor, now)
        if batch is None:
            break
        steps.append(batch)
    return steps


def take_back(
    connection: sqlite3.Connection, shoot_id: int, batch_id: int, actor: str, now: str
) -> Batch | None:
    """Takes one action back and leaves those after it as they are: an action of its own, which can be undone. Raises
    NotNowError where something later touched the same marks, or it was taken back already."""
    kind = connection.execute(
        "SELECT kind FROM batch WHERE id = ? AND shoot_id = ?", (batch_id, shoot_id)
    ).fetchone()
    if kind is None or kind[0] not in (BatchKind.MARK, BatchKind.IMPORT):
        raise NotNowError("This is no action that can be taken back.")
    changes = marks.changes_of(connection, batch_id)
    on_top = _last_of(connection, {change.frame_id for change in changes})
    covered = [c for c in changes if on_top.get((c.frame_id, c.field)) != batch_id]
    if covered:
        frames = len({change.frame_id for change in covered})
        raise NotNowError(
            f"Later marks touch the same of {frames} of its frames, or it was taken back: go to before it instead."
        )
    title = f"taken back: {marks.title_of(connection, batch_id)}"
    bases.follow_action(connection, batch_id, back=True)
    reversed_ = [change.reversed() for change in reversed(changes)]
    return marks.write(connection, shoot_id, reversed_, actor, title, now)


def _last_of(connection: sqlite3.Connection, frame_ids: set[int]) -> dict[tuple[int, Field], int]:
    """The batch that stands on top of each field of frames: the last that was not undone since."""
    stacks: dict[tuple[int, Field], list[int]] = {}
    for some in in_chunks(sorted(frame_ids)):
        rows = connection.execute(
            f"""SELECT frame_id, field, batch.id, kind, reverts FROM journal JOIN batch ON batch.id = batch_id
                WHERE frame_id IN ({places(some)}) ORDER BY journal.id""",
            some,
        )
        for frame_id, field, batch_id, kind, reverts in rows:
            stack = stacks.setdefault((frame_id, Field(field)), [])
            if kind == BatchKind.UNDO:
                stack[:] = [one for one in stack if one != reverts]
            else:
                stack.append(reverts if kind == BatchKind.REDO else batch_id)
    return {key: stack[-1] for key, stack in stacks.items() if stack}
