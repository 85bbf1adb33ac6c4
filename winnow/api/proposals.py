"""Marks that others propose: whoever runs Winnow takes them over, or turns them down."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from sqlite3 import Connection

from winnow.api.acting import InManner, Manner, act
from winnow.api.desk import FRAME_PROBLEMS, SHOOT_PROBLEMS, Desk, OfShoot, OnDesk, demand_frames_of, now
from winnow.api.models.marks import Marked
from winnow.api.models.proposals import ProposalsView, ProposalsWish, ProposedBy
from winnow.api.problems import CHANGING, Code, answers
from winnow.api.routes import routes
from winnow.core.marks import Change, Field, Marks, changes_to
from winnow.core.proposals import Proposal, turned_down
from winnow.store import marks, proposals
from winnow.store.marks import Batch
from winnow.store.shoots import Shoot

router = routes("/api/shoots/{shoot_id}/proposals", "proposals")

SETTLING = answers(*FRAME_PROBLEMS, *CHANGING, Code.NOT_OF_THIS_SHOOT, Code.CANNOT_BE_DONE)

Settling = Callable[[int, Marks, Proposal], list[Change]]


@router.get("", responses=answers(*SHOOT_PROBLEMS))
def list_proposals(desk: OnDesk, shoot: OfShoot) -> ProposalsView:
    """On how many frames who proposes marks."""
    counted = proposals.counted(desk.database.connection(), shoot.id)
    return ProposalsView(by=[ProposedBy(name=name, frames=frames) for name, frames in counted.most_common()])


@router.post("/take", responses=SETTLING)
def take_over(desk: OnDesk, shoot: OfShoot, wish: ProposalsWish, manner: InManner) -> Marked:
    """What is proposed on frames is marked, as one action."""

    def taken(frame_id: int, _: Marks, proposal: Proposal) -> list[Change]:
        return [Change(frame_id, Field.PROPOSED, str(proposal), None)]

    return _settle(desk, shoot, wish, manner, "taken over", taken)


@router.post("/turn-down", responses=SETTLING)
def turn_down(desk: OnDesk, shoot: OfShoot, wish: ProposalsWish, manner: InManner) -> Marked:
    """What is proposed on frames goes, as one action: they are as if nobody had proposed it."""

    def gone(frame_id: int, held: Marks, proposal: Proposal) -> list[Change]:
        return [
            *changes_to({frame_id: held}, turned_down(proposal)),
            Change(frame_id, Field.PROPOSED, str(proposal), None),
        ]

    return _settle(desk, shoot, wish, manner, "turned down", gone)


def _settle(desk: Desk, shoot: Shoot, wish: ProposalsWish, manner: Manner, said: str, of: Settling) -> Marked:
    if wish.frame_ids:
        demand_frames_of(desk, shoot, wish.frame_ids)

    def settled(connection: Connection) -> Batch | None:
        standing = _meant(connection, shoot.id, wish)
        held = marks.current(connection, standing)
        changes = [change for i, proposal in standing.items() for change in of(i, held[i], proposal)]
        names = " and ".join(sorted({proposal.by for proposal in standing.values()}))
        count = "1 frame" if len(standing) == 1 else f"{len(standing)} frames"
        title = f"{count}: what {names} proposed {said}"
        return marks.write(connection, shoot.id, changes, manner.actor, title, now())

    return act(desk, shoot.id, manner, settled)


def _meant(connection: Connection, shoot_id: int, wish: ProposalsWish) -> Mapping[int, Proposal]:
    every = proposals.of_shoot(connection, shoot_id)
    wanted = set(wish.frame_ids) or every.keys()
    return {i: one for i, one in every.items() if i in wanted and wish.by in (None, one.by)}
