"""Passes, and going through a shoot with them."""

from __future__ import annotations

from dataclasses import replace
from sqlite3 import Connection

from winnow.api.acting import tell
from winnow.api.actor import Actor
from winnow.api.desk import SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, now
from winnow.api.idempotency import InIdempotency
from winnow.api.models import passes as models
from winnow.api.models.base import Id, moment
from winnow.api.models.passes import (
    NextPass,
    OpenWalk,
    Passes,
    PassesOfShoot,
    PassesRead,
    PassesText,
    PassNamed,
    PassOrder,
    TakenBack,
    WalkNews,
    WalkOutcome,
    WalkView,
    WalkWish,
)
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core import passes as rules
from winnow.core.pairing import fold
from winnow.core.passes import OURS, Pass
from winnow.core.sentence import SentenceError, parse
from winnow.store import labels, passes, walks
from winnow.store.readable import readable
from winnow.store.shoots import Shoot
from winnow.store.walks import Walk

router = routes("/api", "passes")

OF_SHOOT = "/shoots/{shoot_id}/passes"
WALKING = answers(*SHOOT_PROBLEMS, *CHANGING, Code.WALK_UNKNOWN)
OURS_STAY = "comes with Winnow and stays as it is: give yours another name."


@router.get("/passes", responses=answers())
def list_passes(desk: OnDesk) -> Passes:
    """All passes, and in which order a new shoot is gone through."""
    return Passes.model_validate(_all(desk.database.connection()))


def _all(connection: Connection) -> dict[str, object]:
    return {
        "ours": [models.Pass.model_validate(one) for one in OURS],
        "own": readable(passes.own(connection), models.Pass.model_validate),
        "order": passes.order(connection),
    }


