"""Counts and views kept up by what changed, against counting all of it; undo by pointers against the walk."""

from __future__ import annotations

import sqlite3
from dataclasses import replace
from datetime import UTC, datetime
from math import nan
from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.asking import Made, passes, questions
from tests.store.test_store import NOW, fill, set_field
from winnow.core.filters import FrameFilter
from winnow.core.history import BatchKind
from winnow.core.labels import FIRST
from winnow.core.marks import UNMARKED, WORD_FIELDS, Decision, Field, Marks
from winnow.core.warned import Warned
from winnow.store import bases, frames, marks, shoots
from winnow.store.census import Census
from winnow.store.database import Database
from winnow.store.frames import Findings, FramePlace, ProblemKind

changes = st.one_of(
    st.tuples(st.just("decision"), st.sampled_from([d.value for d in Decision])),
    st.tuples(st.just("rating"), st.integers(0, 5)),
    st.tuples(st.just("turn"), st.integers(0, 3)),
    st.tuples(st.just("place"), st.sampled_from([place.value for place in FramePlace])),
    st.tuples(st.just("problem"), st.sampled_from([kind.value for kind in ProblemKind])),
    st.tuples(
        st.just("findings"),
        st.builds(
            Findings,
            lead=st.booleans(),
            faces=st.integers(0, 2),
            warnings=st.sampled_from(["", "soft", "eyes over"]),
            judged=st.just(""),
            looks=st.sampled_from(["", "open", "closed away"]),
            sigma=st.sampled_from([None, 0.6, 1.2]),
            light=st.sampled_from([None, -1.5, 0.25]),
        ),
    ),
    st.tuples(st.just("move"), st.tuples(st.integers(0, 7), st.integers(0, 3))),
    st.tuples(st.just("label"), st.sampled_from([None, "Retouch", "label x"])),
    st.tuples(st.just("keywords"), st.sampled_from([None, '["boat", "Quay, old"]', '["Boat"]'])),
    st.tuples(st.just("head"), st.sampled_from(["a.RAW", None])),
    st.tuples(st.just("agreed"), st.booleans()),
    st.just(("undo", None)),
)


def change(database: Database, shoot_id: int, frame_id: int, what: str, value: Any) -> None:
    if what in ("decision", "rating", "turn", "label", "keywords"):
        set_field(database, shoot_id, [frame_id], Field(what), value)
        return
    with database.transaction() as connection:
        if what == "undo":
            marks.undo(connection, shoot_id, "person", NOW)
            return
        revision = shoots.next_revision(connection, shoot_id)
        if what == "place":
            frames.set_place(connection, frame_id, value, revision)
        elif what == "problem":
            frames.set_problem(connection, frame_id, "p", ProblemKind(value), revision)
        elif what == "findings":
            frames.set_findings(connection, frame_id, value, revision)
        elif what == "head":
            connection.execute(
                "UPDATE frame SET captured_at = ?, focal_mm = 85, shutter_s = 0.003, iso = 640, camera = ?,"
                " lens = ?, width = 60, height = 40, orientation = 1, revision = ? WHERE id = ?",
                ("2026-10-17T16:30:00.900+01:00", "Tarn One", value, revision, frame_id),
            )
        elif what == "agreed":
            held = marks.current(connection, [frame_id])[frame_id] if value else UNMARKED
            bases.keep(connection, frame_id, bases.Base("x.xmp", "", NOW, held))
            frames.touch(connection, frame_id)
        else:
            connection.execute(
                "UPDATE frame SET position = ?, frame_group = ?, revision = ? WHERE id = ?",
                (*value, revision, frame_id),
            )


@settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck))
@given(steps=st.lists(st.tuples(changes, st.integers(0, 7)), max_size=20), wanted=questions)
def test_what_is_kept_up_is_what_a_fresh_count_gives(
    tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[tuple[str, Any], int]], wanted: FrameFilter
) -> None:
    folder = tmp_path_factory.mktemp("census")
    database = Database(folder / "w.sqlite")
    shoot_id, ids = fill(database, folder, 8)
    kept = Census(shoot_id)
    connection = database.connection()
    for (what, value), number in steps:
        change(database, shoot_id, ids[number], what, value)
        assert kept.look(connection, wanted, FIRST) == Census(shoot_id).look(connection, wanted, FIRST)
    assert kept.counts(connection, wanted, FIRST) == Census(shoot_id).counts(connection, wanted, FIRST)
    # And a plain reading of the rows says the same.
    rows = connection.execute(
        "SELECT frame.*, mark.decision FROM frame LEFT JOIN mark ON frame_id = frame.id"
        " WHERE place = 'shoot' ORDER BY position, frame.id"
    ).fetchall()
    made = [_made(connection, row) for row in rows]
    expected = [row["id"] for row, frame in zip(rows, made, strict=True) if passes(frame, wanted, made)]
    assert kept.look(connection, wanted, FIRST)[0] == expected
    assert sorted(kept.look(connection, wanted, FIRST, among=ids)[0]) == sorted(expected)


