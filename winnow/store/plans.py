"""Plans and their steps: what is to happen to files, what has, and how to take it back."""

from __future__ import annotations

import json
import os
import sqlite3
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from datetime import datetime, timedelta
from enum import StrEnum
from typing import Any

from winnow.core.marks import Marks
from winnow.store import bases, frame_files, frames, shoots
from winnow.store.database import Database, from_blob, move_below, to_blob
from winnow.store.frames import FramePlace
from winnow.store.mark_rows import COLUMNS, PLACES, marks_of, values


class PlanKind(StrEnum):
    COPY_KEEPERS = "copy-keepers"
    MOVE_KEEPERS = "move-keepers"
    HOLD_REJECTS = "hold-rejects"
    BRING_BACK = "bring-back"
    WRITE_SIDECARS = "write-sidecars"
    IMPORT = "import"
    RENAME = "rename"
    BIN = "bin"
    PROOF = "proof"
    WRITE_INSIDE = "write-inside"


class PlanState(StrEnum):
    MADE = "made"
    APPLYING = "applying"
    STOPPED = "stopped"
    APPLIED = "applied"
    REVERSING = "reversing"
    REVERSAL_STOPPED = "reversal-stopped"
    REVERSED = "reversed"
    DROPPED = "dropped"
    OUTDATED = "outdated"


UNFINISHED = (PlanState.APPLYING, PlanState.REVERSING)
FINAL = (PlanKind.BIN,)
"""Plans that cannot be taken back here."""
STUCK = (PlanState.STOPPED, PlanState.REVERSAL_STOPPED)


def stopped_state(state: PlanState) -> PlanState:
    """What a plan is that is under way in the database but does not run."""
    if state is PlanState.APPLYING:
        return PlanState.STOPPED
    return PlanState.REVERSAL_STOPPED if state is PlanState.REVERSING else state


class Action(StrEnum):
    """LINK: a symbolic link moved, its text made to fit the new place. BIN: a file handed to the system's bin.
    RENDER: a JPEG made of a picture. EMBED: a packet put into a picture."""

    COPY = "copy"
    MOVE = "move"
    LINK = "link"
    WRITE = "write"
    BIN = "bin"
    RENDER = "render"
    EMBED = "embed"


MOVING = (Action.MOVE, Action.LINK)


class StepState(StrEnum):
    """BEGUN and REVERSING are written before a file is touched: after a crash they say where to
    look. COPIED: on its way to another disk, the copy is verified and the original still there. LEFT: not done, or
    not taken back, for a reason that is given. SKIPPED: not meant to be done: the target is where it is already."""

    WAITING = "waiting"
    BEGUN = "begun"
    COPIED = "copied"
    DONE = "done"
    REVERSING = "reversing"
    REVERSED = "reversed"
    LEFT = "left"
    SKIPPED = "skipped"


@dataclass(slots=True)
class Step:
    """One file copied, moved or written. Paths are absolute. frame_id: None where the file, from a card, is no frame
    yet. content: of a file that is written and cannot be built from a recipe, or the text of a link that is moved;
    previous: that text before. recipe: how the content is built when the step runs (see `handoff.recipe`).
    previous_digest: SHA-256 of the file that is replaced, None: there is none. digest: SHA-256 of what was put at the
    target. mtime_ns: of the source when the plan was made. base: what the sidecar's base was before (JSON)."""

    frame_id: int | None
    action: Action
    source: str | None
    target: str
    size: int
    content: bytes | None = None
    previous: bytes | None = None
    digest: str | None = None
    state: StepState = StepState.WAITING
    reason: str | None = None
    mtime_ns: int | None = None
    base: str | None = None
    id: int = 0
    recipe: str | None = None
    previous_digest: str | None = None

    @property
    def frame(self) -> int:
        """The frame of a step that is known to have one."""
        assert self.frame_id is not None
        return self.frame_id


@dataclass(frozen=True, slots=True)
class Plan:
    """A plan without its steps; `summary` holds the counts and conflicts that were shown, `anchors` the places it
    works on (see `handoff.reach`), `wish` what was asked for."""

    id: int
    shoot_id: int
    kind: PlanKind
    state: PlanState
    target: str | None
    summary: dict[str, Any]
    made_at: str
    ended_at: str | None
    error: str | None
    anchors: list[tuple[str, str]]
    wish: dict[str, Any]

    @property
    def named(self) -> int:
        """How many frames were named in what was asked for."""
        return int(self.summary.get("named") or len(self.wish.get("frames", ())))

    @property
    def targets(self) -> list[str]:
        """The folders that files go to: none, one, or two that get the same."""
        return [target for target in (self.target, self.wish.get("second")) if target]


