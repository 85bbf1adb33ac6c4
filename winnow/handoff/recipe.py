"""Recipes: the few bytes from which a step builds the packet that it writes, when it runs.

A plan for 50,000 sidecars stores none of their contents, only which properties change in each.
"""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, fields, replace
from functools import lru_cache

from winnow.core.xmp_marks import XmpMarks
from winnow.formats import xmp
from winnow.formats.splices import sha256
from winnow.formats.xmp_names import with_first_name

_PROPERTIES = tuple(field.name for field in fields(XmpMarks))


class OtherPacketError(ValueError):
    """The packet is not the one that the recipe was made for."""


@dataclass(frozen=True, slots=True)
class Recipe:
    """How a packet is made of another. changes: properties of `XmpMarks` that get another value; None: the marks stay
    as they are, and only a name is added. first_name: the name that the file had first. of: SHA-256 of the packet
    that it is made for, None: there is none."""

    changes: Mapping[str, int | str | None] | None = None
    first_name: str | None = None
    of: str | None = None

    @classmethod
    def between(cls, found: XmpMarks, wanted: XmpMarks, packet: bytes | None) -> Recipe:
        """Return the recipe that makes a packet with the marks `wanted` of one with the marks `found`."""
        changes = {
            name: getattr(wanted, name)
            for name in _PROPERTIES
            if getattr(wanted, name) != getattr(found, name)
        }
        if wanted.orientation is None:  # nothing is said of it: what the packet says stays
            changes.pop("orientation", None)
        return cls(changes, of=None if packet is None else sha256(packet))

    @property
    def text(self) -> str:
        """The recipe as JSON."""
        parts = {"changes": self.changes, "first_name": self.first_name, "of": self.of}
        return json.dumps({name: value for name, value in parts.items() if value is not None})

    @classmethod
    def parse(cls, text: str) -> Recipe:
        """Read what `text` wrote."""
        return cls(**json.loads(text))

    def build(self, packet: bytes | None) -> bytes:
        """Return the new packet. Raises OtherPacketError, and XmpError where it cannot be written."""
        if (None if packet is None else sha256(packet)) != self.of:
            raise OtherPacketError
        if packet is None:
            return _built_new(self.text)
        return self._build(packet)

    def _build(self, packet: bytes | None) -> bytes:
        built = packet
        if self.changes is not None:
            read = xmp.Packet(packet)
            built = read.with_marks(replace(read.marks, **{"orientation": None, **self.changes}))  # type: ignore[arg-type]
        if self.first_name is not None:
            built = with_first_name(built, self.first_name) or built
        assert built is not None
        return built


@lru_cache(maxsize=256)
def _built_new(text: str) -> bytes:
    """Most frames of a shoot are marked in one of a few ways."""
    return Recipe.parse(text)._build(None)
