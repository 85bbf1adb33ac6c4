"""Shoots whose folder is elsewhere, and disks without room, over HTTP."""

from __future__ import annotations

import json
import shutil
from pathlib import Path

import pytest

from tests import photographs
from tests.disks import fill, small_disk
from tests.server import Server, running, until


@pytest.fixture
def server(lone_server: Server) -> Server:
    """One of its own: the folders that go away here could be taken for those of other tests."""
    return lone_server


def ratings(server: Server, shoot: int) -> list[int]:
    return [f["rating"] for f in server.frames(shoot) if f["place"] == "shoot"]


def rated(server: Server, folder: Path) -> int:
    shoot = server.open(folder)
    ids = [f["id"] for f in server.frames(shoot)]
    server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "rating": 4})
    return shoot


def done(server: Server, shoot: int) -> bool:
    return bool(server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")


def test_a_moved_folder_is_recognised_when_it_is_opened(server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "shoots" / "Six")
    shoot = rated(server, folder)
    assert not server.get("/api/shoots")["shoots"][0]["gone"]
    new = tmp_path / "new place" / "Wedding"
    new.parent.mkdir()
    shutil.move(folder, new)
    assert server.get("/api/shoots")["shoots"][0]["gone"]
    status, _, body = server.request("POST", "/api/shoots", {"path": str(new)})
    said = json.loads(body)
    assert status == 409 and said["moved"]["shoot_id"] == shoot
    assert {k: said["moved"][k] for k in ("frames", "found", "others")} == {
        "frames": 6,
        "found": 6,
        "others": 0,
    }
    assert "'Six'" in said["detail"] and "6 of its 6 frames" in said["detail"]
    assert len(server.get("/api/shoots")["shoots"]) == 1, "nothing was opened"
    server.post(f"/api/shoots/{shoot}/whereabouts", {"path": str(new)})
    until(lambda: done(server, shoot))
    assert ratings(server, shoot) == [4] * 6
    card = server.get("/api/shoots")["shoots"][0]
    assert (card["gone"], card["folders"], card["missing"]) == (False, [str(new)], 0)
    assert server.open(new) == shoot


def test_what_matches_is_counted_before_anything_changes(server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "shoots" / "Six")
    shoot = rated(server, folder)
    half = tmp_path / "half"
    for path in sorted(folder.rglob("*.JPG"))[:3]:
        half.mkdir(exist_ok=True)
        shutil.copy(path, half / f"renamed {path.name}")
    photographs.save(half / "other.jpg", 5)
    folder.rename(tmp_path / "shoots" / "hidden")
    counted = server.post(f"/api/shoots/{shoot}/whereabouts/count", {"path": str(half)})
    assert counted == {"frames": 6, "found": 3, "others": 1}
    assert server.get(f"/api/shoots/{shoot}")["folders"] == [str(folder)]
    assert server.request("POST", f"/api/shoots/{shoot}/whereabouts/count", {"path": "/etc"})[0] == 422
    server.post(f"/api/shoots/{shoot}/whereabouts", {"path": str(half)})
    until(lambda: done(server, shoot))
    assert sorted(ratings(server, shoot)) == [0, 4, 4, 4]
    assert server.get(f"/api/shoots/{shoot}")["missing"] == 3


def test_a_shoot_of_its_own_is_not_taken_over(server: Server, tmp_path: Path) -> None:
    first = photographs.shoot(tmp_path / "shoots" / "One")
    shoot = rated(server, first)
    second = photographs.shoot(tmp_path / "shoots" / "Two", 4)
    server.open(second)
    shutil.rmtree(first)
    status, _, body = server.request("POST", f"/api/shoots/{shoot}/whereabouts", {"path": str(second)})
    assert status == 422 and b"shoot of its own" in body


def test_a_second_shoot_is_made_when_that_is_wanted(server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "shoots" / "Six")
    shoot = rated(server, folder)
    new = folder.with_name("Moved")
    folder.rename(new)
    other = server.post("/api/shoots", {"path": str(new), "as_new": True})["id"]
    until(lambda: done(server, other))
    assert other != shoot and ratings(server, other) == [0] * 6


def test_a_disk_that_comes_back_is_noticed(server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "disk" / "Six")
    shoot = rated(server, folder)
    (tmp_path / "disk").rename(tmp_path / "away")
    server.post(f"/api/shoots/{shoot}/refresh")
    until(lambda: server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "unreadable")
    assert ratings(server, shoot) == [4] * 6
    photographs.save(tmp_path / "away" / "Six" / "late.jpg", 3, second=200)
    (tmp_path / "away").rename(tmp_path / "disk")
    until(lambda: done(server, shoot))
    assert ratings(server, shoot) == [4] * 6 + [0], "and read anew, by itself"


def test_marks_without_room_say_so(tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "shoots" / "Six")
    with small_disk(tmp_path / "small", 40) as disk, running(disk / "data", root=tmp_path) as server:
        shoot = server.open(folder)
        ids = [f["id"] for f in server.frames(shoot)]
        filler = fill(disk)
        answers = [
            server.request("POST", f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "rating": n % 6})
            for n in range(1, 600)
        ]
        saved = [n for n, (status, _, _) in enumerate(answers, 1) if status == 200]
        refused = {(status, json.loads(body)["detail"][:30]) for status, _, body in answers if status != 200}
        assert refused == {(507, "There is no room on the disk o")}
        assert set(ratings(server, shoot)) == {saved[-1] % 6 if saved else 0}, "what was answered is kept"
        status, _, body = server.request("POST", "/api/shoots", {"path": str(tmp_path / "shoots")})
        assert status == 507 and b"not saved" in body
        filler.unlink()
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "rating": 5})
        assert set(ratings(server, shoot)) == {5}


def test_labels_that_cannot_be_written_are_refused(server: Server, shoot_folder: Path) -> None:
    shoot = server.open(shoot_folder)
    first = server.frames(shoot)[0]["id"]
    for label in ("bell\x07", "half \ud800", "\x00", "two\nlines"):
        status, _, body = server.request(
            "POST", f"/api/shoots/{shoot}/marks", {"frame_ids": [first], "label": label}
        )
        assert status == 422, label
        assert json.loads(body)["detail"]
    server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": [first], "label": "👩‍🎨 Été"})
