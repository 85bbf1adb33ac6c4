"""Counts and views kept up by what changed, against counting all of it; undo by pointers against the walk."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.store.test_store import NOW, fill, set_field
from winnow.core.filters import FrameFilter, RatingRule, Warned
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field
from winnow.store import frames, marks, shoots
from winnow.store.census import Census
from winnow.store.database import Database
from winnow.store.frames import FramePlace, ProblemKind

changes = st.one_of(
    st.tuples(st.just("decision"), st.sampled_from([d.value for d in Decision])),
    st.tuples(st.just("rating"), st.integers(0, 5)),
    st.tuples(st.just("place"), st.sampled_from([place.value for place in FramePlace])),
    st.tuples(st.just("problem"), st.sampled_from([kind.value for kind in ProblemKind])),
    st.tuples(
        st.just("findings"),
        st.tuples(st.booleans(), st.integers(0, 2), st.sampled_from(["", "soft", "eyes over"])),
    ),
    st.tuples(st.just("move"), st.tuples(st.integers(0, 7), st.integers(0, 3))),
    st.just(("undo", None)),
)

filters = st.builds(
    FrameFilter,
    decisions=st.frozensets(st.sampled_from(list(Decision))),
    rating_rule=st.sampled_from([None, *RatingRule]),
    stars=st.integers(1, 5),
    problems_only=st.booleans(),
    warnings=st.frozensets(st.sampled_from(list(Warned)), max_size=2),
    faces=st.sampled_from([None, True, False]),
    similar=st.sampled_from([None, True, False]),
    copies=st.booleans(),
)


def change(database: Database, shoot_id: int, frame_id: int, what: str, value: Any) -> None:
    if what in ("decision", "rating"):
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
            frames.set_findings(connection, frame_id, *value, "", revision)
        else:
            connection.execute(
                "UPDATE frame SET position = ?, frame_group = ?, revision = ? WHERE id = ?",
                (*value, revision, frame_id),
            )


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(steps=st.lists(st.tuples(changes, st.integers(0, 7)), max_size=20), wanted=filters)
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
        assert kept.look(connection, wanted) == Census(shoot_id).look(connection, wanted)
    # And a plain loop over the frames says the same.
    rows = [row for row in frames.summaries(connection, shoot_id) if row["place"] == "shoot"]
    sizes = [sum(other["group"] == row["group"] for other in rows) for row in rows]
    low, high = wanted.star_range()
    expected = [
        row["id"]
        for row, size in zip(rows, sizes, strict=True)
        if (not wanted.decisions or row["decision"] in wanted.decisions)
        and low <= row["rating"] <= high
        and (not wanted.problems_only or row["problem"] or row["note"])
        and (not wanted.warnings or set(row["warnings"].split()) & wanted.warnings)
        and (wanted.faces is None or (row["faces"] is not None and (row["faces"] > 0) == wanted.faces))
        and (wanted.similar is None or (size > 1) == wanted.similar)
        and (not wanted.copies or row["copies"])
    ]
    assert kept.look(connection, wanted)[0] == expected
    assert sorted(kept.look(connection, wanted, among=ids)[0]) == sorted(expected)


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
    assert census.overview(database.connection())[1] == ids[3]
    change(database, shoot_id, ids[3], "problem", "lasting")
    assert census.overview(database.connection())[1] in (ids[2], ids[4])
    change(database, shoot_id, ids[8], "decision", "keep")
    tally, cover = census.overview(database.connection())
    assert (cover, tally.unreadable, tally.decisions[Decision.KEEP]) == (ids[8], 1, 1)
    change(database, shoot_id, ids[7], "decision", "keep")
    change(database, shoot_id, ids[7], "rating", 4)
    assert census.overview(database.connection())[1] == ids[7]
    for gone in ids[7:9]:
        change(database, shoot_id, gone, "place", "moved")
    assert census.overview(database.connection())[1] in (ids[2], ids[4])
    change(database, shoot_id, ids[6], "findings", (True, 0, ""))
    assert census.overview(database.connection())[1] == ids[6]
    change(database, shoot_id, ids[6], "findings", (True, 0, "soft"))
    assert census.overview(database.connection())[1] in (ids[2], ids[4])
    for misfired in ids[:7]:
        change(database, shoot_id, misfired, "findings", (True, 0, "black"))
    assert census.overview(database.connection())[1] is None
