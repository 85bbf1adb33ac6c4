"""Shoots whose folder lies elsewhere now: found by what is in it, and followed there with all their marks."""

from __future__ import annotations

import os
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from winnow.formats.fingerprint import contents_of
from winnow.pipeline.listing import is_gone
from winnow.pipeline.scan import list_folder
from winnow.store import bases, frame_files, listing, plans, shoots
from winnow.store.database import Database, display
from winnow.store.frame_files import ListedFrame
from winnow.store.shoots import Shoot

SAMPLE = 24
ALIKE_SHARE = 0.5
"""A folder counts as that of a shoot if at least this share of it is."""


class RelocationError(ValueError):
    """A folder that a shoot cannot be moved to; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Match:
    """How much of a shoot lies in a folder: frames of the shoot, how many of them are there, how many frames the
    folder has that the shoot does not."""

    frames: int
    found: int
    others: int


def match(database: Database, shoot: Shoot, folder: str) -> Match:
    """Counts what a folder holds of a shoot, by content; changes nothing. Raises FolderUnreadableError."""
    present, sizes = _present(database, shoot)
    listed = list_folder(folder).frames
    found = _count(listed, present, sizes)
    return Match(sum(present.values()), found, len(listed) - found)


def whose(database: Database, folder: str) -> tuple[Shoot, Match] | None:
    """The shoot whose folder is gone and whose frames lie in this one, if there is any."""
    every = shoots.every(database.connection())
    gone = [shoot for shoot in every if is_gone(database, shoot)]
    if not gone:
        return None
    listed = list_folder(folder).frames
    for shoot in gone:
        present, sizes = _present(database, shoot)
        alike = [frame for frame in listed if _shown_size(frame) in sizes]
        sample = alike[:: max(1, len(alike) // SAMPLE)]
        least = ALIKE_SHARE * min(len(listed), sum(present.values()))
        if not alike or len(alike) < least or _count(sample, present, sizes) < ALIKE_SHARE * len(sample):
            continue
        found = _count(listed, present, sizes)
        if found >= least:
            return shoot, Match(sum(present.values()), found, len(listed) - found)
    return None


def relocate(database: Database, shoot: Shoot, folder: Path) -> None:
    """The shoot's folder is this one from now on: files, what was agreed on with sidecars, and plans follow. Raises
    RelocationError. What lies there is read by the next listing."""
    if len(shoot.folders) != 1:
        raise RelocationError("This shoot has several folders: move them one by one.")
    folder_id, old = shoot.folders[0]
    new = str(folder)
    with database.transaction() as connection:
        other = shoots.of_folder(connection, folder)
        if other is not None and other != shoot.id:
            raise RelocationError(
                f"{display(new)} is a shoot of its own already, with its own marks: choose another folder."
            )
        shoots.set_folder(connection, folder_id, folder)
        shoots.show(connection, shoot.id)
        places = [(old, new)]
        for ending in (" (held back)", *(f" (held back {n})" for n in range(2, 6))):
            if os.path.isdir(new + ending) and not os.path.isdir(old + ending):
                places.append((old + ending, new + ending))
        for before, after in places:
            frame_files.relocate_files(connection, shoot.id, before, after)
            bases.relocate(connection, shoot.id, before, after)
            plans.relocate(connection, shoot.id, before, after)


def _present(database: Database, shoot: Shoot) -> tuple[Counter[str], set[int]]:
    """Contents of the frames that are or were in the shoot's folder, and the sizes of their shown files."""
    known = listing.remembered(database.connection(), shoot.id).values()
    there = [frame for frame in known if frame.place in ("shoot", "missing") and frame.shown]
    contents = Counter(frame.known.content for frame in there if frame.known.content)
    return contents, {frame.files[frame.shown][0] for frame in there if frame.shown}


def _count(listed: Sequence[ListedFrame], present: Counter[str], sizes: set[int]) -> int:
    candidates = [frame.shown for frame in listed if _shown_size(frame) in sizes]
    return (Counter(filter(None, contents_of(candidates))) & present).total()


def _shown_size(frame: ListedFrame) -> int:
    return next(file.size for file in frame.files if file.path == frame.shown)
