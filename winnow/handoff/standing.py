"""What stands on disk while a plan is made or looked at again: every folder is listed once."""

from __future__ import annotations

import os
from collections.abc import Sequence
from dataclasses import dataclass, field
from stat import S_ISLNK, S_ISREG

from winnow.core.naming import TakenNames
from winnow.core.pairing import FrameFiles, Role, fold, pair, sidecar_name, split_name
from winnow.pipeline.scan import OTHER, mtime_of
from winnow.store.database import display
from winnow.store.frame_files import ListedFile


class UnreachableError(OSError):
    """A folder cannot be listed; the message is meant for a person."""


@dataclass(slots=True)
class _Folder:
    """The names in a folder; to which frame each file belongs; and the names by base, case ignored."""

    names: set[str] = field(default_factory=set)
    frames: dict[str, FrameFiles] = field(default_factory=dict)
    by_base: dict[str, list[str]] = field(default_factory=dict)


@dataclass(slots=True)
class Frame:
    """A frame's files as they are now; `gone` and `changed` name those that are not as they were listed."""

    files: list[ListedFile]
    gone: list[str] = field(default_factory=list)
    changed: list[str] = field(default_factory=list)


class Standing:
    """A look at the disk, kept for as long as one plan is made. full_names: new sidecars are called NAME.EXT.xmp."""

    def __init__(self, *, full_names: bool = False) -> None:
        self._full_names = full_names
        self._folders: dict[str, _Folder] = {}
        self._taken: dict[str, TakenNames] = {}
        self._looked_at: set[str] = set()

    def frame(self, listed: Sequence[ListedFile]) -> Frame:
        """The files of a frame that were listed, held against the disk. Sidecars count as they are now: those that
        came since belong to it, those that went are no loss, those that changed are read again."""
        found = Frame([])
        for file in listed:
            now = self._stat(file)
            if now is None:
                if file.role != Role.SIDECAR:
                    found.gone.append(file.path)
                continue
            if file.role != Role.SIDECAR and (now.size, now.mtime_ns) != (file.size, file.mtime_ns):
                found.changed.append(file.path)
            found.files.append(now)
        known = {file.path for file in found.files}
        for folder, frame in self._frames_of(listed):
            for sidecar in frame.sidecars:
                path = os.path.join(folder, sidecar)
                now = None if path in known else self._stat(ListedFile(path, Role.SIDECAR, 0, 0))
                if now is not None:
                    found.files.append(now)
        return found

    def beside(self, files: Sequence[ListedFile]) -> list[ListedFile]:
        """The files that are called as a frame is and are no part of it: see `core.pairing`."""
        paths = (
            os.path.join(folder, name) for folder, frame in self._frames_of(files) for name in frame.beside
        )
        found = (self._stat(ListedFile(path, OTHER, 0, 0)) for path in paths)
        return [file for file in found if file is not None]

    def sidecars_for(self, files: Sequence[ListedFile]) -> list[str]:
        """The paths of the sidecars that are to hold a frame's marks: all that it has, for different programs read
        differently named ones; else the one that it would get."""
        there = [file.path for file in files if file.role == Role.SIDECAR]
        if there:
            return there
        own = FrameFiles()
        for file in files:
            name = os.path.basename(file.path)
            if file.role == Role.RAW:
                own.raw = name
            else:
                own.picture = name
        folder = os.path.dirname(files[0].path)
        base = fold(split_name(own.raw or own.shown)[0])
        neighbours = self._folder(folder).by_base.get(base, [])
        return [os.path.join(folder, sidecar_name(own, neighbours, full=self._full_names))]

    def taken(self, folder: str) -> TakenNames:
        """Names taken in a folder, on disk or by the plan, which adds its own. Folders that a disk takes for one
        because it ignores case share them."""
        key = fold(folder)
        if folder not in self._looked_at:
            self._looked_at.add(folder)
            self._taken.setdefault(key, TakenNames()).add(self._folder(folder).names)
        return self._taken[key]

    def _frames_of(self, files: Sequence[ListedFile]) -> list[tuple[str, FrameFiles]]:
        """(folder, names) of what files make up by their names now: one frame, unless some of them went."""
        found: list[tuple[str, FrameFiles]] = []
        for folder, name in (os.path.split(file.path) for file in files):
            frame = self._folder(folder).frames.get(name)
            if frame is not None and (folder, frame) not in found:
                found.append((folder, frame))
        return found

    def _folder(self, path: str) -> _Folder:
        if path not in self._folders:
            try:
                names = set(os.listdir(path))
            except FileNotFoundError:
                names = set()
            except OSError as error:
                raise UnreachableError(f"{display(path)} cannot be read ({error.strerror}).") from error
            frames = {
                name: frame
                for frame in pair(names)
                for name in (frame.picture, frame.raw)
                if name is not None
            }
            by_base: dict[str, list[str]] = {}
            for name in names:
                by_base.setdefault(fold(split_name(name)[0]), []).append(name)
            self._folders[path] = _Folder(names, frames, by_base)
        return self._folders[path]

    def _stat(self, file: ListedFile) -> ListedFile | None:
        folder, name = os.path.split(file.path)
        if name not in self._folder(folder).names:
            return None
        try:
            stat = os.stat(file.path)
        except FileNotFoundError:
            # A link whose target is gone is still there itself.
            try:
                stat = os.lstat(file.path)
            except FileNotFoundError:
                return None
        if not (S_ISREG(stat.st_mode) or S_ISLNK(stat.st_mode)):
            return None  # a pipe or a device under the name of a file is no file
        return ListedFile(file.path, file.role, stat.st_size, mtime_of(stat))


def inside(folder: str, around: str) -> bool:
    """Whether a folder, which need not be there yet, lies in another: by what the disk says, not by its spelling."""
    while True:
        try:
            if os.path.samefile(folder, around):
                return True
        except OSError:
            pass
        parent = os.path.dirname(folder)
        if parent == folder:
            return False
        folder = parent
