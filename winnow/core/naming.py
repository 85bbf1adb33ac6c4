"""Names for files that move: never one that is taken."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from winnow.core.pairing import split_name


def free_names(names: Sequence[str], base: str, taken: Collection[str]) -> list[str]:
    """New names for the files of one frame, none of which is in `taken`.

    All names start with `base` (the frame's base name) and get the same suffix `-2`, `-3`, …
    right after it, so that files of a frame stay recognisable as one. Names are compared without
    case: the target may be a disk that ignores it.
    """
    occupied = {name.casefold() for name in taken}
    number = 1
    while True:
        suffix = "" if number == 1 else f"-{number}"
        candidates = [base + suffix + name[len(base) :] for name in names]
        if not any(name.casefold() in occupied for name in candidates):
            return candidates
        number += 1


def common_base(names: Sequence[str]) -> str:
    """The base name that all files of a frame start with."""
    return min((split_name(name)[0] for name in names), key=len)
