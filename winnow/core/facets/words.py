"""Facets of the words on frames: what a caption says, which keywords there are."""

from __future__ import annotations

import json
from collections import Counter
from dataclasses import dataclass

import numpy as np

from winnow.core.columns import Mask
from winnow.core.facets.kinds import (
    MOST_VALUES,
    Alternative,
    Counted,
    Ground,
    Value,
    Word,
    counted,
    quoted,
    unquoted,
)
from winnow.core.labels import LabelSet
from winnow.core.pairing import fold
from winnow.core.words import parts


@dataclass(frozen=True)
class Worded:
    """A facet of words. name: of the column too; prefix: of its phrases; exact: one whole text of a list is asked
    for (a keyword, a creator), else a part of what is written."""

    name: str
    title: str
    prefix: str
    some: str
    none: str
    exact: bool = False

    @property
    def words(self) -> tuple[str, str]:
        return self.some, self.none

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        told = phrase.casefold()
        for word in self.words:
            if told == word or f"with {told}" == word:  # the grammar takes 'with' for its own
                return Word(word)
        start = self.prefix + " "
        if not told.startswith(start):
            return None
        text = unquoted(phrase[len(start) :].strip())
        if not text:
            raise ValueError(f"Which {self.prefix}?")
        return Value(text)

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        if isinstance(wanted, Word):
            return wanted.text
        assert isinstance(wanted, Value)
        return f"{self.prefix} {quoted(wanted.text, self.prefix + ' ')}"

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        texts = ground.columns.texts[self.name]
        if isinstance(wanted, Word):
            return (texts.codes >= 0) if wanted.text == self.some else (texts.codes < 0)
        assert isinstance(wanted, Value)
        told = fold(wanted.text)
        codes = [code for code, held in enumerate(texts.words) if self._says(held, told)]
        return np.isin(texts.codes, codes)

    def _says(self, held: str, told: str) -> bool:
        said = [fold(part) for part in parts(self.name, held)]
        return told in said if self.exact else any(told in part for part in said)

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        found = [
            Counted(word, int(np.count_nonzero(self.mask(Word(word), ground) & among)), Word(word))
            for word in self.words
        ]
        if not self.exact:
            return found
        texts = ground.columns.texts[self.name]
        here = counted(texts.codes, ground.here, len(texts.words))
        some = counted(texts.codes, among, len(texts.words))
        everywhere: Counter[str] = Counter()
        shown: Counter[str] = Counter()
        written: dict[str, str] = {}
        for code in np.flatnonzero(here).tolist():
            items = {fold(item): item for item in json.loads(texts.words[code])}
            for told, item in items.items():
                written[told] = min(item, written.get(told, item))
                everywhere[told] += int(here[code])
                shown[told] += int(some[code])
        most = sorted(told for told, _ in everywhere.most_common(MOST_VALUES))
        return found + [
            Counted(self.say(Value(written[told]), ground.labels), shown[told], Value(written[told]))
            for told in most
        ]

    def hints(self) -> list[str]:
        return [*self.words, f"{self.prefix} …"]
