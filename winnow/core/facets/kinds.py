"""What can be asked of frames: each facet has phrases, a meaning, and counts.

A phrase reads and says one alternative of one facet; no two facets share a phrase.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from itertools import pairwise
from typing import Protocol, TypeAlias

import numpy as np
from numpy.typing import NDArray

from winnow.core.columns import DECISIONS, Columns, Mask
from winnow.core.labels import LabelSet
from winnow.core.marks import Decision
from winnow.core.pairing import fold


@dataclass(frozen=True, slots=True)
class Word:
    """A phrase that stands for itself: `keepers`."""

    text: str


@dataclass(frozen=True, slots=True)
class Value:
    """A text of the frames: a camera, the id of a label, a pattern for names."""

    text: str


@dataclass(frozen=True, slots=True)
class Span:
    """From `low` to `high`, both included; None: open."""

    low: float | None
    high: float | None

    def __post_init__(self) -> None:
        if self.low is not None and self.high is not None and self.low > self.high:
            raise ValueError("The first figure of a range is the smaller one.")
        if self.low is None and self.high is None:
            raise ValueError("A range has at least one end.")


Alternative: TypeAlias = Word | Value | Span


class Ground:
    """The frames that filters are asked of. here: those in the shoot's place; the others neither pass nor count."""

    def __init__(self, columns: Columns, here: Mask, labels: LabelSet) -> None:
        self.columns, self.here, self.labels = columns, here, labels

    def in_scene(self, which: Mask) -> NDArray[np.int64]:
        """For each frame, how many frames of a kind are in its scene."""
        scenes = self.columns.whole["scene"]
        return np.bincount(scenes, which & self.here).astype(np.int64)[scenes]

    @cached_property
    def _groups(self) -> NDArray[np.int64]:
        """A number from 0 for the group of each frame."""
        return np.unique(self.columns.whole["group"], return_inverse=True)[1]

    def in_group(self, which: Mask) -> NDArray[np.int64]:
        """For each frame, how many frames of a kind are in its group."""
        return np.bincount(self._groups, which & self.here).astype(np.int64)[self._groups]

    @cached_property
    def group_size(self) -> NDArray[np.int64]:
        return self.in_group(self.here)

    def decided(self, decision: Decision) -> Mask:
        which: Mask = self.columns.decision == DECISIONS.index(decision)
        return which


@dataclass(frozen=True, slots=True)
class Counted:
    """How many frames an alternative would show."""

    phrase: str
    count: int
    wanted: Alternative


class Facet(Protocol):
    """One thing that can be asked of frames."""

    @property
    def name(self) -> str: ...

    @property
    def title(self) -> str:
        """What it is called on screen."""

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        """What a phrase asks for; None if it is none of this facet. Raises ValueError with what is wrong in it."""

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        """The phrase for it. Reads as the same again."""

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        """Which frames are so."""

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        """How many of some frames each alternative shows: words, values that occur, or bars of a histogram."""

    def hints(self) -> list[str]:
        """Beginnings and examples of its phrases, for whoever types."""


Test: TypeAlias = Callable[[Ground], Mask]


@dataclass(frozen=True)
class Choice:
    """A facet of words. also: other words for the same."""

    name: str
    title: str
    words: Mapping[str, Test]
    also: Mapping[str, str] = field(default_factory=dict)

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        told = phrase.casefold()
        told = self.also.get(told, told)
        return next((Word(word) for word in self.words if word.casefold() == told), None)

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        assert isinstance(wanted, Word)
        return wanted.text

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        assert isinstance(wanted, Word)
        return self.words[wanted.text](ground)

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        return [
            Counted(word, int(np.count_nonzero(test(ground) & among)), Word(word))
            for word, test in self.words.items()
        ]

    def hints(self) -> list[str]:
        return list(self.words)


MOST_VALUES = 200
"""So many different texts are offered, those of most frames; any other can be typed."""

NEEDS_QUOTES = re.compile(r'[,;"]|\bor\b|^(not|with)\b|^\s|\s$|^$', re.IGNORECASE)


