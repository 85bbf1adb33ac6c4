"""Frames found over all shoots are those that a plain reading finds, whatever is typed, and however marks changed."""

from __future__ import annotations

import unicodedata
from pathlib import Path

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests.server import until
from tests.store.test_store import NOW, fill, set_field
from winnow.api.desk import Desk
from winnow.core.labels import FIRST
from winnow.core.marks import Field
from winnow.core.searching import date_text, name_text, words_of
from winnow.core.words import languages_form
from winnow.store import labels, search, shoots
from winnow.store.database import DATABASE, Database

SAID = ("Schüssel im Ofen", "bowl, glaze", "Žofie at the wheel", "", "NOT bowl OR wheel", "ofen-frisch 12")


@pytest.fixture(scope="module")
def database(tmp_path_factory: pytest.TempPathFactory) -> Database:
    """Two shoots of frames with words, and nothing written down yet."""
    folder = tmp_path_factory.mktemp("search")
    database = Database(folder / DATABASE)
    for name in ("Kiln", "Märzmarkt"):
        shoot_id, ids = fill(database, folder / name, 12)
        for number, frame_id in enumerate(ids):
            said = SAID[number % len(SAID)]
            if said:
                text = languages_form({"x-default": said})
                set_field(database, shoot_id, [frame_id], Field.CAPTION, text)
    return database


def found(database: Database, typed: str) -> set[int]:
    for shoot_id in search.stale(database.connection()):
        search.bring_up(database, shoot_id)
    answer = search.find(database.connection(), typed, 100)
    ids = {frame_id for one in answer.shoots for frame_id in one.first}
    assert answer.frames == len(ids) == sum(one.frames for one in answer.shoots)
    return ids


def tokens(text: str) -> list[str]:
    """As unicode61 takes a text apart (SQLite, FTS5, 4.3.1): letters and digits, folded, without their diacritics."""
    plain = "".join(c for c in unicodedata.normalize("NFD", text.casefold()) if not unicodedata.combining(c))
    return "".join(c if c.isalnum() else " " for c in plain).split()


def holds(text: str, word: str) -> bool:
    """Whether a text holds the tokens of a word in a row, the last of them as a beginning."""
    there, wanted = tokens(text), tokens(word)
    return any(
        there[at : at + len(wanted) - 1] == wanted[:-1] and there[at + len(wanted) - 1].startswith(wanted[-1])
        for at in range(len(there) - len(wanted) + 1)
    )


PIECE = st.sampled_from(
    [
        "Schüssel",
        "ofen",
        "of",
        "bowl",
        "OR",
        "NOT",
        '"im Ofen"',
        "3.jpg",
        "kiln",
        "Maerz",
        "marz",
        "žofie",
        "12",
        "*",
        "glaze wheel",
        "(",
        'a"b',
        "bowl*",
        "-bowl",
    ]
)


@settings(max_examples=150, deadline=None, suppress_health_check=list(HealthCheck))
@given(st.lists(PIECE, min_size=1, max_size=3).map(" ".join))
def test_what_is_found_is_what_a_plain_reading_finds(database: Database, typed: str) -> None:
    wanted = words_of(typed)
    rows = database.connection().execute(
        """SELECT frame.id, name, title, json_extract(caption, '$."x-default"') AS said FROM frame
           JOIN shoot ON shoot.id = shoot_id LEFT JOIN mark ON frame_id = frame.id"""
    )
    plain = {
        row["id"]
        for row in rows
        if wanted
        and all(
            any(holds(text, word) for text in (name_text(row["name"]), row["said"] or "", row["title"]))
            for word in wanted
        )
    }
    assert found(database, typed) == plain


def test_numbers_dates_and_labels_are_found_as_people_say_them(tmp_path: Path) -> None:
    assert name_text("101TARN/TRN_0481.JPG") == "101TARN/TRN_0481.JPG 101 0481 481"
    assert date_text("2026-10-17T16:42:10.250+01:00") == "2026-10-17 17 October Saturday"
    assert date_text("not a date") == "not a date" and date_text(None) == ""
    database = Database(tmp_path / DATABASE)
    shoot_id, ids = fill(database, tmp_path / "Kiln", 10)
    with database.transaction() as connection:
        connection.execute(
            "UPDATE frame SET captured_at = '2026-10-17T16:42:10', camera = 'Tarn T2' WHERE id = ?", ids[:1]
        )
    set_field(database, shoot_id, ids[:3], Field.LABEL, FIRST.labels[0].id)
    assert found(database, FIRST.labels[0].name) == set(ids[:3])
    assert found(database, "17 oct sat t2") == {ids[0]} == found(database, "2026-10-17")
    with database.transaction() as connection:
        renamed = labels.as_json(FIRST)
        renamed["labels"][0]["name"] = "Skies"
        labels.define(connection, labels.from_json(renamed), "renamed", NOW)
    assert found(database, "skies") == set(ids[:3]) and found(database, FIRST.labels[0].name) == set()


def test_it_follows_what_changes_and_writes_nothing_that_stays(tmp_path: Path) -> None:
    database = Database(tmp_path / DATABASE)
    shoot_id, ids = fill(database, tmp_path / "Kiln", 1000)
    assert search.bring_up(database, shoot_id) == 1000 and search.bring_up(database, shoot_id) == 0
    set_field(database, shoot_id, ids, Field.DECISION, "reject")
    assert search.stale(database.connection()) == [shoot_id]
    assert search.bring_up(database, shoot_id) == 0, (
        "rejecting a thousand frames changes nothing that is found"
    )
    set_field(database, shoot_id, ids[:2], Field.CAPTION, languages_form({"x-default": "glaze"}))
    search.bring_up_few(database)
    assert found(database, "glaze") == set(ids[:2])
    with database.transaction() as connection:
        shoots.hide(connection, shoot_id)
    assert found(database, "glaze") == set()
    with database.transaction() as connection:
        connection.execute("DELETE FROM frame")
    assert database.connection().execute("SELECT count(*) FROM frame_text").fetchone()[0] == 0


def test_it_is_written_down_by_itself(desk: Desk, shoot_folder: Path) -> None:
    shoot_id = desk.open_folder(str(shoot_folder))
    until(lambda: shoot_id not in search.stale(desk.database.connection()))
    assert search.find(desk.database.connection(), shoot_folder.name, 3).frames == 6