def make(
    connection: sqlite3.Connection,
    shoot_id: int,
    kind: PlanKind,
    target: str | None,
    summary: dict[str, Any],
    steps: Iterable[Step],
    rests_on: Mapping[int, Marks],
    anchors: Sequence[tuple[str, str]],
    wish: dict[str, Any],
    now: str,
) -> int:
    """Store a plan; nothing happens to files yet. Plans that were made before and never applied count as replaced
    from now on, see `delete_unapplied`. rests_on: the frames it is made of, as they are marked."""
    connection.execute(
        "UPDATE plan SET state = 'dropped' WHERE shoot_id = ? AND state IN ('made', 'outdated')", (shoot_id,)
    )
    plan_id = connection.execute(
        """INSERT INTO plan (shoot_id, kind, state, target, summary, made_at, anchors, wish)
           VALUES (?, ?, 'made', ?, ?, ?, ?, ?)""",
        (
            shoot_id,
            kind,
            to_blob(target) if target else None,
            json.dumps(summary),
            now,
            json.dumps(list(anchors)),
            json.dumps(wish),
        ),
    ).lastrowid
    assert plan_id is not None
    connection.executemany(
        f"INSERT INTO plan_frame (plan_id, frame_id, {COLUMNS}) VALUES (?, ?, {PLACES})",
        [(plan_id, i, *values(marks)) for i, marks in rests_on.items()],
    )
    connection.executemany(
        """INSERT INTO step
           (plan_id, frame_id, action, source, target, size, content, previous, mtime_ns, state, reason, recipe,
            previous_digest)
           VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)""",
        (
            (
                plan_id,
                s.frame_id,
                s.action,
                to_blob(s.source) if s.source else None,
                to_blob(s.target),
                s.size,
                s.content,
                s.previous,
                s.mtime_ns,
                s.state,
                s.reason,
                s.recipe,
                s.previous_digest,
            )
            for s in steps
        ),
    )
    return plan_id


UNAPPLIED_AGE = timedelta(days=1)
STEPS_A_TRANSACTION = 2000
"""Deleting this many takes a few milliseconds, which is how long a mark has to wait for it."""


def delete_unapplied(database: Database, now: str) -> None:
    """Delete the plans that were never applied and were replaced, or are more than a day old."""
    long_ago = (datetime.fromisoformat(now) - UNAPPLIED_AGE).isoformat(timespec="milliseconds")
    old = database.connection().execute(
        "SELECT id FROM plan WHERE state = 'dropped' OR (state IN ('made', 'outdated') AND made_at < ?)",
        (long_ago,),
    )
    for (plan_id,) in old.fetchall():
        left = True
        while left:
            with database.transaction() as connection:
                unapplied = connection.execute(
                    "SELECT 1 FROM plan WHERE id = ? AND state IN ('made', 'outdated', 'dropped')", (plan_id,)
                ).fetchone()
                deleted = connection.execute(
                    "DELETE FROM step WHERE id IN (SELECT id FROM step WHERE plan_id = ? LIMIT ?)",
                    (plan_id if unapplied else None, STEPS_A_TRANSACTION),
                ).rowcount
                left = deleted == STEPS_A_TRANSACTION
                if not left and unapplied:
                    connection.execute("DELETE FROM plan WHERE id = ?", (plan_id,))


def delete_leftovers(database: Database, now: str) -> None:
    """Delete old plans that were never applied, and the shoots of imports that came to nothing."""
    delete_unapplied(database, now)
    long_ago = (datetime.fromisoformat(now) - UNAPPLIED_AGE).isoformat(timespec="milliseconds")
    with database.transaction() as connection:
        shoots.delete_unused(connection, long_ago)


