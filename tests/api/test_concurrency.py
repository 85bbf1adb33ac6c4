"""Several requests at the same moment against one server, and what the journal says afterwards.

A request under a key in progress gets the answer of the first: IETF draft *The Idempotency-Key HTTP Header Field*.
"""

from __future__ import annotations

import json
import sqlite3
import threading
from contextlib import closing
from functools import partial
from pathlib import Path
from typing import Any

import pytest

from tests import photographs
from tests.concurrently import at_once
from tests.server import Server, running, until

KEY = "Idempotency-Key"
TIMES = 8


@pytest.fixture
def frames(server: Server, shoot_folder: Path) -> tuple[int, list[int]]:
    shoot = server.open(shoot_folder)
    return shoot, [frame["id"] for frame in server.frames(shoot)]


def same_request(server: Server, path: str, body: object, key: str, times: int = TIMES) -> list[Any]:
    """The answers to one request that is sent several times at once, which are all the same."""
    sent = at_once([partial(server.request, "POST", path, body, {KEY: key})] * times)
    assert {status for status, _, _ in sent} == {200}, [answer for _, _, answer in sent]
    return [json.loads(answer) for _, _, answer in sent]


def mark(server: Server, shoot: int, ids: list[int], decision: str) -> Any:
    return server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "decision": decision})


def test_a_plan_asked_for_several_times_at_once_is_made_once(
    server: Server, frames: tuple[int, list[int]], tmp_path: Path
) -> None:
    shoot, ids = frames
    mark(server, shoot, ids[:3], "keep")
    wish = {"kind": "copy-keepers", "target": str(tmp_path / "out")}
    made = same_request(server, f"/api/shoots/{shoot}/plans", wish, "one-plan-please")
    assert len({plan["id"] for plan in made}) == 1
    assert server.get(f"/api/plans/{made[0]['id']}")["state"] == "made", (
        "the client holds one that can be applied"
    )
    applied = same_request(server, f"/api/plans/{made[0]['id']}/apply", {}, "apply-it-once")
    assert {plan["id"] for plan in applied} == {made[0]["id"]}
    until(lambda: server.get(f"/api/plans/{made[0]['id']}")["state"] == "applied")
    assert len(list((tmp_path / "out").glob("*.JPG"))) == 3


def test_a_proof_set_asked_for_several_times_at_once_is_one_set(
    server: Server, frames: tuple[int, list[int]], tmp_path: Path
) -> None:
    shoot, ids = frames
    wish = {"target": str(tmp_path / "proofs"), "title": "Kiln", "frames": ids[:2]}
    made = same_request(server, f"/api/shoots/{shoot}/proofs", wish, "one-proof-set", 4)
    assert len({(one["proof"], one["plan"]["id"]) for one in made}) == 1
    assert len(server.get(f"/api/shoots/{shoot}/answers")["proofs"]) == 1


def test_changes_on_disk_are_settled_once(server: Server, shoot_folder: Path) -> None:
    """Marks of another program come in as one action, and yours go out by one plan."""
    shoot = server.open(shoot_folder)
    ids = [frame["id"] for frame in server.frames(shoot)]
    mark(server, shoot, ids[:2], "keep")
    wish = {"frames": [], "takes": [], "incoming": True, "outgoing": True}
    settled = same_request(server, f"/api/shoots/{shoot}/sync/settle", wish, "settle-it-once", 4)
    assert len({json.dumps([one["batch"], one["plan"]["id"], one["taken"]]) for one in settled}) == 1


@pytest.mark.parametrize("step", ["go", "take-back"])
def test_a_step_through_the_history_gets_the_same_answer(
    server: Server, frames: tuple[int, list[int]], step: str
) -> None:
    shoot, ids = frames
    batch = mark(server, shoot, ids[:4], "keep")["batch"]
    before = len(server.get(f"/api/shoots/{shoot}/history")["entries"])
    body = {"batch": batch if step == "take-back" else None}
    answers = same_request(server, f"/api/shoots/{shoot}/history/{step}", body, f"step-{step}-once", 4)
    assert answers == [{"steps": 1, "frames": 4}] * 4
    assert len(server.get(f"/api/shoots/{shoot}/history")["entries"]) - before == (step == "take-back")


