"""How many frames of a shoot are of each kind, and which pass a filter: kept in memory, and brought up to date by the
frames that changed since, never by counting all of them again."""

from __future__ import annotations

import sqlite3
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from threading import Lock

from winnow.core.filters import FrameFilter, FrameKind, Warned, as_cover
from winnow.core.marks import MAX_RATING, Decision
from winnow.store.frames import FramePlace


@dataclass(slots=True)
class Tally:
    """How many frames of a shoot are where, and how the ones in the shoot are marked.

    `ratings[n]` counts the frames of n stars; `warned` the ones with a problem or a note, `warnings` those that
    the evidence warns of, `faces` and `faceless` those with and without faces (of the measured ones), `similar`
    and `single` those with and without others in their group, `copies` those whose content is there more than once,
    `again` those whose problem may have passed, `unreadable` those with a problem.
    """

    places: dict[FramePlace, int]
    decisions: dict[Decision, int]
    ratings: list[int]
    warned: int
    warnings: dict[Warned, int]
    faces: int
    faceless: int
    similar: int
    single: int
    copies: int
    again: int
    unreadable: int


@dataclass(frozen=True, slots=True)
class _Entry:
    """A frame as the census knows it; `group` and `kind` count for frames in the shoot's place alone."""

    place: FramePlace
    position: int
    group: int
    kind: FrameKind


CHANGED = """
    SELECT frame.id, place, position, frame_group, coalesce(decision, 'undecided') AS decision,
           coalesce(rating, 0) AS rating,
           problem IS NOT NULL AS unreadable,
           problem IS NOT NULL OR note IS NOT NULL OR marks_note IS NOT NULL AS problem, warnings,
           faces > 0 AS faces, copies > 0 AS copies,
           coalesce(problem_kind IN ('passing', 'crashed'), 0) AS again, lead
    FROM frame LEFT JOIN mark ON mark.frame_id = frame.id WHERE shoot_id = ? AND frame.revision > ?
"""