def strip(connection: sqlite3.Connection, plan: Plan) -> None:
    """Delete what a plan needs no more once it has ended: the marks it was made of, the frames that were named; and,
    once it was undone, what was needed to undo it."""
    connection.execute("DELETE FROM plan_frame WHERE plan_id = ?", (plan.id,))
    connection.execute(
        "UPDATE step SET recipe = NULL, content = NULL WHERE plan_id = ? AND action IN ('write', 'embed')",
        (plan.id,),
    )
    wish = {**plan.wish, "frames": [], "mine": []}
    summary = {**plan.summary, "named": plan.named}
    connection.execute(
        "UPDATE plan SET wish = ?, summary = ? WHERE id = ?", (json.dumps(wish), json.dumps(summary), plan.id)
    )
    connection.execute(
        """UPDATE step SET undo = NULL WHERE plan_id = ?1 AND undo IS NOT NULL
           AND EXISTS (SELECT 1 FROM plan WHERE id = ?1 AND state = 'reversed')""",
        (plan.id,),
    )


def get(connection: sqlite3.Connection, plan_id: int) -> Plan | None:
    row = connection.execute("SELECT * FROM plan WHERE id = ?", (plan_id,)).fetchone()
    return _plan(row) if row else None


def of_shoot(connection: sqlite3.Connection, shoot_id: int) -> list[Plan]:
    """Plans of a shoot that were applied, or stopped on the way, newest first."""
    rows = connection.execute(
        "SELECT * FROM plan WHERE shoot_id = ? AND state NOT IN ('made', 'dropped') ORDER BY id DESC",
        (shoot_id,),
    )
    return [_plan(row) for row in rows]


def half_done(connection: sqlite3.Connection, shoot_id: int) -> bool:
    """Whether a plan of a shoot was begun and has not ended."""
    return any(plan.state in (*UNFINISHED, PlanState.STOPPED) for plan in of_shoot(connection, shoot_id))


def in_states(connection: sqlite3.Connection, states: Sequence[PlanState]) -> list[Plan]:
    marks = ", ".join("?" * len(states))
    rows = connection.execute(f"SELECT * FROM plan WHERE state IN ({marks}) ORDER BY id", states)
    return [_plan(row) for row in rows]


def _plan(row: sqlite3.Row) -> Plan:
    return Plan(
        row["id"],
        row["shoot_id"],
        PlanKind(row["kind"]),
        PlanState(row["state"]),
        from_blob(row["target"]) if row["target"] else None,
        json.loads(row["summary"]),
        row["made_at"],
        row["ended_at"],
        row["error"],
        [(path, mount) for path, mount in json.loads(row["anchors"])],
        json.loads(row["wish"] or "{}"),
    )


def steps(connection: sqlite3.Connection, plan_id: int) -> list[Step]:
    """The steps of a plan in the order of applying."""
    return first_steps(connection, plan_id, -1)


def first_steps(connection: sqlite3.Connection, plan_id: int, count: int) -> list[Step]:
    """So many of them; −1: all."""
    rows = connection.execute(
        """SELECT id, frame_id, action, source, target, size, content, previous, digest, state, reason, mtime_ns,
                  base, recipe, previous_digest
           FROM step WHERE plan_id = ? ORDER BY id LIMIT ?""",
        (plan_id, count),
    )
    return [
        Step(
            row["frame_id"],
            Action(row["action"]),
            from_blob(row["source"]) if row["source"] else None,
            from_blob(row["target"]),
            row["size"],
            row["content"],
            row["previous"],
            row["digest"],
            StepState(row["state"]),
            row["reason"],
            row["mtime_ns"],
            row["base"],
            row["id"],
            row["recipe"],
            row["previous_digest"],
        )
        for row in rows
    ]


def imported(connection: sqlite3.Connection) -> Iterator[tuple[str, int, int]]:
    """(path, size, mtime_ns) of what imports have put into the folders of shoots; second copies do not count."""
    rows = connection.execute(
        """SELECT step.target, plan.target, size, mtime_ns FROM step JOIN plan ON plan.id = plan_id
           WHERE kind = ? AND action = ? AND step.state = ? AND mtime_ns IS NOT NULL""",
        (PlanKind.IMPORT, Action.COPY, StepState.DONE),
    )
    for path, folder, size, mtime_ns in rows:
        if folder and path.startswith(folder.rstrip(b"/") + b"/"):
            yield from_blob(path), size, mtime_ns


def rests_on(connection: sqlite3.Connection, plan_id: int) -> dict[int, Marks]:
    """The frames that a plan is made of, as they were marked then."""
    rows = connection.execute("SELECT * FROM plan_frame WHERE plan_id = ?", (plan_id,))
    return {row["frame_id"]: marks_of(row) for row in rows}


