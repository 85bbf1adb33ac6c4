"""Plans of files that come in: from a card, or any folder, to one folder or two that get the same.

The files are no frames yet: they become frames of the shoot as they arrive in its folder, by being listed there. Each
target becomes a bag (`formats.bag`): the files in `data/`, their sums beside it. What is here already is not copied.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from datetime import datetime
from pathlib import Path

from winnow.core.capture import Capture, from_tags
from winnow.core.file_names import Naming, Per, names
from winnow.core.labels import LabelSet
from winnow.core.marks import UNMARKED
from winnow.core.pairing import Role, split_name
from winnow.core.sorting import Into, folder_of
from winnow.core.tokens import About
from winnow.formats import bag, images
from winnow.formats.bag import PAYLOAD
from winnow.handoff.draft import Draft, PlanError, add_marks, first_name, travel, write_name
from winnow.handoff.kinds import demand_apart, side_by_side, wanted_names
from winnow.handoff.standing import inside
from winnow.pipeline.here import Here
from winnow.pipeline.scan import FolderUnreadableError, by_this_clock, date_at, list_folder, other_files
from winnow.store import frame_files, marks
from winnow.store.database import display
from winnow.store.frame_files import ListedFile, ListedFrame
from winnow.store.plans import Action, Step, StepState

READERS = 4
SORTED_INTO = (Into.NOTHING, Into.DAY, Into.CAMERA)
"""What can be told of a file before it is a frame."""


def take_in(draft: Draft) -> None:
    """The steps of an import."""
    wish = draft.wish
    if not wish.source or not wish.target:
        raise PlanError("Choose the folder that the files go to.")
    if wish.into not in SORTED_INTO:
        raise PlanError(
            "Files that come in can be sorted by day or by camera: the rest is not known of them yet."
        )
    draft.target = os.path.abspath(wish.target)
    for target in draft.targets:
        if inside(target, wish.source):
            raise PlanError(f"{display(target)} lies on the card: choose a folder on a disk.")
        try:
            bag.demand_ours(Path(target))
        except bag.BagError as error:
            raise PlanError(f"{display(target)}: {error} Choose another folder.") from error
    demand_apart(draft)
    coming = coming_from(wish.source, draft.warnings)
    here = Here(draft.connection, wish.source)
    fresh = [(frame, files) for frame in coming if (files := _fresh(draft, frame.files, here))]
    others = _fresh(draft, other_files(wish.source, coming), here)
    alone = _beside(draft, fresh, others)
    heads = heads_of([frame for frame, _ in fresh], wish.naming, wish.into)
    order = in_order(len(fresh), heads)
    called = new_names(
        [fresh[i][0] for i in order], [heads[i] for i in order], wish.naming, draft.shoot.title
    )
    marked = _marks_on_card(draft, [frame for frame, _ in fresh])
    for place, new in zip(order, called, strict=True):
        frame, files = fresh[place]
        below = os.path.dirname(os.path.relpath(frame.shown, wish.source)) if wish.keep_folders else ""
        folder = os.path.join(PAYLOAD, folder_for(heads[place], wish.into), below)
        _carry(draft, files, os.path.normpath(folder), new, marked.get(frame.shown))
        draft.frames += 1
    for file in alone:
        below = os.path.dirname(os.path.relpath(file.path, wish.source)) if wish.keep_folders else ""
        folder = os.path.join(
            PAYLOAD, folder_for(Capture(by_this_clock(date_at(file.mtime_ns))), wish.into), below
        )
        _carry(draft, [file], os.path.normpath(folder), None, None)
    if others:
        draft.warnings.append(
            f"{len(others)} other files (films, sound, the camera's own) are copied as well, as they are."
        )


def _beside(
    draft: Draft, fresh: Sequence[tuple[ListedFrame, list[ListedFile]]], others: Sequence[ListedFile]
) -> list[ListedFile]:
    """Puts files that are called as a frame is, as spoken notes are, with the files of that frame; returns the
    rest."""
    whose = {file.path: files for _, files in fresh for file in draft.disk.beside(files)}
    alone: list[ListedFile] = []
    for file in others:
        whose.get(file.path, alone).append(file)
    return alone


def coming_from(source: str, notes: list[str]) -> list[ListedFrame]:
    """The frames in a folder, with what could not be entered added to the notes. Raises PlanError."""
    try:
        listing = list_folder(source)
    except FolderUnreadableError as error:
        raise PlanError(str(error)) from error
    notes += listing.notes
    return listing.frames


def heads_of(coming: Sequence[ListedFrame], naming: Naming | None, into: Into) -> list[Capture]:
    """Capture data, as far as names or folders need it: reading it takes its time on a card."""
    if naming is None and into is Into.NOTHING:
        return [Capture()] * len(coming)
    with ThreadPoolExecutor(READERS) as readers:
        return list(readers.map(_head, (frame.shown for frame in coming)))


def _head(path: str) -> Capture:
    try:
        return from_tags(images.read_head(Path(path)).tags)
    except images.UnreadableError:
        return Capture()


def in_order(count: int, heads: Sequence[Capture]) -> list[int]:
    """Places in the order of shooting; those without a time stay behind the file before them."""
    times: list[str] = []
    for head in heads:
        times.append(head.captured_at or (times[-1] if times else ""))
    return sorted(range(count), key=lambda place: times[place])


def new_names(
    coming: Sequence[ListedFrame], heads: Sequence[Capture], naming: Naming | None, title: str
) -> list[str | None]:
    """What the files of each frame are to be called, without the endings. Raises PlanError."""
    if naming is None:
        return [None] * len(coming)
    if naming.per not in (Per.ALL, Per.DAY):
        raise PlanError("The counter can begin anew each day: scenes and labels are not known yet.")
    about = []
    for frame, head in zip(coming, heads, strict=True):
        base = split_name(os.path.basename(frame.shown))[0]
        about.append(
            About(
                datetime.fromisoformat(head.captured_at) if head.captured_at else None,
                head.camera or "",
                title,
                1,
                base,
                1,
                head.serial or "",
                number=base[len(base.rstrip("0123456789")) :],
            )
        )
    try:
        return list(names(naming, about))
    except ValueError as error:
        raise PlanError(str(error)) from error


def folder_for(head: Capture, into: Into) -> str:
    """The folder of a frame below the target, where they are sorted into folders."""
    return folder_of(
        into, LabelSet(), label=None, rating=0, captured_at=head.captured_at, scene=0, camera=head.camera
    )


def _fresh(draft: Draft, every: Sequence[ListedFile], here: Here) -> list[ListedFile]:
    """Those files that are not here yet, sidecars only beside others; what is here becomes steps that say where."""
    files = []
    for file in every:
        if file.role == Role.SIDECAR:
            files.append(file)
            continue
        try:
            where = here.find(file.path, file.size)
        except OSError:
            where = None  # copying it says why
        if where is None:
            files.append(file)
        else:
            skipped = Step(None, Action.COPY, file.path, where, file.size, state=StepState.SKIPPED)
            draft.steps.append(skipped)
    return files if any(file.role != Role.SIDECAR for file in files) else []


def _marks_on_card(draft: Draft, coming: Sequence[ListedFrame]) -> dict[str, int]:
    """Shown path → frame, of those that were marked while they were looked through on the card."""
    owners = frame_files.at_paths(draft.connection, [frame.shown for frame in coming])
    marked = marks.current(draft.connection, list(owners.values()))
    kept = {path: frame_id for path, frame_id in owners.items() if marked[frame_id] != UNMARKED}
    draft.rests_on = {frame_id: marked[frame_id] for frame_id in kept.values()}
    return kept


def _carry(draft: Draft, files: list[ListedFile], folder: str, new: str | None, frame_id: int | None) -> None:
    """The steps that take the files of one frame to all targets, with the marks that it has."""
    before = len(draft.steps)
    written = draft.disk.sidecars_for(files) if frame_id is not None or new is not None else []
    for target in draft.targets:
        place = os.path.join(target, folder)
        renames = travel(
            draft, frame_id, files, place, Action.COPY, written, wanted_names(files, written, new)
        )
        for sidecar in written:
            if frame_id is not None:
                marked = draft.rests_on[frame_id]
                was = first_name(files) if new is not None else None
                add_marks(draft, frame_id, files, sidecar, renames[sidecar], marked, Action.COPY, {}, was)
            else:
                source = sidecar if any(file.path == sidecar for file in files) else None
                write_name(draft, None, source, renames[sidecar], files, moves=False)
    draft.steps[before:] = side_by_side(draft.steps[before:])