def test_the_answer_is_the_same_after_a_restart(tmp_path: Path, shoot_folder: Path) -> None:
    wish = {"kind": "copy-keepers", "target": str(tmp_path / "out"), "show": ""}
    with running(tmp_path / "data", root=tmp_path) as server:
        shoot = server.open(shoot_folder)
        mark(server, shoot, [server.frames(shoot)[0]["id"]], "keep")
        (made,) = same_request(server, f"/api/shoots/{shoot}/plans", wish, "before-and-after", 1)
        server.kill()
    with running(tmp_path / "data", root=tmp_path) as server:
        again = same_request(server, f"/api/shoots/{shoot}/plans", wish, "before-and-after", 3)
        assert {plan["id"] for plan in again} == {made["id"]}


def test_marks_plans_backups_and_history_at_once_leave_a_sound_journal(
    lone_server: Server, tmp_path: Path
) -> None:
    """Every request is answered, none with an error of the server; the marks are what the journal says (each value
    begins where the one before it ended), and each frame has the mark that was sent last under the newest action."""
    server, folder = lone_server, photographs.shoot(tmp_path / "shoots" / "Six")
    shoot = server.open(folder)
    ids = [frame["id"] for frame in server.frames(shoot)]
    mark(server, shoot, ids, "keep")

    def marks() -> list[int]:
        return [
            server.request("POST", f"/api/shoots/{shoot}/marks", {"frame_ids": [i], "rating": n})[0]
            for n in range(1, 5)
            for i in ids
        ]

    def plans() -> list[int]:
        wish = {"kind": "write-sidecars", "target": None}
        return [server.request("POST", f"/api/shoots/{shoot}/plans", wish)[0] for _ in range(3)]

    def steps() -> list[int]:
        found = []
        for _ in range(10):
            action = server.get(f"/api/shoots/{shoot}/actions")["undo"]
            body = {"batch": action["batch"] if action else None}
            found.append(server.request("POST", f"/api/shoots/{shoot}/undo", body)[0])
        return found

    def looks() -> list[int]:
        return [
            server.request("GET", f"/api/shoots/{shoot}/{of}")[0] for of in ("frames", "history", "plans") * 5
        ]

    answered = at_once([marks, marks, plans, steps, looks])
    assert {status for some in answered for status in some} <= {200, 409, 422}
    with closing(sqlite3.connect(tmp_path / "data" / "winnow.sqlite")) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        held: dict[tuple[int, str], Any] = {}
        rows = connection.execute("SELECT frame_id, field, before, after FROM journal ORDER BY id")
        for frame_id, field, before, after in rows:
            assert held.get((frame_id, field), before) == before
            held[frame_id, field] = after
        for frame_id, rating in connection.execute("SELECT frame_id, rating FROM mark"):
            assert held.get((frame_id, "rating"), 0) == rating
        assert connection.execute("SELECT count(*) FROM plan WHERE state = 'made'").fetchone()[0] <= 1


def test_a_plan_that_ends_while_it_is_looked_at_is_never_called_cut_off(
    server: Server, frames: tuple[int, list[int]], tmp_path: Path
) -> None:
    """Plans of one file end within milliseconds: the list is read all the while, by several readers."""
    shoot, ids = frames
    mark(server, shoot, ids[:1], "keep")
    ended = threading.Event()

    def run() -> set[str]:
        for n in range(20):
            wish = {"kind": "copy-keepers", "target": str(tmp_path / f"out {n}"), "with_marks": False}
            plan = server.post(f"/api/shoots/{shoot}/plans", wish)["id"]
            for act, state in (("apply", "applied"), ("reverse", "reversed")):
                server.post(f"/api/plans/{plan}/{act}")
                until(lambda p=plan, s=state: server.get(f"/api/plans/{p}")["state"] == s)  # type: ignore[misc]
        ended.set()
        return set()

    def read() -> set[str]:
        seen: set[str] = set()
        while not ended.is_set():
            seen |= {plan["state"] for plan in server.get(f"/api/shoots/{shoot}/plans")}
        return seen

    seen = set().union(*at_once([run, read, read]))
    assert not seen & {"stopped", "reversal-stopped"}