def rests_on_frame(connection: sqlite3.Connection, plan_id: int, frame_id: int) -> Marks | None:
    """How one frame that a plan is made of was marked then, None if it is not."""
    row = connection.execute(
        "SELECT * FROM plan_frame WHERE plan_id = ? AND frame_id = ?", (plan_id, frame_id)
    ).fetchone()
    return marks_of(row) if row else None


def set_differs(connection: sqlite3.Connection, plan: Plan, differs: Sequence[str]) -> None:
    """What has changed since a plan was made, in words."""
    summary = {**plan.summary, "differs": list(differs)}
    connection.execute("UPDATE plan SET summary = ? WHERE id = ?", (json.dumps(summary), plan.id))


def count_states(connection: sqlite3.Connection, plan_id: int) -> dict[str, int]:
    """How many steps of a plan are in each state."""
    return dict(
        connection.execute(
            "SELECT state, count(*) FROM step WHERE plan_id = ? GROUP BY state", (plan_id,)
        ).fetchall()
    )


def left_behind(connection: sqlite3.Connection, plan_id: int) -> list[tuple[str, str]]:
    """(target, reason) of the steps that were left."""
    return _reasons(connection, plan_id, "state = 'left'")


def remarks(connection: sqlite3.Connection, plan_id: int) -> list[tuple[str, str]]:
    """(target, remark) of the steps that were done, but not to the letter."""
    return _reasons(connection, plan_id, "state = 'done' AND reason IS NOT NULL")


def _reasons(connection: sqlite3.Connection, plan_id: int, which: str) -> list[tuple[str, str]]:
    rows = connection.execute(
        f"SELECT target, reason FROM step WHERE plan_id = ? AND {which} ORDER BY id", (plan_id,)
    )
    return [(from_blob(row[0]), row[1] or "") for row in rows]


def set_state(
    connection: sqlite3.Connection,
    plan_id: int,
    state: PlanState,
    *,
    error: str | None = None,
    ended_at: str | None = None,
) -> None:
    connection.execute(
        "UPDATE plan SET state = ?, error = ?, ended_at = coalesce(?, ended_at) WHERE id = ?",
        (state, error, ended_at, plan_id),
    )


def set_step(
    connection: sqlite3.Connection,
    step: Step,
    state: StepState,
    *,
    digest: str | None = None,
    reason: str | None = None,
    base: str | None = None,
) -> None:
    if digest is None and base is None and reason is None and step.reason is None:
        connection.execute("UPDATE step SET state = ? WHERE id = ?", (state, step.id))
        step.state = state
        return
    connection.execute(
        """UPDATE step SET state = ?, digest = coalesce(?, digest), reason = ?, base = coalesce(?, base)
           WHERE id = ?""",
        (state, digest, reason, base, step.id),
    )
    step.state, step.reason = state, reason
    step.digest, step.base = digest or step.digest, base or step.base


def begin_writing(connection: sqlite3.Connection, step: Step, digest: str | None, undo: bytes | None) -> None:
    """Record that a file is about to be written: what it will hold, and what leads back to what it holds now."""
    connection.execute(
        "UPDATE step SET state = ?, digest = coalesce(?, digest), undo = coalesce(?, undo) WHERE id = ?",
        (StepState.BEGUN, digest, undo, step.id),
    )
    step.state, step.digest = StepState.BEGUN, digest or step.digest


def undo_of(connection: sqlite3.Connection, step: Step) -> bytes | None:
    """Return what leads back to the file as it was before a step, see `store.undo_bytes`."""
    row = connection.execute("SELECT undo FROM step WHERE id = ?", (step.id,)).fetchone()
    undo: bytes | None = row["undo"]
    return undo


def picture_rewritten(
    connection: sqlite3.Connection, frame_id: int, path: str, size: int, mtime_ns: int
) -> None:
    """Something was written into a picture of a frame: the next listing must not take it for somebody else's."""
    connection.execute(
        "UPDATE file SET size = ?, mtime_ns = ? WHERE frame_id = ? AND path = ?",
        (size, mtime_ns, frame_id, to_blob(path)),
    )


