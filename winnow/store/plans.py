"""Plans and their steps: what is to happen to files, what has, and how to take it back."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from winnow.store import frames, shoots
from winnow.store.database import from_blob, to_blob


class PlanKind(StrEnum):
    COPY_KEEPERS = "copy-keepers"
    MOVE_KEEPERS = "move-keepers"
    HOLD_REJECTS = "hold-rejects"
    BRING_BACK = "bring-back"
    WRITE_SIDECARS = "write-sidecars"


class PlanState(StrEnum):
    MADE = "made"
    APPLYING = "applying"
    STOPPED = "stopped"
    APPLIED = "applied"
    REVERSING = "reversing"
    REVERSAL_STOPPED = "reversal-stopped"
    REVERSED = "reversed"
    DROPPED = "dropped"


UNFINISHED = (PlanState.APPLYING, PlanState.REVERSING)
STUCK = (PlanState.STOPPED, PlanState.REVERSAL_STOPPED)


class Action(StrEnum):
    COPY = "copy"
    MOVE = "move"
    WRITE = "write"


class StepState(StrEnum):
    """BEGUN and REVERSING are written before a file is touched: after a crash they say where to
    look. LEFT: not done, or not taken back, for a reason that is given."""

    WAITING = "waiting"
    BEGUN = "begun"
    DONE = "done"
    REVERSING = "reversing"
    REVERSED = "reversed"
    LEFT = "left"


@dataclass(slots=True)
class Step:
    """One file copied, moved or written. Paths are absolute."""

    frame_id: int
    action: Action
    source: str | None
    target: str
    size: int
    content: bytes | None = None
    previous: bytes | None = None
    digest: str | None = None
    state: StepState = StepState.WAITING
    reason: str | None = None
    id: int = 0


@dataclass(frozen=True, slots=True)
class Plan:
    """A plan without its steps; `summary` holds the counts and conflicts that were shown."""

    id: int
    shoot_id: int
    kind: PlanKind
    state: PlanState
    target: str | None
    summary: dict[str, Any]
    made_at: str
    ended_at: str | None
    error: str | None


def make(
    connection: sqlite3.Connection,
    shoot_id: int,
    kind: PlanKind,
    target: str | None,
    summary: dict[str, Any],
    steps: Iterable[Step],
    now: str,
) -> int:
    """Stores a plan; nothing happens to files yet. Plans that were made before and never applied
    are dropped: they speak of a state that may be gone."""
    connection.execute("UPDATE plan SET state = 'dropped' WHERE shoot_id = ? AND state = 'made'", (shoot_id,))
    plan_id = connection.execute(
        "INSERT INTO plan (shoot_id, kind, state, target, summary, made_at) VALUES (?, ?, 'made', ?, ?, ?)",
        (shoot_id, kind, to_blob(target) if target else None, json.dumps(summary), now),
    ).lastrowid
    assert plan_id is not None
    connection.executemany(
        "INSERT INTO step (plan_id, frame_id, action, source, target, size, content, previous)"
        " VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
        [
            (
                plan_id,
                s.frame_id,
                s.action,
                to_blob(s.source) if s.source else None,
                to_blob(s.target),
                s.size,
                s.content,
                s.previous,
            )
            for s in steps
        ],
    )
    return plan_id


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
    )


def steps(connection: sqlite3.Connection, plan_id: int) -> list[Step]:
    """The steps of a plan in the order of applying."""
    rows = connection.execute("SELECT * FROM step WHERE plan_id = ? ORDER BY id", (plan_id,))
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
            row["id"],
        )
        for row in rows
    ]


def count_states(connection: sqlite3.Connection, plan_id: int) -> dict[str, int]:
    """How many steps of a plan are in each state."""
    return dict(
        connection.execute(
            "SELECT state, count(*) FROM step WHERE plan_id = ? GROUP BY state", (plan_id,)
        ).fetchall()
    )


def left_behind(connection: sqlite3.Connection, plan_id: int) -> list[tuple[str, str]]:
    """(target, reason) of the steps that were left."""
    rows = connection.execute(
        "SELECT target, reason FROM step WHERE plan_id = ? AND state = 'left' ORDER BY id",
        (plan_id,),
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
) -> None:
    connection.execute(
        "UPDATE step SET state = ?, digest = coalesce(?, digest), reason = ? WHERE id = ?",
        (state, digest, reason, step.id),
    )
    step.state, step.reason = state, reason
    step.digest = digest or step.digest


def origin_of(connection: sqlite3.Connection, frame_id: int, path: str) -> str | None:
    """Where a file that a plan moved to `path` came from."""
    row = connection.execute(
        "SELECT source FROM step WHERE frame_id = ? AND target = ? AND action = 'move'"
        " AND state = 'done' ORDER BY id DESC LIMIT 1",
        (frame_id, to_blob(path)),
    ).fetchone()
    return from_blob(row[0]) if row else None


def file_moved(
    connection: sqlite3.Connection, shoot_id: int, frame_id: int, old: str, new: str, place: str
) -> None:
    """A file of a frame now lies elsewhere, and the frame with it."""
    connection.execute(
        "UPDATE file SET path = ? WHERE frame_id = ? AND path = ?",
        (to_blob(new), frame_id, to_blob(old)),
    )
    frames.set_place(connection, frame_id, place, shoots.next_revision(connection, shoot_id))


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
    connection.execute("DELETE FROM file WHERE frame_id = ? AND path = ?", (frame_id, to_blob(path)))
