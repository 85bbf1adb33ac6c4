"""A whole shoot in one file: what it holds, and whose of its frames lie here.

Frames are known by content, never by path: an archive opens wherever the pictures are.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, replace
from typing import Any, TypeAlias, TypeVar

from winnow.core.group_edits import Word
from winnow.core.history import BatchKind
from winnow.core.identity import Exposure, Found, Known, recognise
from winnow.core.labels import LabelSet
from winnow.core.marks import MARK_FIELDS, UNMARKED, Change, Field, Marks, Value, replay, value_of, with_value
from winnow.core.pairing import fold
from winnow.core.points import Point
from winnow.core.proposals import Proposal

Cell: TypeAlias = str | int | None
One = TypeVar("One")


class ArchiveError(ValueError):
    """An archive that cannot be used; the message says what to do."""


@dataclass(frozen=True, slots=True)
class ArchivedFrame:
    """A frame: what it is known by (see `core.identity.Known`), where it was, and what was said of it. marks: those
    that are set, as the journal writes them; word: see `core.group_edits.Word`, of a number in the archive; point:
    see `core.points.Point`."""

    id: int
    name: str
    content: str | None
    picture: str | None
    taken: str | None
    serial: str | None
    camera: str | None
    image_id: str | None
    place: str
    marks: dict[Field, Cell]
    word: str | None = None
    point: str | None = None

    def as_marks(self) -> Marks:
        """Raises ValueError for marks that cannot be."""
        marks = Marks()
        for field, value in self.marks.items():
            marks = with_value(marks, field, value)
        return marks


@dataclass(frozen=True, slots=True)
class ArchivedChange:
    frame: int
    field: Field
    before: Cell
    after: Cell


@dataclass(frozen=True, slots=True)
class ArchivedBatch:
    """Something that was done; see `store.past.Entry`. reverts, walk: numbers in the archive."""

    id: int
    kind: BatchKind
    reverts: int | None
    actor: str
    at: str
    title: str
    seen: str
    walk: int | None
    changes: tuple[ArchivedChange, ...]


@dataclass(frozen=True, slots=True)
class ArchivedPlace:
    """A frame of a walk: whether the person has gone on from it, and the decision that it started as."""

    frame: int
    seen: bool
    started: str


@dataclass(frozen=True, slots=True)
class ArchivedWalk:
    """A pass gone through; see `store.walks.Walk`. starting, taken_back: batches, by their numbers in the archive."""

    id: int
    definition: dict[str, Any]
    begun_at: str
    ended_at: str | None
    frame: int | None
    seconds: float
    starting: int | None
    taken_back: int | None
    frames: tuple[ArchivedPlace, ...]


@dataclass(frozen=True, slots=True)
class About:
    """What stands at the head of an archive. labels: see `store.labels.as_json`; filters: name → sentence; clocks:
    camera → seconds by which it is ahead."""

    title: str
    made_at: str
    program: str
    frames: int
    labels: dict[str, Any]
    filters: dict[str, str]
    clocks: dict[str, float]


@dataclass(frozen=True, slots=True)
class Archive:
    about: About
    frames: tuple[ArchivedFrame, ...]
    history: tuple[ArchivedBatch, ...]
    walks: tuple[ArchivedWalk, ...]


def found_here(archive: Archive, here: Iterable[Known]) -> dict[int, int]:
    """Number of a frame in the archive → frame here, for those whose pictures lie here."""
    found = [
        Found(
            str(one.id),
            one.name,
            one.content,
            one.picture,
            Exposure(one.taken, one.serial, one.camera, one.image_id),
        )
        for one in archive.frames
    ]
    return {int(number): frame_id for number, frame_id in recognise(found, here).items()}


def labels_joined(here: LabelSet, there: LabelSet, used: Iterable[str]) -> tuple[LabelSet, dict[str, str]]:
    """The labels here with those that an archive uses and that are missing; and what each id there is here. A label
    that cannot be taken in beside the others stays as a text."""
    ids: dict[str, str] = {}
    for one in dict.fromkeys(used):
        label = there.of(one)
        known = here.of(label.name if label else one) or here.of(one)
        ids[one] = known.id if known else one
        if label is None or known is not None:
            continue
        taken = {fold(other.key) for other in here.labels if other.key}
        key = label.key if label.key and fold(label.key) not in taken else None
        try:
            here = replace(here, labels=(*here.labels, replace(label, key=key)))
        except ValueError:
            ids[one] = label.name
    return here, ids


def translated(
    archive: Archive, frames: Mapping[int, int], labels: Mapping[str, str]
) -> list[tuple[ArchivedBatch, list[Change]]]:
    """The history with what it did to the frames that are here, by their numbers here. What did nothing to any of
    them is left out, and so are the steps that took it back. Raises ArchiveError for a history that cannot be."""
    kept = []
    for batch in archive.history:
        changes = [found for one in batch.changes if (found := _change(one, frames, labels)) is not None]
        if changes:
            kept.append((batch, changes))
    known: set[int] = set()
    for batch, _ in kept:
        if batch.kind in (BatchKind.UNDO, BatchKind.REDO) and batch.reverts not in known:
            raise ArchiveError("The history in this archive is damaged: it takes back what was never done.")
        known.add(batch.id)
    try:
        replay(change for _, changes in kept for change in changes if change.field in MARK_FIELDS)
    except ValueError as error:
        raise ArchiveError("The history in this archive is damaged: its steps do not follow.") from error
    return kept


def _change(one: ArchivedChange, frames: Mapping[int, int], labels: Mapping[str, str]) -> Change | None:
    if one.frame not in frames:
        return None
    before, after = (_value(one.field, value, frames, labels) for value in (one.before, one.after))
    return None if before == after else Change(frames[one.frame], one.field, before, after)


def _value(field: Field, value: Cell, frames: Mapping[int, int], labels: Mapping[str, str]) -> Value:
    if value is None:
        return None
    if field is Field.LABEL:
        return labels.get(str(value), str(value))
    if field is Field.GROUP:
        word = word_here(str(value), frames)
        return None if word is None else str(word)
    if field is Field.POINT:
        return str(_parsed(Point.parse, str(value)))
    if field is Field.PROPOSED:
        return str(_parsed(Proposal.parse, str(value)))
    return value


def word_here(text: str, frames: Mapping[int, int]) -> Word | None:
    """A word on a group, by the numbers here; None where it speaks of a frame that is not here."""
    word = _parsed(Word.parse, text)
    if word.goes_with is None:
        return word
    return Word(frames[word.goes_with]) if word.goes_with in frames else None


def point_here(text: str) -> Point:
    return _parsed(Point.parse, text)


def _parsed(parse: Callable[[str], One], text: str) -> One:
    try:
        return parse(text)
    except ValueError as error:
        raise ArchiveError(f"'{text[:40]}' in this archive cannot be understood: it is damaged.") from error


@dataclass(frozen=True, slots=True)
class Merged:
    """Marks of an archive beside those that stand here. take: to be taken over; proposed: which of them are proposals
    there, and stay it; differ: frames in which something stands here that the archive says otherwise."""

    take: dict[int, dict[Field, Value]]
    proposed: dict[int, Proposal]
    differ: set[int]


def merged(
    there: Mapping[int, Marks], proposed: Mapping[int, Proposal], here: Mapping[int, Marks], *, theirs: bool
) -> Merged:
    """What an archive says of frames where nothing is said here; with `theirs`, also where something else is. A
    property that the archive does not set changes nothing, and what is proposed there nothing that stands here."""
    take: dict[int, dict[Field, Value]] = {}
    stay: dict[int, Proposal] = {}
    differ = set()
    for frame_id, marks in there.items():
        only = proposed.get(frame_id)
        suggested = set()
        for field in MARK_FIELDS:
            said, standing, nothing = (value_of(m, field) for m in (marks, here[frame_id], UNMARKED))
            is_proposal = only is not None and field in only.fields
            if said in (nothing, standing) or (is_proposal and standing != nothing):
                continue
            if is_proposal:
                suggested.add(field)
            if standing != nothing:
                differ.add(frame_id)
            if standing == nothing or theirs:
                take.setdefault(frame_id, {})[field] = said
        if only is not None and suggested:
            stay[frame_id] = Proposal(frozenset(suggested), only.by)
    return Merged(take, stay, differ)


def proposed_there(archive: Archive, frames: Mapping[int, int]) -> dict[int, Proposal]:
    """The proposals that stand at the end of an archive's history on frames that are here. Raises ArchiveError."""
    last = {
        change.frame: change.after
        for batch in archive.history
        for change in batch.changes
        if change.field is Field.PROPOSED
    }
    return {frames[i]: _parsed(Proposal.parse, str(said)) for i, said in last.items() if said and i in frames}
