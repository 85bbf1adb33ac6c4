"""The person's own list of keywords, and completing a keyword from it and from those in use."""

from __future__ import annotations

import unicodedata
from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import lru_cache

from winnow.core.words import LONGEST_ITEM, clean

LONGEST = 4 * 1024 * 1024
MOST_WORDS = 100_000
OFFERED = 12


@dataclass(frozen=True, slots=True)
class Term:
    """A keyword; above: those that it stands below, the widest first."""

    word: str
    above: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Offer:
    """A keyword to choose. frames: how many have it."""

    word: str
    above: tuple[str, ...]
    frames: int


@lru_cache(maxsize=2)  # asked at every key
def read(text: str) -> tuple[Term, ...]:
    """The terms of a vocabulary: one a line, tabs before it for how far it stands below. Raises ValueError."""
    found: list[Term] = []
    path: list[str] = []
    for line in text.removeprefix("\ufeff").splitlines():
        word = clean(line, LONGEST_ITEM, lines=False)
        if not word:
            continue
        depth = min(len(line) - len(line.lstrip("\t")), len(path))
        path[depth:] = [word]
        found.append(Term(word, tuple(path[:depth])))
    if len(found) > MOST_WORDS:
        raise ValueError(f"A vocabulary has at most {MOST_WORDS:,} words, this has {len(found):,}.")
    return tuple(found)


def offers(typed: str, terms: Iterable[Term], in_use: Mapping[str, int]) -> list[Offer]:
    """Keywords that go on from what is typed: those that begin so before those with a word that begins so, those in
    use before the others. in_use: on how many frames each is."""
    told = _plain(typed)
    if not told:
        return []
    known = {(term.word, term.above): in_use.get(term.word, 0) for term in terms}
    listed = {word for word, _ in known}
    known |= {(word, ()): frames for word, frames in in_use.items() if word not in listed}
    ranked = []
    for (word, above), frames in known.items():
        plain = _plain(word)
        at = plain.find(told)
        if at >= 0:
            begins = 0 if at == 0 else 1 if not plain[at - 1].isalnum() else 2
            ranked.append((begins, -frames, plain, Offer(word, above, frames)))
    return [offer for *_, offer in sorted(ranked, key=lambda one: one[:3])[:OFFERED]]


@lru_cache(maxsize=1 << 18)
def _plain(text: str) -> str:
    """Without accents and case, as people search."""
    apart = unicodedata.normalize("NFKD", text.strip().casefold())
    return "".join(c for c in apart if not unicodedata.combining(c))
