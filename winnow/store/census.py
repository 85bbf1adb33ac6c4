"""What is known of the frames of a shoot in columns, to answer any question to it: kept in memory, and brought up to
date by the frames that changed since, never by reading all of them again."""

from __future__ import annotations

import sqlite3
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from threading import Lock
from typing import Any

import numpy as np
from numpy.typing import NDArray

from winnow.core import filters
from winnow.core.columns import DECISIONS, WARNINGS, Columns, Mask
from winnow.core.cover import cover_worth
from winnow.core.facets.kinds import Counted, Ground
from winnow.core.filters import FrameFilter
from winnow.core.labels import LabelSet
from winnow.core.marks import MAX_RATING, WORD_FIELDS, Decision
from winnow.core.words import spoken
from winnow.store.database import from_blob
from winnow.store.frames import FramePlace
from winnow.store.proposals import UNPROPOSED


@dataclass(slots=True)
class Tally:
    """How many frames of a shoot are where, and how the ones in the shoot are marked.

    `ratings[n]` counts the frames of n stars, `labels` the frames by the id of their label; `warned` those with a
    problem or a note, `again` those whose problem may have passed, `unreadable` those with a problem, `incoming`
    those that other programs marked since both sides agreed; `proposed` those whose marks are a proposal.
    """

    places: dict[FramePlace, int]
    decisions: dict[Decision, int]
    ratings: list[int]
    labels: dict[str, int]
    warned: int
    again: int
    unreadable: int
    incoming: int
    proposed: int


UNWRITTEN = f"""
    {UNPROPOSED} AND CASE WHEN EXISTS (SELECT 1 FROM base WHERE base.frame_id = frame.id)
      THEN NOT EXISTS (
        SELECT 1 FROM base WHERE base.frame_id = frame.id
        AND base.decision = coalesce(mark.decision, 'undecided')
        AND base.rating = coalesce(mark.rating, 0)
        AND (base.turn = coalesce(mark.turn, 0) OR frame.orientation IS NULL)
        AND base.label IS mark.label AND base.caption IS mark.caption AND base.headline IS mark.headline
        AND base.keywords IS mark.keywords AND base.creator IS mark.creator
        AND base.copyright IS mark.copyright)
      ELSE coalesce(
        mark.decision <> 'undecided' OR mark.rating > 0 OR mark.turn > 0 AND frame.orientation NOTNULL OR coalesce(
          mark.label, mark.caption, mark.headline, mark.keywords, mark.creator, mark.copyright) NOTNULL, 0)
    END
"""
"""Whether a frame has marks that no file has yet. What is proposed is to be in none; a turn waits until it
is known how the picture is stored."""

CHANGED = f"""
    SELECT frame.id AS id, place, position, frame_group, scene, coalesce(mark.decision, 'undecided') AS decision,
           coalesce(mark.rating, 0) AS rating, mark.label AS label, caption, headline, keywords, creator,
           copyright, warnings, coalesce(faces, -1) AS faces, looks,
           people,
           sigma, light, focal_mm, aperture, shutter_s, iso, captured_at, camera, serial, lens,
           coalesce(CASE WHEN mark.turn % 2 THEN height ELSE width END, 0) AS width,
           coalesce(CASE WHEN mark.turn % 2 THEN width ELSE height END, 0) AS height,
           name, lead, edited, original NOTNULL AS from_frame, incoming, copies > 0 AS copies,
           problem IS NOT NULL AS unreadable,
           problem IS NOT NULL OR note IS NOT NULL OR marks_note IS NOT NULL AS noted,
           coalesce(problem_kind IN ('passing', 'crashed'), 0) AS again,
           (SELECT path FROM file WHERE file.frame_id = frame.id AND role = 'raw' LIMIT 1) AS raw,
           EXISTS (SELECT 1 FROM file WHERE file.frame_id = frame.id AND role = 'picture') AS picture,
           {UNWRITTEN} AS unwritten, proposed.by NOTNULL AS proposed
    FROM frame LEFT JOIN mark ON mark.frame_id = frame.id
    LEFT JOIN proposed ON proposed.frame_id = frame.id WHERE shoot_id = ? AND frame.revision > ?
"""
CODE = {decision.value: code for code, decision in enumerate(DECISIONS)}
BIT = {warning.value: 1 << place for place, warning in enumerate(WARNINGS)}
LEAST_ROOM = 64


