"""Marks here and marks in files: what is read in, what may be written, where both sides were changed.

Three states are held against each other, property by property: here, there, and the base, which is what the file
said when both sides last agreed (three-way merge; Khanna, Kunal & Pierce, *A formal investigation of diff3*,
FSTTCS 2007, from memory). A property that a file does not have counts as not set.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field

from winnow.core.marks import MARK_FIELDS, UNMARKED, Field, Marks, Value, value_of, with_value
from winnow.core.xmp_marks import XmpMarks, stated


@dataclass(frozen=True, slots=True)
class Source:
    """A file that speaks of a frame's marks. kind: sidecar or embedded; digest: of its packet; at: date of the file
    (ISO 8601, UTC)."""

    path: str
    kind: str
    digest: str
    at: str
    found: XmpMarks


@dataclass(slots=True)
class Reading:
    """What follows from reading files. take: values to take over, with the source each comes from; differ: values
    that were changed there while the person's own stand here; agreed: the new base of each file."""

    take: dict[Field, tuple[Value, Source]] = field(default_factory=dict)
    differ: dict[Field, tuple[Value, Source]] = field(default_factory=dict)
    agreed: dict[str, Marks] = field(default_factory=dict)


def read_in(
    sources: Sequence[Source],
    bases: Mapping[str, Marks],
    here: Marks,
    standing: Collection[Field],
    orientation: int | None = None,
) -> Reading:
    """What files say against what is known.

    sources: the ones that count first come first. bases: by path. standing: fields on which a mark of the person
    stands now. orientation: Exif code of the picture; only sidecars are heard on how it is turned, for what stands in
    the file itself goes with its pixels.
    """
    reading = Reading()
    for name in MARK_FIELDS:
        found = spoken(name, sources, bases, orientation)
        if found is None:
            continue
        there, source = found
        before, ours = value_of(bases.get(source.path, UNMARKED), name), value_of(here, name)
        if there in (before, ours):
            continue
        # Where only theirs changed since both sides agreed, nobody's word is lost by taking it over.
        (reading.differ if name in standing and ours != before else reading.take)[name] = found
    for source in sources:
        base = bases.get(source.path, UNMARKED)
        said = said_by(source, orientation)
        for name in MARK_FIELDS:
            if name in reading.differ and reading.differ[name][1] is source:
                continue
            base = with_value(base, name, said.get(name, value_of(UNMARKED, name)))
        reading.agreed[source.path] = base
    return reading


def said_by(source: Source, orientation: int | None) -> dict[Field, Value]:
    """What a file says of marks."""
    return stated(source.found, orientation if source.kind == "sidecar" else None)


def spoken(
    name: Field, sources: Sequence[Source], bases: Mapping[str, Marks], orientation: int | None
) -> tuple[Value, Source] | None:
    """What the files say of a property: the first that has it; else the first that had it and has it no more."""
    for source in sources:
        said = said_by(source, orientation)
        if name in said:
            return said[name], source
    nothing = value_of(UNMARKED, name)
    for source in sources:
        if value_of(bases.get(source.path, UNMARKED), name) != nothing:
            return nothing, source
    return None


@dataclass(frozen=True, slots=True)
class Merge:
    """What is to stand in a file, and the properties in which it was changed by somebody else since."""

    marks: Marks
    conflicts: tuple[Field, ...]


def write_out(
    there: Marks, base: Marks, here: Marks, standing: Collection[Field], mine: Collection[Field] = ()
) -> Merge:
    """The marks to write where a file says `there`.

    A property is written only if it stands as it was when both sides last agreed. Where somebody else changed it
    since, theirs stays; if a mark of the person stands on it here too (`standing`) that was not agreed on, that is a
    conflict, and `mine` names the properties in which the person chose their own.
    """
    merged, conflicts = there, []
    for name in MARK_FIELDS:
        ours, theirs = value_of(here, name), value_of(there, name)
        if ours == theirs:
            continue
        if theirs != value_of(base, name):
            if name in standing and ours != value_of(base, name):
                conflicts.append(name)
            if name not in mine or name not in standing:
                continue
        merged = with_value(merged, name, ours)
    return Merge(merged, tuple(conflicts))
