"""Patterns of names with `*` and `?`, matched in linear time.

A regular expression tries every way to share a name out among the stars. Here each part between two stars takes the
leftmost place that is left: if any match exists, one of that kind does.
"""

from __future__ import annotations

import re
from collections.abc import Callable


def name_pattern(pattern: str) -> Callable[[str], bool]:
    """Return a test of file names, with or without their extension; with a slash in the pattern, of whole paths."""
    whole_path = "/" in pattern
    fits = _glob(pattern)

    def test(path: str) -> bool:
        name = path if whole_path else path.rpartition("/")[2]
        stem, dot, extension = name.rpartition(".")
        return fits(name) or (bool(dot) and "/" not in extension and fits(stem))

    return test


def _glob(pattern: str) -> Callable[[str], bool]:
    first, *rest = pattern.split("*")
    parts = [re.compile(re.escape(part).replace(r"\?", "."), re.DOTALL) for part in (first, *rest)]
    last = len(rest[-1]) if rest else 0

    def fits(text: str) -> bool:
        if not rest:
            return parts[0].fullmatch(text) is not None
        at = len(first)
        end = len(text) - last
        if end < at or not parts[0].match(text) or not parts[-1].match(text, end):
            return False
        for part in parts[1:-1]:
            found = part.search(text, at, end)
            if found is None:
                return False
            at = found.end()
        return True

    return fits
