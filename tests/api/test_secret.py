"""Another account on the machine cannot use the server: the address that is printed carries a secret once.

Sources: RFC 6265bis (SameSite, HttpOnly), RFC 6750 (bearer tokens)."""

from __future__ import annotations

import http.client
import os
import stat
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

from tests.server import Server, running, start
from winnow.api.security import cookie_of
from winnow.store.data_folder import SECRET


def opened(server: Server, path: str) -> tuple[int, dict[str, str]]:
    """Status and headers, redirects not followed, as whoever has nothing but the address."""
    line = http.client.HTTPConnection(urlsplit(server.address).netloc, timeout=30)
    line.request("GET", path)
    answer = line.getresponse()
    return answer.status, {name.lower(): value for name, value in answer.getheaders()}


def test_the_address_lets_in_once_and_leaves_a_cookie(lone_server: Server) -> None:
    assert lone_server.token and len(lone_server.token) >= 32
    for path in (
        "/",
        "/shoots/1/wall",
        "/api/shoots",
        "/api/shoots?token=" + lone_server.token,
        "/?token=wrong",
        "/assets/x",
    ):
        status, headers = opened(lone_server, path)
        assert status == 401, path
        assert headers["x-content-type-options"] == "nosniff" and "content-security-policy" in headers
    status, headers = opened(lone_server, f"/shoots/1/bench?token={lone_server.token}&x=1")
    assert (status, headers["location"]) == (303, "/shoots/1/bench?x=1")
    cookie = headers["set-cookie"]
    assert cookie.startswith(f"{cookie_of(lone_server.token)}={lone_server.token};")
    assert "httponly" in cookie.lower() and "samesite=strict" in cookie.lower() and "path=/" in cookie.lower()
    # Not to another site, whatever stands in the path.
    assert (
        opened(lone_server, f"//evil.example/?token={lone_server.token}")[1]["location"] == "/evil.example/"
    )
    held = {"Cookie": cookie.split(";")[0]}
    assert lone_server.request("GET", "/api/shoots", headers=held)[0] == 200
    # A bearer token counts as much, also beside a cookie of another Winnow.
    foreign = {"Cookie": "winnow-000000000000=other", "Authorization": f"Bearer {lone_server.token}"}
    assert lone_server.request("GET", "/api/shoots", headers=foreign)[0] == 200
    assert (
        lone_server.request("GET", "/api/shoots", headers={"Cookie": f"winnow-x={lone_server.token}"})[0]
        == 401
    )


def test_the_secret_is_of_the_data_folder_and_nobody_elses(tmp_path: Path) -> None:
    tokens = []
    for _ in range(2):
        with running(tmp_path / "data", root=tmp_path) as server:
            tokens.append(server.token)
    assert tokens[0] == tokens[1] == (tmp_path / "data" / SECRET).read_text()
    assert stat.S_IMODE(os.stat(tmp_path / "data" / SECRET).st_mode) == 0o600
    assert stat.S_IMODE(os.stat(tmp_path / "data").st_mode) == 0o700
    with running(tmp_path / "other", root=tmp_path) as server:
        assert server.token != tokens[0]


def test_who_wants_no_secret_gets_none(tmp_path: Path) -> None:
    server = start(tmp_path / "data", "--root", str(tmp_path), "--no-secret")
    try:
        assert server.token is None
        assert server.request("GET", "/api/shoots")[0] == 200
        assert server.request("GET", "/api/shoots", headers={"Host": "evil.example"})[0] == 403
    finally:
        server.kill()


def test_a_token_with_signs_in_it_is_printed_for_a_browser(tmp_path: Path) -> None:
    token = "a b&c=d#é+%"
    server = start(tmp_path / "data", "--root", str(tmp_path), "--token", token)
    try:
        assert parse_qs(f"token={server.token}") == {"token": [token]}
        status, headers = opened(server, f"/?token={server.token}")
        assert (status, headers["location"]) == (303, "/")
        held = {"Cookie": headers["set-cookie"].split(";")[0]}
        assert server.request("GET", "/api/shoots", headers=held)[0] == 200
    finally:
        server.kill()


def test_known_shoots_outside_the_roots_are_not_served(tmp_path: Path) -> None:
    from tests import photographs

    with running(tmp_path / "data", root=tmp_path) as server:
        inside = server.open(photographs.shoot(tmp_path / "a" / "in", 2))
        outside = server.open(photographs.shoot(tmp_path / "b" / "out", 2))
        frame = server.frames(outside)[0]
        plan = server.post(f"/api/shoots/{outside}/plans", {"kind": "hold-rejects"})["id"]
    with running(tmp_path / "data", root=tmp_path / "a") as server:
        assert [card["id"] for card in server.get("/api/shoots")["shoots"]] == [inside]
        for method, path in (
            ("GET", f"/api/shoots/{outside}"),
            ("GET", f"/api/shoots/{outside}/frames"),
            ("GET", f"/api/shoots/{outside}/view"),
            ("POST", f"/api/shoots/{outside}/refresh"),
            ("POST", f"/api/shoots/{outside}/plans"),
            ("GET", f"/api/frames/{frame['id']}"),
            ("GET", f"/api/frames/{frame['id']}/file"),
            ("GET", f"/api/frames/{frame['id']}/evidence"),
            ("GET", f"/api/evidence?frame={frame['id']}"),
            ("GET", f"/api/pictures/{frame['id']}/{frame['version']}/thumb"),
            ("GET", f"/api/pictures/{frame['id']}/{frame['version']}/glimpse"),
            ("GET", f"/api/plans/{plan}"),
            ("POST", f"/api/plans/{plan}/apply"),
        ):
            body = {"kind": "write-sidecars"} if method == "POST" else None
            status, _, answer = server.request(method, path, body)
            assert status == 403 and b"outside-roots" in answer, path
