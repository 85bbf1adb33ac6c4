"""The camera's own preview over HTTP, before anything is prepared."""

from __future__ import annotations

from pathlib import Path

from tests import photographs
from tests.formats.test_first_look import pair
from tests.server import Server, until
from winnow.bench.camera_preview import with_preview


def test_the_preview_of_the_camera_is_sent_as_it_lies(server: Server, tmp_path: Path) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    jpeg, preview = pair()
    (folder / "WIN_0001.JPG").write_bytes(with_preview(jpeg, preview))
    photographs.save(folder / "WIN_0002.JPG", 2, 5)
    shoot = server.post("/api/shoots", {"path": str(folder)})["id"]
    until(lambda: len(server.frames(shoot)) == 2)
    with_one, without = server.frames(shoot)
    status, headers, body = server.request("GET", _first(with_one))
    assert (status, body) == (200, preview)
    assert headers["content-type"] == "image/jpeg" and "immutable" in headers["cache-control"]
    status, _, body = server.request("GET", _first(without))
    assert (status, body) == (204, b"")
    until(lambda: server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")
    frame = server.frames(shoot)[0]
    status, _, _ = server.request("GET", _first({**frame, "version": "00" * 10}))
    assert status == 404, "another picture by now"


def _first(frame: dict[str, object]) -> str:
    return f"/api/pictures/{frame['id']}/{frame['version']}/first"
