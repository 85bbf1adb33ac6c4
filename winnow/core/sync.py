"""Marks here against marks on disk: for each property of a frame, which of the two sides was changed since both
agreed. See `core.agreement` for the three states and their source."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from winnow.core.agreement import Source, said_by, spoken
from winnow.core.marks import MARK_FIELDS, UNMARKED, Field, Marks, Value, value_of, with_value


class Side(StrEnum):
    """What a difference asks for: to come in from disk, to go out, or, changed on both sides, to be settled."""

    IN = "in"
    OUT = "out"
    BOTH = "both"


class Take(StrEnum):
    """How a difference is settled."""

    THEIRS = "theirs"
    OURS = "ours"
    LATER = "later"


@dataclass(frozen=True, slots=True)
class Differing:
    """A property that is not the same here and on disk. base: when both sides last agreed; source: of `there`, None
    where no file speaks of the frame."""

    field: Field
    side: Side
    here: Value
    base: Value
    there: Value
    source: Source | None


def compare(
    sources: Sequence[Source],
    bases: Mapping[str, Marks],
    here: Marks,
    standing: Collection[Field],
    orientation: int | None = None,
) -> list[Differing]:
    """The properties of a frame in which files and marks differ. See `agreement.read_in` for what is given. A turn is
    said from how the picture is stored: where nobody knows that, it goes neither way."""
    found = []
    for field in MARK_FIELDS:
        if field is Field.TURN and orientation is None:
            continue
        nothing, ours = value_of(UNMARKED, field), value_of(here, field)
        said = spoken(field, sources, bases, orientation)
        there, source = said if said is not None else (nothing, None)
        base = value_of(bases.get(source.path, UNMARKED), field) if source else nothing
        if there == ours:
            continue
        if there == base:
            side = Side.OUT
        elif ours == base or field not in standing:
            side = Side.IN
        else:
            side = Side.BOTH
        found.append(Differing(field, side, ours, base, there, source))
    return found


def agreed(
    sources: Iterable[Source],
    bases: Mapping[str, Marks],
    taken: Collection[Field],
    left: Collection[Field],
    orientation: int | None = None,
) -> dict[str, Marks]:
    """The new base of each file. taken: properties that were taken over from disk; left: those in which nothing was
    settled, whose base stays."""
    found = {}
    for source in sources:
        base, said = bases.get(source.path, UNMARKED), said_by(source, orientation)
        for field in MARK_FIELDS:
            if field in taken or field not in left:
                base = with_value(base, field, said.get(field, value_of(UNMARKED, field)))
        found[source.path] = base
    return found
