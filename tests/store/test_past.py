"""The list of what was done: going to any point of it, and one action taken back alone, against plain lists."""

from __future__ import annotations

from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.store.test_store import NOW, fill, set_field
from winnow.core.marks import UNMARKED, Field, Marks
from winnow.store import marks, past
from winnow.store.database import Database

steps = st.one_of(
    st.tuples(st.just("mark"), st.integers(0, 3), st.integers(1, 5)),
    st.tuples(st.just("go"), st.integers(0, 12), st.just(0)),
    st.tuples(st.just("alone"), st.integers(0, 12), st.just(0)),
)


class Model:
    """Stars of four frames, and every action as a list of (frame, before, after)."""

    def __init__(self) -> None:
        self.stars = [0] * 4
        self.done: list[tuple[int, list[tuple[int, int, int]]]] = []
        self.undone: list[tuple[int, list[tuple[int, int, int]]]] = []

    def act(self, batch: int, changes: list[tuple[int, int, int]]) -> None:
        self.apply(changes)
        self.done.append((batch, changes))
        self.undone = []

    def apply(self, changes: list[tuple[int, int, int]], back: bool = False) -> None:
        for frame, before, after in changes:
            self.stars[frame] = before if back else after

    def go(self, batch: int) -> bool:
        stands, ahead = [one for one, _ in self.done], [one for one, _ in self.undone]
        if batch in stands or batch == 0:
            while self.done and self.done[-1][0] != batch:
                self.apply(self.done[-1][1], back=True)
                self.undone.append(self.done.pop())
            return True
        if batch not in ahead:
            return False
        while not self.done or self.done[-1][0] != batch:
            self.apply(self.undone[-1][1])
            self.done.append(self.undone.pop())
        return True

    def can_be_taken_back(self, batch: int) -> bool:
        places = [at for at, (one, _) in enumerate(self.done) if one == batch]
        if not places:
            return False
        frames = {frame for frame, _, _ in self.done[places[0]][1]}
        return not any(
            frame in frames for _, changes in self.done[places[0] + 1 :] for frame, _, _ in changes
        )


@settings(max_examples=80, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(steps, max_size=25))
def test_jumps_and_single_actions_are_what_plain_lists_say(
    tmp_path_factory: pytest.TempPathFactory, todo: list[tuple[str, int, int]]
) -> None:
    folder = tmp_path_factory.mktemp("past")
    database = Database(folder / "w.sqlite")
    shoot_id, ids = fill(database, folder, 4)
    model, batches = Model(), [0]
    for what, number, stars in todo:
        if what == "mark":
            before = model.stars[number]
            if before == stars:
                continue
            set_field(database, shoot_id, [ids[number]], Field.RATING, stars)
            batches.append(_newest(database))
            model.act(batches[-1], [(number, before, stars)])
            continue
        batch = batches[number % len(batches)]
        with database.transaction() as connection:
            if what == "go":
                try:
                    past.go_to(connection, shoot_id, batch, "person", NOW)
                    assert model.go(batch)
                except past.NotNowError:
                    assert not model.go(batch)
            else:
                changes = dict(model.done).get(batch, [])
                try:
                    made = past.take_back(connection, shoot_id, batch, "person", NOW)
                    assert made is not None and model.can_be_taken_back(batch)
                    batches.append(made.id)
                    model.act(made.id, [(frame, after, before) for frame, before, after in changes])
                except past.NotNowError:
                    assert not model.can_be_taken_back(batch)
        connection = database.connection()
        held = marks.current(connection, ids)
        assert [held[i].rating for i in ids] == model.stars
        assert marks.rebuilt(connection, shoot_id) == {
            i: m for i, m in held.items() if i in marks.rebuilt(connection, shoot_id)
        }
    found = past.page(database.connection(), shoot_id, None, 100)
    stands = {batch for batch, _ in model.done}
    assert {entry.id for entry in found if not entry.taken_back} == stands
    reachable = stands | {batch for batch, _ in model.undone}
    assert {entry.id for entry in found if entry.can_go} == reachable


def _newest(database: Database) -> int:
    found: int = database.connection().execute("SELECT max(id) FROM batch").fetchone()[0]
    return found


def test_the_list_goes_by_pages_and_can_be_searched(tmp_path: Path) -> None:
    database = Database(tmp_path / "w.sqlite")
    shoot_id, ids = fill(database, tmp_path, 5)
    for n in range(12):
        set_field(database, shoot_id, ids[: 1 + n % 5], Field.RATING, 1 + n % 5)
    connection = database.connection()
    connection.execute("UPDATE batch SET title = '5 frames: 100 %_ stars', actor = 'Zoë' WHERE id = 7")
    first = past.page(connection, shoot_id, None, 5)
    second = past.page(connection, shoot_id, first[-1].id, 5)
    assert [entry.id for entry in first + second] == sorted(
        (entry.id for entry in first + second), reverse=True
    )
    assert len(first[0].sample) <= 3 and first[0].frames >= len(first[0].sample)
    assert [entry.id for entry in past.page(connection, shoot_id, None, 9, "100 %_")] == [7]
    assert [entry.id for entry in past.page(connection, shoot_id, None, 9, "zoë")] == [7]
    assert marks.current(connection, ids[:1])[ids[0]] != UNMARKED
    with database.transaction() as changing:
        past.go_to(changing, shoot_id, 0, "person", NOW)
    assert marks.current(connection, ids) == dict.fromkeys(ids, Marks())


def test_a_long_history_does_not_slow_its_pages(tmp_path: Path) -> None:
    """By what SQLite does, which is the same on every machine: steps of its virtual machine, not time."""
    database = Database(tmp_path / "w.sqlite")
    shoot_id, ids = fill(database, tmp_path, 5)
    connection = database.connection()

    def cost() -> int:
        seen = 0

        def count() -> int:
            nonlocal seen
            seen += 1
            return 0

        connection.set_progress_handler(count, 10)
        past.page(connection, shoot_id, None, 40)
        connection.set_progress_handler(None, 10)
        return seen

    for n in range(60):
        set_field(database, shoot_id, [ids[n % 5]], Field.LABEL, f"l{n}")
    early = cost()
    for n in range(3000):
        set_field(database, shoot_id, [ids[n % 5]], Field.LABEL, f"m{n}")
    assert cost() < 1.5 * early
