"""What a client says of a proof set: typed freely, or given back by its pages. Nothing is marked by it; it says which
pictures are named, how sure that is, and what could not be told.

Numbers are those of the sequence that the client saw, or of the files. Names count whatever their case, ending and
separators, and with one letter or figure wrong, left out, added or swapped (Damerau, *Commun. ACM* 7(3), 1964).
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from unicodedata import normalize

from rapidfuzz.distance import OSA

from winnow.core.pairing import PICTURES, RAWS, fold, split_name

LONGEST_TEXT = 200_000
SHORTEST_TYPO = 5
"""Shorter names are told apart by one letter."""
SUGGESTED = 4
NEAR = 0.6
"""Names so much alike are suggested for what could not be told."""


class Verdict(StrEnum):
    LIKE = "like"
    NO = "no"
    NONE = "none"
    """Only something was said of it."""


class How(StrEnum):
    """How a picture was named."""

    NUMBER = "number"
    NAME = "name"
    TYPO = "typo"


@dataclass(frozen=True, slots=True)
class Item:
    """A picture of a set: its number in the sequence, the name of its file, and what it is known by."""

    number: int
    name: str
    frame_id: int


@dataclass(frozen=True, slots=True)
class Named:
    """A picture that an answer names. quote: where it does."""

    frame_id: int
    verdict: Verdict
    how: How
    quote: str
    comment: str = ""


@dataclass(frozen=True, slots=True)
class Doubt:
    """Something that may name a picture, and why it was not taken. suggested: pictures that it may mean."""

    quote: str
    why: str
    suggested: tuple[int, ...] = ()


@dataclass(slots=True)
class Answer:
    named: list[Named] = field(default_factory=list)
    doubts: list[Doubt] = field(default_factory=list)


_ENDINGS = "|".join(sorted(PICTURES | RAWS, key=len, reverse=True))
_TOKEN = re.compile(
    rf"""
    (?P<range>(?<![\w.:/])\#?[0-9]{{1,6}}\s*(?:-|–|—|\.\.\.?|\bto\b|\buntil\b|\bbis\b)\s*\#?[0-9]{{1,6}}(?!\w|[.:/][0-9]))
    | (?P<number>(?<![\w.:/])\#?[0-9]{{1,9}}(?:\.(?:{_ENDINGS}))?(?!\w|[-_.:/][0-9]|[-_][^\W\d]))
    | (?P<word>[^\W\d_]+(?:['’][^\W\d_]+)*(?![\w-]|\.[0-9]))
    | (?P<time>[0-9]+(?:[:/][0-9]+)+)
    | (?P<name>(?<!\w)\w+(?:[-.]\w+)*)
    | (?P<stop>[.!?;\n]+(?=\s|$))
    | (?P<comma>,)
    """,
    re.VERBOSE | re.IGNORECASE,
)
_SIZE = re.compile(r"[0-9]+\s*[x×][0-9]+", re.IGNORECASE)
_LOOKALIKES = str.maketrans("oilsb", "01158")
_NO = frozenset(
    "no not don't dont doesn't isn't never without except reject rejected remove delete drop dislike hate skip"
    " nicht kein keine keinen ohne außer nein pas non sans sauf".split()
)
_YES = frozenset(
    "yes love like loved liked want keep favourite favorite favourites favorites but instead please take great best"
    " ja gern gerne liebe mag möchte bitte nehme oui aime j'aime".split()
)
_COUNTED = re.compile(
    r"\s*(?:x\b|×|%|°|€|\$|cm\b|mm\b|px\b|in\b|copies\b|prints?\b|times\b|of\s+(?:us|them|you|these|those)\b|people\b|"
    r"pictures\b|photos\b|images\b|days?\b|weeks?\b|hours?\b|minutes?\b|am\b|pm\b|o'clock\b|uhr\b|euros?\b|pounds?\b|"
    r"dollars?\b|st\b|nd\b|rd\b|th\b)",
    re.IGNORECASE,
)


class _Set:
    """The pictures of a set, by all that they may be called."""

    def __init__(self, items: Sequence[Item]) -> None:
        self.items = items
        self.by_number = {item.number: item.frame_id for item in items}
        self.by_name: dict[str, list[int]] = {}
        self.by_digits: dict[int, list[int]] = {}
        for item in items:
            stem = _stem(item.name)
            self.by_name.setdefault(stem, []).append(item.frame_id)
            digits = re.search(r"[0-9]{1,9}$", stem)
            if digits:
                self.by_digits.setdefault(int(digits.group()), []).append(item.frame_id)

    def one_off(self, stem: str) -> list[int]:
        """The pictures whose names are one letter or figure from a text."""
        if len(stem) < SHORTEST_TYPO or not any(c in "0123456789" for c in stem):
            return []
        near = [name for name in self.by_name if OSA.distance(stem, name, score_cutoff=1) <= 1]
        return [i for name in near for i in self.by_name[name]]

    def near(self, stem: str) -> tuple[int, ...]:
        """The pictures whose names are most like a text."""
        close = [(OSA.normalized_similarity(stem, name), name) for name in self.by_name]
        best = sorted((one for one in close if one[0] >= NEAR), key=lambda one: (-one[0], one[1]))
        return tuple(i for _, name in best for i in self.by_name[name])[:SUGGESTED]


def read_text(text: str, items: Sequence[Item]) -> Answer:
    """What free text says of a set. Never raises; names nothing that is not in the text."""
    known = _Set(items)
    answer = Answer()
    for clause in _clauses(normalize("NFC", text[:LONGEST_TEXT])):
        _read_clause(clause, known, answer)
    return _settled(answer)


_Part = list[re.Match[str]]
"""The tokens between two commas."""


def _clauses(text: str) -> Iterator[list[_Part]]:
    """Sentences, as their parts between commas."""
    parts: list[_Part] = [[]]
    for token in _TOKEN.finditer(text):
        if token.lastgroup == "stop":
            yield parts
            parts = [[]]
        elif token.lastgroup == "comma":
            parts.append([])
        else:
            parts[-1].append(token)
    yield parts


def _read_clause(parts: Sequence[_Part], known: _Set, answer: Answer) -> None:
    """'Not 12, 13 and 14' holds for all three; '12 yes, 13 no' for each its own."""
    verdict = Verdict.LIKE
    for part in parts:
        found: list[tuple[re.Match[str], re.Match[str] | None, Verdict]] = []
        after: Verdict | None = None
        before: re.Match[str] | None = None
        for token in part:
            word = token.group().casefold().replace("’", "'")
            if token.lastgroup == "word" and (word in _NO or word in _YES):
                verdict = Verdict.NO if word in _NO else Verdict.LIKE
                after, before = (verdict if found else None), None
            elif token.lastgroup in ("word", "time"):
                before = token if token.lastgroup == "word" else None
            else:
                found.append((token, before, verdict))
                after, before = None, None
        if after is not None:
            # It came after what it was said of, as far as that can be told; and what follows is another matter.
            if len(found) == 1:
                found = [(found[0][0], found[0][1], after)]
            elif after is Verdict.NO:
                last = found.pop()[0]
                why = "'no' after several: it is not clear of which"
                answer.doubts.append(Doubt(_quote(last), why, _meant(last, known)))
            verdict = Verdict.LIKE
        for token, before, said in found:
            _take(token, before, said, known, answer)


def _take(
    token: re.Match[str], before: re.Match[str] | None, verdict: Verdict, known: _Set, answer: Answer
) -> None:
    """before: the word before it, which may be the first part of a name."""
    quote = _quote(token)
    if token.lastgroup == "range":
        first, last = (int(number) for number in re.findall(r"[0-9]+", quote))
        numbers = range(first, last + 1)
        if numbers and len(numbers) <= len(known.items) and all(n in known.by_number for n in numbers):
            answer.named += [Named(known.by_number[n], verdict, How.NUMBER, quote) for n in numbers]
        else:
            answer.doubts.append(Doubt(quote, "there is no such range in this set", _meant(token, known)))
        return
    frames, how = _whose(token, before, known)
    if frames and how is How.TYPO and before is not None and _touches(before, token):
        quote = token.string[before.start() : token.end()]
    if how is How.NUMBER and _COUNTED.match(token.string, token.end()):
        answer.doubts.append(Doubt(quote, "it may count something else", tuple(frames[:SUGGESTED])))
    elif len(frames) == 1:
        answer.named.append(Named(frames[0], verdict, how, quote))
    elif frames:
        answer.doubts.append(Doubt(quote, f"{len(frames)} pictures may be meant", tuple(frames[:SUGGESTED])))
    elif any(c in "0123456789" for c in quote) and not _SIZE.fullmatch(quote):
        answer.doubts.append(Doubt(quote, "there is no such picture in this set", _meant(token, known)))


def _whose(token: re.Match[str], before: re.Match[str] | None, known: _Set) -> tuple[list[int], How]:
    """The pictures that a token may name, and how."""
    quote = _quote(token)
    if before is not None and _touches(before, token):
        together = _stem(before.group() + quote)
        if together in known.by_name:
            return known.by_name[together], How.NAME
        near = known.one_off(together)
        if near and len(before.group()) >= 2:
            return near, How.TYPO
    if token.lastgroup == "number":
        digits = split_name(quote)[0].lstrip("#")
        number = int(digits)
        if number in known.by_number and not digits.startswith("0"):
            return [known.by_number[number]], How.NUMBER
        return known.by_digits.get(number, []), How.NAME
    stem = _stem(quote)
    for name in (stem, _without_lookalikes(stem)):
        if name in known.by_name:
            return known.by_name[name], How.NAME if name == stem else How.TYPO
    return known.one_off(stem), How.TYPO


def _touches(before: re.Match[str], token: re.Match[str]) -> bool:
    """Whether two words may be one name, written apart."""
    return re.fullmatch(r"[-_ .]?", token.string[before.end() : token.start()]) is not None


def _without_lookalikes(stem: str) -> str:
    """Figures for the letters that look like them, after the first figure."""
    first = re.search(r"[0-9]", stem)
    return stem[: first.start()] + stem[first.start() :].translate(_LOOKALIKES) if first else stem


def _meant(token: re.Match[str], known: _Set) -> tuple[int, ...]:
    """Pictures that an unclear token may mean."""
    numbers = [int(number) for number in re.findall(r"[0-9]{1,9}", token.group())]
    found = [known.by_number[n] for n in numbers if n in known.by_number]
    found += [i for n in numbers for i in known.by_digits.get(n, [])]
    return tuple(dict.fromkeys([*found, *known.near(_stem(token.group()))]))[:SUGGESTED]


def _quote(token: re.Match[str]) -> str:
    return token.group().strip()


def _stem(name: str) -> str:
    base, ending = split_name(name.rpartition("/")[2])
    if ending not in PICTURES | RAWS:
        base = name.rpartition("/")[2]
    return re.sub(r"[\W_]+", "", fold(base))


@dataclass(frozen=True, slots=True)
class Given:
    """A line of an answer that the pages of a set gave back."""

    number: int | None
    name: str
    verdict: Verdict
    comment: str


def read_given(lines: Iterable[Given], items: Sequence[Item]) -> Answer:
    """What an answer from the pages says. Number and name must belong together; one of them is enough."""
    known = _Set(items)
    answer = Answer()
    for line in lines:
        quote = " ".join(part for part in (str(line.number or ""), line.name) if part)
        named = known.by_name.get(_stem(line.name), []) if line.name else []
        numbered = [known.by_number[line.number]] if line.number in known.by_number else []
        both = [i for i in numbered if i in named] if named and numbered else []
        frames = both or (named if not numbered else numbered if not line.name else [])
        if len(frames) == 1:
            how = How.NAME if named else How.NUMBER
            answer.named.append(Named(frames[0], line.verdict, how, quote, line.comment))
        else:
            why = (
                "number and name are of different pictures"
                if named and numbered
                else "there is no such picture"
            )
            if len(frames) > 1:
                why = f"{len(frames)} pictures may be meant"
            found = dict.fromkeys([*frames, *numbered, *named])
            answer.doubts.append(Doubt(quote, why, tuple(found)[:SUGGESTED] or known.near(_stem(line.name))))
    return _settled(answer)


def _settled(answer: Answer) -> Answer:
    """Every picture once; one of which two things are said is a doubt."""
    by_frame: dict[int, list[Named]] = {}
    for one in answer.named:
        by_frame.setdefault(one.frame_id, []).append(one)
    settled = Answer([], list(answer.doubts))
    for frame_id, said in by_frame.items():
        verdicts = {one.verdict for one in said if one.verdict is not Verdict.NONE}
        if len(verdicts) > 1:
            quote = ", ".join(dict.fromkeys(one.quote for one in said))
            settled.doubts.append(Doubt(quote, "liked and not liked", (frame_id,)))
        else:
            first = next((one for one in said if one.verdict is not Verdict.NONE), said[0])
            settled.named.append(first)
    return settled
