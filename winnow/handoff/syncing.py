"""Marks here held against marks on disk, and settled: nothing is written before the person has said so.

Reading the files happens in the workers, outside any transaction. What is settled is held against what stands then:
a value that changed since it was shown is left for later.
"""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Mapping, Sequence
from concurrent.futures import Future
from dataclasses import dataclass, field, replace
from sqlite3 import Connection
from typing import Any

from winnow.core.agreement import Source
from winnow.core.history import BatchKind
from winnow.core.labels import LabelSet
from winnow.core.marks import Field, Marks, Value, clean_label, value_of
from winnow.core.pairing import Role
from winnow.core.sync import Differing, Side, Take, agreed, compare
from winnow.handoff.standing import Standing
from winnow.pipeline import tasks
from winnow.store import bases, frame_files, frames, labels, marks, shoots
from winnow.store.bases import Base
from winnow.store.database import Database

READ_A_TASK = 60

Ask = Callable[[Callable[..., Any], Any], "Future[Any]"]


@dataclass(frozen=True, slots=True)
class Row:
    """A difference on a frame. here_at, here_by: when and by whom it was last marked here, where a person did."""

    frame_id: int
    one: Differing
    here_at: str | None
    here_by: str | None


@dataclass(slots=True)
class Compared:
    """rows: in the order of the shoot; frames: how many were held against the disk; notes: what could not be read."""

    rows: list[Row] = field(default_factory=list)
    frames: int = 0
    notes: list[str] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Settling:
    """What the person says. takes: of properties that were changed on both sides, with what was shown of them (here,
    there); those that are not named wait. every_in, every_out: all that comes in, or goes out."""

    takes: Mapping[tuple[int, Field], tuple[Take, Value, Value]]
    every_in: bool
    every_out: bool


@dataclass(frozen=True, slots=True)
class Settled:
    """taken: marks that came in; batch: the action that they are, None if there are none; out: frames whose sidecars
    are to be written, and mine: the properties in which that goes over what another program wrote; changed: how many
    were left because they are not any more what was shown."""

    taken: int
    batch: int | None
    out: tuple[int, ...]
    mine: tuple[tuple[int, Field], ...]
    changed: int


@dataclass(frozen=True, slots=True)
class _Ground:
    """What a comparison of a frame rests on."""

    sources: tuple[Source, ...]
    bases: dict[str, Base]
    here: Marks
    orientation: int | None
    differing: list[Differing]


def compared(database: Database, ask: Ask, shoot_id: int, only: Sequence[int] = ()) -> Compared:
    """Holds frames of a shoot (only: these; else all in its place) against what files say now. Raises OSError where a
    folder cannot be read."""
    connection = database.connection()
    ground, notes = _look(connection, ask, shoot_id, only)
    named = [(i, one) for i, held in ground.items() for one in held.differing]
    by = _marked_by(connection, [(i, one.field) for i, one in named])
    rows = [Row(i, one, *by.get((i, one.field), (None, None))) for i, one in named]
    return Compared(rows, len(ground), notes)


def settle(
    database: Database,
    ask: Ask,
    shoot_id: int,
    said: Settling,
    actor: str,
    now: str,
    only: Sequence[int] = (),
    record: Callable[[Connection, Settled], None] = lambda connection, settled: None,
) -> Settled:
    """Import changes as one action, and return which marks are to be written: writing is a plan's. record: called in
    the transaction of the change. Raises OSError where a folder cannot be read."""
    ground, _ = _look(database.connection(), ask, shoot_id, only)
    wanted: dict[int, dict[Field, Value]] = {}
    out: dict[int, None] = {}
    mine: list[tuple[int, Field]] = []
    left: dict[int, set[Field]] = {}
    changed = 0
    for frame_id, held in ground.items():
        for one in held.differing:
            take, fresh = _take(frame_id, one, said)
            changed += not fresh
            if take is Take.THEIRS:
                wanted.setdefault(frame_id, {})[one.field] = one.there
            elif take is Take.OURS:
                out[frame_id] = None
                if one.side is not Side.OUT:
                    mine.append((frame_id, one.field))
            if take is not Take.THEIRS:
                left.setdefault(frame_id, set()).add(one.field)
    with database.transaction() as connection:
        changed += _leave_marked_since(connection, ground, wanted, left)
        batch = _take_over(connection, shoot_id, wanted, actor, now)
        for frame_id, values in wanted.items():
            held = ground[frame_id]
            known = {path: base.marks for path, base in held.bases.items()}
            fresh_bases = agreed(held.sources, known, values, left.get(frame_id, ()), held.orientation)
            for source in held.sources:
                base = Base(source.path, source.digest, source.at, fresh_bases[source.path])
                bases.settle(connection, batch, frame_id, base)
        _note_rest(connection, shoot_id, ground, wanted, left)
        settled = Settled(sum(map(len, wanted.values())), batch, tuple(out), tuple(mine), changed)
        record(connection, settled)
    return settled


def _leave_marked_since(
    connection: Connection,
    ground: Mapping[int, _Ground],
    wanted: dict[int, dict[Field, Value]],
    left: dict[int, set[Field]],
) -> int:
    """Leaves for later what the person has marked otherwise while files were read; returns how many."""
    count = 0
    for frame_id, now in marks.current(connection, list(wanted)).items():
        for name in list(wanted[frame_id]):
            if value_of(now, name) != value_of(ground[frame_id].here, name):
                del wanted[frame_id][name]
                left.setdefault(frame_id, set()).add(name)
                count += 1
        if not wanted[frame_id]:
            del wanted[frame_id]
    return count