def _made(connection: sqlite3.Connection, row: sqlite3.Row) -> Made:
    """A frame as a row has it, for the plain reading."""
    held = marks.current(connection, [row["id"]])[row["id"]]
    known = bases.of_frame(connection, row["id"]).values()
    looks = row["looks"].split()

    def here(said: Marks) -> Marks:
        """Without the turn, where it is not known how the picture is stored."""
        return said if row["orientation"] else replace(said, turn=0)

    flags = {
        "lead": row["lead"],
        "unreadable": row["problem"] is not None,
        "noted": row["problem"] is not None,
        "copies": row["copies"],
        "again": row["problem_kind"] in ("passing", "crashed"),
        "edited": row["edited"],
        "from_frame": row["original"],
        "incoming": row["incoming"],
        "jpeg": True,
        "eyes_open": "open" in looks,
        "away": "away" in looks,
        "unwritten": all(here(base.marks) != here(held) for base in known)
        if known
        else here(held) != UNMARKED,
    }
    numbers = {name: row[column] for name, column in COLUMNS.items()}
    at = row["captured_at"] and datetime.fromisoformat(row["captured_at"]).replace(tzinfo=UTC, microsecond=0)
    numbers["taken"] = at and at.timestamp()
    texts = {name: row[name] or None for name in ("camera", "serial", "lens", "people")}
    texts |= {name: getattr(held, name) for name in ("label", *WORD_FIELDS)}
    return Made(
        decision=held.decision,
        rating=held.rating,
        warnings=frozenset(map(Warned, row["warnings"].split())),
        name=row["name"],
        group=row["frame_group"],
        scene=row["scene"],
        faces=-1 if row["faces"] is None else row["faces"],
        width=row["width"] or 0,
        height=row["height"] or 0,
        numbers={name: nan if figure is None else figure for name, figure in numbers.items()},
        texts={**texts, "folder": ".", "type": "JPG"},
        flags=frozenset(name for name, on in flags.items() if on),
    )


COLUMNS = {
    "sigma": "sigma", "light": "light", "focal": "focal_mm", "aperture": "aperture", "shutter": "shutter_s",
    "iso": "iso",
}  # fmt: skip


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(st.sampled_from(["mark", "mark", "undo", "redo", "import"]), max_size=30))
def test_undo_by_pointers_is_undo_by_the_journal(
    tmp_path_factory: pytest.TempPathFactory, steps: list[str]
) -> None:
    folder = tmp_path_factory.mktemp("stacks")
    database = Database(folder / "w.sqlite")
    shoot_id, ids = fill(database, folder)
    for number, what in enumerate(steps):
        with database.transaction() as connection:
            if what == "undo":
                marks.undo(connection, shoot_id, "person", NOW)
            elif what == "redo":
                marks.redo(connection, shoot_id, "person", NOW)
            else:
                wanted = {ids[number % 5]: {Field.LABEL: f"label {number}"}}
                kind = BatchKind(what)
                marks.set_marks(connection, shoot_id, wanted, kind=kind, actor="a", title="t", now=NOW)
        if number == len(steps) // 2:
            # As a journal of an earlier release stands here: without stacks.
            database.connection().execute("UPDATE shoot SET stacked = 0, done_top = NULL, undone_top = NULL")
            database.connection().execute("UPDATE batch SET below = NULL")
        walked = marks.history(database.connection(), shoot_id)
        assert marks.next_steps(database.connection(), shoot_id) == (walked.undo, walked.redo)


def test_a_mark_costs_the_same_however_long_the_journal_is(tmp_path: Path) -> None:
    """By what SQLite does, which is the same on every machine: steps of its virtual machine, not time."""
    database = Database(tmp_path / "w.sqlite")
    shoot_id, ids = fill(database, tmp_path, 50)

    def cost() -> int:
        connection, steps = database.connection(), 0

        def count() -> int:
            nonlocal steps
            steps += 1
            return 0

        connection.set_progress_handler(count, 10)
        set_field(database, shoot_id, ids[:1], Field.RATING, 1 + steps % 2 + cost_of % 2 * 2)
        Census(shoot_id)
        connection.set_progress_handler(None, 10)
        return steps

    cost_of = 0
    early = cost()
    for number in range(2000):
        set_field(database, shoot_id, [ids[number % 50]], Field.LABEL, f"l{number}")
    cost_of = 1
    assert cost() < 2 * early


def test_what_stands_for_a_shoot_on_the_list(tmp_path: Path) -> None:
    """A keeper, the one of most stars; else a lead of which nothing warns; never a misfire."""
    database = Database(tmp_path / "w.sqlite")
    shoot_id, ids = fill(database, tmp_path, 9)
    census = Census(shoot_id)
    assert census.overview(database.connection(), FIRST)[1] == ids[3]
    change(database, shoot_id, ids[3], "problem", "lasting")
    assert census.overview(database.connection(), FIRST)[1] in (ids[2], ids[4])
    change(database, shoot_id, ids[8], "decision", "keep")
    tally, cover = census.overview(database.connection(), FIRST)
    assert (cover, tally.unreadable, tally.decisions[Decision.KEEP]) == (ids[8], 1, 1)
    change(database, shoot_id, ids[7], "decision", "keep")
    change(database, shoot_id, ids[7], "rating", 4)
    assert census.overview(database.connection(), FIRST)[1] == ids[7]
    for gone in ids[7:9]:
        change(database, shoot_id, gone, "place", "moved")
    assert census.overview(database.connection(), FIRST)[1] in (ids[2], ids[4])
    change(database, shoot_id, ids[6], "findings", Findings(True, 0, "", ""))
    assert census.overview(database.connection(), FIRST)[1] == ids[6]
    change(database, shoot_id, ids[6], "findings", Findings(True, 0, "soft", ""))
    assert census.overview(database.connection(), FIRST)[1] in (ids[2], ids[4])
    for misfired in ids[:7]:
        change(database, shoot_id, misfired, "findings", Findings(True, 0, "black", ""))
    assert census.overview(database.connection(), FIRST)[1] is None
