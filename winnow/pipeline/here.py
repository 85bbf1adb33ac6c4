"""What is on the disks of this machine already, told by content: so that nothing is copied from a card twice."""

from __future__ import annotations

from collections import defaultdict
from itertools import chain
from pathlib import Path
from sqlite3 import Connection

from winnow.formats.fingerprint import content_of, contents_of
from winnow.pipeline.locks import contains
from winnow.store import frame_files, plans

STAMP_NS = 2_000_000_000
"""Cards (FAT) keep times to two seconds."""


class Here:
    """The files of all shoots, but for those below a folder (the card itself, where it was looked through before)."""

    def __init__(self, connection: Connection, elsewhere: str) -> None:
        self._unread: dict[int, list[str]] = defaultdict(list)
        self._stamps: set[tuple[int, int]] = set()
        # What was just copied may not have been listed yet.
        every = chain(frame_files.every_file(connection), plans.imported(connection))
        for path, size, mtime_ns in every:
            if not contains(elsewhere, path):
                self._unread[size].append(path)
                self._stamps.add((size, mtime_ns // STAMP_NS))
        self._sizes = set(self._unread)
        self._by_content: dict[str, str] = {}

    def seems_known(self, size: int, mtime_ns: int) -> bool:
        """Whether a file of this size and time is here: quick, for counting."""
        at = mtime_ns // STAMP_NS
        return any((size, time) in self._stamps for time in (at - 1, at, at + 1))

    def find(self, path: str, size: int) -> str | None:
        """Where the same file is: by its size and its first and last 64 KiB; what is not on disk any more does not
        count. Raises OSError where the file in question cannot be read."""
        if size not in self._sizes:
            return None
        waiting = self._unread.pop(size, [])
        for known, content in zip(waiting, contents_of(waiting), strict=True):
            if content:
                self._by_content[content] = known
        return self._by_content.get(content_of(Path(path)))
