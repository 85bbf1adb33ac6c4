"""Doing something that is journalled, once, and telling who listens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from sqlite3 import Connection
from typing import Annotated

from fastapi import Depends, Header

from winnow.api.actor import Actor, Proposes
from winnow.api.desk import Desk
from winnow.api.idempotency import Idempotency, InIdempotency
from winnow.api.models.marks import ActionRef, FrameMarks, LastActions, Marked
from winnow.api.problems import Code, ProblemError
from winnow.api.viewing import Asked, Wanted, view_after
from winnow.core.history import BatchKind
from winnow.store import marks, proposals, shoots, walks
from winnow.store.marks import Batch


@dataclass(frozen=True, slots=True)
class Manner:
    """How something is asked for: once, through which filter, by whom, and in which walk (None: in none). proposes:
    marks are proposals."""

    idempotency: Idempotency
    wanted: Asked
    actor: str
    walk: int | None
    proposes: bool


async def _manner(
    idempotency: InIdempotency,
    wanted: Wanted,
    actor: Actor,
    proposes: Proposes,
    winnow_walk: Annotated[
        str | None,
        Header(pattern=r"^[1-9]\d{0,17}$", description="Number of the walk that it is a part of."),
    ] = None,
) -> Manner:
    return Manner(idempotency, wanted, actor, int(winnow_walk) if winnow_walk else None, proposes)


InManner = Annotated[Manner, Depends(_manner)]


def act(desk: Desk, shoot_id: int, manner: Manner, action: Callable[[Connection], Batch | None]) -> Marked:
    """Does something that is journalled, once; tells who listens. Raises ProblemError for what rests in the pass that
    it is a part of: then nothing is done."""
    wanted = manner.wanted
    with desk.database.transaction() as connection:
        earlier = manner.idempotency.earlier(connection)
        if earlier is None:
            batch = action(connection)
            if batch and wanted.show:
                marks.note_seen(connection, batch.id, wanted.show)
            if batch and manner.walk is not None:
                _in_walk(connection, shoot_id, manner.walk, batch)
            manner.idempotency.complete(connection, batch.id if batch else 0)
        else:
            batch = marks.batch(connection, earlier) if earlier else None
        now_marked = marks.current(connection, batch.frame_ids if batch else ())
        proposed = proposals.of(connection, now_marked)
        last = last_actions(connection, shoot_id)
        shoot = shoots.get(connection, shoot_id)
        assert shoot is not None
    tell(desk, shoot_id, [batch] if batch else [])
    return Marked(
        frames=[
            FrameMarks(
                id=i,
                decision=m.decision,
                rating=m.rating,
                label=m.label,
                turn=m.turn,
                proposed=proposed[i].by if i in proposed else None,
            )
            for i, m in now_marked.items()
        ],
        title=batch.title if batch else None,
        batch=batch.id if batch else None,
        actions=last,
        revision=shoot.revision,
        view=view_after(desk, shoot_id, wanted, now_marked),
    )


def tell(desk: Desk, shoot_id: int, done: Sequence[Batch]) -> None:
    """Tell who listens what was done, and bring groups up to date where they rest on it."""
    if any(batch.regroups for batch in done):
        desk.regroup(shoot_id)
    elif done:
        shoot = shoots.get(desk.database.connection(), shoot_id)
        desk.events.publish("frames", shoot_id=shoot_id, revision=shoot.revision if shoot else 0)


def _in_walk(connection: Connection, shoot_id: int, walk_id: int, batch: Batch) -> None:
    """Notes that something was done in a walk. One that is not known any more asks for nothing."""
    walk = walks.get(connection, walk_id)
    if walk is None or walk.shoot_id != shoot_id:
        return
    resting = walks.fields_of(connection, batch.id) - walk.of.fields
    if resting and batch.kind is BatchKind.MARK:
        named = ", ".join(sorted(resting))
        raise ProblemError(
            Code.CANNOT_BE_DONE,
            f"In {walk.of.name} this rests ({named}): make the mark when you have left the pass.",
        )
    walks.note(connection, batch.id, walk_id)


def last_actions(connection: Connection, shoot_id: int) -> LastActions:
    undo, redo = (
        ActionRef(batch=step, title=marks.title_of(connection, step), walk=walks.walk_of(connection, step))
        if step
        else None
        for step in marks.next_steps(connection, shoot_id)
    )
    return LastActions(undo=undo, redo=redo)
