"""Marks here held against marks on disk, and settled."""

from __future__ import annotations

from sqlite3 import Connection

from pydantic import BaseModel, ConfigDict

from winnow.api.actor import Actor
from winnow.api.desk import SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, now
from winnow.api.idempotency import Idempotency, InIdempotency
from winnow.api.models.base import moment
from winnow.api.models.sync import SettledView, SettleWish, SyncRow, SyncView, SyncWish
from winnow.api.plans import MAKING, make_for
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.labels import LabelSet
from winnow.core.marks import Field, in_words
from winnow.handoff.draft import Wish
from winnow.handoff.syncing import Row, Settled, Settling, compared, settle, shown_of
from winnow.store import labels, shoots
from winnow.store.plans import PlanKind
from winnow.store.shoots import Shoot

router = routes("/api/shoots/{shoot_id}/sync", "sync")


@router.post("", responses=answers(*SHOOT_PROBLEMS, *CHANGING, Code.CANNOT_BE_DONE))
def compare_marks(desk: OnDesk, shoot: OfShoot, wish: SyncWish) -> SyncView:
    """Holds the marks of frames against what files say now. Nothing is changed."""
    try:
        found = compared(desk.database, desk.engine.run_apart, shoot.id, wish.frames)
    except OSError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    named = labels.current(desk.database.connection())
    differing = len({row.frame_id for row in found.rows})
    return SyncView(
        rows=[_row(row, named) for row in found.rows],
        frames=found.frames,
        agree=found.frames - differing,
        notes=found.notes,
    )


@router.post("/settle", responses=MAKING)
def settle_marks(
    desk: OnDesk, shoot: OfShoot, wish: SettleWish, actor: Actor, idempotency: InIdempotency
) -> SettledView:
    """Takes over what comes in, as one action, and makes the plan for what goes out: files are written when that is
    applied."""
    if desk.runner.busy(shoot.id):
        raise ProblemError(Code.BUSY, "A plan runs on this shoot: wait until it has ended, or stop it.")
    said = Settling(
        {(one.frame_id, one.field): (one.take, one.here, one.there) for one in wish.takes},
        wish.incoming,
        wish.outgoing,
    )
    connection = desk.database.connection()
    earlier = idempotency.earlier_answer(connection, _Imported)
    done = earlier or _import(desk, shoot, said, actor, wish, idempotency)
    plan = None
    if done.out:
        writes = Wish(PlanKind.WRITE_SIDECARS, frames=done.out, mine=done.mine)
        plan = make_for(desk, shoot.id, writes, idempotency.part("plan"))
    return SettledView(taken=done.taken, batch=done.batch, plan=plan, changed=done.changed)


class _Imported(BaseModel):
    """The first half of settling, as it is recorded: the plan is made in a transaction of its own."""

    model_config = ConfigDict(from_attributes=True)

    taken: int
    batch: int | None
    out: tuple[int, ...]
    mine: tuple[tuple[int, Field], ...]
    changed: int


def _import(
    desk: Desk, shoot: Shoot, said: Settling, actor: str, wish: SettleWish, idempotency: Idempotency
) -> _Imported:
    def record(connection: Connection, settled: Settled) -> None:
        idempotency.complete(connection, settled.batch or 0, _Imported.model_validate(settled))

    try:
        done = settle(desk.database, desk.engine.run_apart, shoot.id, said, actor, now(), wish.frames, record)
    except OSError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    held = shoots.get(desk.database.connection(), shoot.id)
    desk.events.publish("frames", shoot_id=shoot.id, revision=held.revision if held else 0)
    return _Imported.model_validate(done)


def _row(row: Row, named: LabelSet) -> SyncRow:
    one = row.one
    file, at = shown_of(one.source)
    return SyncRow(
        frame_id=row.frame_id,
        field=one.field,
        side=one.side,
        here=one.here,
        there=one.there,
        here_said=in_words(one.field, one.here, named.name_of),
        base_said=in_words(one.field, one.base, named.name_of),
        there_said=in_words(one.field, one.there, named.name_of),
        here_at=moment(row.here_at) if row.here_at else None,
        here_by=row.here_by,
        file=file,
        there_at=moment(at) if at else None,
    )
