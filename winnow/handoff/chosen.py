"""Which frames a plan is of: asked when it is made, and again before it is carried out."""

from __future__ import annotations

from collections.abc import Sequence
from sqlite3 import Connection

from winnow.core.marks import Decision
from winnow.core.sentence import SentenceError, parse
from winnow.handoff.draft import PlanError, Wish
from winnow.store import frames, labels, marks, proposals
from winnow.store.census import Census
from winnow.store.plans import PlanKind


def frames_of_plan(connection: Connection, shoot_id: int, wish: Wish) -> list[int]:
    """The frames that a plan is of, whether something can be done with each or not. Raises PlanError."""
    match wish.kind:
        case PlanKind.HOLD_REJECTS:
            return _named(wish, frames.ids_of(connection, shoot_id, "shoot", Decision.REJECT))
        case PlanKind.BRING_BACK | PlanKind.BIN:
            held = [i for decision in Decision for i in frames.ids_of(connection, shoot_id, "held", decision)]
            return _named(wish, held)
        case PlanKind.WRITE_SIDECARS | PlanKind.WRITE_INSIDE:
            return _named(wish, _ever_marked(connection, shoot_id))
        case PlanKind.RENAME:
            return _with_edited(connection, shoot_id, _asked(connection, shoot_id, wish))
        case _:
            chosen = _asked(connection, shoot_id, wish)
            aside = proposals.of(connection, chosen)
            return [i for i in chosen if i not in aside]


def _named(wish: Wish, every: list[int]) -> list[int]:
    """Those of the frames that were asked for by name; all, if none were."""
    wanted = set(wish.frames)
    return [frame_id for frame_id in every if frame_id in wanted] if wanted else every


def _ever_marked(connection: Connection, shoot_id: int) -> list[int]:
    ever = marks.marked_here(connection, shoot_id)
    ever -= set(proposals.of(connection, ever))
    return [i for i, _ in frames.placed(connection, shoot_id) if i in ever]


def _asked(connection: Connection, shoot_id: int, wish: Wish) -> list[int]:
    """Those named, those that pass a filter, or the keepers."""
    show = wish.show.strip()
    if wish.frames:
        there = {i for i, _ in frames.placed(connection, shoot_id)}
        return [i for i in dict.fromkeys(wish.frames) if i in there]
    if not show:
        return frames.ids_of(connection, shoot_id, "shoot", Decision.KEEP)
    named = labels.current(connection)
    try:
        return Census(shoot_id).look(connection, parse(show, named), named)[0]
    except SentenceError as error:
        raise PlanError(f"“{show}”: {error}") from error


def _with_edited(connection: Connection, shoot_id: int, chosen: Sequence[int]) -> list[int]:
    """Frames with the edited files that came of them: under other names nobody would know whose they are."""
    wanted = set(chosen)
    edited = [
        one for one, original in frames.stacked(connection, shoot_id).items() if original in wanted - {one}
    ]
    return [*chosen, *(one for one in edited if one not in wanted)]
