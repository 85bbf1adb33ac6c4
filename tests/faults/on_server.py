"""Faults of the whole server: killed while clients mark, and while a folder is read."""

from __future__ import annotations

import random
import threading
import time
from http.client import HTTPException
from pathlib import Path

from tests import photographs
from tests.faults.tally import Tally
from tests.server import Server, start, until

READ = 16
QUIET = {"PYTHONWARNINGS": "ignore"}
"""What is killed leaves semaphores behind, and its helper says so."""


def marking(folder: Path, rng: random.Random, runs: int) -> Tally:
    """Two clients mark the same frames until `kill -9`: what was acknowledged is there after the next start."""
    tally = Tally("kill -9 while two clients mark")
    shoot_folder = photographs.shoot(folder / "marked", 6)
    server = start(folder / "data", "--root", str(folder), **QUIET)
    shoot = server.open(shoot_folder)
    frames = server.frames(shoot)
    ids = [frame["id"] for frame in frames]
    known = {frame["id"]: {(frame["decision"], frame["rating"])} for frame in frames}
    for run in range(runs):
        seed = rng.randrange(2**32)
        marks: list[tuple[int, str, int, bool]] = []
        clients = [
            threading.Thread(target=_mark, args=(server, shoot, ids, random.Random(seed + n), marks))
            for n in range(2)
        ]
        for client in clients:
            client.start()
        time.sleep(rng.uniform(0.1, 0.5))
        server.kill()
        for client in clients:
            client.join()
        tally.note(True)
        # Two clients at once: of each frame any mark may have been the last that was written.
        for frame_id, decision, rating, _ in marks:
            known[frame_id].add((decision, rating))
        acknowledged = sum(done for *_, done in marks)
        server = start(folder / "data", "--root", str(folder), **QUIET)
        journal = _journalled(folder / "data")
        for frame in server.frames(shoot):
            if (frame["decision"], frame["rating"]) not in known[frame["id"]]:
                tally.lose([frame["id"]], f"run {run}: a mark that nobody made")
        missing = [m for m in marks if m[3] and (m[0], m[2]) not in journal]
        tally.lose(missing, f"run {run}: acknowledged, not journalled ({acknowledged} in all)")
    server.kill()
    return tally


def _mark(
    server: Server, shoot: int, ids: list[int], rng: random.Random, done: list[tuple[int, str, int, bool]]
) -> None:
    while True:
        frame_id, rating = rng.choice(ids), rng.randrange(1, 6)
        decision = rng.choice(["keep", "reject", "undecided"])
        entry = [frame_id, decision, rating, False]
        try:
            body = {"frame_ids": [frame_id], "decision": decision, "rating": rating}
            status, _, _ = server.request("POST", f"/api/shoots/{shoot}/marks", body)
            entry[3] = status == 200
        except (OSError, HTTPException):
            done.append(tuple(entry))  # type: ignore[arg-type]
            return
        done.append(tuple(entry))  # type: ignore[arg-type]


def _journalled(data: Path) -> set[tuple[int, int]]:
    """(frame, stars) of everything that was ever written; the journal must lead to the state as well."""
    from winnow.store import marks
    from winnow.store.database import DATABASE, Database

    connection = Database(data / DATABASE).connection()
    rebuilt = marks.rebuilt(connection, 1)
    assert rebuilt == marks.current(connection, rebuilt), "the journal and the marks disagree"
    rows = connection.execute("SELECT frame_id, before, after FROM journal WHERE field = 'rating'")
    return {(row[0], value) for row in rows for value in (row[1], row[2])}


def scanning(folder: Path, rng: random.Random, runs: int) -> Tally:
    """Killed while a folder is listed, read and measured, again and again; the last start finds every frame once."""
    tally = Tally("kill -9 while a folder is read")
    shoot_folder = photographs.shoot(folder / "read", READ, edge=photographs.WHOLE)
    data = folder / "data of scan"
    for _ in range(runs):
        server = start(data, "--root", str(folder), **QUIET)
        server.post("/api/shoots", {"path": str(shoot_folder)})
        done = rng.randrange(-2, READ - 2)
        while server.get("/api/shoots/1")["progress"]["measured"] < done:
            time.sleep(0.02)
        time.sleep(rng.uniform(0, 0.2))
        struck = server.get("/api/shoots/1")["progress"]["state"] != "done"
        server.kill()
        tally.note(struck)
    server = start(data, "--root", str(folder), **QUIET)
    shoot = server.post("/api/shoots", {"path": str(shoot_folder)})["id"]
    until(lambda: server.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")
    frames = server.frames(shoot)
    names = sorted(frame["name"] for frame in frames)
    if names != sorted(f"100WINNO/WIN_{n + 1:04d}.JPG" for n in range(READ)):
        tally.lose(names, "frames are not what is on disk")
    bad = [f["name"] for f in frames if f["problem"] or f["faces"] is None or f["place"] != "shoot"]
    tally.lose(bad, "not measured, or with a problem that is none of its own")
    server.kill()
    return tally
