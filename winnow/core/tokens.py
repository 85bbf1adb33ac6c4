"""Texts with tokens in braces, filled in for each frame: `{date} {title} {counter:3}`."""

from __future__ import annotations

import re
from dataclasses import dataclass
from datetime import datetime

TOKENS = (
    *("date", "time", "letter", "counter", "camera", "serial", "title"),
    *("scene", "group", "name", "number", "rating", "label"),
)

_TOKEN = re.compile(r"\{(" + "|".join(TOKENS) + r")(?::([^{}]*))?\}")
MOST_DIGITS = 9


@dataclass(frozen=True, slots=True)
class About:
    """What tokens say of a frame. scene, group, counter: from 1; name: of its file without the ending; number: the
    digits at the end of that; label: its name."""

    taken: datetime | None
    camera: str
    title: str
    scene: int
    name: str
    counter: int
    serial: str = ""
    group: int = 1
    number: str = ""
    rating: int = 0
    label: str = ""


def fill(text: str, about: About) -> str:
    """The text with its tokens filled in; what is not known leaves nothing, braces around anything else stay."""
    return _TOKEN.sub(lambda found: _value(found[1], found[2], about, found[0]), text)


def _value(token: str, form: str | None, about: About, written: str) -> str:
    if token in ("date", "time"):
        return _moment(about.taken, form or ("%Y-%m-%d" if token == "date" else "%H:%M"))
    if token == "letter" and not form:
        return year_letter(about.taken.year) if about.taken else ""
    if token == "counter" and form:
        return str(about.counter).zfill(int(form)) if form in map(str, range(1, MOST_DIGITS + 1)) else written
    return written if form else str(getattr(about, token))


def year_letter(year: int) -> str:
    """A letter for a year: A for 2001, Z for 2026, and A again after that."""
    return chr(ord("A") + (year - 2001) % 26)


def _moment(taken: datetime | None, form: str) -> str:
    if taken is None:
        return ""
    try:
        return taken.strftime(form)
    except (ValueError, UnicodeEncodeError):
        return ""
