"""Derived pictures on disk. The folder may be deleted at any time: all of it can be made again."""

from __future__ import annotations

import os
import tempfile
import time
from contextlib import suppress
from enum import StrEnum
from pathlib import Path

TINY_EDGE = 128
"""Small enough that a browser decodes a thousand of them at once."""
THUMBNAIL_EDGE = 512
MEDIUM_EDGE = 1280
"""As large as the stage of most screens: to decode it takes a browser a quarter of the time of a preview."""
PREVIEW_EDGE = 2560
FULL_SHARE = 0.125
"""Of the room for derived pictures, for those of all pixels."""


LOOKED_AT_S = 600
"""How exactly it is kept when a picture was last looked at."""


class Kind(StrEnum):
    """Derived pictures by size: 128, 512, 1280, 2560 px, all pixels; PLAIN: 2560 px, without the file's profile."""

    TINY = "tiny"
    THUMB = "thumb"
    MEDIUM = "medium"
    PREVIEW = "preview"
    FULL = "full"
    PLAIN = "plain"


class Cache:
    """Files named by the content version of the picture that they were made from."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder

    def path(self, kind: Kind, version: str) -> Path:
        return self.folder / kind / version[:2] / f"{version}.jpg"

    def has(self, kind: Kind, version: str) -> bool:
        try:
            return self.path(kind, version).stat().st_size > 0
        except FileNotFoundError:
            return False

    def read(self, kind: Kind, version: str) -> bytes | None:
        """A picture that is looked at now, None where there is none. When it was last looked at is kept with it."""
        path = self.path(kind, version)
        try:
            with path.open("rb") as file:
                stat = os.fstat(file.fileno())
                now = time.time()
                if now - stat.st_atime > LOOKED_AT_S:
                    with suppress(OSError):  # a full or write-protected disk keeps nobody from looking
                        os.utime(file.fileno(), ns=(int(now * 1e9), stat.st_mtime_ns))
                jpeg = file.read()
        except FileNotFoundError:
            return None
        return jpeg if _is_whole(jpeg) else None  # cut off by a power cut: it is made again

    def write(self, kind: Kind, version: str, jpeg: bytes) -> None:
        """Puts a picture in place at once, so that no reader ever meets half of one."""
        path = self.path(kind, version)
        path.parent.mkdir(parents=True, exist_ok=True)
        handle, temporary = tempfile.mkstemp(dir=path.parent, suffix=".part")
        try:
            with os.fdopen(handle, "wb") as file:
                file.write(jpeg)
            # Not synced, which would take longer than making it: a file that a power cut leaves empty or cut off is
            # found out when it is read.
            os.replace(temporary, path)
        except BaseException:
            Path(temporary).unlink(missing_ok=True)
            raise

    def versions(self, kind: Kind) -> set[str]:
        """All versions that are there: one listing instead of a question for each."""
        found = set()
        for folder in (self.folder / kind).glob("??"):
            with os.scandir(folder) as entries:
                found |= {
                    e.name.removesuffix(".jpg")
                    for e in entries
                    if e.name.endswith(".jpg") and e.stat().st_size
                }
        return found

    def trim(self, limit: int) -> int:
        """Forgets what was looked at longest ago until all takes at most `limit` bytes; returns what it takes.

        Pictures of all pixels, and those without their profile, get a share of it. Thumbnails, a twentieth of it all,
        give way last: without them a whole wall would have to be made anew.
        """
        files = {kind: self._files(kind) for kind in Kind}
        full = self._forget(files[Kind.FULL] + files[Kind.PLAIN], int(limit * FULL_SHARE), 0)
        small = files[Kind.TINY] + files[Kind.THUMB]
        thumbs = sum(size for _, size, _ in small)
        rest = self._forget(files[Kind.PREVIEW] + files[Kind.MEDIUM], limit, full + thumbs)
        return self._forget(small, limit, rest - thumbs)

    def _files(self, kind: Kind) -> list[tuple[float, int, Path]]:
        """(looked at, bytes, path) of all pictures of a kind."""
        found = []
        for path in (self.folder / kind).glob("??/*.jpg"):
            try:
                stat = path.stat()
            except FileNotFoundError:
                continue
            found.append((stat.st_atime, stat.st_size, path))
        return found

    def _forget(self, files: list[tuple[float, int, Path]], limit: int, beside: int) -> int:
        total = beside + sum(size for _, size, _ in files)
        for _, size, path in sorted(files):
            if total <= limit:
                break
            path.unlink(missing_ok=True)
            total -= size
        return total


def _is_whole(jpeg: bytes) -> bool:
    """Whether a JPEG has its beginning and its end (ISO/IEC 10918-1, B.2.1: SOI and EOI)."""
    return jpeg.startswith(b"\xff\xd8") and jpeg.endswith(b"\xff\xd9")
