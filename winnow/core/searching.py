"""What a frame is found by, and what somebody means who types a few words."""

from __future__ import annotations

import re
from collections.abc import Iterable
from datetime import datetime

DIGITS = re.compile(r"\d+")
MOST_WORDS = 12


def name_text(name: str) -> str:
    """The path of a file with its numbers once more, with and without leading zeros: people remember the number.

    >>> name_text("101TARN/TRN_0481.JPG")
    '101TARN/TRN_0481.JPG 101 0481 481'
    """
    numbers = DIGITS.findall(name)
    return " ".join(dict.fromkeys([name, *numbers, *(number.lstrip("0") for number in numbers)])).strip()


def date_text(captured_at: str | None) -> str:
    """A time as people say it. Empty where it is not known.

    >>> date_text("2026-10-17T16:42:10.250+01:00")
    '2026-10-17 17 October Saturday'
    """
    if not captured_at:
        return ""
    try:
        day = datetime.fromisoformat(captured_at)
    except ValueError:
        return captured_at[:10]
    return f"{day:%Y-%m-%d} {day.day} {MONTHS[day.month - 1]} {DAYS[day.weekday()]}"


MONTHS = "January February March April May June July August September October November December".split()
DAYS = "Monday Tuesday Wednesday Thursday Friday Saturday Sunday".split()


def words_of(typed: str) -> list[str]:
    """The words that must all be there, each as a beginning; what stands in quotes is one. Signs alone are none.

    >>> words_of('kiln "open evening" --')
    ['kiln', 'open evening']
    """
    found = [quoted or plain for quoted, plain in re.findall(r'"([^"]*)"?|(\S+)', typed)]
    return [word for word in found if any(c.isalnum() for c in word)][:MOST_WORDS]


def match_of(words: Iterable[str]) -> str:
    """A question to FTS5 (https://sqlite.org/fts5.html, 3): each word a phrase that may go on.

    >>> match_of(["kiln", "open evening"])
    '"kiln" * AND "open evening" *'
    """
    return " AND ".join('"{}" *'.format(word.replace('"', '""').replace("\0", "")) for word in words)
