"""What is run when something ended: it hears what happened, and nobody can set it over the network."""

from __future__ import annotations

import json
import signal
import sys
import time
from pathlib import Path
from typing import Any

from tests import photographs
from tests.server import running, until

NOTE = "import sys; open(sys.argv[1], 'a').write(sys.stdin.read() + '\\n')"


def test_a_command_hears_of_plans_and_passes(tmp_path: Path) -> None:
    pictures, heard = photographs.shoot(tmp_path / "Kiln"), tmp_path / "heard it.jsonl"
    (tmp_path / "note.py").write_text(NOTE)
    (tmp_path / "data").mkdir()
    command = f'{sys.executable} {tmp_path}/note.py "{heard}"'
    (tmp_path / "data" / "settings.toml").write_text(f"on_event = {command!r}\n")

    def told() -> list[dict[str, Any]]:
        return [json.loads(line) for line in heard.read_text().splitlines()] if heard.exists() else []

    with running(tmp_path / "data", root=tmp_path) as server:
        shoot = server.open(pictures)
        ids = [frame["id"] for frame in server.frames(shoot)]
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:2], "decision": "keep"})
        plan = server.post(
            f"/api/shoots/{shoot}/plans", {"kind": "copy-keepers", "target": str(tmp_path / "to")}
        )["id"]
        server.post(f"/api/plans/{plan}/apply")
        until(told)
        (first,) = told()
        assert first["event"] == "plan-ended"
        assert first["shoot"] == {"id": shoot, "title": "Kiln", "folders": [str(pictures)]}
        assert first["plan"] == {
            "id": plan,
            "kind": "copy-keepers",
            "state": "applied",
            "target": str(tmp_path / "to"),
        }
        walk = server.post(f"/api/shoots/{shoot}/passes", {"name": "Check"})["id"]
        for _ in range(2):  # ended twice is ended once
            status = server.request("PUT", f"/api/shoots/{shoot}/passes/{walk}", {"ended": True})[0]
            assert status == 200
        until(lambda: len(told()) == 2)
        assert told()[1]["event"] == "pass-ended" and told()[1]["pass"]["name"] == "Check"
        assert server.request("PUT", "/api/settings", {"on_event": "touch /tmp/x"})[0] == 422
        # One that cannot be run, or that fails, is told in the log, and holds nothing up.
        (tmp_path / "data" / "settings.toml").write_text("on_event = '/nowhere/at/all'\n")
        server.request("PUT", f"/api/shoots/{shoot}/passes/{walk}", {"ended": False})
        server.request("PUT", f"/api/shoots/{shoot}/passes/{walk}", {"ended": True})
        log = tmp_path / "data" / "log" / "winnow.log"
        until(lambda: "on_event" in log.read_text())
        (tmp_path / "data" / "settings.toml").write_text("on_event = 'ls /nowhere'\n")
        server.request("PUT", f"/api/shoots/{shoot}/passes/{walk}", {"ended": False})
        server.request("PUT", f"/api/shoots/{shoot}/passes/{walk}", {"ended": True})
        until(lambda: "on_event ended with 2" in log.read_text())  # as ls of the GNU coreutils does
        assert "nowhere" not in log.read_text()


def test_a_command_that_goes_on_is_ended_when_winnow_exits(tmp_path: Path) -> None:
    """With what it has started."""
    pictures, begun = photographs.shoot(tmp_path / "Kiln"), tmp_path / "begun"
    (tmp_path / "data").mkdir()
    script = f"touch {begun}; sleep 60"
    (tmp_path / "data" / "settings.toml").write_text(f"on_event = {f'sh -c {script!r}'!r}\n")
    with running(tmp_path / "data", root=tmp_path) as server:
        shoot = server.open(pictures)
        ids = [frame["id"] for frame in server.frames(shoot)]
        server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:1], "decision": "keep"})
        wish = {"kind": "copy-keepers", "target": str(tmp_path / "to")}
        server.post(f"/api/plans/{server.post(f'/api/shoots/{shoot}/plans', wish)['id']}/apply")
        until(begun.exists)
        start = time.monotonic()
        server.process.send_signal(signal.SIGINT)
        server.process.wait(30)
        assert time.monotonic() - start < 20
