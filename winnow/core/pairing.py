"""Which files of a folder are one frame.

A RAW file and a JPEG or HEIF of the same base name are one exposure (DCF, CIPA DC-009: same number
= same object in another format). Everything else is a frame of its own. Sidecars belong to the
frame they are named after: `NAME.EXT.xmp` to that file's, `NAME.xmp` to the base name's. So does whatever else is
called so: a spoken note, the film of a live photograph, what an editing program keeps beside a picture.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable
from dataclasses import dataclass, field
from enum import StrEnum
from unicodedata import normalize

from winnow.core.order import natural_key


class Role(StrEnum):
    """What a file is to its frame."""

    PICTURE = "picture"
    RAW = "raw"
    SIDECAR = "sidecar"


COMPANIONS = frozenset({"jpg", "jpeg", "jpe", "heic", "heif", "hif"})
"""Formats that cameras write beside a RAW file."""

PICTURES = COMPANIONS | {"png", "tif", "tiff"}

RAWS = frozenset(
    "3fr ari arw bay cap cr2 cr3 crw dcr dcs dng drf eip erf fff gpr iiq k25 kdc mdc mef mos mrw"
    " nef nrw orf pef ptx pxn raf raw rw2 rwl sr2 srf srw x3f".split()
)


@dataclass(slots=True)
class FrameFiles:
    """File names (within one folder) that make up one frame; `beside`: others that are called as it is."""

    picture: str | None = None
    raw: str | None = None
    sidecars: list[str] = field(default_factory=list)
    beside: list[str] = field(default_factory=list)

    @property
    def shown(self) -> str:
        """The file whose pixels stand for the frame: the picture where there is one."""
        name = self.picture or self.raw
        assert name is not None
        return name

    def items(self) -> list[tuple[str, Role]]:
        """The names that make it up, with their role."""
        named = [(self.picture, Role.PICTURE), (self.raw, Role.RAW)]
        files = [(name, role) for name, role in named if name is not None]
        return files + [(name, Role.SIDECAR) for name in self.sidecars]


def fold(text: str) -> str:
    """A name or path as disks see it that take no notice of case, nor of how accents are composed; texts are compared
    so too. Source: Unicode 15, 3.13 (caseless matching).

    >>> fold("Mu\u0308ller.JPG") == fold("m\u00fcller.jpg")
    True
    """
    return normalize("NFC", text).casefold()


def split_name(name: str) -> tuple[str, str]:
    """(base, lower-case extension without the dot) of a file name."""
    base, dot, extension = name.rpartition(".")
    return (base, extension.lower()) if dot and base else (name, "")


def role_of(name: str) -> Role | None:
    """The role that a file name announces, or None for files Winnow has no use for."""
    extension = split_name(name)[1]
    if name.startswith("."):
        return None
    if extension in PICTURES:
        return Role.PICTURE
    if extension in RAWS:
        return Role.RAW
    return Role.SIDECAR if extension == "xmp" else None


def pair(names: Iterable[str]) -> list[FrameFiles]:
    """The frames of one folder, in the natural order of their names."""
    by_base: dict[str, list[FrameFiles]] = defaultdict(list)
    sidecars, others, waiting = [], [], []
    for name in sorted(names, key=natural_key):
        role = role_of(name)
        base, extension = split_name(name)
        if role is Role.RAW:
            by_base[fold(base)].append(FrameFiles(raw=name))
        elif role is Role.SIDECAR:
            sidecars.append(name)
        elif role is Role.PICTURE and extension in COMPANIONS:
            waiting.append(name)
        elif role is Role.PICTURE:
            by_base[fold(base)].append(FrameFiles(picture=name))
        elif not name.startswith("."):
            others.append(name)
    for name in waiting:
        same_base = by_base[fold(split_name(name)[0])]
        partner = next((f for f in same_base if f.raw and not f.picture), None)
        if partner:
            partner.picture = name
        else:
            same_base.append(FrameFiles(picture=name))
    for name in sidecars:
        owner = _owner(split_name(name)[0], by_base)
        if owner:
            owner.sidecars.append(name)
    for name in others:
        owner = _owner(split_name(name)[0], by_base)
        if owner:
            owner.beside.append(name)
    frames = [frame for same_base in by_base.values() for frame in same_base]
    return sorted(frames, key=lambda frame: natural_key(frame.shown))


def _owner(target: str, by_base: dict[str, list[FrameFiles]]) -> FrameFiles | None:
    """The frame that a sidecar called `target`.xmp speaks of, or another file `target` with an ending."""
    base = split_name(target)[0]
    for frame in by_base.get(fold(base), []):
        named = {fold(n) for n in (frame.picture, frame.raw) if n}
        if fold(target) in named:
            return frame
    # Common practice, no source: programs write NAME.xmp for the RAW file, else for the JPEG.
    ranked = sorted(
        by_base.get(fold(target), []),
        key=lambda f: (f.raw is None, split_name(f.shown)[1] not in COMPANIONS),
    )
    return ranked[0] if ranked else None


def sidecar_name(frame: FrameFiles, neighbours: Iterable[str], *, full: bool = False) -> str:
    """The sidecar to write for a frame: the one it has, else `NAME.xmp`, else `NAME.EXT.xmp` where another frame
    among the folder's `neighbours` shares the base name, or where that is wished for (full)."""
    if frame.sidecars:
        return frame.sidecars[-1]
    shown = frame.raw or frame.shown
    base = fold(split_name(shown)[0])
    own = {name for name, _ in frame.items()}
    shared = any(
        name not in own and role_of(name) in (Role.PICTURE, Role.RAW) and fold(split_name(name)[0]) == base
        for name in neighbours
    )
    return f"{shown}.xmp" if full or shared else f"{split_name(shown)[0]}.xmp"
