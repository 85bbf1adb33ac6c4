"""A real `winnow serve` for tests, and a small client for it."""

from __future__ import annotations

import json
import os
import re
import signal
import subprocess
import sys
import time
import urllib.error
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from tests.forking import Forked, loaded

PATIENCE_S = 60.0


@dataclass
class Server:
    """A running server: its process, its address, and the secret that it printed."""

    process: subprocess.Popen[str] | Forked
    address: str
    token: str | None

    def request(
        self, method: str, path: str, body: object = None, headers: dict[str, str] | None = None
    ) -> tuple[int, dict[str, str], bytes]:
        """Status, headers and body of an answer, errors included. Knows the secret, unless `headers` say who asks."""
        data = None if body is None else json.dumps(body).encode()
        call = urllib.request.Request(self.address + path, data, headers or {}, method=method)
        if self.token and not call.has_header("Authorization") and not call.has_header("Cookie"):
            call.add_header("Authorization", f"Bearer {self.token}")
        if data is not None:
            call.add_header("Content-Type", "application/json")
        try:
            with urllib.request.urlopen(call, timeout=PATIENCE_S) as answer:
                return answer.status, dict(answer.headers), answer.read()
        except urllib.error.HTTPError as error:
            return error.code, dict(error.headers), error.read()

    def get(self, path: str) -> Any:
        status, _, body = self.request("GET", path)
        assert status == 200, (path, status, body)
        return json.loads(body)

    def frames(self, shoot: int) -> list[dict[str, Any]]:
        """All frames of a shoot, in capture order."""
        found: list[dict[str, Any]] = []
        more = True
        while more:
            after = found[-1]["id"] if found else 0
            page = self.get(f"/api/shoots/{shoot}/frames?after={after}")
            found += page["frames"]
            more = page["more"]
        return sorted(found, key=lambda frame: (frame["position"], frame["id"]))

    def post(self, path: str, body: object = None) -> Any:
        status, _, answer = self.request("POST", path, body if body is not None else {})
        assert status in (200, 204), (path, status, answer)
        return json.loads(answer) if answer else None

    def step(self, shoot: int, way: str) -> Any:
        """Takes the last action back, or brings the one that was taken back."""
        action = self.get(f"/api/shoots/{shoot}/actions")[way]
        return self.post(f"/api/shoots/{shoot}/{way}", {"batch": action["batch"]})

    def open(self, folder: Path) -> int:
        """Opens a folder and waits until everything in it is prepared; the id of the shoot."""
        shoot: int = self.post("/api/shoots", {"path": str(folder)})["id"]
        until(lambda: self.get(f"/api/shoots/{shoot}")["progress"]["state"] == "done")
        return shoot

    def kill(self) -> None:
        """`kill -9`, as a crash or a power cut would."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()


def until(true: Callable[[], object], patience_s: float = PATIENCE_S) -> None:
    """Waits until something holds. Asks less often the longer it takes: asking keeps others from doing it."""
    start = time.monotonic()
    while not true():
        waited = time.monotonic() - start
        assert waited < patience_s, "it did not happen in time"
        time.sleep(min(0.02 + waited / 8, 0.25))


def start(
    data: Path,
    *arguments: str,
    command: str = "serve",
    port: int = 0,
    program: str | None = None,
    **environment: str,
) -> Server:
    """program: the winnow of another installation."""
    arguments = (command, *arguments, "--port", str(port), "--data", str(data))
    environment = {**os.environ, **environment}
    process: Forked | subprocess.Popen[str]
    if program or not loaded().fits(environment):
        winnow = [program] if program else [sys.executable, "-m", "winnow"]
        process = subprocess.Popen([*winnow, *arguments], stdout=subprocess.PIPE, text=True, env=environment)
    else:
        process = loaded().start(arguments, environment)
    assert process.stdout is not None
    line = process.stdout.readline()
    found = re.search(r"(http://[\d.:]+)/[^?\s]*(?:\?token=(\S+))?", line)
    assert found, f"no address in {line!r}"
    return Server(process, found[1], found[2])


@contextmanager
def running(
    data: Path, *arguments: str, root: Path, command: str = "serve", program: str | None = None
) -> Iterator[Server]:
    more = ("--root", str(root)) if command == "serve" else ()
    server = start(data, *arguments, *more, command=command, program=program)
    try:
        yield server
    finally:
        if server.process.poll() is None:
            server.process.send_signal(signal.SIGINT)
            try:
                server.process.wait(15)
            except subprocess.TimeoutExpired:
                server.kill()
