"""Names for files that move: never one that is taken."""

from __future__ import annotations

import unicodedata
from collections.abc import Container, Sequence

from winnow.core.pairing import split_name


def fold(name: str) -> str:
    """A name or path as disks see it that take no notice of case, nor of how accents are composed."""
    return unicodedata.normalize("NFC", name).casefold()


def free_names(names: Sequence[str], base: str, taken: Container[str]) -> list[str]:
    """New names for the files of one frame, none of which is in `taken`, which holds them folded: the target may be
    a disk that ignores case.

    All names start with `base` (the frame's base name) and get the same suffix `-2`, `-3`, …
    right after it, so that files of a frame stay recognisable as one.
    """
    number = 1
    while True:
        suffix = "" if number == 1 else f"-{number}"
        candidates = [base + suffix + name[len(base) :] for name in names]
        if not any(fold(name) in taken for name in candidates):
            return candidates
        number += 1


def common_base(names: Sequence[str]) -> str:
    """The base name that all files of a frame start with."""
    return min((split_name(name)[0] for name in names), key=len)
