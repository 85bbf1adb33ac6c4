"""Which pictures were made from others: an editing program saves its result beside the original, under a longer name.

Common practice, no source: the name of the original, then a separator, then words (`TMN_0412-edit.tif`). Figures
alone say nothing: bursts and copies are numbered that way.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from winnow.core.pairing import split_name

SEPARATOR = re.compile(r"[-_ .(]+")
WORD = re.compile(r"[^\W\d_]{2}")


@dataclass(frozen=True, slots=True)
class Saved:
    """The shown file of a frame: path below the shoot's folder, and when it was written, ns."""

    frame_id: int
    name: str
    written_ns: int


def edited(files: Iterable[Saved]) -> set[int]:
    """The frames beside which a newer file lies that was made from them, as its name says."""
    stems: dict[tuple[str, str], list[Saved]] = {}
    known = list(files)
    for file in known:
        stems.setdefault(_stem(file.name), []).append(file)
    found = set()
    for file in known:
        folder, stem = _stem(file.name)
        for separator in SEPARATOR.finditer(stem):
            if not WORD.search(stem, separator.end()):
                break
            originals = stems.get((folder, stem[: separator.start()]), ())
            found |= {one.frame_id for one in originals if one.written_ns < file.written_ns}
    return found


def _stem(name: str) -> tuple[str, str]:
    folder, _, file = name.rpartition("/")
    return folder, split_name(file)[0].casefold()
