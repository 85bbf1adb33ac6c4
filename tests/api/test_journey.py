"""The interface's own requests, against a real server; marks and plans through a `kill -9`."""

from __future__ import annotations

import http.client
import io
import json
import re
import signal
from pathlib import Path
from urllib.parse import urlsplit

import psutil
import pytest

from tests import photographs
from tests.server import Server, running, start, until
from winnow.store.database import DATABASE, Database


def test_marks_undo_redo_and_views(server: Server, shoot_folder: Path) -> None:
    shoot = server.open(shoot_folder)
    base = f"/api/shoots/{shoot}"
    first = server.get(f"{base}/frames")
    ids = [frame["id"] for frame in first["frames"]]
    marked = server.post(f"{base}/marks", {"frame_ids": ids[:2], "decision": "keep", "rating": 4})
    assert marked["actions"]["undo"]["title"] == "2 frames: kept, 4 stars"
    assert marked["actions"]["redo"] is None
    view = server.get(f"{base}/view?show=kept,4%20stars%20or%20more")
    assert (view["ids"], view["total"], view["hidden"]) == (ids[:2], 6, 4)
    assert view["tally"]["decisions"] == {"undecided": 4, "keep": 2, "reject": 0}
    assert view["tally"]["ratings"] == [4, 0, 0, 0, 2, 0]
    changed = server.get(f"{base}/frames?since={first['revision']}")
    assert [frame["id"] for frame in changed["frames"]] == ids[:2]
    assert server.step(shoot, "undo")["actions"]["redo"]["title"] == "2 frames: kept, 4 stars"
    assert server.get(f"{base}/view?show=keepers")["ids"] == []
    assert server.get(f"{base}/actions")["undo"] is None
    server.step(shoot, "redo")
    assert server.get(f"{base}/view?show=keepers")["ids"] == ids[:2]


def test_a_mark_says_what_it_makes_of_the_view(server: Server, shoot_folder: Path) -> None:
    """What a client would be told if it asked for the view through the same filter after it."""
    shoot = server.open(shoot_folder)
    base = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in server.frames(shoot)]
    queries = (
        "",
        "?show=keepers",
        "?show=undecided%20or%20rejects",
        "?show=2%20stars%20or%20more,has%20similar",
    )
    for number, query in enumerate(queries):
        wish = {"frame_ids": ids[:3], "decision": ["keep", "reject"][number % 2], "rating": number}
        seen = server.post(f"{base}/marks{query}", wish)["view"]
        whole = server.get(f"{base}/view{query}")
        assert seen["passing"] == [i for i in ids[:3] if i in whole["ids"]]
        assert all(seen[name] == whole[name] for name in seen if name != "passing")
    assert (
        server.request("POST", f"{base}/marks?show=9%20stars", {"frame_ids": ids[:1], "rating": 1})[0] == 422
    )


def test_a_mark_in_parts_is_one_action(server: Server, shoot_folder: Path) -> None:
    """A mark on thousands of frames comes in parts; one undo takes it back."""
    shoot = server.open(shoot_folder)
    base = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in server.frames(shoot)]
    wish = {"decision": "reject", "of": 6}
    first = server.post(f"{base}/marks", {"frame_ids": ids[:3], **wish})
    second = server.post(f"{base}/marks", {"frame_ids": ids[3:], "continues": first["batch"], **wish})
    assert second["batch"] == first["batch"] and second["revision"] > first["revision"]
    assert [frame["id"] for frame in second["frames"]] == ids[3:], "only what this part changed"
    undo = second["actions"]["undo"]
    assert undo == {"batch": first["batch"], "title": "6 frames: rejected", "walk": None}
    view = server.get(f"{base}/view?show=rejects")
    assert (view["ids"], view["revision"]) == (ids, second["revision"])
    assert len(server.step(shoot, "undo")["frames"]) == 6
    assert {frame["decision"] for frame in server.frames(shoot)} == {"undecided"}
    server.step(shoot, "redo")
    assert {frame["decision"] for frame in server.frames(shoot)} == {"reject"}


def test_a_part_that_comes_after_something_else_is_an_action_of_its_own(
    server: Server, shoot_folder: Path
) -> None:
    shoot = server.open(shoot_folder)
    base = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in server.frames(shoot)]
    first = server.post(f"{base}/marks", {"frame_ids": ids[:2], "rating": 2})
    between = server.post(f"{base}/marks", {"frame_ids": ids[5:], "rating": 5})
    late = server.post(f"{base}/marks", {"frame_ids": ids[2:4], "rating": 2, "continues": first["batch"]})
    assert late["batch"] > between["batch"]
    server.step(shoot, "undo")
    server.step(shoot, "undo")
    assert [frame["rating"] for frame in server.frames(shoot)] == [2, 2, 0, 0, 0, 0]