def relocate(connection: sqlite3.Connection, shoot_id: int, old: str, new: str) -> None:
    """The folder of a shoot lies elsewhere now: what plans remember of places below it follows, so that they can
    still be taken back."""
    which = "plan_id IN (SELECT id FROM plan WHERE shoot_id = ?)"
    for column in ("source", "target"):
        move_below(connection, "step", column, which, old, new, shoot_id)
    for plan in [
        _plan(row) for row in connection.execute("SELECT * FROM plan WHERE shoot_id = ?", (shoot_id,))
    ]:
        anchors = []
        for path, mount in plan.anchors:
            moved = _relocated(path, old, new)
            # A place that has moved lies on a disk that was not looked at: the root stands for any.
            anchors.append((moved, mount if moved == path else "/"))
        target = _relocated(plan.target, old, new) if plan.target else None
        connection.execute(
            "UPDATE plan SET anchors = ?, target = ? WHERE id = ?",
            (json.dumps(anchors), to_blob(target) if target else None, plan.id),
        )


def _relocated(path: str, old: str, new: str) -> str:
    return new + path[len(old) :] if path == old or path.startswith(old + "/") else path


def moved_since(connection: sqlite3.Connection, plan: Plan) -> set[int]:
    """Return the steps of a plan whose file a later plan has moved on, and has not moved back."""
    rows = connection.execute(
        """SELECT id FROM step WHERE plan_id = ? AND state = 'done' AND EXISTS (
             SELECT 1 FROM step AS later WHERE later.frame_id = step.frame_id AND later.source = step.target
             AND later.plan_id > step.plan_id AND later.state = 'done' AND later.action IN ('move', 'link'))""",
        (plan.id,),
    )
    return {row[0] for row in rows}


def is_superseded(connection: sqlite3.Connection, plan: Plan) -> bool:
    """Whether other plans have moved all files of a plan since, so that nothing is left to undo."""
    moved = moved_since(connection, plan)
    if not moved:
        return False
    done = connection.execute(
        "SELECT count(*) FROM step WHERE plan_id = ? AND state = 'done'", (plan.id,)
    ).fetchone()[0]
    return bool(done <= len(moved))


def origin_of(connection: sqlite3.Connection, frame_id: int, path: str) -> str | None:
    """Where a file that a plan moved to `path` came from."""
    row = connection.execute(
        "SELECT source FROM step WHERE frame_id = ? AND target = ? AND action IN ('move', 'link')"
        " AND state = 'done' ORDER BY id DESC LIMIT 1",
        (frame_id, to_blob(path)),
    ).fetchone()
    return from_blob(row[0]) if row else None


def file_moved(
    connection: sqlite3.Connection, shoot_id: int, frame_id: int, old: str, new: str, place: str
) -> None:
    """A file of a frame now lies elsewhere, and the frame with it."""
    # On the way to another disk a sidecar may be known at both ends: then the new end says how it stands.
    connection.execute(
        "UPDATE file SET path = ?1 WHERE frame_id = ?2 AND path = ?3"
        " AND NOT EXISTS (SELECT 1 FROM file WHERE frame_id = ?2 AND path = ?1)",
        (to_blob(new), frame_id, to_blob(old)),
    )
    frame_files.drop_file(connection, frame_id, old)
    bases.move(connection, frame_id, old, new)
    frames.rename_file(connection, frame_id, os.path.basename(old), os.path.basename(new))
    frames.set_place(connection, frame_id, place, shoots.next_revision(connection, shoot_id))


def file_binned(connection: sqlite3.Connection, shoot_id: int, frame_id: int, path: str) -> None:
    """A file of a frame is in the system's bin, and with its last one the frame."""
    frame_files.drop_file(connection, frame_id, path)
    bases.forget(connection, frame_id, path)
    left = connection.execute("SELECT count(*) FROM file WHERE frame_id = ?", (frame_id,)).fetchone()[0]
    if not left:
        frames.set_place(connection, frame_id, FramePlace.BINNED, shoots.next_revision(connection, shoot_id))


def sidecar_written(
    connection: sqlite3.Connection, frame_id: int, path: str, size: int, mtime_ns: int
) -> None:
    """A sidecar of a frame was written: the next listing must not take it for somebody else's."""
    connection.execute("DELETE FROM file WHERE frame_id = ? AND path = ?", (frame_id, to_blob(path)))
    connection.execute(
        "INSERT INTO file (frame_id, path, role, size, mtime_ns) VALUES (?, ?, 'sidecar', ?, ?)",
        (frame_id, to_blob(path), size, mtime_ns),
    )


def sidecar_removed(connection: sqlite3.Connection, frame_id: int, path: str) -> None:
    bases.forget(connection, frame_id, path)
    connection.execute("DELETE FROM file WHERE frame_id = ? AND path = ?", (frame_id, to_blob(path)))