def quoted(text: str, prefix: str) -> str:
    """A text as it can stand after the prefix of its facet: in quotes where it must, those in it doubled."""
    if NEEDS_QUOTES.search(text) or text.casefold().startswith(prefix.casefold()):
        return '"' + text.replace('"', '""') + '"'
    return text


def unquoted(text: str) -> str:
    """The text that is meant. Raises ValueError where quotes stand in it otherwise."""
    inner = text[1:-1] if len(text) > 1 and text[0] == text[-1] == '"' else text
    if '"' in inner.replace('""', "") or (inner is text and '"' in text):
        raise ValueError("Put a text that holds quotation marks in quotation marks, and double those in it.")
    return inner.replace('""', '"')


@dataclass(frozen=True)
class Named:
    """A facet of texts that the frames have: `camera Tarn One`."""

    name: str
    title: str
    prefix: str
    column: str

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        start = self.prefix + " "
        if not phrase.casefold().startswith(start):
            return None
        told = unquoted(phrase[len(start) :].strip())
        if not told:
            raise ValueError(f"Which {self.prefix}?")
        return Value(told)

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        assert isinstance(wanted, Value)
        return f"{self.prefix} {quoted(wanted.text, self.prefix + ' ')}"

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        assert isinstance(wanted, Value)
        texts = ground.columns.texts[self.column]
        told = fold(wanted.text)
        codes = [code for code, word in enumerate(texts.words) if fold(word) == told]
        return np.isin(texts.codes, codes)

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        texts = ground.columns.texts[self.column]
        everywhere = counted(texts.codes, ground.here, len(texts.words))
        some = counted(texts.codes, among, len(texts.words))
        there = np.flatnonzero(everywhere).tolist()
        there = sorted(there, key=lambda code: -int(everywhere[code]))[:MOST_VALUES]
        return [
            Counted(
                self.say(Value(texts.words[code]), ground.labels), int(some[code]), Value(texts.words[code])
            )
            for code in sorted(there, key=lambda code: texts.words[code].casefold())
        ]

    def hints(self) -> list[str]:
        return [f"{self.prefix} …"]


def counted(codes: NDArray[np.int32], among: Mask, size: int) -> NDArray[np.int64]:
    """How many of some frames have each code."""
    return np.bincount(codes[among & (codes >= 0)], minlength=size)


NUMBER = r"[-−]?\d+(?:\.\d*)?|[-−]?\.\d+"
BARS = 24
FEW = 30
"""So many different figures are shown one by one."""


def plain(text: str) -> float:
    return float(text.replace("−", "-"))


def six_digits(figure: float) -> float:
    return float(f"{figure:.6g}")


def two_places(figure: float) -> float:
    return round(figure, 2)


def say_plain(figure: float) -> str:
    return f"{figure:.6g}"


def shutter_of(text: str) -> float:
    over, _, under = text.partition("/")
    if under and not float(under):
        raise ValueError("Nothing is exposed for 1/0 s.")
    return plain(over) / plain(under) if under else plain(over)


def tidy_shutter(seconds: float) -> float:
    n = round(1 / seconds) if 0 < seconds < 0.3 else 0
    return 1 / n if n >= 4 and abs(seconds * n - 1) < 0.02 else six_digits(seconds)


def say_shutter(seconds: float) -> str:
    n = round(1 / seconds) if 0 < seconds < 0.3 else 0
    return f"1/{n}" if n >= 4 and seconds == 1 / n else f"{seconds:.6g}"


