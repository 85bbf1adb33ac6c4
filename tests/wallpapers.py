"""Photographs of 3 to 24 megapixels by many people, out of packages of Debian: fetched through the package manager
into a cache folder, pinned by checksum, never part of this repository.

What is true of each was seen at 100 %: nobody shook any of them. (Licences: `copyright` in the packages, CC BY-SA.)
"""

from __future__ import annotations

import fcntl
import hashlib
import os
import subprocess
from functools import cache
from pathlib import Path

import cv2
import numpy as np

CACHE = Path(os.environ.get("XDG_CACHE_HOME", Path.home() / ".cache")) / "winnow-tests"
VERSION = "20.04.0-2"
PACKAGES = {
    "lomiri-wallpapers-16.04": "a99ff6a3bfe451e4cc0682ecb3cc82e71740626d59e4845ae34a0a0e45421eab",
    "lomiri-wallpapers-20.04": "d44e89b8473aafe64a5b678f014862dc31335aaaf18665c544d985d854f1a709",
}
BELOW = "usr/share/backgrounds"

PHOTOGRAPHS = {
    "aitzgorri_by_Aitzol_Berasategi.jpg": "a hill, sharp throughout; grass and leaves",
    "analogpattern_by_Peter_Nerlich.jpg": "a rough wall, sharpened by the camera; nothing but texture",
    "Dragonfly_by_Bolly.jpg": "sharp at the insect, leaves behind it far out of focus",
    "friends_by_Aitzol_Berasategi.jpg": "two dogs, sharp; boards and blinds around them",
    "greentock_by_Peter_Nerlich.jpg": "a clock, sharp in front only; large plain parts, a fine mesh",
    "Kleiber_by_Lukas_Baubkus.jpg": "bird and bark sharp, the rest far out of focus",
    "life_by_Aitzol_Berasategi.jpg": "a brook, sharp; the falling water is smeared by itself",
    "picosdeeuropa_by_Aitzol_Berasategi.jpg": "rocks, sharp throughout; noise reduction",
    "Picture_0B_by_freespace.jpg": "a fig on stone, sharp throughout",
    "seeding_by_Clements_Engelhardt.jpg": "one flower sharp, all else out of focus",
    "sunset_by_Aitzol_Berasategi.jpg": "hazy; snow drawn out by the wind",
    "Wine_by_Jakkub_Mede.jpg": "a room by lamplight, a little soft; floor of cork",
}
"""Seen while shake was worked on."""

HELD_BACK = {
    "Bridge_by_Sander_Klootwijk.jpg": "two pairs of cables before a plain sky, sharp",
    "free_by_Peter_Nerlich.jpg": "a toy bird on a spring, sharp; burnt lamps",
    "Infinite-Sea_by_Aury88.jpg": "stars over a drawn sea, a composite; soft at 100 %",
    "Picture_1A_by_freespace.jpg": "brushes: bristles all in one direction, sharp in front",
}
"""Not looked at before the first figures on them were taken."""

GRAPHICS = {
    "Fossa_by_Jasper_Roks.jpg": "smooth shades with a few drawn edges",
    "Painting-Colors_by__herobrine7gamer.jpg": "flat stripes",
    "umang_by_Abhishek_Mudgal.jpg": "smooth shades",
}
"""No photographs: nothing in them was in front of a lens."""


@cache
def grey(name: str, long_edge: int) -> np.ndarray:
    """A picture as brightness, 0 to 255, float, reduced to a long edge."""
    return _read(name, long_edge, cv2.IMREAD_GRAYSCALE).astype(np.float64)


@cache
def colour(name: str, long_edge: int) -> np.ndarray:
    """The same in RGB, whole numbers."""
    return _read(name, long_edge, cv2.IMREAD_COLOR_RGB)


def _read(name: str, long_edge: int, mode: int) -> np.ndarray:
    path = next(folder / name for folder in _folders() if (folder / name).is_file())
    picture = cv2.imread(str(path), mode)
    assert picture is not None, name
    scale = long_edge / max(picture.shape)
    if scale < 1:
        picture = cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    return np.asarray(picture)


@cache
def _folders() -> list[Path]:
    CACHE.mkdir(parents=True, exist_ok=True)
    found = []
    with open(CACHE / "lock", "w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)  # tests run in several processes
        for package, digest in PACKAGES.items():
            unpacked = CACHE / f"{package}_{VERSION}"
            if not unpacked.is_dir():
                _fetch(package, digest, unpacked)
            found.append(unpacked / BELOW)
    return found


def _fetch(package: str, digest: str, target: Path) -> None:
    command = ["apt-get", "download", "-q", f"{package}={VERSION}"]
    done = subprocess.run(command, cwd=CACHE, capture_output=True, text=True)
    if done.returncode != 0:  # the lists of packages may be missing or old
        subprocess.run(
            [*([] if os.geteuid() == 0 else ["sudo"]), "apt-get", "update", "-q"], capture_output=True
        )
        done = subprocess.run(command, cwd=CACHE, capture_output=True, text=True)
    assert done.returncode == 0, f"{package} could not be fetched: {done.stderr}"
    (archive,) = CACHE.glob(f"{package}_*.deb")
    assert hashlib.sha256(archive.read_bytes()).hexdigest() == digest, (
        f"{package} is not the one that was pinned"
    )
    unfinished = target.with_suffix(".unfinished")
    subprocess.run(["dpkg-deb", "-x", archive, unfinished], check=True)
    unfinished.rename(target)
    archive.unlink()
