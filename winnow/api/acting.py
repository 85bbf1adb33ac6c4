"""Doing something that is journalled, once, and telling who listens."""

from __future__ import annotations

from collections.abc import Callable
from sqlite3 import Connection

from winnow.api.desk import Desk
from winnow.api.models.marks import ActionRef, FrameMarks, LastActions, Marked
from winnow.api.once import Once
from winnow.api.viewing import Asked, view_after
from winnow.store import marks, shoots
from winnow.store.marks import Batch


def act(
    desk: Desk,
    shoot_id: int,
    once: Once,
    wanted: Asked,
    action: Callable[[Connection], Batch | None],
) -> Marked:
    """Does something that is journalled, once; tells who listens."""
    with desk.database.transaction() as connection:
        earlier = once.earlier(connection)
        if earlier is None:
            batch = action(connection)
            if batch and wanted.show:
                marks.note_seen(connection, batch.id, wanted.show)
            once.keep(connection, batch.id if batch else 0)
        else:
            batch = marks.batch(connection, earlier) if earlier else None
        now_marked = marks.current(connection, batch.frame_ids if batch else ())
        last = last_actions(connection, shoot_id)
        shoot = shoots.get(connection, shoot_id)
        assert shoot is not None
    if batch and batch.regroups:
        desk.regroup(shoot_id)
    elif batch:
        desk.events.publish("frames", shoot_id=shoot_id, revision=shoot.revision)
    return Marked(
        frames=[
            FrameMarks(id=i, decision=m.decision, rating=m.rating, label=m.label, turn=m.turn)
            for i, m in now_marked.items()
        ],
        title=batch.title if batch else None,
        batch=batch.id if batch else None,
        actions=last,
        revision=shoot.revision,
        view=view_after(desk, shoot_id, wanted, now_marked),
    )


def last_actions(connection: Connection, shoot_id: int) -> LastActions:
    undo, redo = (
        ActionRef(batch=step, title=marks.title_of(connection, step)) if step else None
        for step in marks.next_steps(connection, shoot_id)
    )
    return LastActions(undo=undo, redo=redo)