def _take(frame_id: int, one: Differing, said: Settling) -> tuple[Take, bool]:
    """How a difference is settled; and whether it still is what was shown, if anything was said of it."""
    if one.side is Side.IN:
        return (Take.THEIRS if said.every_in else Take.LATER), True
    if one.side is Side.OUT:
        return (Take.OURS if said.every_out else Take.LATER), True
    take, here, there = said.takes.get((frame_id, one.field), (Take.LATER, one.here, one.there))
    fresh = (here, there) == (one.here, one.there)
    return (take if fresh else Take.LATER), fresh


def _take_over(
    connection: Connection, shoot_id: int, wanted: Mapping[int, Mapping[Field, Value]], actor: str, now: str
) -> int | None:
    title = f"taken over from disk: {sum(map(len, wanted.values()))} marks of {len(wanted)} frames"
    batch = marks.set_marks(
        connection, shoot_id, wanted, kind=BatchKind.MARK, actor=actor, title=title, now=now
    )
    return batch.id if batch else None


def _note_rest(
    connection: Connection,
    shoot_id: int,
    ground: Mapping[int, _Ground],
    wanted: Mapping[int, Mapping[Field, Value]],
    left: Mapping[int, set[Field]],
) -> None:
    """Frames of which nothing waits any more say so; what was noted on others is looked at again."""
    revision = shoots.next_revision(connection, shoot_id)
    for frame_id, held in ground.items():
        waits = any(one.side is Side.IN and one.field in left.get(frame_id, ()) for one in held.differing)
        frames.settle_incoming(connection, frame_id, waits, frame_id in wanted, revision)


def _look(
    connection: Connection, ask: Ask, shoot_id: int, only: Sequence[int]
) -> tuple[dict[int, _Ground], list[str]]:
    """What files say now of frames, in the order of the shoot, and what they say otherwise than marks here."""
    there = [i for i, _ in frames.placed(connection, shoot_id)]
    asked = set(only)
    chosen = [i for i in there if i in asked] if asked else there
    known = bases.of_shoot(connection, shoot_id)
    roots = {p.frame_id: p.below for p in frames.pictures(connection, shoot_id)}
    disk = Standing()
    wanted: list[tuple[tasks.HeadTask, bool]] = []
    for frame_id, listed in frame_files.files_of(connection, chosen).items():
        if frame_id not in roots or not listed:
            continue
        sidecars = tuple(f.path for f in disk.frame(listed).files if f.role == Role.SIDECAR)
        shown = next((f.path for f in listed if f.role == Role.PICTURE), listed[0].path)
        inside = shown in known.get(frame_id, {})
        wanted.append((tasks.HeadTask(frame_id, shown, roots[frame_id], sidecars), inside))
    chunks = [wanted[i : i + READ_A_TASK] for i in range(0, len(wanted), READ_A_TASK)]
    read = [one for answer in [ask(tasks.read_marks, chunk) for chunk in chunks] for one in answer.result()]
    named = labels.current(connection)
    held = marks.current(connection, chosen)
    upright = frames.orientations(connection, shoot_id)
    ground: dict[int, _Ground] = {}
    for one in read:
        sources = tuple(_with_ids(source, named) for source in one.sources)
        own = known.get(one.frame_id, {})
        differing = compare(
            sources,
            {path: base.marks for path, base in own.items()},
            held[one.frame_id],
            frozenset(Field),
            upright.get(one.frame_id),
        )
        if any(two.side is Side.BOTH for two in differing):  # only then does it matter whose marks stand
            standing = marks.standing(connection, one.frame_id)
            differing = [
                replace(two, side=Side.IN) if two.side is Side.BOTH and two.field not in standing else two
                for two in differing
            ]
        ground[one.frame_id] = _Ground(sources, own, held[one.frame_id], upright.get(one.frame_id), differing)
    never = _never_marked(connection, shoot_id, ground)
    for frame_id in never:  # what files said is not written back to others
        held_here = ground[frame_id]
        ground[frame_id] = replace(
            held_here, differing=[one for one in held_here.differing if one.side is not Side.OUT]
        )
    return ground, [note for one in read for note in one.notes]


def _never_marked(connection: Connection, shoot_id: int, ground: Iterable[int]) -> set[int]:
    return set(ground) - marks.marked_here(connection, shoot_id)


def _with_ids(source: Source, named: LabelSet) -> Source:
    """What a file says, with the id of the label that its text means."""
    label = clean_label(source.found.label or "")
    return replace(source, found=replace(source.found, label=named.id_of(label))) if label else source


def _marked_by(
    connection: Connection, wanted: Sequence[tuple[int, Field]]
) -> dict[tuple[int, Field], tuple[str, str]]:
    """When and by whom properties were last marked here."""
    found = {}
    for frame_id, name in wanted:
        row = connection.execute(
            """SELECT at, actor FROM journal JOIN batch ON batch.id = batch_id
               WHERE frame_id = ? AND field = ? AND kind <> 'import' ORDER BY journal.id DESC LIMIT 1""",
            (frame_id, name),
        ).fetchone()
        if row:
            found[frame_id, name] = (row["at"], row["actor"])
    return found


def shown_of(source: Source | None) -> tuple[str | None, str | None]:
    """Name and date of the file that a value stands in."""
    return (os.path.basename(source.path), source.at) if source else (None, None)
