"""An assistant proposes marks: signed, in force nowhere, until the photographer decides over them."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests import photographs
from tests.server import Server, until
from winnow.store import devices, proposals
from winnow.store.database import DATABASE, Database

NOW = "2026-10-17T20:00:00.000+00:00"


@pytest.fixture
def assistant(lone_server: Server, tmp_path: Path) -> Server:
    return assistant_of(lone_server, tmp_path / "data")


def assistant_of(server: Server, data: Path) -> Server:
    """The same server, as a device of somebody who proposes."""
    with Database(data / DATABASE).transaction() as connection:
        devices.let_in(connection, "Mia", "of-mia", NOW, proposes=False)
        device = devices.every(connection)[0]
    server.request("PUT", f"/api/entry/devices/{device.id}", {"proposes": True})  # reads them anew, too
    return Server(server.process, server.address, "of-mia")


def marked(server: Server, shoot: int) -> list[tuple[str, int, str | None, str | None]]:
    return [(f["decision"], f["rating"], f["label"], f["proposed"]) for f in server.frames(shoot)]


def test_an_assistant_proposes_and_the_photographer_decides(
    lone_server: Server, assistant: Server, tmp_path: Path
) -> None:
    own, mia = lone_server, assistant
    shoot = own.open(photographs.shoot(tmp_path / "six"))
    at = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in own.frames(shoot)]
    own.post(f"{at}/marks", {"frame_ids": ids[:1], "decision": "keep"})

    def proposed() -> list[str | None]:
        return [who for *_, who in marked(own, shoot)]

    # What is decided stays; the rest is proposed, stars of what is decided included.
    answer = mia.post(f"{at}/marks", {"frame_ids": ids[:4], "decision": "reject", "rating": 2})
    assert [(f["decision"], f["proposed"]) for f in answer["frames"]] == [
        ("keep", "Mia"),
        *[("reject", "Mia")] * 3,
    ]
    assert marked(own, shoot)[0] == ("keep", 2, None, "Mia")
    assert own.get(f"{at}/proposals") == {"by": [{"name": "Mia", "frames": 4}]}
    assert own.get(f"{at}/view?show=proposed%20marks")["ids"] == ids[:4]
    assert own.get(f"{at}/history")["entries"][0]["actor"] == "Mia"
    _, _, table = own.request("GET", f"{at}/list?columns=decision&columns=rating&columns=proposed")
    said = table.decode().split("\r\n")
    assert said[1:3] == ['kept,2,"rating, by Mia"', 'rejected,2,"decision, rating, by Mia"']
    assert said[-2] == "undecided,0,"
    # What is proposed may be proposed otherwise, and taken back; what is somebody else's may not.
    mia.post(f"{at}/marks", {"frame_ids": [ids[1]], "decision": "keep"})
    assert marked(own, shoot)[1] == ("keep", 2, None, "Mia")
    mia.step(shoot, "undo")
    assert marked(own, shoot)[1] == ("reject", 2, None, "Mia")
    own.post(f"{at}/marks", {"frame_ids": [ids[5]], "rating": 5})
    last = own.get(f"{at}/actions")["undo"]["batch"]
    assert mia.request("POST", f"{at}/undo", {"batch": last})[0] == 409
    # Files, words, turns, passes, and what is proposed, are not an assistant's.
    for method, path, body in (
        ("POST", f"{at}/plans", {"kind": "hold-rejects"}),
        ("POST", f"{at}/words", {"frame_ids": ids, "headline": "x"}),
        ("POST", f"{at}/marks", {"frame_ids": ids, "turn": "left"}),
        ("POST", f"{at}/proposals/take", {}),
        ("PUT", "/api/settings", {}),
    ):
        assert mia.request(method, path, body)[0] == 403, path
    # Nothing that is proposed leaves, and the plan says so.
    plan = own.post(f"{at}/plans", {"kind": "hold-rejects"})
    assert plan["frames"] == 0 and "4 frames" in plan["warnings"][0] and "Mia" in plan["warnings"][0]
    # The same mark by the photographer takes it over; a part of it, a part.
    own.post(f"{at}/marks", {"frame_ids": [ids[2]], "decision": "reject"})
    assert marked(own, shoot)[2] == ("reject", 2, None, "Mia"), "its stars are proposed still"
    own.post(f"{at}/marks", {"frame_ids": [ids[2]], "rating": 2})
    assert proposed() == ["Mia", "Mia", None, "Mia", None, None]
    # One by one, or all; and back again.
    own.post(f"{at}/proposals/take", {"frame_ids": [ids[1]], "by": "Mia"})
    taken = own.post(f"{at}/plans", {"kind": "hold-rejects"})
    assert taken["frames"] == 2
    own.post(f"{at}/proposals/take", {"frame_ids": [ids[3]]})
    own.post(f"/api/plans/{taken['id']}/apply")
    until(lambda: own.get(f"/api/plans/{taken['id']}")["state"] == "outdated")  # it was made without that
    own.step(shoot, "undo")
    before = marked(own, shoot)
    title = own.post(f"{at}/proposals/turn-down")["title"]
    assert title == "2 frames: what Mia proposed turned down"
    assert marked(own, shoot)[0] == ("keep", 0, None, None) and marked(own, shoot)[3][0] == "undecided"
    own.step(shoot, "undo")
    assert marked(own, shoot) == before and proposed()[0] == "Mia"
    own.step(shoot, "redo")
    assert proposed() == [None] * 6


def test_a_proposal_falls_with_its_mark(lone_server: Server, assistant: Server, tmp_path: Path) -> None:
    own, mia = lone_server, assistant
    shoot = own.open(photographs.shoot(tmp_path / "six"))
    at = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in own.frames(shoot)]
    mia.post(f"{at}/marks", {"frame_ids": ids[:2], "label": "Retouch"})
    first = own.get(f"{at}/history")["entries"][0]["id"]
    own.post(f"{at}/marks", {"frame_ids": ids[3:4], "decision": "keep"})
    database = Database(tmp_path / "data" / DATABASE)
    assert set(proposals.of_shoot(database.connection(), shoot)) == set(ids[:2])
    # One action of the history taken back, which is not the last.
    own.post(f"{at}/history/take-back", {"batch": first})
    assert proposals.of_shoot(database.connection(), shoot) == {}
