"""What the person does to frames, journalled: marks, words on groups, undo, redo."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from sqlite3 import Connection
from typing import Literal

from winnow.api.acting import InManner, Manner, act, last_actions
from winnow.api.desk import FRAME_PROBLEMS, SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, demand_frames_of, now
from winnow.api.models.grouping import GroupEdit, LeadWish, PointWish
from winnow.api.models.marks import LastActions, Marked, MarkWish, StepWish
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.group_edits import TITLES, words_for
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field, Marks, Value, sentence
from winnow.core.match import SURE
from winnow.core.points import Point, takes_back
from winnow.pipeline.points import NotPreparedError
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import evidence, frames, marks
from winnow.store.marks import Batch
from winnow.store.shoots import Shoot

router = routes("/api/shoots/{shoot_id}", "marks")

MARKING = answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.CANNOT_BE_DONE)
ARRANGING = answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.NOT_NOW)
POINTING = answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.NOT_MEASURED, Code.CANNOT_BE_DONE)
STEPPING = answers(*SHOOT_PROBLEMS, *CHANGING, Code.OVERTAKEN)


@router.post("/marks", responses=MARKING)
def set_marks(desk: OnDesk, shoot: OfShoot, wish: MarkWish, manner: InManner) -> Marked:
    """Sets marks on frames as one action, or a part of one, undone by one undo."""
    values: dict[Field, Value] = {}
    if wish.decision is not None:
        values[Field.DECISION] = wish.decision.value
    if wish.rating is not None:
        values[Field.RATING] = wish.rating
    if "label" in wish.model_fields_set:
        values[Field.LABEL] = manner.wanted.labels.id_of(wish.label) if wish.label else None
    try:
        Marks(label=wish.label or None)
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    if not values and wish.turn is None:
        raise ProblemError(
            Code.CANNOT_BE_DONE, "No mark was given: say a decision, a rating, a label or a turn."
        )
    demand_frames_of(desk, shoot, wish.frame_ids)
    if wish.turn is not None and manner.proposes:
        raise ProblemError(Code.REFUSED, "Turns are not proposed: this is for whoever runs Winnow.")
    if values and wish.turn is not None:
        raise ProblemError(Code.CANNOT_BE_DONE, "A turn goes beside no other mark: send it by itself.")
    if wish.turn is not None:
        return _turn(desk, shoot, wish, wish.turn, manner)
    count = wish.of or len(wish.frame_ids)
    title = sentence(
        frames.names(desk.database.connection(), wish.frame_ids[:1]),
        count,
        values,
        manner.wanted.labels.name_of,
    )
    return act(
        desk,
        shoot.id,
        manner,
        lambda c: _marked(c, shoot, dict.fromkeys(wish.frame_ids, values), title, manner, wish.continues),
    )


def _marked(
    connection: Connection,
    shoot: Shoot,
    values: Mapping[int, Mapping[Field, Value]],
    title: str,
    manner: Manner,
    joins: int | None = None,
) -> Batch | None:
    return marks.set_marks(
        connection,
        shoot.id,
        values,
        kind=BatchKind.MARK,
        actor=manner.actor,
        title=title,
        now=now(),
        joins=joins,
        proposes=manner.proposes,
    )


def _turn(
    desk: Desk,
    shoot: Shoot,
    wish: MarkWish,
    way: Literal["left", "right"],
    manner: Manner,
) -> Marked:
    """Turns pictures on by a quarter, from however each of them stands."""
    names = frames.names(desk.database.connection(), wish.frame_ids[:1])
    title = f"{sentence(names, wish.of or len(wish.frame_ids), {}).removesuffix(': ')}: turned {way}"

    def turned(connection: Connection) -> Batch | None:
        by = 1 if way == "right" else -1
        now_at = marks.current(connection, wish.frame_ids)
        values: dict[int, dict[Field, Value]] = {
            frame_id: {Field.TURN: (held.turn + by) % 4} for frame_id, held in now_at.items()
        }
        return _marked(connection, shoot, values, title, manner, wish.continues)

    return act(desk, shoot.id, manner, turned)


@router.post("/keep-lead", responses=ARRANGING)
def keep_lead(desk: OnDesk, shoot: OfShoot, wish: LeadWish, manner: InManner) -> Marked:
    """Keeps the frame that leads a group, and rejects the others if that is wished: one action."""
    demand_frames_of(desk, shoot, [wish.frame_id])
    group = frames.group_of(desk.database.connection(), wish.frame_id)
    lead = next((row["id"] for row in group if row["lead"]), None)
    if lead is None:
        raise ProblemError(Code.NOT_NOW, "This group is not measured yet: it has no lead to keep.")
    seen = {row["id"] for row in group} if wish.among is None else set(wish.among)
    if lead not in seen:
        raise ProblemError(Code.NOT_NOW, "The lead of this group is not in view: show all frames first.")
    values: dict[int, dict[Field, Value]] = {lead: {Field.DECISION: Decision.KEEP.value}}
    if wish.reject_rest:
        rest = [row["id"] for row in group if row["id"] != lead and row["id"] in seen]
        values |= {frame_id: {Field.DECISION: Decision.REJECT.value} for frame_id in rest}
    said = sentence(frames.names(desk.database.connection(), [lead]), 1, values[lead])
    title = f"{said} as the lead" + (", the rest rejected" if wish.reject_rest else "")
    return act(
        desk,
        shoot.id,
        manner,
        lambda c: _marked(c, shoot, values, title, manner),
    )


@router.post("/groups", responses=ARRANGING)
def edit_groups(desk: OnDesk, shoot: OfShoot, wish: GroupEdit, manner: InManner) -> Marked:
    """Splits the group of a frame, joins it with the next, moves the frame to a neighbour, or forgets all that."""
    demand_frames_of(desk, shoot, [wish.frame_id])
    connection = desk.database.connection()
    stacked = frames.stacked(connection, shoot.id)
    placed = [one for one in frames.placed(connection, shoot.id) if one[0] not in stacked]
    frame_id = stacked.get(wish.frame_id, wish.frame_id)  # a stack stays together
    if frame_id not in dict(placed):
        raise ProblemError(Code.NOT_NOW, "This frame is not in the folder of the shoot now.")
    try:
        words = words_for(wish.action, frame_id, placed, evidence.words(connection, shoot.id))
    except ValueError as error:
        raise ProblemError(Code.NOT_NOW, str(error)) from error
    title = TITLES[wish.action]
    return act(
        desk,
        shoot.id,
        manner,
        lambda c: marks.set_words(c, shoot.id, words, actor=manner.actor, title=title, now=now()),
    )


@router.post("/point", responses=POINTING)
def set_point(desk: OnDesk, shoot: OfShoot, wish: PointWish, manner: InManner) -> Marked:
    """Says what matters in a frame, and in the others of its group where it is surely found again."""
    demand_frames_of(desk, shoot, [wish.frame_id])
    connection = desk.database.connection()
    size = frames.size(connection, wish.frame_id)
    x, y = frames.turns(connection, [wish.frame_id])[wish.frame_id].back(wish.x, wish.y)
    put = Point(round(max(x, 0.0), 1), round(max(y, 0.0), 1))
    if size is None or put.x >= size[0] or put.y >= size[1]:
        raise ProblemError(Code.CANNOT_BE_DONE, "This point lies outside the picture.")
    group = [row["id"] for row in frames.group_of(connection, wish.frame_id)]
    points: dict[int, Point | None]
    if takes_back(evidence.points(connection, shoot.id).get(wish.frame_id), put, max(size)):
        points, title = dict.fromkeys([*group, wish.frame_id]), "point that matters taken back"
    else:
        try:
            found = desk.points.find(wish.frame_id, put.x, put.y, [i for i in group if i != wish.frame_id])
        except (NotPreparedError, WorkerCrashedError) as error:
            raise ProblemError(Code.NOT_MEASURED, str(error)) from error
        points = {
            i: Point(round(match.x, 1), round(match.y, 1))
            for i, match in found.items()
            if match.confidence >= SURE
        }
        points[wish.frame_id] = put
        title = f"point that matters in {'1 frame' if len(points) == 1 else f'{len(points)} frames'}"
    return act(
        desk,
        shoot.id,
        manner,
        lambda c: marks.set_points(c, shoot.id, points, actor=manner.actor, title=title, now=now()),
    )


@router.post("/undo", responses=STEPPING)
def undo(desk: OnDesk, shoot: OfShoot, wish: StepWish, manner: InManner) -> Marked:
    """Takes the last action back, if it is the one that is meant."""
    return act(desk, shoot.id, manner, lambda c: _step(c, shoot.id, wish.batch, 0, marks.undo, manner))


@router.post("/redo", responses=STEPPING)
def redo(desk: OnDesk, shoot: OfShoot, wish: StepWish, manner: InManner) -> Marked:
    """Brings back the action that was taken back last, if it is the one that is meant."""
    return act(desk, shoot.id, manner, lambda c: _step(c, shoot.id, wish.batch, 1, marks.redo, manner))


@router.get("/actions", responses=answers(*SHOOT_PROBLEMS))
def get_actions(desk: OnDesk, shoot: OfShoot) -> LastActions:
    """What undo and redo would act on."""
    return last_actions(desk.database.connection(), shoot.id)


def _step(
    connection: Connection,
    shoot_id: int,
    meant: int,
    way: int,
    take: Callable[[Connection, int, str, str], Batch | None],
    manner: Manner,
) -> Batch | None:
    """One step of undo or redo. way: its place in `marks.next_steps`. Raises ProblemError if another is due."""
    due = marks.next_steps(connection, shoot_id)[way]
    if due != meant:
        is_now = f"now it would be: {marks.title_of(connection, due)}" if due else "there is none now"
        raise ProblemError(Code.OVERTAKEN, f"Another action came after the one that was meant ({is_now}).")
    if due and manner.proposes and marks.batch(connection, due).actor != manner.actor:
        raise ProblemError(
            Code.OVERTAKEN, "The last action here is somebody else's: it is theirs to take back."
        )
    return take(connection, shoot_id, manner.actor, now())
