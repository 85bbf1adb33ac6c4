"""Plans that give files other names where they are: in an order in which nothing is ever overwritten.

RAW, JPEG and sidecars of a frame are called alike, and so is what lies beside them. Names may be handed round among
frames: where a name is taken by a file that will have another, that one goes first; where they go round in a circle,
one waits under a name of its own.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import replace

from winnow.core.pairing import fold, split_name
from winnow.handoff.draft import Draft, PlanError, fit_links, travel, write_name
from winnow.handoff.kinds import new_names, wanted_names
from winnow.store.plans import Action, Step


def rename_in_place(draft: Draft) -> None:
    """The steps that name frames anew."""
    wish = draft.wish
    if wish.naming is None:
        raise PlanError("Say how the files are to be called.")
    called = new_names(draft.connection, draft.shoot, draft.chosen, wish.naming)
    listed = [(frame_id, files, draft.with_beside(files)) for frame_id, files in draft.files_of(draft.chosen)]
    for _, _, whole in listed:
        for file in whole:
            folder, name = os.path.split(file.path)
            draft.disk.taken(folder).release([name])
    for frame_id, files, whole in listed:
        written = draft.disk.sidecars_for(files)
        wanted = wanted_names(whole, written, called[frame_id])
        folder = os.path.dirname(files[0].path)
        renames = travel(draft, frame_id, whole, folder, Action.MOVE, written, wanted)
        if any(old != new for old, new in renames.items()):
            draft.frames += 1
            for sidecar in written:
                is_there = any(file.path == sidecar for file in files)
                write_name(
                    draft, frame_id, sidecar if is_there else None, renames[sidecar], files, moves=True
                )
    fit_links(draft)  # as long as each file goes straight to its name
    moves = [s for s in draft.steps if s.action is not Action.WRITE and s.source != s.target]
    draft.steps = [*in_turn(moves), *(s for s in draft.steps if s.action is Action.WRITE)]


def in_turn(moves: Sequence[Step]) -> list[Step]:
    """Moves in an order in which every name is free when its turn comes. Disks that take no notice of case count:
    there a file whose name changes in case alone is in its own way."""
    waiting = {fold(step.source or ""): step for step in moves}
    ordered: list[Step] = []
    for first in moves:
        step: Step | None = first
        chain: list[Step] = []
        while step is not None and fold(step.source or "") in waiting:
            chain.append(waiting.pop(fold(step.source or "")))
            step = waiting.get(fold(step.target))
        if not chain:
            continue
        last, start = chain[-1], chain[0]
        if fold(last.target) == fold(start.source or ""):
            aside = _aside(start, len(ordered))
            ordered += [replace(start, target=aside), *reversed(chain[1:]), replace(start, source=aside)]
        else:
            ordered += reversed(chain)
    return ordered


def _aside(step: Step, number: int) -> str:
    """A name in the same folder that no listing takes for a frame."""
    ending = split_name(os.path.basename(step.target))[1]
    return os.path.join(os.path.dirname(step.target), f".winnow-aside-{number}.{ending}")
