"""Names for files that move: never one that is taken."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from unicodedata import combining

from winnow.core.pairing import fold, split_name


class TakenNames:
    """Names taken in a folder, folded: it may be on a disk that ignores case. Remembers how far the numbers of each
    base name have gone, so that the next free one is found without trying all before it."""

    def __init__(self, names: Iterable[str] = ()) -> None:
        self._names: set[str] = set()
        self._numbers: dict[tuple[str, ...], int] = {}
        self.add(names)

    def add(self, names: Iterable[str]) -> None:
        self._names.update(map(fold, names))

    def release(self, names: Iterable[str]) -> None:
        """Names that will be free: their files get others."""
        self._names.difference_update(map(fold, names))

    def take(self, names: Sequence[str], base: str) -> list[str]:
        """New names for the files of one frame, none of which was taken; they are from now on.

        All names start with `base` (the frame's base name, folded alike) and get the same suffix `-2`, `-3`, …
        right after it, so that files of a frame stay recognisable as one.

        >>> TakenNames(["TRN_0481.JPG"]).take(["TRN_0481.ARW", "TRN_0481.JPG"], "TRN_0481")
        ['TRN_0481-2.ARW', 'TRN_0481-2.JPG']
        """
        key = tuple(fold(name) for name in names)
        number = self._numbers.get(key, 1)
        halves = [split_base(name, base) for name in names]
        while True:
            suffix = "" if number == 1 else f"-{number}"
            candidates = [begins + suffix + rest for begins, rest in halves]
            if not any(fold(name) in self._names for name in candidates):
                self._numbers[key] = number + 1
                self.add(candidates)
                return candidates
            number += 1


def common_base(names: Sequence[str]) -> str:
    """The base name that all files of a frame start with."""
    return min((split_name(name)[0] for name in names), key=len)


def split_base(name: str, base: str) -> tuple[str, str]:
    """(how a name begins, the rest) of a name that begins with `base`, but for case and how accents are composed.

    >>> split_base("WIN_0002.MOV", "win_0002")
    ('WIN_0002', '.MOV')
    """
    end = len(base)
    if name[:end] != base or combining(name[end : end + 1] or " "):
        wanted = fold(base)
        end = max((n for n in range(1, len(name) + 1) if fold(name[:n]) == wanted), default=end)
    return name[:end], name[end:]
