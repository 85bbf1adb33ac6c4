"""The kinds of plans: which frames each is made of, and where their files go."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable

from winnow.core.marks import UNMARKED, Decision
from winnow.core.pairing import Role
from winnow.handoff.draft import Draft, PlanError, add_marks, travel, write_step
from winnow.handoff.reach import anchor_of
from winnow.handoff.standing import inside
from winnow.pipeline.locks import contains
from winnow.pipeline.scan import HOLDING_MARKER
from winnow.store import bases, frames, marks, plans
from winnow.store.database import display
from winnow.store.plans import Action, PlanKind


def _keepers(draft: Draft) -> None:
    wish = draft.wish
    if not wish.target:
        raise PlanError("Choose the folder that the keepers go to.")
    target = draft.target = os.path.abspath(wish.target)
    for root in draft.roots:
        if inside(target, root):
            raise PlanError(
                f"{display(target)} lies inside the shoot, where the copies would come up as frames "
                "again: choose a folder outside."
            )
    action = Action.COPY if wish.kind is PlanKind.COPY_KEEPERS else Action.MOVE
    chosen = frames.ids_of(draft.connection, draft.shoot.id, "shoot", Decision.KEEP)
    marked = marks.current(draft.connection, chosen)
    draft.rests_on = marked
    known = bases.of_shoot(draft.connection, draft.shoot.id) if wish.with_marks else {}
    for frame_id, files in draft.files_of(chosen):
        root = _root_of(files[0].path, draft.roots)
        below = os.path.relpath(os.path.dirname(files[0].path), root) if wish.keep_folders else "."
        folder = os.path.normpath(os.path.join(target, below))
        extra = draft.disk.sidecar_for(files) if wish.with_marks else None
        renames = travel(draft, frame_id, files, folder, action, extra)
        if extra:
            add_marks(draft, frame_id, files, extra, renames[extra], marked[frame_id], action, known)


def _hold(draft: Draft) -> None:
    chosen = frames.ids_of(draft.connection, draft.shoot.id, "shoot", Decision.REJECT)
    draft.rests_on = marks.current(draft.connection, chosen)
    holding = {root: holding_folder(root) for root in draft.roots}
    draft.target = holding[draft.roots[0]]
    for frame_id, files in draft.files_of(chosen):
        root = _root_of(files[0].path, draft.roots)
        draft.target = holding[root]
        below = os.path.relpath(os.path.dirname(files[0].path), root)
        folder = os.path.normpath(os.path.join(holding[root], below))
        travel(draft, frame_id, files, folder, Action.MOVE)
    parent = anchor_of(draft.target).path
    if not os.access(parent, os.W_OK):
        raise PlanError(
            f"The holding folder {display(draft.target)} cannot be made: {display(parent)} does not let you "
            "write. Change that first."
        )


def holding_folder(root: str) -> str:
    """The folder in which the rejects of a shoot's folder wait: beside it; or inside, where it is the root of a drive
    or nothing can be written beside it. A folder of that name that is not ours is left alone."""
    beside = os.path.dirname(root)
    is_drive = os.path.ismount(root) or beside == root
    base = os.path.join(root, "held back") if is_drive or not os.access(beside, os.W_OK) else ""
    number = 1
    while True:
        suffix = "" if number == 1 else f" {number}"
        candidate = f"{base}{suffix}" if base else f"{root} (held back{suffix})"
        if not os.path.lexists(candidate) or os.path.exists(os.path.join(candidate, HOLDING_MARKER)):
            return candidate
        number += 1


def _bring_back(draft: Draft) -> None:
    held = [
        frame_id
        for decision in Decision
        for frame_id in frames.ids_of(draft.connection, draft.shoot.id, "held", decision)
    ]
    draft.rests_on = marks.current(draft.connection, held)
    for frame_id, files in draft.files_of(held):
        origins = {f.path: plans.origin_of(draft.connection, frame_id, f.path) for f in files}
        first = next((origin for origin in origins.values() if origin), None)
        if first is None:
            name = display(os.path.basename(files[0].path))
            draft.warnings.append(f"Where {name} came from is not recorded: carry it back by hand.")
            continue
        wanted = {path: os.path.basename(origin or path) for path, origin in origins.items()}
        travel(draft, frame_id, files, os.path.dirname(first), Action.MOVE, wanted=wanted)


def _sidecars(draft: Draft) -> None:
    """Sidecars in place for every frame that was ever marked here and whose sidecar says otherwise."""
    connection, shoot_id = draft.connection, draft.shoot.id
    marked_here = marks.marked_here(connection, shoot_id)
    chosen = [i for i, _ in frames.placed(connection, shoot_id) if i in marked_here]
    marked = draft.rests_on = marks.current(connection, chosen)
    known = bases.of_shoot(connection, shoot_id)
    for frame_id, files in draft.files_of(chosen):
        exists = any(file.role == Role.SIDECAR for file in files)
        if marked[frame_id] == UNMARKED and not exists:
            continue
        path = draft.disk.sidecar_for(files)
        before = len(draft.steps)
        write_step(draft, frame_id, path if exists else None, path, marked[frame_id], exists, known)
        draft.frames += len(draft.steps) > before


MAKERS: dict[PlanKind, Callable[[Draft], None]] = {
    PlanKind.COPY_KEEPERS: _keepers,
    PlanKind.MOVE_KEEPERS: _keepers,
    PlanKind.HOLD_REJECTS: _hold,
    PlanKind.BRING_BACK: _bring_back,
    PlanKind.WRITE_SIDECARS: _sidecars,
}


def _root_of(path: str, roots: Iterable[str]) -> str:
    for root in roots:
        if contains(root, path):
            return root
    raise PlanError(f"{display(path)} lies outside the shoot: read the folder again first.")
