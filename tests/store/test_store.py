"""Database, journal, frames."""

from __future__ import annotations

import json
import sqlite3
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.schemas import database_of_schema
from winnow.core.history import BatchKind
from winnow.core.marks import UNMARKED, Decision, Field, Marks
from winnow.store import frames, listing, marks, shoots
from winnow.store.database import Database, DatabaseTooNewError
from winnow.store.frame_files import ListedFile, ListedFrame
from winnow.store.settings import library as library_of

NOW = "2026-10-17T20:00:00.000+00:00"


def listed(root: Path, name: str, *more: str, mtime: int = 1) -> ListedFrame:
    files = [ListedFile(str(root / name), "picture", 10, mtime)]
    files += [ListedFile(str(root / other), "sidecar", 5, mtime) for other in more]
    return ListedFrame(name, str(root / name), f"v{name}{mtime}", tuple(files))


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database(tmp_path / "w.sqlite")


def fill(database: Database, root: Path, count: int = 5) -> tuple[int, list[int]]:
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, root, NOW)
        folder_id = connection.execute("SELECT id FROM folder").fetchone()[0]
        found = [(folder_id, listed(root, f"{n}.jpg")) for n in range(count)]
        listing.reconcile(connection, shoot_id, found, {}, 1)
    rows = frames.summaries(database.connection(), shoot_id)
    return shoot_id, [row["id"] for row in rows]


def set_field(database: Database, shoot_id: int, ids: list[int], field: Field, value: object) -> None:
    with database.transaction() as connection:
        marks.set_marks(
            connection,
            shoot_id,
            {i: {field: value} for i in ids},  # type: ignore[dict-item]
            kind=BatchKind.MARK,
            actor="person",
            title="t",
            now=NOW,
        )


action = st.one_of(
    st.tuples(st.just("decision"), st.sampled_from([d.value for d in Decision])),
    st.tuples(st.just("rating"), st.integers(0, 5)),
    st.tuples(st.just("label"), st.sampled_from([None, "Retouch", "5"])),
    st.tuples(st.just("turn"), st.integers(0, 3)),
    st.just(("undo", None)),
    st.just(("redo", None)),
)


@settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(st.lists(st.tuples(action, st.sets(st.integers(0, 4), min_size=1)), max_size=25))
def test_the_state_can_be_rebuilt_from_the_journal_alone(
    tmp_path_factory: pytest.TempPathFactory, steps: list[tuple[tuple[str, object], set[int]]]
) -> None:
    folder = tmp_path_factory.mktemp("journal")
    database = Database(folder / "w.sqlite")
    shoot_id, ids = fill(database, folder)
    for (what, value), which in steps:
        with database.transaction() as connection:
            if what == "undo":
                marks.undo(connection, shoot_id, "person", NOW)
            elif what == "redo":
                marks.redo(connection, shoot_id, "person", NOW)
        if what not in ("undo", "redo"):
            set_field(database, shoot_id, [ids[n] for n in which], Field(what), value)
    connection = Database(folder / "w.sqlite").connection()  # as after a restart
    state = {i: m for i, m in marks.current(connection, ids).items() if m != UNMARKED}
    rebuilt = {i: m for i, m in marks.rebuilt(connection, shoot_id).items() if m != UNMARKED}
    assert rebuilt == state


def test_undoing_everything_leads_back_to_the_start(database: Database, tmp_path: Path) -> None:
    shoot_id, ids = fill(database, tmp_path)
    set_field(database, shoot_id, ids, Field.DECISION, "reject")
    set_field(database, shoot_id, ids[:2], Field.RATING, 4)
    for count in (2, 5):
        with database.transaction() as connection:
            batch = marks.undo(connection, shoot_id, "person", NOW)
        assert batch is not None
        assert len(batch.frame_ids) == count
    with database.transaction() as connection:
        assert marks.undo(connection, shoot_id, "person", NOW) is None
        assert set(marks.current(connection, ids).values()) == {UNMARKED}
        assert marks.redo(connection, shoot_id, "person", NOW) is not None
    rows = database.connection().execute("SELECT count(*) FROM journal").fetchone()
    assert rows[0] == 5 + 2 + 2 + 5 + 5  # nothing is ever taken out of the journal