def test_the_page_and_the_news_say_which_data_folder_this_is(idle_server: Server) -> None:
    page = idle_server.request("GET", "/")[2].decode()
    told = re.search(r'name="winnow-library" content="([^"]+)"', page)
    place = urlsplit(idle_server.address)
    line = http.client.HTTPConnection(place.hostname or "", place.port, timeout=20)
    line.request("GET", "/api/events", headers={"Authorization": f"Bearer {idle_server.token}"})
    hello = json.loads(line.getresponse().readline().removeprefix(b"data: "))
    line.close()
    assert told and hello == {"kind": "hello", "library": told[1]}


def test_bad_wishes_get_a_message(server: Server, shoot_folder: Path) -> None:
    shoot = server.open(shoot_folder)
    for body in (
        {"frame_ids": []},
        {"frame_ids": [1], "rating": 9},
        {"frame_ids": [1], "decision": "maybe"},
        {"frame_ids": [1]},
        {"frame_ids": [1], "rating": 1, "colour": "red"},
    ):
        status, _, answer = server.request("POST", f"/api/shoots/{shoot}/marks", body)
        assert status == 422, body
        assert json.loads(answer)["detail"]
    assert server.request("GET", "/api/shoots/99")[0] == 404
    assert server.request("GET", f"/api/shoots/{shoot}/view?show=9%20stars")[0] == 422


def test_marks_and_undo_survive_kill_9(tmp_path: Path, shoot_folder: Path) -> None:
    data = tmp_path / "data"
    with running(data, root=tmp_path) as server:
        shoot = server.open(shoot_folder)
        ids = [f["id"] for f in server.frames(shoot)]
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "decision": "reject"})
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:1], "decision": "keep"})
        others = psutil.Process(server.process.pid).children(recursive=True)
        assert others
        server.kill()
        until(lambda: not any(map(runs, others)))
    with running(data, root=tmp_path) as server:
        assert server.get(f"/api/shoots/{shoot}/view?show=rejects")["ids"] == ids[1:]
        server.step(shoot, "undo")
        assert server.get(f"/api/shoots/{shoot}/view?show=rejects")["ids"] == ids
        server.step(shoot, "undo")
        assert server.get(f"/api/shoots/{shoot}/view?show=rejects")["ids"] == []


def runs(process: psutil.Process) -> bool:
    try:
        return process.status() != psutil.STATUS_ZOMBIE
    except psutil.NoSuchProcess:
        return False


@pytest.mark.parametrize(("end", "way"), [(signal.SIGKILL, "reverse"), (signal.SIGINT, "apply")])
def test_a_plan_that_was_cut_off_waits_for_a_word(tmp_path: Path, end: signal.Signals, way: str) -> None:
    """After Ctrl+C and after kill -9 alike the next start says what was under way; the person says how it goes on."""
    data = tmp_path / "data"
    folder = photographs.shoot(tmp_path / "big", 250)
    target = tmp_path / "keepers"
    with running(data, root=tmp_path) as server:
        shoot = server.post("/api/shoots", {"path": str(folder)})["id"]
        until(lambda: server.get(f"/api/shoots/{shoot}")["progress"]["read"] == 250)
        ids = [f["id"] for f in server.frames(shoot)]
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "decision": "keep"})
        wish = {"kind": "move-keepers", "target": str(target)}
        plan = server.post(f"/api/shoots/{shoot}/plans", wish)
        assert (plan["frames"], plan["files"], plan["state"]) == (250, 500, "made")
        server.post(f"/api/plans/{plan['id']}/apply")
        until(lambda: target.exists() and len(list(target.iterdir())) > 10)
        other = server.request("POST", f"/api/shoots/{shoot}/plans", {"kind": "write-sidecars"})
        assert other[0] == 409 and b"A plan runs on this shoot" in other[2]
        server.process.send_signal(end)
        server.process.wait()
    there = len(list(target.glob("*.JPG")))
    assert there < 250
    server = start(data, "--root", str(tmp_path))
    try:
        assert server.process.stdout is not None
        assert "half done (move-keepers)" in server.process.stdout.readline()
        assert len(list(target.glob("*.JPG"))) == there, "nothing goes on by itself"
        assert server.get("/api/shoots")["shoots"][0]["half_done"]
        waiting = server.get(f"/api/plans/{plan['id']}")
        assert (waiting["state"], waiting["running"]) == ("stopped", False)
        assert "Winnow ended while this was under way" in waiting["error"]
        server.post(f"/api/plans/{plan['id']}/{way}")
        wanted = {"apply": "applied", "reverse": "reversed"}[way]
        until(lambda: server.get(f"/api/plans/{plan['id']}")["state"] == wanted)
        assert not list(target.glob(".winnow*"))
        if way == "apply":
            assert len(list(target.glob("*.JPG"))) == len(list(target.glob("*.xmp"))) == 250
            assert not list(folder.rglob("*.JPG"))
            server.post(f"/api/plans/{plan['id']}/reverse")
            until(lambda: server.get(f"/api/plans/{plan['id']}")["state"] == "reversed")
        assert len(list(folder.rglob("*.JPG"))) == 250 and not list(target.iterdir())
        assert server.get(f"/api/shoots/{shoot}/view")["total"] == 250
        assert not server.get("/api/shoots")["shoots"][0]["half_done"]
    finally:
        server.kill()


