"""A whole shoot in one file, and joined to its pictures on another machine."""

from __future__ import annotations

import io
import json
import shutil
import urllib.error
import urllib.request
import zipfile
from contextlib import suppress
from itertools import product
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from tests import photographs
from tests.api.test_memory import peak_mb
from tests.commands import command
from tests.concurrently import at_once
from tests.pipeline.test_identity import NOW, Shoot
from tests.server import Server
from winnow.api.desk import Desk
from winnow.core.archive import ArchiveError
from winnow.core.group_edits import Word
from winnow.core.history import BatchKind
from winnow.core.labels import Colour, Label, LabelSet, Shape
from winnow.core.marks import Decision, Field
from winnow.core.passes import OURS
from winnow.core.points import Point
from winnow.core.proposals import Proposal
from winnow.formats.archive import packed, unpacked
from winnow.handoff.joining import join, save
from winnow.pipeline.engine import wait_until_idle
from winnow.store import evidence, frames, labels, marks, named_filters, proposals, shoots, walks


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    folder = tmp_path / "here"
    for n, name in enumerate("abcd"):
        photographs.save(folder / f"{name}.jpg", n, second=n)
    return folder


@pytest.fixture
def there(desk: Desk, folder: Path) -> Shoot:
    """A shoot that somebody has worked on: marks, one taken back, a split, a point, a pass, a label of their own, a
    clock and a filter."""
    shoot = Shoot(desk, folder)
    ids = {name: row["id"] for name, row in shoot.rows().items()}
    own = Label("Oven", "Oven", "glazed twice", Colour.GREEN, Shape.RING)
    with desk.database.transaction() as connection:
        labels.define(connection, LabelSet((*labels.FIRST.labels, own)), "t", NOW)
    with desk.database.transaction() as connection:
        wanted = {ids["d.jpg"]: {Field.LABEL: "Retouch"}}
        told = {"kind": BatchKind.MARK, "actor": "Mia", "title": "proposed", "now": NOW}
        marks.set_marks(connection, shoot.id, wanted, **told, proposes=True)  # type: ignore[arg-type]
    shoot.mark(2, "a.jpg", "b.jpg")
    shoot.decide(Decision.REJECT, "c.jpg")
    shoot.mark(5, "a.jpg")
    with desk.database.transaction() as connection:
        marks.undo(connection, shoot.id, "person", NOW)
        said = {ids["b.jpg"]: Word(None), ids["d.jpg"]: Word(ids["a.jpg"])}
        marks.set_words(connection, shoot.id, said, actor="person", title="split", now=NOW)  # type: ignore[arg-type]
        asked = walks.asked(connection, shoot.id, list(ids.values()), ())  # type: ignore[arg-type]
        walks.begin(connection, shoot.id, OURS[0], asked, actor="person", now=NOW)
        put = {ids["a.jpg"]: Point(120.0, 80.5)}
        marks.set_points(connection, shoot.id, put, actor="person", title="point", now=NOW)  # type: ignore[arg-type]
        evidence.set_clock(connection, shoot.id, "Tarn One", 3600.0)
        named_filters.keep(connection, shoot.id, "the best", "3 stars or more")
    shoot._set(Field.LABEL, "Oven", ["b.jpg"])
    return shoot


def saved(shoot: Shoot) -> bytes:
    held = shoots.get(shoot.desk.database.connection(), shoot.id)
    assert held is not None
    return save(shoot.desk.database.connection(), held, NOW)


