"""Cards: volumes that a camera has written to, told by the layout of their folders.

Source: CIPA DC-009 (DCF 2.0): images lie in DCIM/100ABCDE, folders 100 to 999 with five free characters.
"""

from __future__ import annotations

import os
import re
from collections.abc import Collection, Iterable
from dataclasses import dataclass
from pathlib import Path
from sqlite3 import Connection

import psutil

from winnow.pipeline.here import Here
from winnow.pipeline.locks import contains
from winnow.pipeline.scan import FolderUnreadableError, date_at, list_folder, other_files
from winnow.store.frame_files import ListedFile, ListedFrame

DCIM = "DCIM"
MOUNTED_IN = ("/media", "/run/media", "/mnt", "/Volumes")
"""Where systems put the volumes that are plugged in: they lie in these, or in a folder of the person's in these."""

REMOTE = ("nfs", "cifs", "smb", "afp", "fuse.sshfs", "davfs", "9p", "ceph")
"""File systems on other machines: no card is one, and to ask one that does not answer may take for ever."""

_DCF = re.compile(r"[1-9]\d\d[0-9A-Z_]{5}", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Card:
    """A volume with frames. `path`: the folder to copy from; `new`: frames that are not here yet, as far as size and
    time tell; `latest`: when the last file was written, ISO 8601, UTC."""

    name: str
    path: str
    frames: int
    files: int
    bytes: int
    new: int
    latest: str | None


class Slots:
    """Where cards turn up. `extra`: folders whose sub-folders count as volumes, besides what the system mounts."""

    def __init__(self, extra: Iterable[str | Path] = ()) -> None:
        self.extra = [str(path) for path in extra]
        self._listed: dict[str, tuple[object, list[ListedFrame], list[ListedFile]]] = {}

    def cards(self, connection: Connection) -> list[Card]:
        """The cards that are in now, by name."""
        found = []
        for volume in self._volumes():
            folder = _dcim(volume)
            if folder is not None:
                try:
                    found.append(self.look(connection, folder, os.path.basename(volume)))
                except FolderUnreadableError:
                    continue  # pulled out meanwhile
        return sorted(found, key=lambda card: card.name)

    def look(self, connection: Connection, folder: str, name: str | None = None) -> Card:
        """What is in a folder, and how much of it is not here yet. Raises FolderUnreadableError."""
        listed, others = self._list(folder)
        here = Here(connection, folder)
        files = [*(file for frame in listed for file in frame.files), *others]
        new = sum(
            any(f.role != "sidecar" and not here.seems_known(f.size, f.mtime_ns) for f in frame.files)
            for frame in listed
        )
        latest = max(files, key=lambda file: file.mtime_ns, default=None)
        return Card(
            name or _name_of(folder),
            folder,
            len(listed),
            len(files),
            sum(file.size for file in files),
            new,
            date_at(latest.mtime_ns) if latest else None,
        )

    def card_around(self, path: str) -> str | None:
        """The card that a folder lies on, or None: nothing is ever written there."""
        real = os.path.realpath(path)
        volumes = [volume for volume in self._volumes() if contains(volume, real)]
        return next((volume for volume in volumes if _dcim(volume)), None)

    def _list(self, folder: str) -> tuple[list[ListedFrame], list[ListedFile]]:
        """Listed again where one of its folders has changed: a card that stays in is asked for every few seconds."""
        state = _state(folder)
        known = self._listed.get(folder)
        if known is None or known[0] != state:
            frames = list_folder(folder).frames
            known = self._listed[folder] = (state, frames, other_files(folder, frames))
        return known[1:]

    def _volumes(self) -> list[str]:
        every = psutil.disk_partitions(all=True)
        remote = {part.mountpoint for part in every if part.fstype.startswith(REMOTE)}
        mounted = [part.mountpoint for part in psutil.disk_partitions() if part.mountpoint != "/"]
        owned = (folder for place in MOUNTED_IN for folder in _inside(place, remote))
        places = [*self.extra, *MOUNTED_IN, *owned]
        inside = (volume for place in places for volume in _inside(place, remote))
        return list(dict.fromkeys([*mounted, *inside]))


def _name_of(folder: str) -> str:
    """What to call a folder that files come from: a card by its volume."""
    around, name = os.path.split(folder)
    return os.path.basename(around) if name.upper() == DCIM and around != "/" else name or folder


def _inside(folder: str, but: Collection[str] = ()) -> list[str]:
    """The folders in a folder. but: places that are not to be touched."""
    try:
        with os.scandir(folder) as entries:
            found = [entry.path for entry in entries if entry.path not in but and entry.is_dir()]
            return [os.path.realpath(path) for path in found]
    except OSError:
        return []


def _dcim(volume: str) -> str | None:
    """The folder of a volume that cameras write to, if there is one."""
    found = next((path for path in _inside(volume) if os.path.basename(path).upper() == DCIM), None)
    if found and any(_DCF.fullmatch(os.path.basename(path)) for path in _inside(found)):
        return found
    return None


def _state(folder: str) -> object:
    try:
        folders = [folder, *_inside(folder)]
        return [(path, os.stat(path).st_mtime_ns, os.stat(path).st_ino) for path in sorted(folders)]
    except OSError:
        return None
