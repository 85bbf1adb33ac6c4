"""Names of files by a pattern: `{subject}_{date:%Y%m%d}_{counter:4}`.

Tokens are those of `core.tokens`; any other word in braces is a free word, which the person says once for all.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum

from winnow.core.naming import split_base
from winnow.core.sorting import safe_name
from winnow.core.tokens import TOKENS, About, fill

LONGEST = 200
_FREE = re.compile(r"\{([a-z]{1,30})\}")


class Per(StrEnum):
    """Where the counter begins again."""

    ALL = "all"
    DAY = "day"
    SCENE = "scene"
    LABEL = "label"


@dataclass(frozen=True, slots=True)
class Naming:
    """A pattern, what its free words are, and how its counter goes. Raises ValueError for a pattern that names
    nothing."""

    pattern: str
    words: Mapping[str, str] = field(default_factory=dict)
    start: int = 1
    step: int = 1
    per: Per = Per.ALL

    def __post_init__(self) -> None:
        if not self.pattern.strip():
            raise ValueError("Say how the files are to be called: {subject}_{counter:4}.")
        if len(self.pattern) > LONGEST:
            raise ValueError(f"A pattern has at most {LONGEST} characters.")
        if self.step < 1 or self.start < 0:
            raise ValueError("The counter begins at 0 or more, and goes up.")


def free_words(pattern: str) -> list[str]:
    """The words in a pattern that the person has to say."""
    return [word for word in dict.fromkeys(_FREE.findall(pattern)) if word not in TOKENS]


def names(naming: Naming, frames: Sequence[About]) -> list[str]:
    """The name of each frame's files, without the endings, in the order of the frames. Raises ValueError for a free
    word that was not said."""
    for word in free_words(naming.pattern):
        if not naming.words.get(word, "").strip():
            raise ValueError(f"Say what {{{word}}} is.")
    counts: dict[str, int] = defaultdict(int)
    found = []
    for frame in frames:
        key = _restarts(naming.per, frame)
        counter = naming.start + naming.step * counts[key]
        counts[key] += 1
        said = _FREE.sub(lambda one: naming.words.get(one[1], one[0]), naming.pattern)
        found.append(safe_name(fill(said, replace(frame, counter=counter))))
    return found


def _restarts(per: Per, frame: About) -> str:
    match per:
        case Per.DAY:
            return str(frame.taken.date()) if frame.taken else ""
        case Per.SCENE:
            return str(frame.scene)
        case Per.LABEL:
            return frame.label
        case Per.ALL:
            return ""


def renamed(file: str, old: str, new: str) -> str:
    """The name of one of a frame's files. old, new: what all of its files begin with."""
    return new + split_base(file, old)[1]
