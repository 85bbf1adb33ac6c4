"""A copy held against its manifest, long after: what is still as it was copied."""

from __future__ import annotations

import os
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from winnow.core.pairing import Role, role_of
from winnow.formats import bag
from winnow.formats.bag import BagError
from winnow.handoff.files import digest_of


@dataclass(slots=True)
class Verified:
    """`sound`: files that are to the byte as they were copied. Paths below the bag: `changed`, `missing`,
    `unreadable` with why, `sidecars` that were written since, `more` that were not part of the copy. `tags`: files of
    the bag itself that were changed."""

    sound: int = 0
    changed: list[str] = field(default_factory=list)
    missing: list[str] = field(default_factory=list)
    unreadable: list[tuple[str, str]] = field(default_factory=list)
    sidecars: list[str] = field(default_factory=list)
    more: list[str] = field(default_factory=list)
    tags: list[str] = field(default_factory=list)

    @property
    def failed(self) -> int:
        return len(self.changed) + len(self.missing) + len(self.unreadable)

    @property
    def whole(self) -> bool:
        """Every picture that was copied is there, to the byte, and so is the manifest."""
        return not (self.failed or self.tags)


def bag_around(folder: Path) -> Path:
    """The bag that a folder is, or lies in. Raises BagError."""
    for place in (folder, *folder.parents):
        if (place / bag.MANIFEST).is_file():
            return place
    raise BagError(
        f"There is no {bag.MANIFEST} in {folder} nor around it: only what was copied with a manifest can be verified."
    )


def verify(folder: Path, report: Callable[[int, int], None] = lambda done, total: None) -> Verified:
    """Reads every file of a bag again, from its medium. Raises BagError, or OSError."""
    sums = bag.manifest_of(folder)
    found = Verified(tags=bag.tags_differ(folder))
    for number, (path, digest) in enumerate(sums.items()):
        report(number, len(sums))
        try:
            now = digest_of(str(folder / path), from_disk=True)
        except FileNotFoundError:
            found.missing.append(path)
        except OSError as error:
            found.unreadable.append((path, error.strerror or "it cannot be read"))
        else:
            if now == digest:
                found.sound += 1
            elif role_of(os.path.basename(path)) is Role.SIDECAR:
                found.sidecars.append(path)
            else:
                found.changed.append(path)
    report(len(sums), len(sums))
    there = (path for path in (folder / bag.PAYLOAD).rglob("*") if path.is_file())
    found.more = sorted({str(path.relative_to(folder)) for path in there} - sums.keys())
    return found
