"""The command that opens files in a program: words with `{files}` among them. No shell ever sees it."""

from __future__ import annotations

import shlex
from collections.abc import Iterator, Sequence

FILES = "{files}"


def words_of(command: str, *, backslashes: bool = False) -> list[str]:
    """The words of a command, quoted as in a POSIX shell. backslashes: they are part of paths, as on Windows. Raises
    ValueError, in words for a person."""
    reader = shlex.shlex(command, posix=True, punctuation_chars=False)
    reader.whitespace_split = True
    reader.commenters = ""
    if backslashes:
        reader.escape = ""
    try:
        words = list(reader)
    except ValueError as error:
        raise ValueError("A quotation mark is open: close it.") from error
    if any(ord(sign) < 32 for sign in command):
        raise ValueError("A command is one line.")
    if FILES not in words[1:]:
        raise ValueError(
            f'Say where the files go: a program and {FILES}, as in "/opt/my editor/edit" {FILES}'
        )
    return words


def calls(words: Sequence[str], paths: Sequence[str], limit: int) -> Iterator[list[str]]:
    """The command with the paths in it, in as many calls as it takes: none has more than about `limit` bytes."""
    room = limit - sum(len(word.encode("utf-8", "surrogateescape")) + 1 for word in words)
    some: list[str] = []
    taken = 0
    for path in paths:
        size = len(path.encode("utf-8", "surrogateescape")) + 1
        if some and taken + size > room:
            yield _filled(words, some)
            some, taken = [], 0
        some.append(path)
        taken += size
    if some:
        yield _filled(words, some)


def _filled(words: Sequence[str], paths: Sequence[str]) -> list[str]:
    return [part for word in words for part in (paths if word == FILES else [word])]
