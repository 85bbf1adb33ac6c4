"""What was done to a shoot, and going to any point of it."""

from __future__ import annotations

from collections.abc import Callable
from sqlite3 import Connection
from typing import Annotated

from fastapi import Query

from winnow.api.acting import tell
from winnow.api.actor import Actor
from winnow.api.desk import SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, now
from winnow.api.idempotency import Idempotency, InIdempotency
from winnow.api.models.base import Id, moment
from winnow.api.models.frames import FrameAddress
from winnow.api.models.history import HistoryEntry, HistoryPage, OneAction, PointInTime, Stepped
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.store import frames, past
from winnow.store.marks import Batch
from winnow.store.past import Entry, NotNowError
from winnow.store.shoots import Shoot

router = routes("/api/shoots/{shoot_id}/history", "history")

PAGE = 60
STEPPING = answers(*SHOOT_PROBLEMS, *CHANGING, Code.NOT_NOW)


@router.get("", responses=answers(*SHOOT_PROBLEMS))
def list_history(
    desk: OnDesk,
    shoot: OfShoot,
    before: Id | None = None,
    limit: Annotated[int, Query(ge=1, le=500)] = PAGE,
    search: Annotated[str, Query(max_length=200)] = "",
) -> HistoryPage:
    """What was done, the newest first."""
    connection = desk.database.connection()
    found = past.page(connection, shoot.id, before, limit + 1, search)
    pictures = frames.addresses(connection, {i for entry in found for i in entry.sample})
    return HistoryPage(entries=[_view(entry, pictures) for entry in found[:limit]], more=len(found) > limit)


def _view(entry: Entry, pictures: dict[int, str]) -> HistoryEntry:
    return HistoryEntry(
        id=entry.id,
        kind=entry.kind,
        title=entry.title,
        actor=entry.actor,
        at=moment(entry.at),
        show=entry.seen,
        frames=entry.frames,
        sample=[FrameAddress(id=i, version=pictures[i]) for i in entry.sample if i in pictures],
        taken_back=entry.taken_back,
        can_go=entry.can_go,
        walk=entry.walk,
        in_pass=entry.in_pass,
    )


@router.post("/go", responses=STEPPING)
def go_to_point(
    desk: OnDesk, shoot: OfShoot, wish: PointInTime, idempotency: InIdempotency, actor: Actor
) -> Stepped:
    """Undoes or redoes until an action is the last that stands; none is named: until none stands."""
    return _once(desk, shoot, idempotency, lambda c: past.go_to(c, shoot.id, wish.batch or 0, actor, now()))


@router.post("/take-back", responses=STEPPING)
def take_back(
    desk: OnDesk, shoot: OfShoot, wish: OneAction, idempotency: InIdempotency, actor: Actor
) -> Stepped:
    """Takes one action back, and leaves those after it as they are."""

    def take(connection: Connection) -> list[Batch]:
        batch = past.take_back(connection, shoot.id, wish.batch, actor, now())
        return [batch] if batch else []

    return _once(desk, shoot, idempotency, take)


def _once(
    desk: Desk, shoot: Shoot, idempotency: Idempotency, act: Callable[[Connection], list[Batch]]
) -> Stepped:
    """Take steps through the history under the key of a request, and tell who listens. Raises ProblemError."""
    with desk.database.transaction() as connection:
        earlier = idempotency.earlier_answer(connection, Stepped)
        if earlier is not None:
            return earlier
        try:
            steps = act(connection)
        except NotNowError as error:
            raise ProblemError(Code.NOT_NOW, str(error)) from error
        frames_changed = len({frame_id for batch in steps for frame_id in batch.frame_ids})
        done = Stepped(steps=len(steps), frames=frames_changed)
        idempotency.complete(connection, steps[-1].id if steps else 0, done)
    tell(desk, shoot.id, steps)
    return done
