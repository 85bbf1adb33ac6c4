"""Marks and their journal."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

from winnow.core.group_edits import Word
from winnow.core.history import BatchKind, BatchRef, History, walk
from winnow.core.marks import (
    MARK_FIELDS,
    UNMARKED,
    Change,
    Field,
    Marks,
    Value,
    changes_to,
    replay,
    with_value,
)
from winnow.core.points import Point
from winnow.core.proposals import Proposal, propose, settle
from winnow.store import bases, evidence, proposals, shoots
from winnow.store.database import in_chunks, places
from winnow.store.mark_rows import COLUMNS, PLACES, marks_of, values


@dataclass(frozen=True, slots=True)
class Batch:
    """A batch as written: its title says what was done, `frame_ids` to what; `regroups`: groups, or what is said in
    them, rest on it."""

    id: int
    kind: BatchKind
    title: str
    actor: str
    at: str
    frame_ids: tuple[int, ...]
    regroups: bool


def current(connection: sqlite3.Connection, frame_ids: Iterable[int]) -> dict[int, Marks]:
    """The marks of each frame."""
    found = dict.fromkeys(frame_ids, UNMARKED)
    for some in in_chunks(list(found)):
        for row in connection.execute(f"SELECT * FROM mark WHERE frame_id IN ({places(some)})", some):
            found[row["frame_id"]] = marks_of(row)
    return found


def set_marks(
    connection: sqlite3.Connection,
    shoot_id: int,
    wanted: Mapping[int, Mapping[Field, Value]],
    *,
    kind: BatchKind,
    actor: str,
    title: str,
    now: str,
    joins: int | None = None,
    proposes: bool = False,
) -> Batch | None:
    """Journals and applies the wanted values of each frame as one batch; None if nothing changes. joins: the batch
    that this is a part of; if anything was done after it, this is a batch of its own. proposes: they are proposals,
    and leave what was decided; otherwise what is set is no proposal any more, even where it is what was proposed."""
    before = current(connection, wanted)
    standing = proposals.of(connection, wanted)
    changes = []
    for frame_id, asked in wanted.items():
        held, was = before[frame_id], standing.get(frame_id)
        values, now_proposed = (
            propose(held, was, asked, actor) if proposes else (asked, settle(was, frozenset(asked)))
        )
        changes += changes_to({frame_id: held}, values)
        if now_proposed != was:
            changes.append(Change(frame_id, Field.PROPOSED, _written(was), _written(now_proposed)))
    if joins is not None and changes and joins == next_steps(connection, shoot_id)[0]:
        _apply(connection, shoot_id, joins, changes)
        return replace(batch(connection, joins), frame_ids=tuple(dict.fromkeys(c.frame_id for c in changes)))
    return _write(connection, shoot_id, changes, kind, None, actor, title, now)


def set_words(
    connection: sqlite3.Connection,
    shoot_id: int,
    words: Mapping[int, Word | None],
    *,
    actor: str,
    title: str,
    now: str,
) -> Batch | None:
    """Journals and applies what a person says of groups as one batch; None if it was said before."""
    said = evidence.words(connection, shoot_id)
    return _say(connection, shoot_id, Field.GROUP, said, words, actor, title, now)


def set_points(
    connection: sqlite3.Connection,
    shoot_id: int,
    points: Mapping[int, Point | None],
    *,
    actor: str,
    title: str,
    now: str,
) -> Batch | None:
    """Journals and applies points that matter in frames as one batch; None if they were there before."""
    there = evidence.points(connection, shoot_id)
    return _say(connection, shoot_id, Field.POINT, there, points, actor, title, now)


def _say(
    connection: sqlite3.Connection,
    shoot_id: int,
    field: Field,
    before: Mapping[int, Word | Point],
    after: Mapping[int, Word | Point | None],
    actor: str,
    title: str,
    now: str,
) -> Batch | None:
    changes = [
        Change(frame_id, field, _written(before.get(frame_id)), _written(said))
        for frame_id, said in after.items()
        if before.get(frame_id) != said
    ]
    return _write(connection, shoot_id, changes, BatchKind.MARK, None, actor, title, now)


def _written(said: Word | Point | Proposal | None) -> str | None:
    return None if said is None else str(said)


def undo(connection: sqlite3.Connection, shoot_id: int, actor: str, now: str) -> Batch | None:
    """Takes the last action back; None if there is none."""
    target = next_steps(connection, shoot_id)[0]
    if target is None:
        return None
    changes = [change.reversed() for change in reversed(changes_of(connection, target))]
    title = title_of(connection, target)
    bases.follow_action(connection, target, back=True)
    return _write(connection, shoot_id, changes, BatchKind.UNDO, target, actor, title, now)


def redo(connection: sqlite3.Connection, shoot_id: int, actor: str, now: str) -> Batch | None:
    """Brings the action that was taken back last; None if there is none."""
    target = next_steps(connection, shoot_id)[1]
    if target is None:
        return None
    title = title_of(connection, target)
    changes = changes_of(connection, target)
    bases.follow_action(connection, target, back=False)
    return _write(connection, shoot_id, changes, BatchKind.REDO, target, actor, title, now)


def next_steps(connection: sqlite3.Connection, shoot_id: int) -> tuple[int | None, int | None]:
    """The batches that undo and redo would act on."""
    row = connection.execute(
        "SELECT stacked, done_top, undone_top FROM shoot WHERE id = ?", (shoot_id,)
    ).fetchone()
    if row["stacked"]:
        return row["done_top"], row["undone_top"]
    walked = history(connection, shoot_id)
    return walked.undo, walked.redo


def history(connection: sqlite3.Connection, shoot_id: int) -> History:
    """What undo and redo would act on, from the journal alone: every batch is walked over."""
    rows = connection.execute(
        "SELECT id, kind, reverts FROM batch WHERE shoot_id = ? AND kind <> 'import' ORDER BY id",
        (shoot_id,),
    )
    return walk(BatchRef(row[0], BatchKind(row[1]), row[2]) for row in rows)


def batch(connection: sqlite3.Connection, batch_id: int) -> Batch:
    row = connection.execute("SELECT * FROM batch WHERE id = ?", (batch_id,)).fetchone()
    ids = connection.execute(
        "SELECT DISTINCT frame_id FROM journal WHERE batch_id = ? ORDER BY id", (batch_id,)
    )
    regroups = connection.execute(
        "SELECT EXISTS (SELECT 1 FROM journal WHERE batch_id = ? AND field IN (?, ?))",
        (batch_id, Field.GROUP, Field.POINT),
    ).fetchone()[0]
    return Batch(
        row["id"],
        BatchKind(row["kind"]),
        row["title"],
        row["actor"],
        row["at"],
        tuple(r[0] for r in ids),
        bool(regroups),
    )


def rebuilt(connection: sqlite3.Connection, shoot_id: int) -> dict[int, Marks]:
    """The marks of a shoot from its journal alone."""
    rows = connection.execute(
        f"""SELECT frame_id, field, before, after FROM journal
           JOIN batch ON batch.id = batch_id WHERE shoot_id = ? AND field IN ({places(MARK_FIELDS)})
           ORDER BY journal.id""",
        (shoot_id, *MARK_FIELDS),
    )
    return replay(Change(row[0], Field(row[1]), row[2], row[3]) for row in rows)


def note_seen(connection: sqlite3.Connection, batch_id: int, show: str) -> None:
    """Under which filter something was done."""
    connection.execute("UPDATE batch SET seen = ? WHERE id = ?", (show, batch_id))


def standing(connection: sqlite3.Connection, frame_id: int) -> frozenset[Field]:
    """The fields of a frame on which a mark of a person stands now: set, and not undone since."""
    rows = connection.execute(
        f"""SELECT field, batch.id, kind, reverts FROM journal JOIN batch ON batch.id = batch_id
           WHERE frame_id = ? AND field IN ({places(MARK_FIELDS)}) ORDER BY journal.id""",
        (frame_id, *MARK_FIELDS),
    )
    walked: dict[str, list[tuple[int, bool]]] = {}
    for field, batch_id, kind, reverts in rows:
        stack = walked.setdefault(field, [])
        if kind == BatchKind.UNDO:
            stack[:] = [step for step in stack if step[0] != reverts]
        else:
            stack.append((reverts if kind == BatchKind.REDO else batch_id, kind != BatchKind.IMPORT))
    return frozenset(Field(field) for field, stack in walked.items() if stack and stack[-1][1])


def marked_here(connection: sqlite3.Connection, shoot_id: int) -> set[int]:
    """The frames of a shoot that a person has ever marked, undone or not."""
    rows = connection.execute(
        f"""SELECT DISTINCT frame_id FROM journal JOIN batch ON batch.id = batch_id
           WHERE shoot_id = ? AND kind <> 'import' AND field IN ({places(MARK_FIELDS)})""",
        (shoot_id, *MARK_FIELDS),
    )
    return {row[0] for row in rows}


def last_marked_at(connection: sqlite3.Connection, frame_id: int, field: Field) -> str | None:
    """When a person last changed one mark of a frame (ISO 8601, UTC), or None."""
    row = connection.execute(
        """SELECT max(at) FROM batch JOIN journal ON batch_id = batch.id
           WHERE frame_id = ? AND field = ? AND kind <> 'import'""",
        (frame_id, field),
    ).fetchone()
    return str(row[0]) if row[0] else None


def write(
    connection: sqlite3.Connection,
    shoot_id: int,
    changes: Sequence[Change],
    actor: str,
    title: str,
    now: str,
) -> Batch | None:
    """Journals and makes changes as an action of their own; None if there are none."""
    return _write(connection, shoot_id, changes, BatchKind.MARK, None, actor, title, now)


def _write(
    connection: sqlite3.Connection,
    shoot_id: int,
    changes: Sequence[Change],
    kind: BatchKind,
    reverts: int | None,
    actor: str,
    title: str,
    now: str,
) -> Batch | None:
    if not changes:
        return None
    changes = [*changes, *_settled(connection, changes)]
    batch_id = connection.execute(
        "INSERT INTO batch (shoot_id, kind, reverts, actor, at, title) VALUES (?, ?, ?, ?, ?, ?)",
        (shoot_id, kind, reverts, actor, now, title),
    ).lastrowid
    assert batch_id is not None
    _apply(connection, shoot_id, batch_id, changes)
    if kind is not BatchKind.IMPORT:  # which nobody can take back
        _restack(connection, shoot_id, kind, reverts or batch_id)
    return batch(connection, batch_id)


def _settled(connection: sqlite3.Connection, changes: Sequence[Change]) -> list[Change]:
    """What becomes of proposals whose marks are changed otherwise: taken back, or by what a file says."""
    told = {c.frame_id for c in changes if c.field is Field.PROPOSED}
    fields: dict[int, set[Field]] = {}
    for c in changes:
        if c.field in MARK_FIELDS and c.frame_id not in told:
            fields.setdefault(c.frame_id, set()).add(c.field)
    found = []
    for frame_id, was in proposals.of(connection, fields).items():
        left = settle(was, frozenset(fields[frame_id]))
        if left != was:
            found.append(Change(frame_id, Field.PROPOSED, str(was), _written(left)))
    return found


def _apply(connection: sqlite3.Connection, shoot_id: int, batch_id: int, changes: Sequence[Change]) -> None:
    """Journals changes in a batch, and makes them."""
    connection.executemany(
        "INSERT INTO journal (batch_id, frame_id, field, before, after) VALUES (?, ?, ?, ?, ?)",
        [(batch_id, c.frame_id, c.field, c.before, c.after) for c in changes],
    )
    revision = shoots.next_revision(connection, shoot_id)
    state = current(connection, dict.fromkeys(c.frame_id for c in changes))
    evidence.set_words(
        connection,
        {
            c.frame_id: Word.parse(str(c.after)) if c.after else None
            for c in changes
            if c.field is Field.GROUP
        },
    )
    evidence.set_points(
        connection,
        {
            c.frame_id: Point.parse(str(c.after)) if c.after else None
            for c in changes
            if c.field is Field.POINT
        },
    )
    proposals.keep(
        connection,
        {
            c.frame_id: Proposal.parse(str(c.after)) if c.after else None
            for c in changes
            if c.field is Field.PROPOSED
        },
    )
    for change in (c for c in changes if c.field in MARK_FIELDS):
        state[change.frame_id] = with_value(state[change.frame_id], change.field, change.after)
    connection.executemany(
        f"INSERT OR REPLACE INTO mark (frame_id, {COLUMNS}) VALUES (?, {PLACES})",
        [(i, *values(marks)) for i, marks in state.items()],
    )
    connection.executemany("UPDATE frame SET revision = ? WHERE id = ?", [(revision, i) for i in state])


def stack(connection: sqlite3.Connection, shoot_id: int) -> None:
    """Lays the batches of a journal of an earlier release on the stacks of what can be undone and redone."""
    if connection.execute("SELECT stacked FROM shoot WHERE id = ?", (shoot_id,)).fetchone()[0]:
        return
    walked = history(connection, shoot_id)
    for one in (walked.done, walked.undone):
        for below, above in zip((None, *one), one, strict=False):
            connection.execute("UPDATE batch SET below = ? WHERE id = ?", (below, above))
    connection.execute(
        "UPDATE shoot SET stacked = 1, done_top = ?, undone_top = ? WHERE id = ?",
        (walked.undo, walked.redo, shoot_id),
    )


def _restack(connection: sqlite3.Connection, shoot_id: int, kind: BatchKind, batch_id: int) -> None:
    """Moves a batch on or between the stacks of what can be undone and redone. Each stack is a chain: the shoot knows
    the batch on top, each batch the one below it."""
    row = connection.execute(
        "SELECT stacked, done_top, undone_top FROM shoot WHERE id = ?", (shoot_id,)
    ).fetchone()
    done, undone = row["done_top"], row["undone_top"]
    if not row["stacked"]:
        stack(connection, shoot_id)
        return
    if kind is BatchKind.MARK:
        connection.execute("UPDATE batch SET below = ? WHERE id = ?", (done, batch_id))
        done, undone = batch_id, None
    else:
        below = connection.execute("SELECT below FROM batch WHERE id = ?", (batch_id,)).fetchone()[0]
        under = undone if kind is BatchKind.UNDO else done
        connection.execute("UPDATE batch SET below = ? WHERE id = ?", (under, batch_id))
        done, undone = (below, batch_id) if kind is BatchKind.UNDO else (batch_id, below)
    connection.execute("UPDATE shoot SET done_top = ?, undone_top = ? WHERE id = ?", (done, undone, shoot_id))


def changes_of(connection: sqlite3.Connection, batch_id: int) -> list[Change]:
    """What a batch changed, in order."""
    rows = connection.execute(
        "SELECT frame_id, field, before, after FROM journal WHERE batch_id = ? ORDER BY id",
        (batch_id,),
    )
    return [Change(row[0], Field(row[1]), row[2], row[3]) for row in rows]


def title_of(connection: sqlite3.Connection, batch_id: int) -> str:
    """What was done, in words."""
    return str(connection.execute("SELECT title FROM batch WHERE id = ?", (batch_id,)).fetchone()[0])
