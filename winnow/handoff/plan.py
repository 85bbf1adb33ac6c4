"""Plans made: which file goes where, with counts and conflicts, before anything is touched.

Reading the disk and working the plan out happens outside any transaction: marking goes on meanwhile. What the plan
rests on is kept with it, and held against the store and the disk again before it is applied (`recheck`).
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path
from sqlite3 import Connection

from winnow.handoff import kinds
from winnow.handoff.chosen import frames_of_plan
from winnow.handoff.draft import Draft, PlanError, Wish, fit_links
from winnow.handoff.from_card import take_in
from winnow.handoff.inside import write_inside
from winnow.handoff.proofs import lay_out
from winnow.handoff.reach import anchor_of
from winnow.handoff.renaming import rename_in_place
from winnow.handoff.standing import UnreachableError
from winnow.pipeline.cards import Slots
from winnow.pipeline.locks import contains
from winnow.store import idempotency, plans, proposals, shoots
from winnow.store.database import Database, display
from winnow.store.idempotency import RequestKey
from winnow.store.plans import Action, PlanKind, PlanState, Step, StepState

MAKERS: dict[PlanKind, Callable[[Draft], None]] = {
    PlanKind.COPY_KEEPERS: kinds.keepers,
    PlanKind.MOVE_KEEPERS: kinds.keepers,
    PlanKind.HOLD_REJECTS: kinds.hold,
    PlanKind.BRING_BACK: kinds.bring_back,
    PlanKind.WRITE_SIDECARS: kinds.write_sidecars,
    PlanKind.BIN: kinds.throw_away,
    PlanKind.RENAME: rename_in_place,
    PlanKind.IMPORT: take_in,
    PlanKind.PROOF: lay_out,
    PlanKind.WRITE_INSIDE: write_inside,
}

SPACE_MARGIN = 64 * 1024 * 1024
EXAMPLES = 200
"""As many renamed files and conflicts are listed in a plan; the rest is counted."""


WRITING = frozenset(PlanKind) - {PlanKind.COPY_KEEPERS, PlanKind.IMPORT, PlanKind.PROOF}
"""Plans that change the folder of the shoot itself."""


MARKS_DECIDE = frozenset(
    (
        *(PlanKind.COPY_KEEPERS, PlanKind.MOVE_KEEPERS, PlanKind.HOLD_REJECTS),
        *(PlanKind.WRITE_SIDECARS, PlanKind.WRITE_INSIDE, PlanKind.PROOF),
    )
)
"""Plans made of what is marked."""


def make_plan(
    database: Database,
    shoot_id: int,
    wish: Wish,
    now: str,
    volumes: Sequence[str] = (),
    request: RequestKey | None = None,
) -> int:
    """Store the plan for a wish and return its id. volumes: see `pipeline.cards.Slots`. request: recorded
    with the plan. Raises PlanError with what to do."""
    connection = database.connection()
    shoot = shoots.get(connection, shoot_id)
    if shoot is None:
        raise PlanError("This shoot is not known any more.")
    _refuse_second(connection, shoot_id)
    # The files of an import are no frames yet.
    of = () if wish.kind is PlanKind.IMPORT else frames_of_plan(connection, shoot_id, wish)
    draft = Draft(shoot, wish, database, of)
    _refuse_cards(draft, Slots(volumes))
    for root in draft.reached:
        if not os.path.isdir(root):
            raise PlanError(f"{display(root)} cannot be reached: connect its disk first.")
    try:
        MAKERS[wish.kind](draft)
    except UnreachableError as error:
        raise PlanError(str(error)) from error
    if wish.kind in MARKS_DECIDE and (aside := proposals.counted(connection, shoot_id)):
        draft.warnings.insert(
            0,
            f"{aside.total()} frames whose marks are only proposed ({', '.join(aside)}) are left out: take over "
            "what is to count, and make the plan anew.",
        )
    if draft.beside:
        named = ", ".join(draft.beside[:3]) + (", …" if len(draft.beside) > 3 else "")
        draft.warnings.append(f"What is called as its picture goes along ({len(draft.beside)}): {named}")
    fit_links(draft)
    meant = [step for step in draft.steps if step.state is StepState.WAITING]
    summary = {
        "frames": draft.frames,
        "files": len(meant),
        "bytes": sum(step.size for step in meant),
        "renamed": [{"old": old, "new": new} for old, new in draft.renamed[:EXAMPLES]],
        "renamed_count": len(draft.renamed),
        "warnings": draft.warnings[:EXAMPLES],
        "conflicts": draft.conflicts[:EXAMPLES],
        "conflict_count": len(draft.conflicts),
        "blocked": _blocked(draft, meant),
    }
    places = [*draft.reached, *draft.targets]
    anchors = [(anchor.path, anchor.mount) for anchor in map(anchor_of, places)]
    with database.transaction() as connection:
        _refuse_second(connection, shoot_id)
        plan_id = plans.make(
            connection,
            shoot_id,
            wish.kind,
            draft.target,
            summary,
            draft.steps,
            draft.rests_on,
            anchors,
            asdict(wish),
            now,
        )
        if request is not None:
            idempotency.complete(connection, request, plan_id, now)
    plans.delete_unapplied(database, now)
    return plan_id


@dataclass(frozen=True, slots=True)
class Order:
    """A plan to be made in a process of its own, where it keeps nobody waiting: see `make_plan`."""

    database: Path
    shoot_id: int
    wish: Wish
    now: str
    volumes: tuple[str, ...]
    request: RequestKey | None = None


def make_plan_apart(order: Order) -> int:
    """`make_plan` as a task of a worker process."""
    database = Database(order.database)
    return make_plan(database, order.shoot_id, order.wish, order.now, order.volumes, order.request)


def _refuse_cards(draft: Draft, slots: Slots) -> None:
    """Nothing is ever written to a card."""
    targets = [path for path in (draft.wish.target, draft.wish.second) if path]
    for path in [*targets, *(draft.roots if draft.wish.kind in WRITING else [])]:
        card = slots.card_around(path)
        if card is not None:
            raise PlanError(
                f"{display(path)} lies on the card {display(os.path.basename(card))}, to which nothing is written: "
                "copy it to a disk, and do this there."
            )


def _refuse_second(connection: Connection, shoot_id: int) -> None:
    """One plan at a time: what is half done must end before more is planned on top of it."""
    for plan in plans.of_shoot(connection, shoot_id):
        if plan.state in plans.UNFINISHED:
            raise PlanError("A plan of this shoot is under way: wait until it has ended, or stop it.")
        if plan.state is PlanState.STOPPED:
            raise PlanError("A plan of this shoot is stopped half way: go on with it or roll it back.")


def _blocked(draft: Draft, meant: Sequence[Step]) -> str | None:
    """Why the plan cannot be applied as things are, or None."""
    if not meant:
        return "There is nothing to do."
    needed: dict[int, tuple[str, int]] = {}
    for target in draft.targets:
        parent = anchor_of(target).path
        if not os.access(parent, os.W_OK):
            return f"{display(parent)} does not let you write: choose another folder."
        device = os.stat(parent).st_dev
        size = sum(s.size for s in meant if contains(target, s.target) and not _is_rename(s, device))
        needed[device] = (parent, size + needed.get(device, ("", 0))[1])
    for parent, size in needed.values():
        free = shutil.disk_usage(parent).free
        if size and size + SPACE_MARGIN > free:
            return (
                f"{size / 1e9:.1f} GB are needed and {free / 1e9:.1f} GB are free on the disk of "
                f"{display(parent)}: make room or choose another."
            )
    return None


def _is_rename(step: Step, device: int) -> bool:
    """Whether a step moves a file by its name alone and so needs no room."""
    if step.action in (Action.LINK, Action.BIN):
        return True
    return step.action is Action.MOVE and step.source is not None and os.stat(step.source).st_dev == device