class Census:
    """Of one shoot; may be asked on any thread."""

    def __init__(self, shoot_id: int) -> None:
        self.shoot_id = shoot_id
        self.revision = -1
        self._lock = Lock()
        self._entries: dict[int, _Entry] = {}
        self._order: list[int] | None = None
        self._places: Counter[FramePlace] = Counter()
        self._kinds: Counter[FrameKind] = Counter()
        self._groups: Counter[int] = Counter()
        self._similar = self._single = 0
        self._known: dict[tuple[object, ...], FrameKind] = {}

    def look(
        self, connection: sqlite3.Connection, wanted: FrameFilter, among: Sequence[int] | None = None
    ) -> tuple[list[int], Tally, int]:
        """Ids of the frames that pass a filter, in capture order; all counts; and the revision of both. among: only
        of these is it asked, in any order."""
        with self._lock:
            self._bring_up(connection)
            found = self._passing(wanted) if among is None else self._passing_of(wanted, among)
            return found, self._tally(), self.revision

    def overview(self, connection: sqlite3.Connection) -> tuple[Tally, int | None]:
        """All counts, and the frame that stands for the shoot: the best for it (`as_cover`), from some way in."""
        with self._lock:
            self._bring_up(connection)
            return self._tally(), self._cover()

    def _cover(self) -> int | None:
        worth = {kind: as_cover(kind) for kind in self._kinds}
        best = max((found for found in worth.values() if found is not None), default=None)
        if best is None:
            return None
        order = self._in_order()
        around = (order[place] for place in _outwards(len(order) // 3, len(order)))
        return next(i for i in around if worth[self._entries[i].kind] == best)

    def _bring_up(self, connection: sqlite3.Connection) -> None:
        """Takes in the frames that changed. Their revision is larger than the last one seen: it grows with every
        change, in the transaction of the change."""
        connection.execute("BEGIN")  # one moment for both reads
        try:
            revision = connection.execute(
                "SELECT revision FROM shoot WHERE id = ?", (self.shoot_id,)
            ).fetchone()[0]
            if revision == self.revision:
                return
            rows = connection.execute(CHANGED, (self.shoot_id, self.revision)).fetchall()
        finally:
            connection.execute("ROLLBACK")
        for row in rows:
            self._take(
                row["id"],
                _Entry(FramePlace(row["place"]), row["position"], row["frame_group"], self._kind(row)),
            )
        self.revision = revision

    def _kind(self, row: sqlite3.Row) -> FrameKind:
        key = tuple(row)[4:]
        found = self._known.get(key)
        if found is None:
            faces = None if row["faces"] is None else bool(row["faces"])
            found = self._known[key] = FrameKind(
                Decision(row["decision"]),
                row["rating"],
                bool(row["unreadable"]),
                bool(row["problem"]),
                frozenset(map(Warned, row["warnings"].split())),
                faces,
                bool(row["copies"]),
                bool(row["again"]),
                bool(row["lead"]),
            )
        return found

    def _take(self, frame_id: int, entry: _Entry) -> None:
        before = self._entries.get(frame_id)
        if before is not None:
            self._count(before, -1)
        self._count(entry, 1)
        self._entries[frame_id] = entry
        if before is None or (before.place, before.position) != (entry.place, entry.position):
            self._order = None

    def _count(self, entry: _Entry, by: int) -> None:
        self._places[entry.place] += by
        if entry.place is not FramePlace.SHOOT:
            return
        self._kinds[entry.kind] += by
        if not self._kinds[entry.kind]:
            del self._kinds[entry.kind]
        size = self._groups[entry.group]
        for frames, sign in ((size, -1), (size + by, 1)):
            if frames == 1:
                self._single += sign
            elif frames > 1:
                self._similar += sign * frames
        self._groups[entry.group] = size + by

    def _in_order(self) -> list[int]:
        if self._order is None:
            there = [(e.position, i) for i, e in self._entries.items() if e.place is FramePlace.SHOOT]
            self._order = [frame_id for _, frame_id in sorted(there)]
        return self._order

    def _passing(self, wanted: FrameFilter) -> list[int]:
        order = self._in_order()
        if wanted.shows_all:
            return list(order)
        kinds = {id(kind) for kind in self._kinds if wanted.passes(kind)}
        entries = self._entries
        found = [frame_id for frame_id in order if id(entries[frame_id].kind) in kinds]
        return found if wanted.similar is None else [i for i in found if self._is_similar(i, wanted)]

    def _passing_of(self, wanted: FrameFilter, among: Sequence[int]) -> list[int]:
        there = [i for i in among if i in self._entries and self._entries[i].place is FramePlace.SHOOT]
        return [i for i in there if wanted.passes(self._entries[i].kind) and self._is_similar(i, wanted)]

    def _is_similar(self, frame_id: int, wanted: FrameFilter) -> bool:
        return wanted.similar is None or (self._groups[self._entries[frame_id].group] > 1) is wanted.similar

    def _tally(self) -> Tally:
        tally = Tally(
            {place: self._places[place] for place in FramePlace},
            dict.fromkeys(Decision, 0),
            [0] * (MAX_RATING + 1),
            0,
            dict.fromkeys(Warned, 0),
            0,
            0,
            self._similar,
            self._single,
            0,
            0,
            0,
        )
        for kind, count in self._kinds.items():
            tally.decisions[kind.decision] += count
            tally.ratings[kind.rating] += count
            tally.warned += count * kind.problem
            for warning in kind.warnings:
                tally.warnings[warning] += count
            tally.faces += count * (kind.faces is True)
            tally.faceless += count * (kind.faces is False)
            tally.copies += count * kind.copies
            tally.again += count * kind.again
            tally.unreadable += count * kind.unreadable
        return tally


def _outwards(start: int, count: int) -> Iterator[int]:
    """The numbers below `count`, the ones nearest to `start` first."""
    for distance in range(count):
        for number in {start + distance, start - distance}:
            if 0 <= number < count:
                yield number
