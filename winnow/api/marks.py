"""What the person does to frames, journalled: marks, words on groups, undo, redo."""

from __future__ import annotations

from collections.abc import Callable
from sqlite3 import Connection

from fastapi import APIRouter, HTTPException

from winnow.api import models
from winnow.api.desk import Desk, OfShoot, OnDesk, now
from winnow.core.group_edits import TITLES, words_for
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field, Marks, Value
from winnow.store import evidence, frames, marks, shoots
from winnow.store.marks import Batch

router = APIRouter(prefix="/api/shoots/{shoot_id}", tags=["marks"])

PERSON = "person"
_VERBS = {Decision.PICK: "picked", Decision.REJECT: "rejected", Decision.UNDECIDED: "undecided"}


@router.post("/marks")
def set_marks(desk: OnDesk, shoot: OfShoot, wish: models.MarkWish) -> models.Marked:
    """Sets marks on frames as one action, undone by one undo."""
    values: dict[Field, Value] = {}
    if wish.decision is not None:
        values[Field.DECISION] = wish.decision.value
    if wish.rating is not None:
        values[Field.RATING] = wish.rating
    if "label" in wish.model_fields_set:
        values[Field.LABEL] = wish.label or None
    try:
        Marks(label=wish.label or None)
    except ValueError as error:
        raise HTTPException(422, str(error)) from error
    if not values:
        raise HTTPException(422, "No mark was given: say a decision, a rating or a label.")
    connection = desk.database.connection()
    if frames.shoots_of(connection, wish.frame_ids) - {shoot.id}:
        raise HTTPException(422, "Some of these frames belong to another shoot.")
    return _act(
        desk,
        shoot.id,
        lambda c: marks.set_marks(
            c,
            shoot.id,
            dict.fromkeys(wish.frame_ids, values),
            kind=BatchKind.MARK,
            actor=PERSON,
            title=_title(wish),
            now=now(),
        ),
    )


@router.post("/accept-lead")
def accept_lead(desk: OnDesk, shoot: OfShoot, wish: models.LeadWish) -> models.Marked:
    """Picks the frame that leads a group, and rejects the others if that is wished: one action."""
    connection = desk.database.connection()
    if frames.shoots_of(connection, [wish.frame_id]) != {shoot.id}:
        raise HTTPException(422, "This frame belongs to another shoot.")
    group = frames.group_of(connection, wish.frame_id)
    lead = next((row["id"] for row in group if row["lead"]), None)
    if lead is None:
        raise HTTPException(409, "This group is not measured yet: it has no lead to accept.")
    wanted: dict[int, dict[Field, Value]] = {lead: {Field.DECISION: Decision.PICK.value}}
    if wish.reject_rest:
        wanted |= {row["id"]: {Field.DECISION: Decision.REJECT.value} for row in group if row["id"] != lead}
    title = "lead picked" + (", rest rejected" if wish.reject_rest else "")
    return _act(
        desk,
        shoot.id,
        lambda c: marks.set_marks(
            c, shoot.id, wanted, kind=BatchKind.MARK, actor=PERSON, title=title, now=now()
        ),
    )


@router.post("/groups")
def edit_groups(desk: OnDesk, shoot: OfShoot, wish: models.GroupEdit) -> models.Marked:
    """Splits the group of a frame, joins it with the next, moves the frame to a neighbour, or forgets all that."""
    connection = desk.database.connection()
    placed = frames.placed(connection, shoot.id)
    if wish.frame_id not in dict(placed):
        raise HTTPException(422, "This frame belongs to another shoot.")
    try:
        words = words_for(wish.action, wish.frame_id, placed, evidence.words(connection, shoot.id))
    except ValueError as error:
        raise HTTPException(409, str(error)) from error
    title = TITLES[wish.action]
    return _act(
        desk,
        shoot.id,
        lambda c: marks.set_words(c, shoot.id, words, actor=PERSON, title=title, now=now()),
    )


@router.post("/undo")
def undo(desk: OnDesk, shoot: OfShoot) -> models.Marked:
    """Takes the last action back."""
    return _act(desk, shoot.id, lambda c: marks.undo(c, shoot.id, PERSON, now()))


@router.post("/redo")
def redo(desk: OnDesk, shoot: OfShoot) -> models.Marked:
    """Brings back the action that was taken back last."""
    return _act(desk, shoot.id, lambda c: marks.redo(c, shoot.id, PERSON, now()))


@router.get("/actions")
def actions(desk: OnDesk, shoot: OfShoot) -> models.LastActions:
    return _last_actions(desk.database.connection(), shoot.id)


def _act(desk: Desk, shoot_id: int, action: Callable[[Connection], Batch | None]) -> models.Marked:
    with desk.database.transaction() as connection:
        batch = action(connection)
        now_marked = marks.current(connection, batch.frame_ids if batch else ())
        shoot = shoots.get(connection, shoot_id)
        assert shoot is not None
    if batch and batch.regroups:
        desk.regroup(shoot_id)
    elif batch:
        desk.events.publish("frames", shoot_id=shoot_id, revision=shoot.revision)
    return models.Marked(
        frames=[
            models.FrameMarks(id=i, decision=m.decision, rating=m.rating, label=m.label)
            for i, m in now_marked.items()
        ],
        title=batch.title if batch else None,
        actions=_last_actions(desk.database.connection(), shoot_id),
        revision=shoot.revision,
    )


def _last_actions(connection: Connection, shoot_id: int) -> models.LastActions:
    steps = marks.history(connection, shoot_id)
    return models.LastActions(
        undo=marks.batch(connection, steps.undo).title if steps.undo else None,
        redo=marks.batch(connection, steps.redo).title if steps.redo else None,
    )


def _title(wish: models.MarkWish) -> str:
    what = []
    if wish.decision is not None:
        what.append(_VERBS[wish.decision])
    if wish.rating is not None:
        what.append(f"{wish.rating} stars" if wish.rating else "stars cleared")
    if "label" in wish.model_fields_set:
        what.append(f"label {wish.label}" if wish.label else "label cleared")
    count = len(wish.frame_ids)
    return f"{'1 frame' if count == 1 else f'{count} frames'} {', '.join(what)}"
