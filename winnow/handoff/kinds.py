"""The kinds of plans: which frames each is made of, and where their files go."""

from __future__ import annotations

import os
from collections.abc import Iterable, Mapping, Sequence
from itertools import product
from sqlite3 import Connection

from winnow.core.file_names import Naming, names, renamed
from winnow.core.marks import UNMARKED
from winnow.core.naming import common_base, split_base
from winnow.core.pairing import Role, split_name
from winnow.core.sorting import Into, folder_of
from winnow.handoff.draft import Draft, PlanError, add_marks, first_name, render_step, travel, write_step
from winnow.handoff.holding import folder_around
from winnow.handoff.reach import anchor_of
from winnow.handoff.standing import inside
from winnow.pipeline.locks import contains
from winnow.pipeline.scan import HOLDING_MARKER
from winnow.store import bases, frames, labels, lists, plans, words
from winnow.store.database import display
from winnow.store.frame_files import ListedFile
from winnow.store.plans import Action, PlanKind, Step
from winnow.store.shoots import Shoot


def keepers(draft: Draft) -> None:
    """Copies or moves of frames to a folder, or to two."""
    wish = draft.wish
    if not wish.target:
        raise PlanError("Choose the folder that the keepers go to.")
    draft.target = os.path.abspath(wish.target)
    for place, root in product(draft.targets, draft.roots):
        if inside(place, root):
            raise PlanError(
                f"{display(place)} lies inside the shoot, where the copies would come up as frames "
                "again: choose a folder outside."
            )
    demand_apart(draft)
    action = Action.COPY if wish.kind is PlanKind.COPY_KEEPERS else Action.MOVE
    if wish.only and action is Action.MOVE:
        raise PlanError("A move takes all files of a frame along: copy the files of one kind instead.")
    if wish.second and action is Action.MOVE:
        raise PlanError("A move goes to one folder: copy to two instead.")
    chosen = draft.chosen
    folders, bases_of = (
        folders_of(draft.connection, chosen, wish.into),
        new_names(draft.connection, draft.shoot, chosen, wish.naming),
    )
    if wish.sized and action is Action.MOVE:
        raise PlanError("JPEGs of a size are made, not moved: copy instead.")
    without = 0
    marked = draft.rests_on
    known = bases.of_shoot(draft.connection, draft.shoot.id) if wish.with_marks else {}
    for frame_id, every in draft.files_of(chosen):
        files = [file for file in every if file.role in (wish.only or file.role, Role.SIDECAR)]
        if all(file.role == Role.SIDECAR for file in files):
            without += 1
            continue
        root = _root_of(files[0].path, draft.roots)
        below = os.path.relpath(os.path.dirname(files[0].path), root) if wish.keep_folders else "."
        written = draft.disk.sidecars_for(files) if wish.with_marks else []
        # Of copies of one kind nothing else was wished for.
        whole = files if wish.only or wish.sized else draft.with_beside(files)
        wanted = wanted_names(whole, written, bases_of.get(frame_id))
        before = len(draft.steps)
        for place in draft.targets:
            folder = os.path.normpath(os.path.join(place, folders.get(frame_id, ""), below))
            if wish.sized:
                render_step(draft, frame_id, files, folder, bases_of.get(frame_id))
                continue
            renames = travel(draft, frame_id, whole, folder, action, written, wanted)
            was = first_name(files) if wish.naming else None
            for sidecar in written:
                target = renames[sidecar]
                add_marks(draft, frame_id, files, sidecar, target, marked[frame_id], action, known, was)
        draft.steps[before:] = side_by_side(draft.steps[before:])
        draft.frames += 1
    if without:
        kind = "RAW" if wish.only is Role.RAW else "JPEG"
        draft.warnings.append(f"{without} of the frames have no {kind} and are left out.")


def new_names(
    connection: Connection, shoot: Shoot, chosen: Sequence[int], naming: Naming | None
) -> dict[int, str]:
    """What the files of frames are to be called, without the endings; nothing where they keep their names. Raises
    PlanError."""
    if naming is None:
        return {}
    stacked = frames.stacked(connection, shoot.id)
    wanted = set(chosen)
    together = {i: stacked[i] for i in chosen if stacked.get(i) in wanted}
    own = [i for i in chosen if i not in together]
    about = words.about(connection, own, shoot.title, labels.current(connection))
    try:
        called = dict(zip(own, names(naming, [about[i] for i in own]), strict=True))
    except ValueError as error:
        raise PlanError(str(error)) from error
    return called | _behind(connection, together, called)


