"""Stacks: a frame with the edited files that came of it. An editing program saves its result beside the original.

Common practice, no source: under the name of the original, then a separator, then words (`TMN_0412-edit.tif`), or
under the very name with the ending of another format. Figures alone say nothing: bursts and copies are numbered
that way. And cameras number their files: 'Anna & Ben' did not come of 'Anna', but 'Anna-edit' did.
"""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import dataclass

from winnow.core.pairing import COMPANIONS, PICTURES, fold, split_name

SEPARATOR = re.compile(r"[-_ .(]+")
WORD = re.compile(r"[^\W\d_]{2}")
SAID = re.compile(r"(?:edit|edited|retouch|retouched|final|bw|crop|cropped|web|print)\b")
"""Words that say so themselves, where the original has no number."""
EDITED_ONLY = PICTURES - COMPANIONS
"""Formats in which cameras hardly write, and editing programs do."""
LATER_NS = 60 * 10**9
"""A file of the very name is an edited one if it is so much newer: a camera writes two formats at one time."""


@dataclass(frozen=True, slots=True)
class Saved:
    """The shown file of a frame: path below the shoot's folder, when it was written, ns, and its fingerprint."""

    frame_id: int
    name: str
    written_ns: int
    content: str | None = None


def stacks(files: Iterable[Saved]) -> dict[int, int]:
    """Edited file → the frame it came of: both by the id of their frames. What was made of an edited file in turn
    belongs to the frame at the bottom."""
    stems: dict[tuple[str, str], list[Saved]] = {}
    known = list(files)
    for file in known:
        stems.setdefault(_stem(file.name), []).append(file)
    made_of: dict[int, int] = {}
    for file in known:
        original = _original(file, stems)
        if original is not None:
            made_of[file.frame_id] = original
    return {one: _bottom(one, made_of) for one in made_of}


def _original(file: Saved, stems: dict[tuple[str, str], list[Saved]]) -> int | None:
    """The file that one was made from, the one with the longest name that its own begins with. An original is older
    than what was made from it, so there are no circles."""
    folder, stem = _stem(file.name)
    found = None
    for separator in SEPARATOR.finditer(stem):
        if not WORD.search(stem, separator.end()):
            break
        if not stem[: separator.start()][-1:].isdigit() and not SAID.match(stem, separator.end()):
            continue
        older = [
            one
            for one in stems.get((folder, stem[: separator.start()]), ())
            if one.written_ns < file.written_ns and not (one.content and one.content == file.content)
        ]
        found = min(older, key=_as_original) if older else found
    if found is None and _ending(file) in EDITED_ONLY:
        same = [
            one
            for one in stems[folder, stem]
            if _ending(one) not in EDITED_ONLY and one.written_ns + LATER_NS < file.written_ns
        ]
        found = min(same, key=_as_original, default=None)
    return found.frame_id if found else None


def _as_original(file: Saved) -> tuple[bool, int]:
    return _ending(file) in EDITED_ONLY, file.frame_id


def _bottom(frame_id: int, made_of: dict[int, int]) -> int:
    while frame_id in made_of:
        frame_id = made_of[frame_id]
    return frame_id


def _ending(file: Saved) -> str:
    return split_name(file.name)[1]


def _stem(name: str) -> tuple[str, str]:
    folder, _, file = name.rpartition("/")
    return folder, fold(split_name(file)[0])
