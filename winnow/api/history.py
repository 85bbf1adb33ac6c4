"""What was done to a shoot, and going to any point of it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, TypeVar

from fastapi import Query

from winnow.api.acting import tell
from winnow.api.actor import Actor
from winnow.api.desk import SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, now
from winnow.api.models.base import Id, moment
from winnow.api.models.frames import FrameAddress
from winnow.api.models.history import HistoryEntry, HistoryPage, OneAction, PointInTime, Stepped
from winnow.api.once import DoneOnce
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.store import frames, past
from winnow.store.marks import Batch
from winnow.store.past import Entry, NotNowError

router = routes("/api/shoots/{shoot_id}/history", "history")

PAGE = 60
Done = TypeVar("Done")
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
def go_to_point(desk: OnDesk, shoot: OfShoot, wish: PointInTime, once: DoneOnce, actor: Actor) -> Stepped:
    """Undoes or redoes until an action is the last that stands; none is named: until none stands."""
    with desk.database.transaction() as connection:
        if once.earlier(connection) is not None:
            return Stepped(steps=0, frames=0)
        steps = _not_now(lambda: past.go_to(connection, shoot.id, wish.batch or 0, actor, now()))
        once.keep(connection, steps[-1].id if steps else 0)
    return _stepped(desk, shoot.id, steps)


@router.post("/take-back", responses=STEPPING)
def take_back(desk: OnDesk, shoot: OfShoot, wish: OneAction, once: DoneOnce, actor: Actor) -> Stepped:
    """Takes one action back, and leaves those after it as they are."""
    with desk.database.transaction() as connection:
        if once.earlier(connection) is not None:
            return Stepped(steps=0, frames=0)
        batch = _not_now(lambda: past.take_back(connection, shoot.id, wish.batch, actor, now()))
        once.keep(connection, batch.id if batch else 0)
    return _stepped(desk, shoot.id, [batch] if batch else [])


def _not_now(act: Callable[[], Done]) -> Done:
    try:
        return act()
    except NotNowError as error:
        raise ProblemError(Code.NOT_NOW, str(error)) from error


def _stepped(desk: Desk, shoot_id: int, steps: list[Batch]) -> Stepped:
    """How much was changed; who listens hears of it."""
    return Stepped(steps=len(steps), frames=tell(desk, shoot_id, steps))
