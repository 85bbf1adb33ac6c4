"""A file rewritten by splices: what was put where, so that it can be taken back to the byte."""

from __future__ import annotations

import base64
import hashlib
import json
from collections.abc import Sequence
from dataclasses import dataclass


class InsideError(ValueError):
    """A file that is left as it is; the message says why."""


@dataclass(frozen=True, slots=True)
class Splice:
    """At a place of the old file, `taken` gives way to `put`."""

    at: int
    taken: bytes
    put: bytes


@dataclass(frozen=True, slots=True)
class Rewriting:
    """A file before and after, SHA-256 of both, and what is between them."""

    before: str
    after: str
    splices: tuple[Splice, ...]

    def packed(self) -> bytes:
        coded = [
            [s.at, *(base64.b64encode(part).decode() for part in (s.taken, s.put))] for s in self.splices
        ]
        return json.dumps([self.before, self.after, coded]).encode()

    @classmethod
    def unpacked(cls, content: bytes) -> Rewriting:
        before, after, coded = json.loads(content)
        return cls(before, after, tuple(Splice(at, *map(base64.b64decode, parts)) for at, *parts in coded))

    def apply(self, data: bytes) -> bytes:
        """The new file, of the old. Raises InsideError for any other file."""
        _demand(data, self.before)
        return spliced(data, self.splices)

    def back(self, data: bytes) -> bytes:
        """The old file, of the new. Raises InsideError for any other file."""
        _demand(data, self.after)
        moved, reversed_ = 0, []
        for splice in self.splices:
            reversed_.append(Splice(splice.at + moved, splice.put, splice.taken))
            moved += len(splice.put) - len(splice.taken)
        return spliced(data, reversed_)


def _demand(data: bytes, digest: str) -> None:
    if sha256(data) != digest:
        raise InsideError("The file is not the one that this was made for.")


def sha256(data: bytes) -> str:
    return hashlib.sha256(data).hexdigest()


def spliced(data: bytes, splices: Sequence[Splice]) -> bytes:
    """The file with splices done, which are in the order of their places."""
    parts: list[bytes] = []
    at = 0
    for splice in splices:
        parts += [data[at : splice.at], splice.put]
        at = splice.at + len(splice.taken)
    return b"".join([*parts, data[at:]])
