"""What is on disk: a folder with its sub-folders as frames."""

from __future__ import annotations

import hashlib
import os
from collections.abc import Iterable
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from stat import S_ISFIFO, S_ISREG, S_ISSOCK

from winnow.core.order import natural_key
from winnow.core.pairing import FrameFiles, pair, role_of
from winnow.pipeline.locks import contains
from winnow.store.database import display
from winnow.store.frame_files import ListedFile, ListedFrame

HOLDING_MARKER = ".winnow-holding"
"""A folder with a file of this name holds rejects and is no part of any shoot."""


class FolderUnreadableError(OSError):
    """The folder of a shoot cannot be listed; the message is meant for a person."""


@dataclass(slots=True)
class Listing:
    """Frames found; what could not be entered, in words; and the folders (paths) of which nothing can be said."""

    frames: list[ListedFrame] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    closed: list[str] = field(default_factory=list)


def list_folder(root: str) -> Listing:
    """All frames below `root`. Raises FolderUnreadableError if the root itself cannot be read.

    Links are followed as long as they stay inside the root; each folder is entered once, so links
    that form a loop end.
    """
    listing = Listing()
    base = Path(root)
    inside = os.path.realpath(root)
    try:
        with os.scandir(base):
            pass
    except OSError as error:
        raise FolderUnreadableError(
            f"{display(root)} cannot be read ({error.strerror}). "
            "Connect the disk or change the permissions, then open it again."
        ) from error
    waiting = [base]
    entered = {_identity(base)}
    while waiting:
        folder = waiting.pop(0)
        files: dict[str, os.stat_result] = {}
        folders = []
        try:
            entries = sorted(os.scandir(folder), key=lambda entry: entry.name)
        except OSError as error:
            listing.notes.append(f"{_below(folder, base)}: {error.strerror}, not entered.")
            listing.closed.append(str(folder))
            continue
        if any(entry.name == HOLDING_MARKER for entry in entries):
            continue
        for entry in entries:
            if entry.name.startswith("."):
                continue
            path = folder / entry.name
            try:
                if entry.is_symlink() and not _stays_inside(path, inside):
                    listing.notes.append(
                        f"{_below(path, base)} is a link that leads out of the folder, not followed."
                    )
                elif entry.is_dir():
                    identity = _identity(path)
                    if identity not in entered:
                        entered.add(identity)
                        folders.append(path)
                elif role_of(entry.name) is not None:
                    stat = entry.stat()
                    if S_ISREG(stat.st_mode):
                        files[entry.name] = stat
                    else:
                        listing.notes.append(f"{_below(path, base)} is {_kind(stat)}, not a file: left out.")
            except OSError as error:
                listing.notes.append(f"{_below(path, base)}: {error.strerror}.")
        for frame in pair(files):
            listing.frames.append(_listed(frame, folder, base, files))
        waiting = sorted(folders, key=lambda p: natural_key(p.name)) + waiting
    return listing


OTHER = "other"
"""Role of a file that is part of no frame: a film, sound, a camera's own records."""


def other_files(root: str, frames: Iterable[ListedFrame]) -> list[ListedFile]:
    """The files below a folder that are part of none of its frames, by their paths; hidden ones and links left out.
    Folders that cannot be entered are those that `list_folder` has told of."""
    known = {file.path for frame in frames for file in frame.files}
    found = []
    for folder, folders, names in os.walk(root):
        folders[:] = sorted(name for name in folders if not name.startswith("."))
        for name in sorted(names):
            path = os.path.join(folder, name)
            if name.startswith(".") or path in known:
                continue
            try:
                stat = os.lstat(path)
            except OSError:
                continue  # gone again
            if S_ISREG(stat.st_mode):
                found.append(ListedFile(path, OTHER, stat.st_size, mtime_of(stat)))
    return found


def _listed(frame: FrameFiles, folder: Path, base: Path, stats: dict[str, os.stat_result]) -> ListedFrame:
    files = tuple(
        ListedFile(str(folder / name), role, stats[name].st_size, mtime_of(stats[name]))
        for name, role in frame.items()
    )
    shown = next(file for file in files if file.path == str(folder / frame.shown))
    return ListedFrame(
        name=_below(folder / frame.shown, base),
        shown=shown.path,
        version=provisional_version(shown.path, shown.size, shown.mtime_ns),
        files=files,
    )


def mtime_of(stat: os.stat_result) -> int:
    """Time of the last change, ns, within what the database can hold (a file may be dated anywhen)."""
    return max(-(2**63), min(2**63 - 1, stat.st_mtime_ns))


def date_of(stat: os.stat_result) -> str:
    """When a file was last changed, as `date_at` says it."""
    return date_at(stat.st_mtime_ns)


def date_at(mtime_ns: int) -> str:
    """A time of the last change: ISO 8601, UTC, as far as a calendar goes."""
    try:
        return datetime.fromtimestamp(mtime_ns / 1e9, UTC).isoformat(timespec="seconds")
    except (ValueError, OverflowError, OSError):
        return datetime.max.replace(tzinfo=UTC).isoformat(timespec="seconds")


def by_this_clock(at: str) -> str:
    """A time (ISO 8601, UTC) as the clock of this machine shows it: what is sorted or named by days goes by that.
    Cards keep the camera's own time without a zone (FAT), which systems take for theirs."""
    try:
        return datetime.fromisoformat(at).astimezone().isoformat(timespec="seconds")
    except (ValueError, OverflowError, OSError):  # at the end of the calendar
        return at


def provisional_version(path: str, size: int, mtime_ns: int) -> str:
    """What a frame goes by until its content is read."""
    text = b"%b\0%d\0%d" % (os.fsencode(path), size, mtime_ns)
    return hashlib.blake2b(text, digest_size=10).hexdigest()


def mount_of(folder: str) -> str:
    """The mount point that a folder lies on."""
    while not os.path.ismount(folder):
        folder = os.path.dirname(folder)
    return folder


def _kind(stat: os.stat_result) -> str:
    if S_ISFIFO(stat.st_mode):
        return "a pipe"
    return "a socket" if S_ISSOCK(stat.st_mode) else "a device"


def _identity(path: Path) -> tuple[int, int]:
    stat = path.stat()
    return stat.st_dev, stat.st_ino


def _stays_inside(path: Path, root: str) -> bool:
    return contains(root, os.path.realpath(path))


def _below(path: Path, base: Path) -> str:
    return display(path.relative_to(base))
