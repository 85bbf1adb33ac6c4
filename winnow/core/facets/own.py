"""Facets with words of their own: labels, stars, names, time."""

from __future__ import annotations

import re
from datetime import UTC, datetime, timedelta

import numpy as np

from winnow.core.columns import Mask
from winnow.core.facets.kinds import (
    MOST_VALUES,
    Alternative,
    Counted,
    Ground,
    Named,
    Numbers,
    Span,
    Value,
    Word,
    counted,
    quoted,
    unquoted,
)
from winnow.core.globs import name_pattern
from winnow.core.labels import LabelSet
from winnow.core.marks import MAX_RATING
from winnow.core.pairing import fold


class LabelFacet:
    """The label of a frame: one of the person's, or a text that somebody else wrote."""

    name, title, prefix = "label", "Label", "label"
    ANY, NONE = Word("labelled"), Word("unlabelled")
    _named = Named("label", "Label", "label", "label")

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        for word in (self.ANY, self.NONE):
            if phrase.casefold() == word.text:
                return word
        found = self._named.read(phrase, labels)
        return Value(labels.id_of(found.text)) if isinstance(found, Value) else None

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        if isinstance(wanted, Word):
            return wanted.text
        assert isinstance(wanted, Value)
        return self._named.say(Value(labels.name_of(wanted.text)), labels)

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        texts = ground.columns.texts["label"]
        if isinstance(wanted, Word):
            return (texts.codes < 0) if wanted == self.NONE else (texts.codes >= 0)
        assert isinstance(wanted, Value)
        meant = ground.labels.id_of(wanted.text)
        codes = [code for code, text in enumerate(texts.words) if ground.labels.id_of(text) == meant]
        return np.isin(texts.codes, codes)

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        texts = ground.columns.texts["label"]
        here = counted(texts.codes, ground.here, len(texts.words))
        some = counted(texts.codes, among, len(texts.words))
        found = {label.id: 0 for label in ground.labels.labels}
        # Of texts that nobody defined, those on most frames.
        for code in sorted(np.flatnonzero(here).tolist(), key=lambda code: -int(here[code])):
            meant = ground.labels.id_of(texts.words[code])
            if meant in found or len(found) < MOST_VALUES:
                found[meant] = found.get(meant, 0) + int(some[code])
        offered = [Counted(self.say(Value(one), ground.labels), n, Value(one)) for one, n in found.items()]
        words = [
            Counted(word.text, int(np.count_nonzero(self.mask(word, ground) & among)), word)
            for word in (self.ANY, self.NONE)
        ]
        return offered + words

    def hints(self) -> list[str]:
        return [self.ANY.text, self.NONE.text, "label …"]


class RatingFacet:
    """Stars. 'or fewer' asks for rated frames: an unrated frame is not a frame of few stars."""

    name, title = "rating", "Stars"
    _pattern = re.compile(
        r"^(?P<a>[0-5])\s*(?:(?:–|-|\bto\b)\s*(?P<b>[0-5])\s*)?(?P<plus>\+)?\s*(?:stars?|★)"
        r"(?:\s+or\s+(?P<end>more|fewer|less))?$",
        re.IGNORECASE,
    )

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        if phrase.casefold() in ("unrated", "no stars"):
            return Span(0, 0)
        if phrase.casefold() == "rated":
            return Span(1, MAX_RATING)
        found = self._pattern.match(phrase)
        if found is None:
            return None
        a = int(found["a"])
        if found["plus"] or (found["end"] or "").casefold() == "more":
            return Span(a, MAX_RATING)
        if found["end"]:
            return Span(min(1, a), a)
        return Span(a, int(found["b"] or a))

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        assert isinstance(wanted, Span) and wanted.low is not None and wanted.high is not None
        low, high = int(wanted.low), int(wanted.high)
        if high == 0:
            return "unrated"
        if low == high:
            return _stars(low)
        if high == MAX_RATING and low > 0:
            return f"{_stars(low)} or more"
        return f"{_stars(high)} or fewer" if low == 1 else f"{low}–{high} stars"

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        assert isinstance(wanted, Span) and wanted.low is not None and wanted.high is not None
        rating = ground.columns.rating
        return (rating >= wanted.low) & (rating <= wanted.high)

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        counted = np.bincount(ground.columns.rating[among], minlength=MAX_RATING + 1)
        return [
            Counted(self.say(Span(n, n), ground.labels), int(counted[n]), Span(n, n))
            for n in range(MAX_RATING + 1)
        ]

    def hints(self) -> list[str]:
        return [
            "unrated",
            "rated",
            *(f"{n} star{'s' * (n > 1)} or more" for n in range(1, MAX_RATING)),
            "5 stars",
        ]


def _stars(n: int) -> str:
    return "1 star" if n == 1 else f"{n} stars"


class NameFacet:
    """The name of a frame, folders included: `name TMN_01*`; without a star, any name that holds the text."""

    name, title = "name", "Name"
    _prefix = re.compile(r"^name\s+", re.IGNORECASE)

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        found = self._prefix.match(phrase)
        if found is None:
            return None
        told = unquoted(phrase[found.end() :].strip())
        if not told:
            raise ValueError("Which name?")
        return Value(told)

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        assert isinstance(wanted, Value)
        return f"name {quoted(wanted.text, 'name ')}"

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        assert isinstance(wanted, Value)
        names = ground.columns.names
        told = fold(wanted.text)
        if not re.search(r"[*?]", told):
            return np.fromiter((told in fold(name) for name in names), np.bool_, len(names))
        fits = name_pattern(told)
        return np.fromiter((fits(fold(name)) for name in names), np.bool_, len(names))

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        return []

    def hints(self) -> list[str]:
        return ["name …"]


MINUTE = timedelta(minutes=1)
DAY = timedelta(days=1)


class TakenFacet(Numbers):
    """When a frame was taken, by the camera's clock: `taken on 2026-10-17`,
    `taken 2026-10-17 17:05 to 2026-10-17 18:00`."""

    _day = re.compile(r"^taken\s+on\s+(\d{4}-\d\d-\d\d)$", re.IGNORECASE)

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        day = self._day.match(phrase)
        if day is None:
            return super().read(phrase, labels)
        start = moment_of(day[1])
        return Span(start, start + DAY.total_seconds() - 1)

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        assert isinstance(wanted, Span)
        low, high = wanted.low, wanted.high
        day = DAY.total_seconds()
        if low is not None and high is not None and low % day == 0 and high == low + day - 1:
            return f"taken on {moment_said(low)[:10]}"
        return super().say(wanted, labels)


def moment_of(text: str) -> float:
    try:
        return datetime.fromisoformat(text.replace(" ", "T")).replace(tzinfo=UTC).timestamp()
    except ValueError as error:
        raise ValueError(f"'{text}' is no date: write it as 2026-10-17 17:05.") from error


def moment_said(moment: float) -> str:
    at = datetime.fromtimestamp(moment, UTC)
    return f"{at:%Y-%m-%d %H:%M}" + (f"{at:%H:%M:%S}"[5:] if at.second else "")


def clock_of(text: str) -> float:
    hours, minutes = map(int, text.split(":"))
    if hours > 23 or minutes > 59:
        raise ValueError(f"'{text}' is no time of day.")
    return hours * 60 + minutes
