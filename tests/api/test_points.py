"""A point of the person's own: followed through its group, measured, kept, undone."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest

from tests import photographs
from tests.server import Server, until


@pytest.fixture
def measured(server: Server, tmp_path: Path) -> tuple[Server, int, list[dict[str, Any]]]:
    """Two groups of three frames of one photograph each, measured."""
    shoot = server.open(photographs.shoot(tmp_path / "Six", edge=photographs.WHOLE))
    return server, shoot, server.frames(shoot)


def subject(server: Server, frame: int) -> dict[str, Any]:
    return server.get(f"/api/frames/{frame}/evidence")["focus"]["subject"]


def test_a_point_is_followed_measured_and_undone(measured: tuple[Server, int, list[dict[str, Any]]]) -> None:
    server, shoot, frames = measured
    first, *others = [frame["id"] for frame in frames if frame["group"] == frames[0]["group"]]
    assert others
    before = {frame: subject(server, frame) for frame in (first, *others)}
    done = server.post(f"/api/shoots/{shoot}/point", {"frame_id": first, "x": 225, "y": 118})
    assert done["title"] == f"point that matters in {1 + len(others)} frames"
    assert subject(server, first)["kind"] == "point", "at once"
    until(lambda: server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")
    until(lambda: all(subject(server, frame)["sigma_px"] is not None for frame in (first, *others)))
    # The frames are one photograph moved by 3 px from frame to frame.
    for number, frame in enumerate((first, *others)):
        there = subject(server, frame)
        assert there["kind"] == "point"
        assert there["x"] == pytest.approx(225 + 3 * number, abs=3) and there["y"] == pytest.approx(
            118, abs=3
        )
    assert {frame["decision"] for frame in server.frames(shoot)} == {"undecided"}

    undone = server.step(shoot, "undo")
    assert undone["actions"]["redo"]["title"] == done["title"]
    assert {frame: subject(server, frame) for frame in (first, *others)} == before
    server.step(shoot, "redo")
    assert subject(server, others[0])["kind"] == "point"
    again = server.post(f"/api/shoots/{shoot}/point", {"frame_id": first, "x": 226, "y": 118})
    assert again["title"] == "point that matters taken back"
    assert {frame: subject(server, frame) for frame in (first, *others)} == before


def test_a_point_outside_is_refused(measured: tuple[Server, int, list[dict[str, Any]]]) -> None:
    server, shoot, frames = measured
    wish = {"frame_id": frames[0]["id"], "x": 9000, "y": 1}
    status, _, body = server.request("POST", f"/api/shoots/{shoot}/point", wish)
    assert status == 422 and b"outside the picture" in body
