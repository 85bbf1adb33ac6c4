"""A tablet on the local network is let in by a code, with a token of its own that can be withdrawn.

Sources: as for the secret (RFC 6265bis, RFC 6750). A code of 8 letters out of 32 has 40 bits; few guesses are left.
"""

from __future__ import annotations

import http.client
from collections.abc import Iterator
from pathlib import Path
from urllib.parse import quote, urlsplit

import pytest

from tests import photographs
from tests.commands import command
from tests.server import Server, running
from winnow.api.entry_codes import GUESSES, EntryCodes


class Tablet:
    """A browser that knows an address and keeps cookies."""

    def __init__(self, server: Server) -> None:
        self.place = urlsplit(server.address).netloc
        self.cookie = ""

    def ask(self, method: str, path: str, body: bytes | None = None) -> tuple[int, bytes]:
        line = http.client.HTTPConnection(self.place, timeout=30)
        headers = {"Accept": "text/html", "Cookie": self.cookie, "Content-Type": "application/json"}
        line.request(method, path, body, headers)
        answer = line.getresponse()
        if set_cookie := answer.getheader("set-cookie"):
            assert "HttpOnly" in set_cookie and "SameSite=strict" in set_cookie
            self.cookie = set_cookie.partition(";")[0]
        return answer.status, answer.read()


def test_a_device_comes_in_by_a_code_marks_under_its_name_and_is_put_out(tmp_path: Path) -> None:
    pictures = photographs.shoot(tmp_path / "s")
    with running(tmp_path / "data", "--lan", root=tmp_path) as server:
        shoot = server.open(pictures)
        frame = server.frames(shoot)[0]["id"]
        tablet = Tablet(server)
        status, page = tablet.ask("GET", "/")
        assert status == 401 and b'name="code"' in page and b"<script" not in page
        view = server.get("/api/entry/devices")
        assert view["may_change"] and view["devices"] == [] and view["addresses"]
        given = server.post("/api/entry/devices", {"name": "Rada's tablet"})
        assert given["addresses"] == view["addresses"]
        assert tablet.ask("GET", "/?code=AAAA-AAAA")[0] == 401
        typed = given["code"].lower().replace("-", " ")
        assert tablet.ask("GET", f"/?code={quote(typed)}")[0] == 303
        assert server.token and server.token not in tablet.cookie
        assert tablet.ask("GET", "/api/shoots")[0] == 200
        assert Tablet(server).ask("GET", f"/?code={quote(typed)}")[0] == 401, "a code is good once"
        body = b'{"frame_ids": [%d], "decision": "keep"}' % frame
        assert tablet.ask("POST", f"/api/shoots/{shoot}/marks", body)[0] == 200
        assert server.get(f"/api/shoots/{shoot}/history")["entries"][0]["actor"] == "Rada's tablet"
        # What is the owner's alone: to let others in, to put devices out, to end the server.
        for path, method in (
            ("/api/entry", "POST"),
            ("/api/entry/devices", "POST"),
            ("/api/entry/devices/1", "DELETE"),
            ("/api/upkeep/end", "POST"),
            ("/api/upkeep/backup", "POST"),
            ("/api/settings", "PUT"),
            ("/api/editors", "PUT"),
        ):
            assert tablet.ask(method, path, b'{"name": "x"}')[0] == 403, path
        (device,) = server.get("/api/entry/devices")["devices"]
        assert device["name"] == "Rada's tablet"
        news = http.client.HTTPConnection(tablet.place, timeout=10)
        news.request("GET", "/api/events", headers={"Cookie": tablet.cookie})
        stream = news.getresponse()
        assert b"hello" in stream.readline()
        assert server.request("DELETE", f"/api/entry/devices/{device['id']}")[0] == 204
        assert tablet.ask("GET", "/api/shoots")[0] == 401
        assert b"data" not in stream.read(), "its stream ends at once"
        again = server.post("/api/entry/devices", {"name": "Other"})["code"]
        assert tablet.ask("GET", f"/?code={again}")[0] == 303
    # Its token is good over a restart, and so is that it was withdrawn.
    with running(
        tmp_path / "data", "--lan", "--port", urlsplit(server.address).netloc.split(":")[1], root=tmp_path
    ) as server:
        assert [device["name"] for device in server.get("/api/entry/devices")["devices"]] == ["Other"]
        tablet.place = urlsplit(server.address).netloc
        assert tablet.ask("GET", "/api/shoots")[0] == 200


def test_without_the_network_nobody_is_let_in(server: Server, tmp_path: Path) -> None:
    assert server.get("/api/entry/devices")["addresses"] == []
    status, _, body = server.request("POST", "/api/entry/devices", {"name": "x"})
    assert status == 409 and b"--lan" in body
    refused = command("serve", "--lan", "--no-secret", "--data", tmp_path)
    assert refused.returncode == 2 and "--lan" in refused.stderr


def test_codes_cannot_be_guessed_and_do_not_last(monkeypatch: pytest.MonkeyPatch) -> None:
    codes = EntryCodes()
    good = codes.make_typed("a")
    for guess in range(GUESSES):
        assert codes.take(f"WRONG{guess}") is None
    assert codes.take(good) is None, "after so many guesses no code is good any more"
    assert codes.take("") is None and codes.take("----") is None
    late, early = codes.make_typed("b"), codes.make()
    monkeypatch.setattr("winnow.api.entry_codes.time.monotonic", lambda: 1e12)
    assert codes.take(late) is None and codes.take(early) is None


def test_wrong_codes_are_counted_by_address() -> None:
    """Somebody who guesses keeps nobody else out."""
    codes = EntryCodes()
    code = codes.make_typed("Tablet")
    for _ in range(GUESSES):
        assert codes.take("AAAA-AAAA", "192.0.2.1") is None
    assert codes.take(code, "192.0.2.1") is None
    assert codes.take(code, "192.0.2.2") is not None


@pytest.mark.parametrize(
    ("host", "origin", "status"),
    [
        ("{place}", None, 200),
        ("{place}", "http://{place}", 200),
        ("{place}", "https://{place}", 403),
        ("{announced}", None, 200),
        ("rebound.example:{port}", None, 403),
        ("rebound.example:{port}", "http://rebound.example:{port}", 403),
    ],
)
def test_only_announced_addresses_are_let_in_by_name(
    lan_server: Server, host: str, origin: str | None, status: int
) -> None:
    """DNS rebinding (OWASP) does not help where any name would do; an origin has a scheme too (RFC 6454)."""
    place = urlsplit(lan_server.address)
    announced = urlsplit(lan_server.get("/api/entry/devices")["addresses"][0]).netloc
    names = {"place": place.netloc, "port": place.port, "announced": announced}
    headers = {"Host": host.format(**names), "Authorization": f"Bearer {lan_server.token}"}
    if origin:
        headers["Origin"] = origin.format(**names)
    assert lan_server.request("GET", "/api/shoots", headers=headers)[0] == status


@pytest.fixture(scope="module")
def lan_server(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("lan")
    with running(folder / "data", "--lan", root=folder) as server:
        yield server
