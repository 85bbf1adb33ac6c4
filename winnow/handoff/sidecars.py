"""Sidecars built: the packet that is there with the marks in it, and what another program changed in it since."""

from __future__ import annotations

import os
from collections.abc import Collection
from dataclasses import dataclass, replace
from stat import S_ISLNK

from winnow.core.agreement import Merge, write_out
from winnow.core.labels import LabelSet
from winnow.core.marks import UNMARKED, Field, Marks, Value, clean_label, value_of
from winnow.core.orientation import turned
from winnow.core.xmp_marks import XmpMarks, from_xmp, to_xmp
from winnow.formats import xmp
from winnow.formats.opening import read_plain
from winnow.formats.splices import sha256
from winnow.formats.xmp_names import with_first_name
from winnow.handoff.recipe import Recipe
from winnow.pipeline.scan import date_of, mtime_of
from winnow.store.database import display


class NotBuiltError(ValueError):
    """A sidecar is left as it is; the message says why."""


@dataclass(frozen=True, slots=True)
class Difference:
    """A property that was changed here and, by somebody else, there. `there_at`: date of the file."""

    field: Field
    ours: Value
    theirs: Value
    there_at: str


@dataclass(frozen=True, slots=True)
class Built:
    """recipe: how the new packet is made of the one there is, None where nothing is to be written. size: what the new
    packet will take at least, bytes. mtime_ns: when the packet that there is was written."""

    recipe: Recipe | None
    size: int = 0
    differences: tuple[Difference, ...] = ()
    mtime_ns: int | None = None


def build(
    path: str | None,
    here: Marks,
    base: Marks,
    standing: Collection[Field],
    labels: LabelSet,
    orientation: int | None = None,
    mine: Collection[Field] = (),
) -> Built:
    """Work out how the sidecar at a path (None: there is none yet) gets the marks of its frame.

    base, standing, mine: see `core.agreement.write_out`. orientation: Exif code of the picture, None before
    it is known. Raises NotBuiltError.
    """
    read = _read(path) if path is not None else None
    if read is None:
        return _built_new(labels.as_written(here), orientation)
    there = labels.as_held(from_xmp(read.packet.marks, orientation))
    merge = write_out(there, base, here, standing, mine)
    return _with_marks(
        read.packet, read.content, merge, there, here, labels, orientation, (read.date, read.mtime_ns)
    )


@dataclass(frozen=True, slots=True)
class ReadSidecar:
    """A sidecar as it lies on disk. date, mtime_ns: when it was written."""

    packet: xmp.Packet
    content: bytes
    date: str
    mtime_ns: int


def _read(path: str) -> ReadSidecar | None:
    """Read a sidecar; None where there is none. Raises NotBuiltError."""
    try:
        stat = os.lstat(path)
        if S_ISLNK(stat.st_mode):
            raise NotBuiltError(f"{display(path)} is a link to another file and is left as it is.")
        content = read_plain(path, limit=xmp.MAX_PACKET)
        return ReadSidecar(xmp.Packet(content), content, date_of(stat), mtime_of(stat))
    except FileNotFoundError:
        return None
    except OSError as error:
        raise NotBuiltError(f"{display(path)} cannot be read ({error.strerror}).") from error
    except xmp.XmpError as error:
        raise NotBuiltError(f"{display(path)} is left as it is: {error}") from error


def build_inside(
    previous: bytes | None,
    dates: tuple[str, int],
    here: Marks,
    base: Marks,
    standing: Collection[Field],
    labels: LabelSet,
    mine: Collection[Field] = (),
) -> Built:
    """The packet inside a picture with the marks of its frame; how it is turned is left to Exif. previous: the packet
    there is; dates: of the file, in words and ns. Raises NotBuiltError."""
    try:
        packet = xmp.Packet(previous)
        there = labels.as_held(from_xmp(packet.marks))
        here = replace(here, turn=there.turn)
        merge = write_out(there, base, here, standing, mine)
        return _with_marks(packet, previous, merge, there, here, labels, None, dates)
    except xmp.XmpError as error:
        raise NotBuiltError(f"The marks inside are left as they are: {error}") from error


def _with_marks(
    packet: xmp.Packet,
    previous: bytes | None,
    merge: Merge,
    there: Marks,
    here: Marks,
    labels: LabelSet,
    orientation: int | None,
    dates: tuple[str, int],
) -> Built:
    """A packet with merged marks in it; without content where that changes nothing. Raises NotBuiltError."""
    found = packet.marks
    at, mtime_ns = dates
    differences = tuple(
        Difference(name, value_of(here, name), value_of(there, name), at) for name in merge.conflicts
    )
    wanted = to_xmp(labels.as_written(merge.marks), orientation)
    if orientation and found.orientation is not None:
        # What is there is said anew, also where it is as the picture was taken again.
        wanted = replace(wanted, orientation=turned(orientation, merge.marks.turn))
    if merge.marks == there and (
        wanted.label == clean_label(found.label or "") or not labels.of(there.label or "")
    ):
        return Built(None, differences=differences)
    if found.rating is None and wanted.rating == 0:
        # A packet that says nothing of stars goes on saying nothing.
        wanted = replace(wanted, rating=None)
    recipe = Recipe.between(found, wanted, previous)
    return Built(recipe, len(previous or b""), differences, mtime_ns)


def build_named(path: str | None, was: str) -> Built:
    """Work out how the sidecar at a path (None: there is none yet) gets the first name of its frame. Raises
    NotBuiltError."""
    if path is None:
        recipe = Recipe(first_name=was)
        return Built(recipe, len(recipe.build(None)))
    try:
        stat = os.lstat(path)
        if S_ISLNK(stat.st_mode):
            raise NotBuiltError(f"{display(path)} is a link to another file and is left as it is.")
        previous = read_plain(path, limit=xmp.MAX_PACKET)
        if with_first_name(previous, was) is None:
            return Built(None)
        return Built(Recipe(first_name=was, of=sha256(previous)), len(previous), mtime_ns=mtime_of(stat))
    except OSError as error:
        raise NotBuiltError(f"{display(path)} cannot be read ({error.strerror}).") from error
    except xmp.XmpError as error:
        raise NotBuiltError(f"{display(path)} is left as it is: {error}") from error


def _built_new(here: Marks, orientation: int | None) -> Built:
    recipe = Recipe.between(XmpMarks(), to_xmp(here, orientation), None)
    try:
        return Built(recipe, len(recipe.build(None)))
    except xmp.XmpError as error:
        raise NotBuiltError(str(error)) from error


def marks_in(content: bytes, labels: LabelSet, orientation: int | None) -> Marks:
    """The marks that a packet says; none where it cannot be read."""
    try:
        return labels.as_held(from_xmp(xmp.read_marks(content), orientation))
    except xmp.XmpError:
        return UNMARKED