def test_reconcile_keeps_frames_through_changes_on_disk(database: Database, tmp_path: Path) -> None:
    shoot_id, ids = fill(database, tmp_path, 3)
    set_field(database, shoot_id, ids, Field.RATING, 3)

    def reconcile(*found: ListedFrame) -> dict[str, sqlite3.Row]:
        with database.transaction() as connection:
            listing.reconcile(connection, shoot_id, [(1, frame) for frame in found], {}, 9)
        return {row["name"]: row for row in frames.summaries(database.connection(), shoot_id)}

    now = reconcile(
        listed(tmp_path, "0.jpg", "0.xmp"),  # a sidecar came
        listed(tmp_path, "1.jpg", mtime=2),  # its content changed
        listed(tmp_path, "9.jpg"),  # new; 2.jpg is gone
    )
    assert [now[f"{n}.jpg"]["id"] for n in (0, 1, 2)] == ids
    assert now["0.jpg"]["version"] == "v0.jpg1"
    assert now["1.jpg"]["version"] == "v1.jpg2"
    assert now["2.jpg"]["place"] == "missing"
    assert now["2.jpg"]["rating"] == 3
    back = reconcile(*(listed(tmp_path, f"{n}.jpg") for n in (0, 1, 2)))
    assert back["2.jpg"]["place"] == "shoot"
    assert back["2.jpg"]["id"] == ids[2]


def test_only_changes_are_sent_again(database: Database, tmp_path: Path) -> None:
    shoot_id, ids = fill(database, tmp_path)
    shoot = shoots.get(database.connection(), shoot_id)
    assert shoot
    with database.transaction() as connection:
        connection.execute("UPDATE shoot SET revision = 1")
    set_field(database, shoot_id, ids[1:2], Field.RATING, 2)
    assert [r["id"] for r in frames.changed(database.connection(), shoot_id, 1, 0, 9)] == ids[1:2]


def test_names_that_are_not_utf8(database: Database, tmp_path: Path) -> None:
    name = b"caf\xe9.jpg".decode("utf-8", "surrogateescape")
    with database.transaction() as connection:
        shoot_id = shoots.open_folder(connection, tmp_path, NOW)
        file = ListedFile(str(tmp_path / name), "picture", 1, 1)
        frame = ListedFrame("caf\ufffd.jpg", str(tmp_path / name), "v", (file,))
        listing.reconcile(connection, shoot_id, [(1, frame)], {}, 1)
    found = frames.pictures(database.connection(), shoot_id)
    assert found[0].path == str(tmp_path / name)


def test_a_failed_transaction_leaves_nothing(database: Database, tmp_path: Path) -> None:
    shoot_id, ids = fill(database, tmp_path)
    with pytest.raises(RuntimeError), database.transaction() as connection:
        connection.execute("DELETE FROM frame")
        raise RuntimeError
    assert len(frames.summaries(database.connection(), shoot_id)) == len(ids)


def test_a_newer_database_is_not_touched(tmp_path: Path) -> None:
    Database(tmp_path / "w.sqlite")
    connection = sqlite3.connect(tmp_path / "w.sqlite")
    connection.execute("PRAGMA user_version = 99")
    connection.commit()
    with pytest.raises(DatabaseTooNewError, match="newer version"):
        Database(tmp_path / "w.sqlite")


def test_hidden_shoots_come_back_with_their_marks(database: Database, tmp_path: Path) -> None:
    shoot_id, ids = fill(database, tmp_path)
    set_field(database, shoot_id, ids, Field.RATING, 5)
    with database.transaction() as connection:
        shoots.hide(connection, shoot_id)
        assert list(shoots.listed(connection)) == []
        assert shoots.open_folder(connection, tmp_path, NOW) == shoot_id
        assert len(list(shoots.listed(connection))) == 1
    assert {m.rating for m in marks.current(database.connection(), ids).values()} == {5}


