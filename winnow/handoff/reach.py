"""Whether the places that a plan works on can be reached: a disk that is gone is not a file that is gone.

Each plan remembers its anchors: the folders of the shoot, and what there was of the target when it was made, each
with the mount point that it lay on. As long as one of them is away, nothing is concluded from what is not there, and
nothing is made in its place.
"""

from __future__ import annotations

import os
from contextlib import suppress
from dataclasses import dataclass

from winnow.pipeline.scan import mount_of
from winnow.store.database import display


class StoppedError(Exception):
    """The plan stopped cleanly; the message says why and what can be done."""


@dataclass(frozen=True, slots=True)
class Anchor:
    """A folder that must be there, and the mount point above it."""

    path: str
    mount: str


def anchor_of(path: str) -> Anchor:
    """The nearest folder at or above a path that is there now."""
    found = path
    while not os.path.isdir(found):
        found = os.path.dirname(found)
    return Anchor(found, mount_of(found))


def demand(anchors: list[Anchor]) -> None:
    """Raises StoppedError if one of the places cannot be reached."""
    for anchor in anchors:
        if not os.path.isdir(anchor.path) or not os.path.ismount(anchor.mount):
            raise StoppedError(
                f"{display(anchor.path)} cannot be reached: is its disk connected? "
                "Connect it and go on, or roll back."
            )


def demand_folder(folder: str) -> None:
    """The same for a folder that the plan itself has filled."""
    if not os.path.isdir(folder):
        raise StoppedError(
            f"{display(folder)}, where the files of this plan went, cannot be reached: is its disk connected? "
            "Connect it and go on."
        )


def make_folder(folder: str, anchors: list[Anchor]) -> None:
    """Makes a folder below one of the anchors, and nothing above them: a disk that is gone must not be stood in for
    by a folder of its name."""
    if os.path.isdir(folder):
        return
    demand(anchors)
    missing = []
    while not os.path.isdir(folder):
        missing.append(folder)
        folder = os.path.dirname(folder)
    if any(anchor.path in missing for anchor in anchors):
        demand(anchors)
    for path in reversed(missing):
        with suppress(FileExistsError):
            os.mkdir(path)
