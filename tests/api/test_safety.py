"""What a server on a desk refuses. Sources: OWASP on DNS rebinding and cross-site requests, RFC 9110."""

from __future__ import annotations

import http.client
import json
import os
import re
import signal
import socket
import subprocess
import sys
import time
from pathlib import Path
from urllib.parse import urlsplit

import pytest

from tests import photographs
from tests.commands import command
from tests.server import Server, running
from winnow.api.security import cookie_of
from winnow.api.serving import listen


@pytest.mark.parametrize(
    "host", ["evil.example", "winnow.evil.example:80", "192.168.0.7", "", "127.0.0.1.nip.example"]
)
def test_foreign_hosts_are_refused(idle_server: Server, host: str) -> None:
    assert idle_server.request("GET", "/api/shoots", headers={"Host": host})[0] in (400, 403)


@pytest.mark.parametrize(
    "headers",
    [
        {"Origin": "http://evil.example"},
        {"Origin": "null"},
        {"Origin": "http://127.0.0.1:1"},
        {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "no-cors", "Sec-Fetch-Dest": "image"},
    ],
)
@pytest.mark.parametrize(("method", "path"), [("GET", "/api/shoots"), ("POST", "/api/shoots")])
def test_foreign_pages_are_refused(
    idle_server: Server, headers: dict[str, str], method: str, path: str
) -> None:
    body = {"path": "/"} if method == "POST" else None
    assert idle_server.request(method, path, body, headers)[0] == 403


def test_own_page_is_let_in(idle_server: Server) -> None:
    own = {"Origin": idle_server.address, "Sec-Fetch-Site": "same-origin"}
    assert idle_server.request("GET", "/api/shoots", headers=own)[0] == 200


@pytest.mark.parametrize(
    "path",
    [
        "/assets/../../cli.py",
        "/assets/%2e%2e/%2e%2e/cli.py",
        "/assets//etc/passwd",
        "/api/pictures/1/..%2f..%2fwinnow.sqlite/thumb",
        "/api/pictures/1/abc/..%2f..%2fwinnow.sqlite",
    ],
)
def test_paths_lead_nowhere_else(idle_server: Server, path: str) -> None:
    status, _, body = idle_server.request("GET", path)
    assert status in (404, 422)
    assert b"import typer" not in body
    assert b"root:" not in body


def test_only_allowed_folders_are_opened(lone_server: Server, tmp_path: Path) -> None:
    (tmp_path / "way out").symlink_to("/etc")
    for path in ("/etc", str(tmp_path / ".." / ".."), str(tmp_path / "way out")):
        for status, _, body in (
            lone_server.request("POST", "/api/shoots", {"path": path}),
            lone_server.request("GET", f"/api/folders?path={path.replace(' ', '%20')}"),
        ):
            assert status == 422
            assert b"outside the folders" in body


def test_policy_of_the_pages(idle_server: Server) -> None:
    status, headers, body = idle_server.request("GET", "/")
    policy = headers["content-security-policy"]
    assert status == 200
    assert "default-src 'none'" in policy
    assert "unsafe" not in policy
    nonce = re.search(r"nonce-([\w-]+)", policy)
    assert nonce
    assert nonce[1].encode() in body
    assert idle_server.request("GET", "/")[1]["content-security-policy"] != policy
    assert headers["x-content-type-options"] == "nosniff"


def test_no_outside_address_in_what_is_served() -> None:
    """Namespace names and messages inside libraries are not fetched; nothing else may be there."""
    static = Path(__file__).parents[2] / "winnow" / "api" / "static"
    names = (
        "http://www.w3.org/", "https://react.dev/errors/", "https://radix-ui.com/primitives/docs/",
        "https://bit.ly/", "https://github.com/", "http://localhost", "https://fonts.gstatic",
    )  # fmt: skip
    for path in static.rglob("*"):
        if path.suffix in (".html", ".js", ".css", ".svg"):
            found = re.findall(r"(?:https?:)?//[a-z][\w.-]+\.[a-z]{2,}[^\s\"'`)]*", path.read_text())
            assert [a for a in found if not a.startswith(names)] == [], path.name


def test_other_addresses_demand_a_token(tmp_path: Path) -> None:
    refused = subprocess.run(
        [sys.executable, "-m", "winnow", "serve", "--host", "0.0.0.0", "--port", "0", "--data", tmp_path],
        capture_output=True,
        text=True,
    )
    assert refused.returncode == 2
    assert "token" in refused.stderr
    with running(tmp_path, "--host", "0.0.0.0", "--token", "s3cret", root=tmp_path) as server:
        server.address = server.address.replace("0.0.0.0", "127.0.0.1")
        server.token = None
        assert server.request("GET", "/api/shoots")[0] == 401
        assert server.request("GET", "/?token=wrong")[0] == 401
        known = {"Authorization": "Bearer s3cret"}
        assert server.request("GET", "/api/shoots", headers=known)[0] == 200
        cookie = {"Cookie": f"{cookie_of('s3cret')}=s3cret"}
        assert server.request("GET", "/api/shoots", headers=cookie)[0] == 200
        foreign = {**cookie, "Origin": "http://evil.example"}
        assert server.request("GET", "/api/shoots", headers=foreign)[0] == 403