def test_news_tell_how_far_the_work_is(lone_server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "s", 30)
    line = http.client.HTTPConnection(urlsplit(lone_server.address).netloc, timeout=60)
    line.request("GET", "/api/events", headers={"Authorization": f"Bearer {lone_server.token}"})
    stream = line.getresponse()
    assert stream.headers["content-type"].startswith("text/event-stream")
    lone_server.post("/api/shoots", {"path": str(folder)})
    seen = []
    while not seen or seen[-1]["state"] != "done":
        text = stream.readline().decode()
        if text.startswith("data:"):
            news = json.loads(text[5:])
            if news["kind"] == "progress":
                seen.append(news)
    assert seen[-1]["listed"] == seen[-1]["previewed"] == 30
    counts = [news["previewed"] for news in seen]
    assert counts == sorted(counts)
    assert any(news["rate"] for news in seen)


def test_a_shoot_off_the_list_comes_back_whole(lone_server: Server, shoot_folder: Path) -> None:
    shoot = lone_server.open(shoot_folder)
    ids = [f["id"] for f in lone_server.frames(shoot)]
    lone_server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:1], "rating": 5})
    assert lone_server.request("DELETE", f"/api/shoots/{shoot}")[0] == 204
    assert lone_server.get("/api/shoots")["shoots"] == []
    assert lone_server.open(shoot_folder) == shoot
    assert lone_server.get(f"/api/shoots/{shoot}/view?show=5%20stars")["ids"] == ids[:1]


def test_glimpses_come_before_thumbnails(lone_server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "s", 30)
    shoot = lone_server.post("/api/shoots", {"path": str(folder)})["id"]
    until(lambda: len(lone_server.frames(shoot)) == 30)
    last = lone_server.frames(shoot)[-1]
    status, headers, body = lone_server.request(
        "GET", f"/api/pictures/{last['id']}/{last['version']}/glimpse"
    )
    assert (status, body[:2], headers["cache-control"]) == (200, b"\xff\xd8", "no-store")


def test_pictures_that_cannot_be_made_say_why(lone_server: Server, tmp_path: Path) -> None:
    """The head of the file is whole, what follows is not: asked for before and after it was tried."""
    folder = tmp_path / "s"
    folder.mkdir()
    whole = io.BytesIO()
    photographs.photograph(0).save(whole, "PNG")
    data = bytearray(whole.getvalue())
    data[60:] = b"\xaa" * (len(data) - 60)
    (folder / "broken.png").write_bytes(data)
    shoot = lone_server.post("/api/shoots", {"path": str(folder)})["id"]
    until(lambda: lone_server.frames(shoot))
    for _ in range(2):
        for kind in ("preview", "thumb", "full"):
            frame = lone_server.frames(shoot)[0]
            status, _, body = lone_server.request(
                "GET", f"/api/pictures/{frame['id']}/{frame['version']}/{kind}"
            )
            assert status == 404 and isinstance(json.loads(body)["detail"], str), (kind, body)
        until(lambda: lone_server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")
    assert "PNG" in lone_server.frames(shoot)[0]["problem"]


def test_several_people_are_told_apart(lone_server: Server, shoot_folder: Path, tmp_path: Path) -> None:
    shoot = lone_server.open(shoot_folder)
    base = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in lone_server.frames(shoot)]
    for name in ("Zo%C3%AB", "", "%00%0A"):
        wish = {"frame_ids": ids[:1], "rating": 1 + len(name) % 5}
        assert lone_server.request("POST", f"{base}/marks", wish, headers={"Winnow-Actor": name})[0] == 200
    found = (
        Database(tmp_path / "data" / DATABASE)
        .connection()
        .execute("SELECT actor FROM batch WHERE kind = 'mark'")
    )
    assert [row[0] for row in found] == ["Zoë", "person", "person"]
