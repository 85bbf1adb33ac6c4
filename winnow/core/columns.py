"""What filters ask of frames, as columns: one place a frame in every array."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from winnow.core.marks import WORD_FIELDS, Decision
from winnow.core.warned import Warned

Mask = NDArray[np.bool_]

DECISIONS = tuple(Decision)
WARNINGS = tuple(Warned)

NUMBERS = ("sigma", "light", "focal", "aperture", "shutter", "iso", "taken")
"""Measured or told by the camera, NaN where not known. sigma: blur at the subject, px; light: stops to the group;
focal: mm; shutter: s; taken: seconds since 1970 by the camera's own clock, read as if it were UTC."""
TEXTS = ("label", "camera", "serial", "lens", "folder", "type", "people", *WORD_FIELDS)
"""people: numbers of the people of its scene that a frame shows, with a space between."""
FLAGS = (
    "lead",
    "unreadable",
    "noted",
    "copies",
    "again",
    "edited",
    "from_frame",
    "incoming",
    "unwritten",
    "proposed",
    "raw",
    "jpeg",
    "eyes_open",
    "away",
)
WHOLE = ("group", "scene", "faces", "width", "height")
"""faces: −1 before they are counted; width, height: 0 where not known."""


@dataclass(slots=True)
class Texts:
    """A column of texts: `codes` (−1: none) into `words`."""

    codes: NDArray[np.int32]
    words: list[str] = field(default_factory=list)
    known: dict[str, int] = field(default_factory=dict)

    def code(self, word: str | None) -> int:
        """The code of a text, a new one if it was not met before."""
        if word is None:
            return -1
        found = self.known.get(word)
        if found is None:
            found = self.known[word] = len(self.words)
            self.words.append(word)
        return found


@dataclass(slots=True)
class Columns:
    """n frames. decisions: index into `DECISIONS`; warnings: bit n for `WARNINGS[n]`; names: path of the shown file
    below the shoot's folder. The other arrays are as the lists above say."""

    decision: NDArray[np.int8]
    rating: NDArray[np.int8]
    warnings: NDArray[np.uint16]
    numbers: dict[str, NDArray[np.float64]]
    texts: dict[str, Texts]
    flags: dict[str, Mask]
    whole: dict[str, NDArray[np.int64]]
    names: list[str]

    @classmethod
    def empty(cls, n: int) -> Columns:
        """Room for n frames of which nothing is known."""
        return cls(
            np.zeros(n, np.int8),
            np.zeros(n, np.int8),
            np.zeros(n, np.uint16),
            {name: np.full(n, np.nan) for name in NUMBERS},
            {name: Texts(np.full(n, -1, np.int32)) for name in TEXTS},
            {name: np.zeros(n, np.bool_) for name in FLAGS},
            {name: np.full(n, -1 if name == "faces" else 0, np.int64) for name in WHOLE},
            [""] * n,
        )

    def __len__(self) -> int:
        return len(self.names)

    def enlarged(self, n: int) -> Columns:
        """The same frames, and room for n in all."""
        more = Columns.empty(n)
        old = len(self)
        for array, filled in zip(more._arrays(), self._arrays(), strict=True):
            array[:old] = filled
        for name, column in self.texts.items():
            more.texts[name].words, more.texts[name].known = column.words, column.known
        more.names[:old] = self.names
        return more

    def _arrays(self) -> list[NDArray[np.generic]]:
        texts = [column.codes for column in self.texts.values()]
        kinds = (self.numbers.values(), texts, self.flags.values(), self.whole.values())
        return [self.decision, self.rating, self.warnings, *(array for kind in kinds for array in kind)]