@dataclass(frozen=True)
class Numbers:
    """A facet of figures: `85 mm`, `50–105 mm`, `85 mm or more`. column: the figure of each frame, NaN where it is
    not known, which is in no range. slack, grain: what counts as the same, as a share of the figure and as it is."""

    name: str
    title: str
    column: Callable[[Ground], NDArray[np.float64]]
    before: str = ""
    after: str = ""
    figure: str = NUMBER
    parse: Callable[[str], float] = plain
    tidy: Callable[[float], float] = six_digits
    written: Callable[[float], str] = say_plain
    between: str = "–"
    ends: tuple[str, str] = ("or more", "or less")
    also: tuple[str, ...] = ()
    slack: float = 1e-6
    grain: float = 0.0
    logarithmic: bool = False
    example: str = ""

    @cached_property
    def _pattern(self) -> re.Pattern[str]:
        before = "|".join(re.escape(one) for one in (self.before, *self.also)) if self.before else ""
        unit = rf"\s*{re.escape(self.after.strip())}" if self.after else ""
        repeated = f"(?:{before})?" if before else ""
        ends = "|".join(map(re.escape, self.ends))
        return re.compile(
            rf"^(?:{before})\s*(?P<a>{self.figure})(?:\s*(?:–|-|\bto\b)\s*{repeated}(?P<b>{self.figure}))?"
            rf"{unit}(?:\s+(?P<end>{ends}))?$",
            re.IGNORECASE,
        )

    def read(self, phrase: str, labels: LabelSet) -> Alternative | None:
        found = self._pattern.match(phrase)
        if found is None:
            return None
        a = self.tidy(self.parse(found["a"]))
        if found["end"]:
            if found["b"]:
                raise ValueError("A range has two ends already.")
            return Span(a, None) if found["end"].casefold() == self.ends[0] else Span(None, a)
        return Span(a, self.tidy(self.parse(found["b"])) if found["b"] else a)

    def say(self, wanted: Alternative, labels: LabelSet) -> str:
        assert isinstance(wanted, Span)
        low, high = (None if end is None else self.written(end) for end in (wanted.low, wanted.high))
        if low is None or high is None:
            end = self.ends[0] if high is None else self.ends[1]
            return f"{self.before}{low or high}{self.after} {end}"
        if wanted.low == wanted.high:
            return f"{self.before}{low}{self.after}"
        return f"{self.before}{low}{self.between}{high}{self.after}"

    def mask(self, wanted: Alternative, ground: Ground) -> Mask:
        assert isinstance(wanted, Span)
        figures = self.column(ground)
        low, high = self._limits(wanted)
        return (figures >= low) & (figures <= high)

    def _limits(self, span: Span) -> tuple[float, float]:
        """The least and the largest figure that a range takes for its own."""

        def slack(end: float) -> float:
            return max(self.slack * max(1e-3, abs(end)), self.grain)

        low = -np.inf if span.low is None else span.low - slack(span.low)
        high = np.inf if span.high is None else span.high + slack(span.high)
        return low, high

    def counts(self, ground: Ground, among: Mask) -> list[Counted]:
        figures = self.column(ground)
        there = figures[ground.here & np.isfinite(figures)]
        if not len(there):
            return []
        kept = np.sort(figures[among & np.isfinite(figures)])
        spans = self._bars(there)
        lows, highs = zip(*map(self._limits, spans), strict=True)
        found = np.searchsorted(kept, highs, "right") - np.searchsorted(kept, lows, "left")
        return [
            Counted(self.say(span, ground.labels), count, span)
            for span, count in zip(spans, found.tolist(), strict=True)
        ]

    def _bars(self, figures: NDArray[np.float64]) -> list[Span]:
        """The bars of a histogram: the different figures, where they are few."""
        different = sorted({self.tidy(float(figure)) for figure in _few(figures)})
        if different and len(different) <= FEW:
            return [Span(figure, figure) for figure in different]
        low, high = float(figures.min()), float(figures.max())
        if self.logarithmic and low > 0:
            edges = np.geomspace(low, high, BARS + 1)
        else:
            edges = np.linspace(low, high, BARS + 1)
        tidied = [self.tidy(float(edge)) for edge in edges]
        return [Span(*sorted(ends)) for ends in dict.fromkeys(pairwise(tidied))]

    def hints(self) -> list[str]:
        return [self.example]


def _few(figures: NDArray[np.float64]) -> NDArray[np.float64]:
    """The different ones, none if they are many: a look at some of them tells that in time."""
    if len(figures) > 4000 and len(np.unique(figures[:: len(figures) // 2000])) > 10 * FEW:
        return figures[:0]
    different = np.unique(figures)
    return different if len(different) <= 10 * FEW else figures[:0]