class Census:
    """Of one shoot; may be asked on any thread."""

    def __init__(self, shoot_id: int) -> None:
        self.shoot_id = shoot_id
        self.revision = -1
        self._lock = Lock()
        self._rows: dict[int, int] = {}
        self._columns = Columns.empty(0)
        self._ids = np.zeros(0, np.int64)
        self._positions = np.zeros(0, np.int64)
        self._places = np.zeros(0, np.int8)
        self._order: NDArray[np.intp] | None = None

    def look(
        self,
        connection: sqlite3.Connection,
        wanted: FrameFilter,
        labels: LabelSet,
        among: Sequence[int] | None = None,
    ) -> tuple[list[int], Tally, int]:
        """Ids of the frames that pass a filter, in capture order; all counts; and the revision of both. among: only
        of these is it asked, in any order."""
        with self._lock:
            self._bring_up(connection)
            passing = wanted.mask(self._ground(labels))
            if among is None:
                order = self._in_order()
                found = self._ids[order[passing[order]]].tolist()
            else:
                found = [i for i in among if i in self._rows and passing[self._rows[i]]]
            return found, self._tally(labels), self.revision

    def counts(
        self, connection: sqlite3.Connection, wanted: FrameFilter, labels: LabelSet
    ) -> dict[str, list[Counted]]:
        """How many frames each alternative of each facet would show beside the rest of a filter."""
        with self._lock:
            self._bring_up(connection)
            return filters.counts(wanted, self._ground(labels))

    def told(
        self, connection: sqlite3.Connection, names: Sequence[str]
    ) -> tuple[list[int], dict[str, list[float | str | None]]]:
        """The ids of the frames in the shoot, in capture order, and for some of the columns of `core.columns` their
        values in that order; None: not known, or there is none."""
        with self._lock:
            self._bring_up(connection)
            order, columns = self._in_order(), self._columns
            found: dict[str, list[float | str | None]] = {}
            for name in names:
                if name in columns.texts:
                    texts = columns.texts[name]
                    said: list[str | None] = [spoken(name, word) for word in texts.words]
                    said.append(None)  # for a code of −1
                    found[name] = [said[code] for code in texts.codes[order].tolist()]
                elif name in columns.numbers:
                    figures = columns.numbers[name][order]
                    found[name] = [None if np.isnan(one) else one for one in figures.tolist()]
                else:
                    least = 0 if name == "faces" else 1
                    found[name] = [n if n >= least else None for n in columns.whole[name][order].tolist()]
            return self._ids[order].tolist(), found

    def overview(self, connection: sqlite3.Connection, labels: LabelSet) -> tuple[Tally, int | None]:
        """All counts, and the frame that stands for the shoot: the best for it (`cover_worth`), from some way in."""
        with self._lock:
            self._bring_up(connection)
            return self._tally(labels), self._cover()

    def _cover(self) -> int | None:
        order = self._in_order()
        worth = cover_worth(self._columns)[order]
        if not len(order) or worth.max() < 0:
            return None
        best = np.flatnonzero(worth == worth.max())
        nearest = best[np.argmin(np.abs(best - len(order) // 3))]
        return int(self._ids[order[nearest]])

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
        if rows:
            self._take(rows)
        self.revision = revision

    def _take(self, rows: list[sqlite3.Row]) -> None:
        for row in rows:
            self._rows.setdefault(row["id"], len(self._rows))
        if len(self._rows) > len(self._columns):
            self._make_room(max(LEAST_ROOM, len(self._rows) * 5 // 4))
        at = np.array([self._rows[row["id"]] for row in rows], np.intp)
        of = dict(zip(rows[0].keys(), zip(*rows, strict=True), strict=True))
        positions, places = np.array(of["position"]), np.array([PLACES[place] for place in of["place"]])
        if (self._positions[at] != positions).any() or (self._places[at] != places).any():
            self._order = None
        self._ids[at], self._positions[at], self._places[at] = of["id"], positions, places
        self._fill(at, of)

    def _make_room(self, n: int) -> None:
        old = len(self._columns)
        self._columns = self._columns.enlarged(n)
        self._ids = np.concatenate([self._ids, np.zeros(n - old, np.int64)])
        self._positions = np.concatenate([self._positions, np.zeros(n - old, np.int64)])
        self._places = np.concatenate([self._places, np.full(n - old, NOWHERE, np.int8)])

    def _fill(self, at: NDArray[np.intp], of: dict[str, tuple[Any, ...]]) -> None:
        """at: the row of each frame; of: what is known of them, by name of the question's column."""
        columns = self._columns
        columns.decision[at] = [CODE[str(decision)] for decision in of["decision"]]
        columns.rating[at] = of["rating"]
        columns.warnings[at] = [sum(BIT[w] for w in str(found).split()) for found in of["warnings"]]
        for name, source in NUMBERS.items():
            columns.numbers[name][at] = np.array(of[source], np.float64)
        columns.numbers["taken"][at] = [_seconds(at) for at in of["captured_at"]]
        columns.texts["people"].codes[at] = [
            columns.texts["people"].code(some or None) for some in of["people"]
        ]
        for name in ("label", "camera", "serial", "lens", *WORD_FIELDS):
            columns.texts[name].codes[at] = [columns.texts[name].code(word) for word in of[name]]
        names = [str(name) for name in of["name"]]
        folders = [name.rpartition("/")[0] or "." for name in names]
        columns.texts["folder"].codes[at] = [columns.texts["folder"].code(folder) for folder in folders]
        shown = [
            from_blob(raw) if isinstance(raw, bytes) else name
            for raw, name in zip(of["raw"], names, strict=True)
        ]
        types = [name.rpartition(".")[2].upper() for name in shown]
        columns.texts["type"].codes[at] = [columns.texts["type"].code(kind) for kind in types]
        for name in (
            *("lead", "unreadable", "noted", "copies"),
            *("again", "edited", "from_frame", "incoming", "unwritten", "proposed"),
        ):
            columns.flags[name][at] = np.array(of[name], np.bool_)
        columns.flags["raw"][at] = [raw is not None for raw in of["raw"]]
        columns.flags["jpeg"][at] = np.array(of["picture"], np.bool_)
        looks = [str(look).split() for look in of["looks"]]
        for name, word in (("eyes_open", "open"), ("away", "away")):
            columns.flags[name][at] = [word in look for look in looks]
        for name, source in (
            ("group", "frame_group"),
            *((name, name) for name in ("scene", "faces", "width", "height")),
        ):
            columns.whole[name][at] = of[source]
        for row, name in zip(at.tolist(), names, strict=True):
            columns.names[row] = name

    def _here(self) -> Mask:
        here: Mask = self._places == PLACES[FramePlace.SHOOT]
        return here

    def _ground(self, labels: LabelSet) -> Ground:
        return Ground(self._columns, self._here(), labels)

    def _in_order(self) -> NDArray[np.intp]:
        """The rows of the frames in the shoot's place, in capture order."""
        if self._order is None:
            here = np.flatnonzero(self._here())
            self._order = here[np.lexsort((self._ids[here], self._positions[here]))]
        return self._order

    def _tally(self, labels: LabelSet) -> Tally:
        here, columns = self._here(), self._columns
        places = np.bincount(self._places[self._places != NOWHERE], minlength=len(PLACES))
        decisions = np.bincount(columns.decision[here], minlength=len(DECISIONS))
        texts = columns.texts["label"]
        held = np.bincount(texts.codes[here & (texts.codes >= 0)], minlength=len(texts.words))
        by_label: dict[str, int] = {}
        for code in np.flatnonzero(held).tolist():
            label_id = labels.id_of(texts.words[code])
            by_label[label_id] = by_label.get(label_id, 0) + int(held[code])
        flagged = {
            name: int(np.count_nonzero(columns.flags[name] & here))
            for name in ("noted", "again", "unreadable", "incoming", "proposed")
        }
        return Tally(
            {place: int(places[code]) for place, code in PLACES.items()},
            {decision: int(decisions[code]) for code, decision in enumerate(DECISIONS)},
            np.bincount(columns.rating[here], minlength=MAX_RATING + 1).tolist(),
            by_label,
            flagged["noted"],
            flagged["again"],
            flagged["unreadable"],
            flagged["incoming"],
            flagged["proposed"],
        )


NUMBERS = {
    "sigma": "sigma",
    "light": "light",
    "focal": "focal_mm",
    "aperture": "aperture",
    "shutter": "shutter_s",
    "iso": "iso",
}
PLACES = {place: code for code, place in enumerate(FramePlace)}
NOWHERE = -1


def _seconds(captured_at: object) -> float:
    """A time as the camera's clock showed it, in whole seconds as if it were UTC; NaN where there is none."""
    if not isinstance(captured_at, str):
        return np.nan
    try:
        return float(datetime.fromisoformat(captured_at).replace(tzinfo=UTC).timestamp() // 1)
    except ValueError:
        return np.nan