def test_pictures_are_kept_for_ever_under_their_version(server: Server, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "s", 2)
    shoot = server.open(folder)
    frame = server.frames(shoot)[0]
    for kind in ("thumb", "preview", "full"):
        status, headers, body = server.request(
            "GET", f"/api/pictures/{frame['id']}/{frame['version']}/{kind}"
        )
        assert (status, body[:2]) == (200, b"\xff\xd8")
        assert "immutable" in headers["cache-control"]
    assert server.request("GET", f"/api/pictures/{frame['id']}/0000/thumb")[0] == 404
    assert server.request("GET", "/api/pictures/999/0000/thumb")[0] == 404


def test_small_answers_do_not_wait_for_an_acknowledgement() -> None:
    """On a line that is kept open (RFC 1122, 4.2.3.2 and 4.2.3.4): by what is set on the accepted socket."""
    with listen("127.0.0.1", 0) as listener, socket.create_connection(listener.getsockname()):
        accepted, _ = listener.accept()
        with accepted:
            assert accepted.getsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY)


def test_wrong_use_of_the_command_line(tmp_path: Path) -> None:
    for arguments in (
        ["serve", str(tmp_path / "gone"), "--data", str(tmp_path / "d")],
        ["nonsense"],
        ["serve", "--port", "x"],
    ):
        run = command(*arguments)
        assert run.returncode == 2
        assert run.stderr


def test_one_process_a_data_folder(lone_server: Server, tmp_path: Path) -> None:
    """Two would both go on with the same plan: a second start leads to the first, other commands refuse."""
    data = ("--data", tmp_path / "data")
    second = command("serve", "--port", "0", *data)
    assert second.returncode == 0 and lone_server.address in second.stdout
    other = command("import", tmp_path, "--to", tmp_path, *data)
    assert other.returncode == 2 and "running" in other.stderr
    assert lone_server.get("/api/shoots")["shoots"] == []


def test_ctrl_c_ends_quietly_at_any_moment(tmp_path: Path) -> None:
    """Also while worker processes are starting."""
    photographs.shoot(tmp_path / "s", 12)
    command = [sys.executable, "-m", "winnow", "serve", "--port", "0", "--data", str(tmp_path / "d")]
    for pause, ignored in ((0.0, False), (0.4, False), (1.5, False), (0.0, True)):
        if ignored:
            # The listing has questions for workers that never start. And a shell in the background tells what it
            # starts to take no notice of Ctrl+C.
            for path in sorted((tmp_path / "s").rglob("*.JPG"))[:6]:
                path.rename(path.with_name(f"other {path.name}"))
        process = subprocess.Popen(
            [*command, str(tmp_path / "s")],
            stdout=subprocess.PIPE,
            stderr=subprocess.PIPE,
            text=True,
            start_new_session=True,
            preexec_fn=_take_no_notice if ignored else None,
        )
        assert process.stdout is not None
        process.stdout.readline()
        time.sleep(pause)
        os.killpg(process.pid, signal.SIGINT)
        _, complaints = process.communicate(timeout=30)
        assert "Traceback" not in complaints
        assert "leaked" not in complaints


AMID_A_CALLBACK = """
import os, signal, sys, weakref
from winnow.api import serving
from winnow.cli import app

make = serving.create_app


def make_while_somebody_presses_ctrl_c(*arguments, **more):
    class Thing:
        pass

    thing = Thing()
    reference = weakref.ref(thing, lambda _: os.kill(os.getpid(), signal.SIGINT))
    del thing  # What is raised in the callback goes nowhere, as the documentation of weakref says.
    return make(*arguments, **more)


serving.create_app = make_while_somebody_presses_ctrl_c
sys.argv[0] = "winnow"
app()
"""


def test_ctrl_c_is_heard_where_exceptions_are_not(tmp_path: Path) -> None:
    command = [sys.executable, "-c", AMID_A_CALLBACK, "serve", "--port", "0", "--data", str(tmp_path)]
    ended = subprocess.run(command, capture_output=True, text=True, timeout=30, check=False)
    assert "Press Ctrl+C" in ended.stdout and "Traceback" not in ended.stderr


def _take_no_notice() -> None:
    signal.signal(signal.SIGINT, signal.SIG_IGN)


def test_a_body_that_is_too_large_is_answered_not_cut_off(idle_server: Server) -> None:
    """RFC 9110, 15.5.14: 413, also where the client sends all of it before it reads."""
    place = urlsplit(idle_server.address)
    for _ in range(3):
        line = http.client.HTTPConnection(place.netloc, timeout=30)
        headers = {"Authorization": f"Bearer {idle_server.token}", "Content-Type": "application/json"}
        line.request("POST", "/api/shoots", b"x" * (9 * 1024 * 1024), headers)
        answer = line.getresponse()
        assert (answer.status, json.loads(answer.read())["code"]) == (413, "too-large")


def test_a_form_of_another_site_is_refused(idle_server: Server) -> None:
    """A navigation without an Origin (Fetch Metadata: W3C, Sec-Fetch-*): only looking is allowed."""
    headers = {"Sec-Fetch-Site": "cross-site", "Sec-Fetch-Mode": "navigate", "Sec-Fetch-Dest": "document"}
    headers["Authorization"] = f"Bearer {idle_server.token}"
    assert idle_server.request("GET", "/", headers=headers)[0] == 200
    assert idle_server.request("POST", "/api/upkeep/end", {}, headers)[0] == 403
