"""Words on frames: caption by language, headline, keywords, creator, copyright.

Source: IPTC Photo Metadata Standard (Description, Headline, Keywords, Creator, Copyright Notice). Marks hold words
as one text a field, in a form of its own for each: plain, a JSON list, or a JSON object by language. Equal words are
equal texts.
"""

from __future__ import annotations

import json
import unicodedata
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import TypeAlias

LONGEST_TEXT = 10_000
LONGEST_ITEM = 200
MOST_ITEMS = 500
DEFAULT = "x-default"
"""The language of a caption that names none (XMP Specification Part 1, language alternatives)."""

ByLanguage: TypeAlias = Mapping[str, str]
Filling: TypeAlias = Callable[[str], str]


def clean(text: str, limit: int = LONGEST_TEXT, *, lines: bool = True) -> str:
    """A text as somebody typed or wrote it, without what cannot stand in XML. lines: it may have several."""
    text = text.replace("\r\n", "\n").replace("\r", "\n")
    written = "".join(c if can_be_written(c) or (lines and c in "\n\t") else " " for c in text)
    return written.strip()[:limit].strip()


def can_be_written(character: str) -> bool:
    """Whether XML can hold a character: no control characters, no halves of pairs, no non-characters."""
    return unicodedata.category(character) not in ("Cc", "Cs") and character not in "\ufffe\uffff"


def text_form(text: str | None) -> str | None:
    """A text as marks hold it; None: there is none."""
    return clean(text or "") or None


def list_form(items: Iterable[str]) -> str | None:
    """A list as marks hold it: nothing twice, nothing empty, in the order given."""
    cleaned = dict.fromkeys(clean(item, LONGEST_ITEM, lines=False) for item in items)
    kept = [item for item in cleaned if item][:MOST_ITEMS]
    return json.dumps(kept, ensure_ascii=False) if kept else None


def list_of(held: object) -> list[str]:
    """The list that marks hold."""
    return list(map(str, json.loads(str(held)))) if held else []


def languages_form(texts: ByLanguage) -> str | None:
    """Texts by language as marks hold them: what names no language first, then by language."""
    kept = {language: clean(text) for language, text in texts.items()}
    order = sorted(
        (language for language, text in kept.items() if text), key=lambda one: (one != DEFAULT, one)
    )
    return json.dumps({one: kept[one] for one in order}, ensure_ascii=False) if order else None


def languages_of(held: object) -> dict[str, str]:
    """The texts by language that marks hold."""
    return dict(json.loads(str(held))) if held else {}


@lru_cache(maxsize=1 << 17)
def parts(field: str, held: str) -> tuple[str, ...]:
    """The texts in what marks hold in a field: items of a list, texts of a caption, or the text itself."""
    if field == "caption":
        return tuple(languages_of(held).values())
    return tuple(list_of(held)) if field in ("keywords", "creator") else (held,)


def spoken(field: str, held: str) -> str:
    """What marks hold in a field, on one line; of a caption the first."""
    said = parts(field, held)
    return short(said[0] if field == "caption" else ", ".join(said), 200)


def short(text: str, limit: int = 48) -> str:
    """The beginning of a text, on one line."""
    line = " ".join(text.split())
    return line if len(line) <= limit else line[: limit - 1].rstrip() + "…"


@dataclass(frozen=True, slots=True)
class WordsChange:
    """What is to become of the words of frames. Only what is named changes.

    caption: by language, None takes one off. texts: headline and copyright. creators: all of them. added, removed:
    keywords.
    """

    caption: Mapping[str, str | None] = field(default_factory=dict)
    texts: Mapping[str, str | None] = field(default_factory=dict)
    creators: tuple[str, ...] | None = None
    added: tuple[str, ...] = ()
    removed: tuple[str, ...] = ()

    def of(self, held: Mapping[str, str | None]) -> dict[str, str | None]:
        """The fields that it speaks of, as marks are to hold them. held: by name of the field, as they are."""
        found: dict[str, str | None] = {name: text_form(text) for name, text in self.texts.items()}
        if self.caption:
            texts = languages_of(held["caption"]) | {
                language: text or "" for language, text in self.caption.items()
            }
            found["caption"] = languages_form(texts)
        if self.creators is not None:
            found["creator"] = list_form(self.creators)
        if self.added or self.removed:
            gone = {clean(word, LONGEST_ITEM, lines=False) for word in self.removed}
            kept = [word for word in list_of(held["keywords"]) if word not in gone]
            found["keywords"] = list_form([*kept, *self.added])
        return found

    def said(self) -> str:
        """What it does, as a person would say it."""
        parts = []
        for language, text in self.caption.items():
            which = "caption" if language == DEFAULT else f"caption ({language})"
            parts.append(f"{which} “{short(text)}”" if text else f"no {which}")
        for name, text in self.texts.items():
            parts.append(f"{name} “{short(text)}”" if text else f"no {name}")
        if self.creators is not None:
            parts.append(f"creator {short(', '.join(self.creators))}" if self.creators else "no creator")
        if self.added:
            parts.append(f"keywords + {short(', '.join(self.added))}")
        if self.removed:
            parts.append(f"keywords − {short(', '.join(self.removed))}")
        return ", ".join(parts)

    def filled(self, fill: Filling) -> WordsChange:
        """The same for one frame, with the tokens of its texts filled in."""
        return WordsChange(
            {language: text and fill(text) for language, text in self.caption.items()},
            {name: text and fill(text) for name, text in self.texts.items()},
            self.creators and tuple(map(fill, self.creators)),
            tuple(map(fill, self.added)),
            self.removed,
        )