def _behind(connection: Connection, together: Mapping[int, int], called: Mapping[int, str]) -> dict[int, str]:
    """Edited files are called as the frames they came of, and go on as they did: `TMN_0412-edit` as `NEW-edit`."""
    ids = list({*together, *together.values()})
    stems = {
        i: split_name(os.path.basename(name))[0]
        for i, name in zip(ids, frames.names(connection, ids), strict=True)
    }
    return {i: called[first] + split_base(stems[i], stems[first])[1] for i, first in together.items()}


def demand_apart(draft: Draft) -> None:
    """Two copies in one place are one. Raises PlanError."""
    if draft.target and draft.wish.second:
        pair = (draft.target, draft.wish.second)
        if inside(*pair) or inside(*reversed(pair)) or pair[0] == pair[1]:
            raise PlanError(
                "The second copy would lie in the first: choose another folder, best on another disk."
            )


def side_by_side(steps: Sequence[Step]) -> list[Step]:
    """Steps that copy the same file to two places one after the other: it is read once for both."""
    places = {step.source: place for place, step in reversed(list(enumerate(steps)))}
    return sorted(steps, key=lambda step: places[step.source])


def wanted_names(
    files: Sequence[ListedFile], written: Sequence[str], new: str | None
) -> dict[str, str] | None:
    """The new name of each file of a frame, and of the sidecars that it will have."""
    if new is None:
        return None
    paths = [*(file.path for file in files), *written]
    old = common_base([os.path.basename(path) for path in paths])
    return {path: renamed(os.path.basename(path), old, new) for path in paths}


def folders_of(connection: Connection, chosen: Sequence[int], into: Into) -> dict[int, str]:
    """The folder of each frame below the target, where they are sorted into folders."""
    if into is Into.NOTHING:
        return {}
    named = labels.current(connection)
    wanted = ("label", "rating", "captured_at", "scene", "camera")
    return {
        known["id"]: folder_of(into, named, **{name: known[name] for name in wanted})
        for known in lists.known(connection, chosen)
    }


def hold(draft: Draft) -> None:
    """Rejects to the holding folder."""
    holding = {root: holding_folder(root) for root in draft.roots}
    draft.target = holding[draft.roots[0]]
    for frame_id, files in draft.files_of(draft.chosen):
        root = _root_of(files[0].path, draft.roots)
        draft.target = holding[root]
        below = os.path.relpath(os.path.dirname(files[0].path), root)
        folder = os.path.normpath(os.path.join(holding[root], below))
        travel(draft, frame_id, draft.with_beside(files), folder, Action.MOVE)
        draft.frames += 1
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


def bring_back(draft: Draft) -> None:
    """Frames from the holding folder to where they were."""
    for frame_id, own in draft.files_of(draft.chosen):
        files = draft.with_beside(own)
        origins = {f.path: plans.origin_of(draft.connection, frame_id, f.path) for f in files}
        first = next((origin for origin in origins.values() if origin), None)
        if first is None:
            name = display(os.path.basename(files[0].path))
            draft.warnings.append(f"Where {name} came from is not recorded: carry it back by hand.")
            continue
        wanted = {path: os.path.basename(origin or path) for path, origin in origins.items()}
        travel(draft, frame_id, files, os.path.dirname(first), Action.MOVE, wanted=wanted)
        draft.frames += 1


def throw_away(draft: Draft) -> None:
    """Frames from the holding folder, and from nowhere else, to the system's bin."""
    for frame_id, files in draft.files_of(draft.chosen):
        if not all(folder_around(file.path) for file in files):
            name = display(os.path.basename(files[0].path))
            draft.warnings.append(f"{name} does not lie in a holding folder and is left where it is.")
            continue
        draft.frames += 1
        draft.steps += [
            Step(frame_id, Action.BIN, file.path, file.path, file.size, mtime_ns=file.mtime_ns)
            for file in draft.with_beside(files)
        ]


def write_sidecars(draft: Draft) -> None:
    """Sidecars in place for every frame that was ever marked here and whose sidecar says otherwise; where frames are
    named, for those among them. Where a frame has several, each program reads its own: the marks go into all."""
    connection, shoot_id = draft.connection, draft.shoot.id
    marked = draft.rests_on
    known = bases.of_shoot(connection, shoot_id)
    for frame_id, files in draft.files_of(draft.chosen):
        exists = any(file.role == Role.SIDECAR for file in files)
        if marked[frame_id] == UNMARKED and not exists:
            continue
        before = len(draft.steps)
        for path in draft.disk.sidecars_for(files):
            write_step(draft, frame_id, path if exists else None, path, marked[frame_id], exists, known)
        draft.frames += len(draft.steps) > before


def _root_of(path: str, roots: Iterable[str]) -> str:
    for root in roots:
        if contains(root, path):
            return root
    raise PlanError(f"{display(path)} lies outside the shoot: read the folder again first.")
