"""Folders in use: a listing must not see half a plan, and two plans must not meet in one folder."""

from __future__ import annotations

import os
import threading
from collections.abc import Collection, Iterator
from contextlib import contextmanager


class FolderLocks:
    """Locks by folder. Whoever holds one holds all below it, so overlapping shoots wait for each other and others
    do not."""

    def __init__(self) -> None:
        self._held: list[frozenset[str]] = []
        self._changed = threading.Condition()

    @contextmanager
    def holding(self, folders: Collection[str]) -> Iterator[None]:
        """Waits until nobody holds any of the folders, a folder in them or a folder around them."""
        mine = frozenset(os.path.realpath(folder) for folder in folders)
        with self._changed:
            self._changed.wait_for(lambda: not any(_overlap(mine, held) for held in self._held))
            self._held.append(mine)
        try:
            yield
        finally:
            with self._changed:
                self._held.remove(mine)
                self._changed.notify_all()


def _overlap(some: frozenset[str], others: frozenset[str]) -> bool:
    return any(contains(a, b) or contains(b, a) for a in some for b in others)


def contains(folder: str, path: str) -> bool:
    """Whether a path is a folder or lies below it, by name."""
    return path == folder or path.startswith(folder.rstrip(os.sep) + os.sep)