@router.put("/passes", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def keep_pass(desk: OnDesk, wish: models.Pass) -> Passes:
    """Keeps a pass of the person's own, in the place of another of that name."""
    try:
        content = wish.model_dump(mode="json") | {"version": rules.VERSION, "name": wish.name.strip()}
        one = rules.checked(rules.from_json(content), labels.current(desk.database.connection()))
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    _demand_own(one.name)
    with desk.database.transaction() as connection:
        _keep(connection, one)
    return list_passes(desk)


def _keep(connection: Connection, one: Pass) -> None:
    """A new one comes last in the order, one in the place of another where that was."""
    before = passes.named(connection, one.name)
    order = passes.order(connection)
    passes.keep(connection, one)
    if before is None:
        passes.set_order(connection, [*order, one.name])
    elif before.name != one.name:
        passes.set_order(connection, [one.name if name == before.name else name for name in order])


def _demand_own(name: str) -> None:
    if any(fold(one.name) == fold(name) for one in OURS):
        raise ProblemError(Code.CANNOT_BE_DONE, f"{name} {OURS_STAY}")


@router.post("/passes/forget", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def forget_pass(desk: OnDesk, wish: PassNamed) -> Passes:
    """Forgets a pass; what was done with it stays."""
    _demand_own(wish.name)
    with desk.database.transaction() as connection:
        passes.forget(connection, wish.name)
    return list_passes(desk)


@router.put("/passes/order", responses=answers(*CHANGING))
def order_passes(desk: OnDesk, wish: PassOrder) -> Passes:
    """Which passes a new shoot is gone through with, and in which order; names of none are left out."""
    with desk.database.transaction() as connection:
        known = [one.name for name in dict.fromkeys(wish.names) if (one := passes.named(connection, name))]
        passes.set_order(connection, known)
    return list_passes(desk)


@router.get("/passes/file", responses=answers())
def export_passes(desk: OnDesk) -> PassesText:
    """The person's passes as a file that others can read in; ours, where there are none yet."""
    return PassesText(text=rules.written(passes.own(desk.database.connection()) or OURS))


@router.post("/passes/import", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def import_passes(desk: OnDesk, wish: PassesText) -> PassesRead:
    """Takes passes in from a file, as far as they fit."""
    named = labels.current(desk.database.connection())
    try:
        found, misfits = rules.read(wish.text, named, [one.name for one in OURS])
    except ValueError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    with desk.database.transaction() as connection:
        for one in found:
            _keep(connection, one)
        told_now = _all(connection)
    return PassesRead.model_validate({**told_now, "read": [one.name for one in found], "misfits": misfits})


@router.get(OF_SHOOT, responses=answers(*SHOOT_PROBLEMS))
def passes_of_shoot(desk: OnDesk, shoot: OfShoot) -> PassesOfShoot:
    """Of how many frames each pass asks, and what was gone through already."""
    connection = desk.database.connection()
    every = (*OURS, *passes.own(connection))
    return PassesOfShoot(
        asked={one.name: len(_scope(desk, shoot.id, one)) for one in every},
        walks=[_view(one) for one in walks.of_shoot(connection, shoot.id)],
    )


def _scope(desk: Desk, shoot_id: int, one: Pass, beside: str = "") -> list[int]:
    """The frames that a pass asks about now, and that also fit a sentence. A sentence that is not understood any more
    (a label in it is gone) asks about nothing."""
    connection = desk.database.connection()
    named = labels.current(connection)
    try:
        wanted = parse(", ".join(said for said in (one.scope, beside) if said), named)
    except SentenceError:
        return []
    return desk.census(shoot_id).look(connection, wanted, named)[0]


@router.post(OF_SHOOT, responses=answers(*SHOOT_PROBLEMS, *CHANGING, Code.CANNOT_BE_DONE, Code.NOT_NOW))
def begin_pass(
    desk: OnDesk, shoot: OfShoot, wish: WalkWish, idempotency: InIdempotency, actor: Actor
) -> OpenWalk:
    """Begins to go through a shoot with a pass."""
    connection = desk.database.connection()
    one = passes.named(connection, wish.name)
    if one is None:
        raise ProblemError(Code.CANNOT_BE_DONE, f"There is no pass called {wish.name}.")
    if wish.warned_first is not None:
        one = replace(one, warned_first=wish.warned_first)
    scope = _scope(desk, shoot.id, one)
    warned = set(_scope(desk, shoot.id, one, "warned"))
    with desk.database.transaction() as connection:
        walk_id = idempotency.earlier(connection)
        batch = None
        if walk_id is None:
            if not scope:
                raise ProblemError(
                    Code.NOT_NOW, f"{one.name} asks about no frame now: {one.scope or 'all frames'}."
                )
            asked = walks.asked(connection, shoot.id, scope, warned)
            walk_id, batch = walks.begin(connection, shoot.id, one, asked, actor=actor, now=now())
            idempotency.complete(connection, walk_id)
    if batch:
        tell(desk, shoot.id, [batch])
    return _open(desk, shoot, walk_id)


@router.get(f"{OF_SHOOT}/{{walk_id}}", responses=answers(*SHOOT_PROBLEMS, Code.WALK_UNKNOWN))
def open_walk(desk: OnDesk, shoot: OfShoot, walk_id: Id) -> OpenWalk:
    """All that is needed to go on where one was."""
    return _open(desk, shoot, walk_id)


@router.put(f"{OF_SHOOT}/{{walk_id}}", responses=WALKING)
def go_on_with_walk(desk: OnDesk, shoot: OfShoot, walk_id: Id, wish: WalkNews) -> WalkView:
    """How far it is."""
    before = _demand(desk.database.connection(), shoot, walk_id)
    with desk.database.transaction() as connection:
        is_asked = wish.frame in walks.frames_of(connection, walk_id)[0]
        walks.go_on(
            connection,
            walk_id,
            frame=wish.frame if is_asked else None,
            seen=wish.seen,
            seconds=wish.seconds,
            ended_at=now() if wish.ended else None,
        )
    if wish.ended and not before.ended_at:
        desk.events.publish("pass-ended", shoot_id=shoot.id, walk_id=walk_id, name=before.of.name)
    return _view(_demand(desk.database.connection(), shoot, walk_id))


@router.get(f"{OF_SHOOT}/{{walk_id}}/outcome", responses=answers(*SHOOT_PROBLEMS, Code.WALK_UNKNOWN))
def walk_outcome(desk: OnDesk, shoot: OfShoot, walk_id: Id) -> WalkOutcome:
    """What it did, and what comes next."""
    connection = desk.database.connection()
    found = _demand(connection, shoot, walk_id)
    did = walks.outcome(connection, walk_id)
    return WalkOutcome(
        walk=_view(found),
        decisions=dict(did.decisions),
        changed=did.changed,
        rated=did.rated,
        labelled=did.labelled,
        next=_next(desk, shoot.id, found.of.name),
    )


def _next(desk: Desk, shoot_id: int, name: str) -> NextPass | None:
    """The first pass after one, in the person's order, that asks about anything."""
    connection = desk.database.connection()
    order = passes.order(connection)
    for other in order[order.index(name) + 1 :] if name in order else ():
        one = passes.named(connection, other)
        if one and (scope := _scope(desk, shoot_id, one)):
            return NextPass(name=one.name, frames=len(scope))
    return None


@router.post(f"{OF_SHOOT}/{{walk_id}}/take-back", responses=WALKING)
def take_back_walk(
    desk: OnDesk, shoot: OfShoot, walk_id: Id, idempotency: InIdempotency, actor: Actor
) -> TakenBack:
    """Takes everything back that was done in it, as one action; what was marked otherwise since stays as it is."""
    with desk.database.transaction() as connection:
        earlier = idempotency.earlier_answer(connection, TakenBack)
        if earlier is not None:
            return earlier
        batch, later = walks.take_back(connection, _demand(connection, shoot, walk_id), actor, now())
        done = TakenBack(frames=len(set(batch.frame_ids)) if batch else 0, later=later)
        idempotency.complete(connection, batch.id if batch else 0, done)
    tell(desk, shoot.id, [batch] if batch else [])
    return done


def _demand(connection: Connection, shoot: Shoot, walk_id: int) -> Walk:
    found = walks.get(connection, walk_id)
    if found is None or found.shoot_id != shoot.id:
        raise ProblemError(Code.WALK_UNKNOWN, "This pass is not known any more: begin it again.")
    return found


def _open(desk: Desk, shoot: Shoot, walk_id: int) -> OpenWalk:
    connection = desk.database.connection()
    found = _demand(connection, shoot, walk_id)
    frames, seen = walks.frames_of(connection, walk_id)
    return OpenWalk(
        **_view(found).model_dump(),
        definition=models.Pass.model_validate(found.of),
        frames=frames,
        seen_frames=seen,
        frame=found.frame,
        starting=found.starting,
        fields=sorted(found.of.fields),
    )


def _view(one: Walk) -> WalkView:
    return WalkView(
        id=one.id,
        shoot_id=one.shoot_id,
        name=one.of.name,
        begun_at=moment(one.begun_at),
        ended_at=moment(one.ended_at) if one.ended_at else None,
        total=one.total,
        seen=one.seen,
        seconds=one.seconds,
        taken_back=one.taken_back,
    )