@pytest.fixture
def elsewhere(there: Shoot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Shoot:
    """The pictures on another machine: other folders and names, one of them not there, another data folder."""
    folder = tmp_path / "other" / "deep"
    folder.mkdir(parents=True)
    for name, new in (("a", "x"), ("b", "b"), ("d", "a")):
        shutil.copy(there.folder / f"{name}.jpg", folder / f"{new}.jpg")
    desk = Desk.set_up(tmp_path / "data 2", [tmp_path])
    desk.start()
    shoot = Shoot(desk, folder)
    yield shoot
    desk.stop()


def told(shoot: Shoot) -> dict[str, tuple[object, ...]]:
    return {name: (row["decision"], row["rating"], row["label"]) for name, row in shoot.rows().items()}


def test_all_that_was_done_comes_along(there: Shoot, elsewhere: Shoot) -> None:
    """Marks, history with what was taken back, words on groups and the pass, on frames known by content."""
    joined = join(elsewhere.desk.database, elsewhere.id, saved(there), NOW)
    assert (joined.found, joined.missing, joined.whole, joined.actions) == (3, ["c.jpg"], True, 8)
    was = told(there)
    assert told(elsewhere) == {"x.jpg": was["a.jpg"], "b.jpg": was["b.jpg"], "a.jpg": was["d.jpg"]}
    connection = elsewhere.desk.database.connection()
    ids = {name: row["id"] for name, row in elsewhere.rows().items()}
    assert evidence.words(connection, elsewhere.id) == {
        ids["b.jpg"]: Word(None),
        ids["a.jpg"]: Word(ids["x.jpg"]),
    }  # type: ignore[arg-type]
    (proposal,) = proposals.of(connection, [ids["a.jpg"]]).values()  # type: ignore[list-item]
    assert proposal.by == "Mia"
    oven = labels.current(connection).of("Oven")
    assert oven is not None and (oven.meaning, oven.colour) == ("glazed twice", Colour.GREEN)
    assert evidence.clocks(connection, elsewhere.id) == {"Tarn One": 3600.0}
    assert [one.sentence for one in named_filters.of_shoot(connection, elsewhere.id)] == ["3 stars or more"]
    assert evidence.points(connection, elsewhere.id) == {ids["x.jpg"]: Point(120.0, 80.5)}
    (walk,) = walks.of_shoot(connection, elsewhere.id)
    assert (walk.of, walk.total) == (OURS[0], 3)
    # The journal holds: what it leads to is what stands.
    for shoot in (there, elsewhere):
        rebuilt = marks.rebuilt(shoot.desk.database.connection(), shoot.id)
        assert rebuilt == marks.current(shoot.desk.database.connection(), rebuilt)
    # And it goes on: what was done there is taken back here, step by step.
    for left in (["group", "rating"], []):
        with elsewhere.desk.database.transaction() as connection:
            while marks.undo(connection, elsewhere.id, "person", NOW):
                if left and not evidence.words(connection, elsewhere.id):
                    break
    assert {row["rating"] for row in elsewhere.rows().values()} == {0}


def test_marks_that_stand_here_are_not_lost(there: Shoot, elsewhere: Shoot) -> None:
    """Where something was done here, marks are joined as one action: where both say something, what is here stays
    unless the person says otherwise."""
    elsewhere.mark(4, "x.jpg")
    looked = join(elsewhere.desk.database, elsewhere.id, saved(there), NOW, dry_run=True)
    assert (looked.whole, looked.taken, looked.differ) == (False, 3, 1)  # the pass kept them
    assert elsewhere.ratings() == {"x.jpg": 4, "b.jpg": 0, "a.jpg": 0}
    join(elsewhere.desk.database, elsewhere.id, saved(there), NOW)
    assert elsewhere.ratings() == {"x.jpg": 4, "b.jpg": 2, "a.jpg": 0}
    connection, frame = elsewhere.desk.database.connection(), elsewhere.rows()["a.jpg"]["id"]
    assert proposals.of(connection, [frame]) == {frame: Proposal(frozenset({Field.LABEL}), "Mia")}  # type: ignore[list-item, dict-item]
    with elsewhere.desk.database.transaction() as connection:
        marks.undo(connection, elsewhere.id, "person", NOW)
    assert elsewhere.ratings() == {"x.jpg": 4, "b.jpg": 0, "a.jpg": 0}
    assert not proposals.of(connection, [frame])  # type: ignore[list-item]
    elsewhere._set(Field.LABEL, "Select", ["a.jpg"])
    join(elsewhere.desk.database, elsewhere.id, saved(there), NOW, theirs=True)
    assert elsewhere.ratings() == {"x.jpg": 2, "b.jpg": 2, "a.jpg": 0}
    assert elsewhere.rows()["a.jpg"]["label"] == "Select", "a proposal changes nothing that stands"


def test_what_a_sidecar_said_here_stays_where_the_archive_says_nothing(
    there: Shoot, elsewhere: Shoot
) -> None:
    frame = elsewhere.rows()["a.jpg"]["id"]
    with elsewhere.desk.database.transaction() as connection:
        connection.execute(
            "INSERT INTO mark (frame_id, decision, rating) VALUES (?, 'undecided', 3)", (frame,)
        )
        connection.execute(
            "INSERT INTO batch (id, shoot_id, kind, actor, at, title) VALUES (77, ?, 'import', 'sidecar', ?, 't')",
            (elsewhere.id, NOW),
        )
        connection.execute("INSERT INTO journal VALUES (NULL, 77, ?, 'rating', 0, 3)", (frame,))
    join(elsewhere.desk.database, elsewhere.id, saved(there), NOW)
    assert elsewhere.ratings() == {"x.jpg": 2, "b.jpg": 2, "a.jpg": 3}


def test_an_archive_that_is_read_back_says_the_same(there: Shoot) -> None:
    content = saved(there)
    assert packed(unpacked(content)) == content
    with zipfile.ZipFile(io.BytesIO(content)) as file:  # any program can read it
        lines = file.read("frames.jsonl").decode().splitlines()
        assert [json.loads(line)["name"] for line in lines] == ["a.jpg", "b.jpg", "c.jpg", "d.jpg"]


def test_an_archive_of_other_pictures_is_refused(there: Shoot, desk: Desk, tmp_path: Path) -> None:
    photographs.save(tmp_path / "none" / "z.jpg", 5, second=50)
    other = Shoot(desk, tmp_path / "none")
    with pytest.raises(ArchiveError, match="None of the 4 frames"):
        join(desk.database, other.id, saved(there), NOW)


@settings(max_examples=150, deadline=None)
@given(st.data())
def test_a_damaged_archive_changes_nothing(
    tmp_path_factory: pytest.TempPathFactory, data: st.DataObject
) -> None:
    """Cut short, bits changed, lines changed: refused with a reason, or understood; never half taken."""
    content = _archive(tmp_path_factory)
    how = data.draw(st.sampled_from(["cut", "bits", "lines"]))
    if how == "cut":
        content = content[: data.draw(st.integers(0, len(content) - 1))]
    elif how == "bits":
        at = data.draw(st.integers(0, len(content) - 1))
        content = (
            content[:at] + bytes([content[at] ^ (1 << data.draw(st.integers(0, 7)))]) + content[at + 1 :]
        )
    else:
        out = io.BytesIO()
        with zipfile.ZipFile(io.BytesIO(content)) as old, zipfile.ZipFile(out, "w") as new:
            for name in old.namelist():
                text = old.read(name).decode()
                at = data.draw(st.integers(0, max(0, len(text) - 1)))
                new.writestr(
                    name, text[:at] + data.draw(st.text('0-9"{}[],:null', max_size=3)) + text[at + 1 :]
                )
        content = out.getvalue()
    try:
        unpacked(content)
    except ArchiveError as error:
        assert str(error)


@pytest.mark.parametrize(
    ("head", "told"),
    [
        ('{"format":"other"}', "no archive of a shoot"),
        ('{"format":"winnow-shoot","version":9}', "of version 9"),
    ],
)
def test_what_is_no_archive_or_a_newer_one_is_told_apart_from_a_damaged_one(head: str, told: str) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as new:
        new.writestr("shoot.json", head)
    with pytest.raises(ArchiveError, match=told):
        unpacked(out.getvalue())


def test_whatever_byte_of_an_archive_is_changed_it_is_refused_or_understood() -> None:
    """Its directory and the heads of its members too, which say where all is and how it was packed."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in ("shoot.json", "frames.jsonl", "history.jsonl", "passes.jsonl"):
            new.writestr(name, '{"format":"winnow-shoot","version":1}')
    content = out.getvalue()
    for at, byte in product(range(len(content)), (0, 1, 12, 14, 255)):
        with suppress(ArchiveError):
            unpacked(content[:at] + bytes([byte]) + content[at + 1 :])


@pytest.mark.parametrize(
    ("part", "old", "new", "told"),
    [
        ("frames.jsonl", '"rating":2', '"rating":9', "marks of a.jpg"),
        ("frames.jsonl", '"120.0 80.5"', '"here"', "cannot be understood"),
        ("history.jsonl", '"reverts":4', '"reverts":77', "never done"),
        ("history.jsonl", '"after":5', '"after":4', "do not follow"),
        ("shoot.json", '"colour": "green"', '"colour": "mud"', "labels in this archive"),
        ("passes.jsonl", '"order":', '"odour":', "pass in this archive"),
    ],
)
def test_an_archive_that_says_what_cannot_be_is_refused_whole(
    there: Shoot, elsewhere: Shoot, part: str, old: str, new: str, told: str
) -> None:
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(saved(there))) as file, zipfile.ZipFile(out, "w") as changed:
        assert part in file.namelist()
        for name in file.namelist():
            text = file.read(name).decode()
            assert name != part or old in text
            changed.writestr(name, text.replace(old, new) if name == part else text)
    with pytest.raises(ArchiveError, match=told):
        join(elsewhere.desk.database, elsewhere.id, out.getvalue(), NOW)
    assert set(elsewhere.ratings().values()) == {0} and not labels.current(
        elsewhere.desk.database.connection()
    ).of("Oven")


_KEPT: list[bytes] = []


def _archive(factory: pytest.TempPathFactory) -> bytes:
    """Made once: damaging it is what is tried."""
    if not _KEPT:
        folder = factory.mktemp("damaged")
        desk = Desk.set_up(folder / "data", [folder])
        desk.start()
        photographs.save(folder / "s" / "a.jpg", 0)
        shoot = Shoot(desk, folder / "s")
        shoot.mark(3, "a.jpg")
        _KEPT.append(saved(shoot))
        desk.stop()
    return _KEPT[0]


def test_by_command(there: Shoot, elsewhere: Shoot, tmp_path: Path) -> None:
    """`winnow export --archive` and `winnow import`: exit codes as the other commands have."""

    wait_until_idle(there.desk.engine)
    data, file = there.desk.database.path.parent, tmp_path / "shoot.zip"
    there.desk.engine.stop()
    assert command("export", there.folder, "--archive", file, "--data", data).returncode == 0
    assert (
        command("export", there.folder, "--archive", file, "--data", data).returncode == 2
    )  # nothing is written over
    fresh = tmp_path / "data 3"
    looked = command("import", file, "--to", elsewhere.folder, "--data", fresh, "--dry-run")
    assert looked.returncode == 1 and "not here: c.jpg" in looked.stdout and "3 of 4 frames" in looked.stdout
    assert command("import", file, "--to", elsewhere.folder, "--data", fresh).returncode == 1
    third = Desk.set_up(fresh, [tmp_path])
    held = frames.summaries(third.database.connection(), 1)
    assert sorted((Path(row["name"]).name, row["rating"]) for row in held) == [
        ("a.jpg", 0),
        ("b.jpg", 2),
        ("x.jpg", 2),
    ]
    assert (
        command("import", elsewhere.folder / "x.jpg", "--to", elsewhere.folder, "--data", fresh).returncode
        == 2
    )


def bomb(member: str, line: bytes, count: int) -> bytes:
    """An archive whose member unpacks to many times the size of the file."""
    file = io.BytesIO()
    head = {"format": "winnow-shoot", "version": 1, "title": "t", "made_at": "", "program": "", "frames": 0,
            "labels": {}, "filters": {}, "clocks": {}}  # fmt: skip
    with zipfile.ZipFile(file, "w", zipfile.ZIP_DEFLATED) as out:
        for name in ("shoot.json", "frames.jsonl", "history.jsonl", "passes.jsonl"):
            with out.open(name, "w") as part:
                part.write(json.dumps(head).encode() if name == "shoot.json" else b"")
                for _ in range(count if name == member else 0):
                    part.write(line)
    return file.getvalue()


@pytest.mark.parametrize(
    ("line", "count"),
    [(b"\n" * 1_000_000, 300), (b" " * 1_000_000, 40), (b"\n", 600_000)],
    ids=["size", "line", "lines"],
)
def test_an_archive_that_unpacks_to_far_more_is_refused_and_costs_the_server_nothing(
    lone_server: Server, shoot_folder: Path, line: bytes, count: int
) -> None:
    """OWASP on zip bombs: limits on what is unpacked, not on what is sent. Marks go on meanwhile."""
    shoot = lone_server.open(shoot_folder)
    frame = lone_server.frames(shoot)[0]["id"]
    content, before = bomb("frames.jsonl", line, count), peak_mb(lone_server)
    assert len(content) < 2_000_000
    call = urllib.request.Request(f"{lone_server.address}/api/shoots/{shoot}/archive?dry_run=true", content)
    call.add_header("Authorization", f"Bearer {lone_server.token}")
    call.add_header("Content-Type", "application/zip")

    def join() -> int:
        try:
            with urllib.request.urlopen(call, timeout=60) as answer:
                return int(answer.status)
        except urllib.error.HTTPError as error:
            assert b"unpacks to more" in error.read()
            return error.code

    def mark() -> int:
        body = {"frame_ids": [frame], "rating": 3}
        return int(lone_server.request("POST", f"/api/shoots/{shoot}/marks", body)[0])

    assert at_once([join, mark]) == [422, 200]
    assert peak_mb(lone_server) - before < 50
