"""Filters as sentences: `keepers, 3 stars or more, 50–105 mm, not label Send first`.

    sentence    = [ part *( "," part ) ]
    part        = [ "not" ] alternative *( "or" alternative )
    alternative = a phrase of one facet; of the same one in the whole part

A text of the frames may stand in double quotes, and must where it holds a comma, a semicolon or the word *or*; double
quotes in it are doubled. What two alternatives begin with need not be said twice: `camera Tarn One or Tarn Two`; nor
need `label` before the name of a label that is defined.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from difflib import get_close_matches

from winnow.core.facets.kinds import Alternative, Counted, Facet, Value
from winnow.core.facets.registry import BY_NAME, FACETS
from winnow.core.filters import FrameFilter, Part
from winnow.core.labels import LabelSet

LONGEST = 2000
MOST_PARTS = 30
MOST_ALTERNATIVES = 60


class SentenceError(ValueError):
    """What cannot be understood; the message is for a person. start, end: its place in the text; instead: phrases
    that may have been meant."""

    def __init__(self, message: str, start: int, end: int, instead: tuple[str, ...] = ()) -> None:
        super().__init__(message)
        self.start, self.end, self.instead = start, end, instead


def say(wanted: FrameFilter, labels: LabelSet) -> str:
    """The sentence of a filter. Parsed, it is the same filter again."""
    return ", ".join(say_part(part, labels) for part in wanted.parts)


def say_part(part: Part, labels: LabelSet) -> str:
    facet = BY_NAME[part.facet]
    said = " or ".join(facet.say(one, labels) for one in part.wanted)
    return f"not {said}" if part.negated else said


def parse(text: str, labels: LabelSet) -> FrameFilter:
    """The filter that a sentence asks for. Raises SentenceError."""
    if len(text) > LONGEST:
        raise SentenceError(f"A filter has at most {LONGEST} characters.", LONGEST, len(text))
    if text.count('"') % 2:
        raise SentenceError("A quotation mark is missing.", text.rindex('"'), len(text))
    parts = [
        _part(text[start:end], start, labels) for start, end in _split(text, ",;") if text[start:end].strip()
    ]
    if len(parts) > MOST_PARTS:
        raise SentenceError(f"A filter has at most {MOST_PARTS} parts.", 0, len(text))
    return FrameFilter(tuple(dict.fromkeys(parts)))


NOT = re.compile(r"^(?:(not)\s+|with\s+(?!faces))", re.IGNORECASE)
OR = re.compile(r"\s+or\s+(?!(?:more|less|fewer|later|earlier)\b)", re.IGNORECASE)


def _part(text: str, offset: int, labels: LabelSet) -> Part:
    start = offset + len(text) - len(text.lstrip())
    text = text.strip()
    negated = False
    while (sign := NOT.match(text)) is not None:
        negated ^= sign[1] is not None
        start += sign.end()
        text = text[sign.end() :]
    facet: Facet | None = None
    wanted: list[Alternative] = []
    for low, high in _alternatives(text):
        phrase = re.sub(r"\s+", " ", text[low:high]) if '"' not in text[low:high] else text[low:high]
        facet, found = _read(phrase, facet, labels, start + low, start + high)
        wanted.append(found)
    assert facet is not None
    if len(wanted) > MOST_ALTERNATIVES:
        message = f"A part has at most {MOST_ALTERNATIVES} alternatives."
        raise SentenceError(message, start, start + len(text))
    return Part(facet.name, tuple(dict.fromkeys(wanted)), negated)


def _read(
    phrase: str, facet: Facet | None, labels: LabelSet, start: int, end: int
) -> tuple[Facet, Alternative]:
    """An alternative; facet: of those before it."""
    try:
        if facet is None:
            for one in FACETS:
                if (found := one.read(phrase, labels)) is not None:
                    return one, found
        else:
            found = facet.read(phrase, labels)
            if found is None and (prefix := getattr(facet, "prefix", "")):
                found = facet.read(f"{prefix} {phrase}", labels)
            if found is not None:
                return facet, found
        is_of_another = facet is not None and any(one.read(phrase, labels) for one in FACETS)
    except (ValueError, OverflowError) as error:
        raise SentenceError(str(error), start, end) from error
    named = phrase.strip('"')
    if facet in (None, BY_NAME["label"]) and labels.of(named):
        return BY_NAME["label"], Value(labels.id_of(named))
    if is_of_another:
        message = (
            f"'{phrase}' asks for something else than what stands before 'or': put a comma between them."
        )
        raise SentenceError(message, start, end)
    instead = tuple(get_close_matches(phrase.casefold(), _phrases(labels), 3, 0.6))
    meant = f" Did you mean {' or '.join(f'“{one}”' for one in instead)}?" if instead else ""
    raise SentenceError(f"'{phrase}' is nothing that can be asked for.{meant}", start, end, instead)


def _phrases(labels: LabelSet) -> list[str]:
    """All phrases that are always there."""
    fixed = [hint for facet in FACETS for hint in facet.hints() if "…" not in hint]
    return fixed + [f"label {label.name}" for label in labels.labels]


def _split(text: str, separators: str) -> Iterator[tuple[int, int]]:
    """The pieces of a text between separators that are not in quotes."""
    start, inside = 0, False
    for place, character in enumerate(text):
        inside ^= character == '"'
        if character in separators and not inside:
            yield start, place
            start = place + 1
    yield start, len(text)


def _alternatives(text: str) -> Iterator[tuple[int, int]]:
    start = 0
    for found in OR.finditer(text):
        if text.count('"', start, found.start()) % 2 == 0:
            yield start, found.start()
            start = found.end()
    yield start, len(text)


@dataclass(frozen=True, slots=True)
class Completion:
    """A phrase that can stand in the place `start` to `end` of a text. count: frames that it shows, where known."""

    start: int
    end: int
    phrase: str
    count: int | None


MOST_COMPLETIONS = 12


def complete(
    text: str, at: int, labels: LabelSet, known: dict[str, list[Counted]] | None = None
) -> list[Completion]:
    """What can stand where the cursor is. known: what occurs in the shoot, by facet (`filters.counts`)."""
    pieces = [piece for piece in _split(text, ",;") if piece[0] <= at <= piece[1]]
    start, end = pieces[-1] if pieces else (len(text), len(text))
    piece = text[start:end]
    start += len(piece) - len(piece.lstrip())
    sign = NOT.match(text[start:end])
    start = min(start + (sign.end() if sign else 0), end)
    alternatives = _alternatives(text[start:end])
    low, high = next((low, high) for low, high in alternatives if start + high >= at or start + high == end)
    start, end = start + low, start + high
    typed = " ".join(text[start:end].casefold().split())
    offered: dict[str, int | None] = {}
    for facet in FACETS:
        counted = (known or {}).get(facet.name, [])
        offered |= {one.phrase: one.count for one in counted}
        offered |= {hint: None for hint in facet.hints() if hint not in offered}
    return [
        Completion(start, end, phrase, count)
        for phrase, count in sorted(offered.items(), key=lambda one: _nearness(one[0], typed))
        if _nearness(phrase, typed)[0] < 2
    ][:MOST_COMPLETIONS]


def _nearness(phrase: str, typed: str) -> tuple[int, bool]:
    """How well a phrase goes on from what is typed: from its beginning, from the beginning of a word, not at all."""
    told = phrase.casefold()
    if told.startswith(typed):
        return 0, "…" in phrase
    return (1 if _words_start(told, typed) else 2), "…" in phrase


def _words_start(phrase: str, typed: str) -> bool:
    return any(phrase.startswith(typed, place) for place in _starts(phrase))


def _starts(phrase: str) -> Iterable[int]:
    return (found.start() for found in re.finditer(r"(?<=[\s“\"/])\S", phrase))
