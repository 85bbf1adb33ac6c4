"""The person's own list of keywords, and completing a keyword from it and from those in use."""

from __future__ import annotations

import unicodedata
from collections.abc import Collection, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from heapq import nsmallest
from itertools import chain

from winnow.core.words import LONGEST_ITEM, clean

LONGEST = 4 * 1024 * 1024
MOST_WORDS = 100_000
OFFERED = 12


@dataclass(frozen=True, slots=True)
class Term:
    """A keyword; above: those that it stands below, the widest first; plain: as people search for it."""

    word: str
    above: tuple[str, ...] = ()
    plain: str = field(default="", compare=False)


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
        found.append(Term(word, tuple(path[:depth]), _plain(word)))
    if len(found) > MOST_WORDS:
        raise ValueError(f"A vocabulary has at most {MOST_WORDS:,} words, this has {len(found):,}.")
    return tuple(dict.fromkeys(found))


def offers(typed: str, terms: Collection[Term], in_use: Mapping[str, int]) -> list[Offer]:
    """Keywords that go on from what is typed: those that begin so before those with a word that begins so, those in
    use before the others. in_use: on how many frames each is."""
    told = _plain(typed)
    if not told:
        return []
    listed = {term.word for term in terms} if in_use else set()
    others = (Term(word, (), _plain(word)) for word in in_use if word not in listed)
    found = (
        (_rank(term.plain, at), -in_use.get(term.word, 0), term.plain, term)
        for term in chain(terms, others)
        if (at := term.plain.find(told)) >= 0
    )
    best = nsmallest(OFFERED, found, key=lambda one: one[:3])
    return [Offer(term.word, term.above, -frames) for _, frames, _, term in best]


def _rank(plain: str, at: int) -> int:
    """0: it begins so; 1: one of its words does."""
    return 0 if at == 0 else 1 if not plain[at - 1].isalnum() else 2


def _plain(text: str) -> str:
    """Without accents and case, as people search."""
    apart = unicodedata.normalize("NFKD", text.strip().casefold())
    return "".join(c for c in apart if not unicodedata.combining(c))
