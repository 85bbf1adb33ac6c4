"""The camera's own preview over HTTP, before anything is prepared."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from tests import photographs
from tests.formats.test_first_look import pair
from tests.server import Server, until
from winnow.bench.camera_preview import with_preview


def test_the_preview_of_the_camera_is_sent_as_it_lies(lone_server: Server, tmp_path: Path) -> None:
    folder = tmp_path / "card"
    folder.mkdir()
    jpeg, preview = pair()
    (folder / "WIN_0001.JPG").write_bytes(with_preview(jpeg, preview))
    photographs.save(folder / "WIN_0002.JPG", 2, 5)
    shoot = lone_server.post("/api/shoots", {"path": str(folder)})["id"]
    until(lambda: len(lone_server.frames(shoot)) == 2)

    def ask(n: int) -> tuple[int, Any, bytes]:
        """A frame goes by another version once its head is read: until then or after."""
        for _ in range(5):
            answer = lone_server.request("GET", _first(lone_server.frames(shoot)[n]))
            if answer[0] != 404:
                break
        return answer

    status, headers, body = ask(0)
    assert (status, body) == (200, preview)
    assert headers["content-type"] == "image/jpeg" and "immutable" in headers["cache-control"]
    status, _, body = ask(1)
    assert (status, body) == (204, b"")
    until(lambda: lone_server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")
    frame = lone_server.frames(shoot)[0]
    status, _, _ = lone_server.request("GET", _first({**frame, "version": "00" * 10}))
    assert status == 404, "another picture by now"


def _first(frame: dict[str, object]) -> str:
    return f"/api/pictures/{frame['id']}/{frame['version']}/first"