def test_the_list_goes_on_after_any_shoot(database: Database, tmp_path: Path) -> None:
    """Several were opened in the same moment; one is taken off the list, another opened again."""
    with database.transaction() as connection:
        ids = [
            shoots.open_folder(connection, tmp_path / str(n), f"2026-10-17T16:0{n // 3}:00Z")
            for n in range(8)
        ]
        shoots.hide(connection, ids[4])
        shoots.open_folder(connection, tmp_path / "1", "2026-10-17T17:00:00Z")
        whole = [shoot.id for shoot in shoots.listed(connection)]
        assert whole == [ids[n] for n in (1, 7, 6, 5, 3, 2, 0)]
        for at, after in enumerate(whole):
            assert [shoot.id for shoot in shoots.listed(connection, after)] == whole[at + 1 :]
        assert [shoot.id for shoot in shoots.listed(connection, ids[4])] == whole[4:]


def test_a_data_folder_is_told_from_others_for_good(tmp_path: Path) -> None:
    def library(folder: str, new: str) -> str:
        with Database(tmp_path / folder).transaction() as connection:
            return library_of(connection, new)

    assert library("one.db", "a") == "a" and library("two.db", "b") == "b"
    assert library("one.db", "c") == "a"


def test_keepers_of_an_earlier_version_are_keepers(tmp_path: Path) -> None:
    """As the sixth numbered schema wrote them, in marks, journal and evidence."""
    path = tmp_path / "w.sqlite"
    eyes = [[{"state": "open"}, {"state": "unknown"}], [{"state": "closed"}, {"state": "open"}]]
    judged = {
        "subject": {"sigma_px": 1.5},
        "group_stops": -0.25,
        "faces": [{"facing": False, "eyes": eyes[0]}, {"facing": True, "eyes": eyes[1]}],
    }
    with database_of_schema(path, 6) as connection:
        connection.executescript(
            """INSERT INTO shoot (id, title, created_at, opened_at) VALUES (1, 't', '', '');
               INSERT INTO folder (id, shoot_id, path) VALUES (1, 1, x'2f');
               INSERT INTO frame (id, shoot_id, folder_id, name, version)
                 VALUES (1, 1, 1, 'a', 'v'), (2, 1, 1, 'b', 'v'), (3, 1, 1, 'c', 'v');
               INSERT INTO mark (frame_id, decision, rating) VALUES (1, 'pick', 0), (2, 'pick', 0);
               INSERT INTO batch (id, shoot_id, kind, actor, at, title)
                 VALUES (1, 1, 'mark', 'person', '', '2 frames picked');
               INSERT INTO journal (batch_id, frame_id, field, before, after)
                 VALUES (1, 1, 'decision', 'undecided', 'pick'), (1, 2, 'decision', 'undecided', 'pick');"""
        )
        connection.execute(
            "INSERT INTO evidence (frame_id, version, method, judgement) VALUES (3, 'v', 1, ?)",
            (json.dumps(judged),),
        )
    shoot_id, ids = 1, [1, 2, 3]
    database = Database(path)
    found = database.connection().execute("SELECT sigma, light, looks FROM frame ORDER BY id").fetchall()
    assert [tuple(row) for row in found[1:3]] == [(None, None, ""), (1.5, -0.25, "closed away")]
    assert marks.current(database.connection(), ids[:2]) == dict.fromkeys(ids[:2], Marks(Decision.KEEP))
    assert marks.rebuilt(database.connection(), shoot_id)[ids[0]].decision is Decision.KEEP
    assert marks.title_of(database.connection(), 1) == "2 frames kept"
    with database.transaction() as connection:
        marks.undo(connection, shoot_id, "person", NOW)
    assert marks.current(database.connection(), ids[:1]) == {ids[0]: UNMARKED}
