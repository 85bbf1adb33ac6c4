"""Real small disks for the tests: memory file systems that can be filled, pulled out and put back. Mounting takes
root, or sudo without a password."""

from __future__ import annotations

import os
import subprocess
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

_ROOT = [] if os.geteuid() == 0 else ["sudo", "-n"]


def mount(*arguments: str | Path) -> None:
    subprocess.run([*_ROOT, "mount", *arguments], check=True)


def unmount(folder: Path) -> None:
    subprocess.run([*_ROOT, "umount", "--lazy", folder], check=True)


@contextmanager
def small_disk(folder: Path, megabytes: float = 256) -> Iterator[Path]:
    """A disk of some size, mounted at a folder."""
    folder.mkdir(parents=True, exist_ok=True)
    size = f"size={int(megabytes * 1024)}k,mode=0777"
    mount("-t", "tmpfs", "-o", size, "none", folder)
    try:
        yield folder
    finally:
        unmount(folder)


@contextmanager
def bound(source: Path, folder: Path) -> Iterator[Path]:
    """A folder that shows another: the same disk under a second mount."""
    folder.mkdir(parents=True, exist_ok=True)
    mount("--bind", source, folder)
    try:
        yield folder
    finally:
        unmount(folder)


@contextmanager
def pulled_out(folder: Path) -> Iterator[None]:
    """The folder is away for a while, as with a disk that is pulled out and put back."""
    away = folder.with_name(folder.name + ".away")
    folder.rename(away)
    try:
        yield
    finally:
        away.rename(folder)


def fill(folder: Path, leave: int = 0) -> Path:
    """Fills the disk of a folder up to some bytes; returns the file that does it."""
    filler = folder / "filler"
    free = os.statvfs(folder).f_bavail * os.statvfs(folder).f_frsize
    block = b"x" * 65536
    with filler.open("wb", buffering=0) as file:
        left = free - leave
        try:
            while left > 0:
                left -= file.write(block[: min(left, len(block))])
        except OSError:
            pass
    return filler
