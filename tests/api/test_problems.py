"""How requests end that cannot be answered: RFC 9457, and never with 500. Odd input as seen in fuzzing."""

from __future__ import annotations

import http.client
import json
import socket
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from tests import photographs
from tests.server import Server, until
from winnow.api.limits import MAX_BODY


@pytest.fixture(scope="module")
def shoot(idle_server: Server, tmp_path_factory: pytest.TempPathFactory) -> int:
    roots = Path(idle_server.get("/api/folders")["folders"][0]["path"])
    return idle_server.open(photographs.shoot(roots / "problems", 3))


def raw(server: Server, text: bytes) -> tuple[int, bytes]:
    """Status and body of the answer to a request as it stands."""
    address = urlsplit(server.address)
    assert address.hostname and address.port
    with socket.create_connection((address.hostname, address.port), timeout=30) as line:
        line.sendall(text)
        answer = http.client.HTTPResponse(line)
        answer.begin()
        return answer.status, answer.read()


BIG = 2**63


@pytest.mark.parametrize(
    ("method", "path", "status", "code"),
    [
        ("GET", "/api/nothing", 404, "nothing-here"),
        ("PUT", "/api/shoots", 405, "not-this-method"),
        ("GET", "/api/shoots/99", 404, "shoot-unknown"),
        ("GET", f"/api/shoots/{BIG - 1}", 404, "shoot-unknown"),
        ("GET", f"/api/shoots/{BIG}", 422, "not-understood"),
        ("GET", "/api/shoots/0", 422, "not-understood"),
        ("GET", f"/api/frames/{BIG - 1}", 404, "frame-unknown"),
        ("GET", f"/api/frames/{10**400}", 422, "not-understood"),
        ("GET", f"/api/plans/{BIG - 1}", 404, "plan-unknown"),
        ("GET", "/api/frames/9999/file", 404, "frame-unknown"),
        ("GET", f"/api/evidence?frame={BIG}", 422, "not-understood"),
        ("GET", "/api/evidence?frame=9999", 404, "frame-unknown"),
        ("GET", "/api/frames/1/same-point?x=inf&y=nan&among=1", 422, "not-understood"),
        ("GET", "/api/frames/1/same-point?x=1e308&y=1&among=1", 422, "not-understood"),
        ("GET", f"/api/shoots/1/frames?since={BIG}", 422, "not-understood"),
        ("GET", "/api/shoots/1/frames?limit=100000", 422, "not-understood"),
        ("GET", "/api/shoots/1/filter?at=-1", 422, "not-understood"),
        ("GET", "/api/shoots/1/view?show=9%20stars", 422, "cannot-be-done"),
        ("GET", "/api/folders?path=%00", 422, "not-understood"),
        ("GET", "/api/folders?path=/" + "x" * 300, 422, "folder-refused"),
        ("GET", "/api/folders?path=/" + "x/" * 2040, 422, "folder-refused"),
        ("GET", "/api/folders?path=~nobody-of-that-name/x", 422, "folder-refused"),
        ("GET", "/api/folders?path=%ed%a0%80", 422, "folder-refused"),
        ("GET", "/api/folders?path=/etc", 422, "folder-refused"),
        ("GET", "/api/pictures/1/" + "a" * 64 + "/thumb", 404, "picture-changed"),
        ("GET", "/api/pictures/1/zz/thumb", 422, "not-understood"),
    ],
)
def test_addresses(idle_server: Server, shoot: int, method: str, path: str, status: int, code: str) -> None:
    found, headers, body = idle_server.request(method, path)
    assert (found, json.loads(body)["code"]) == (status, code), body
    assert headers["content-type"] == "application/problem+json"
    problem = json.loads(body)
    assert problem["status"] == status and problem["detail"] and problem["type"].endswith(code)
    assert headers["x-content-type-options"] == "nosniff" and "content-security-policy" in headers


@pytest.mark.parametrize(
    ("path", "body", "status"),
    [
        ("marks", {"frame_ids": [BIG], "rating": 1}, 422),
        ("marks", {"frame_ids": [BIG - 1], "rating": 1}, 404),
        ("marks", {"frame_ids": [1, 99999], "rating": 1}, 404),
        ("marks", {"frame_ids": [1], "label": "a\0b"}, 422),
        ("marks", {"frame_ids": [1], "label": "line\nbreak"}, 422),
        ("marks", {"frame_ids": [1], "label": "\ud800"}, 422),
        ("marks", {"frame_ids": [1], "label": "x" * 81}, 422),
        ("marks", {"frame_ids": [1], "rating": True}, 422),
        ("marks", {"frame_ids": [1], "rating": float("nan")}, 422),
        ("keep-lead", {"frame_id": 99999}, 404),
        ("groups", {"frame_id": 99999, "action": "split"}, 404),
        ("undo", {"batch": 99999}, 409),
        ("redo", {"batch": 99999}, 409),
        ("undo", {}, 422),
        ("clocks", {"camera": "x", "ahead_s": float("inf")}, 422),
        ("clocks", {"camera": "x\0", "ahead_s": 1}, 204),
        ("same-moment", {"frame_id": 1, "other_id": 99999}, 404),
        ("look", {"position": 10**30}, 422),
        ("plans", {"kind": "copy-keepers", "target": "/\0"}, 422),
        ("plans", {"kind": "copy-keepers", "target": "/" + "x" * 300}, 422),
        ("plans", {"kind": "copy-keepers", "target": "\udcff"}, 422),
        ("plans", {"kind": "write-sidecars", "mine": [{"frame_id": 99999, "field": "rating"}]}, 404),
        ("whereabouts", {"path": "/etc"}, 422),
        ("whereabouts/count", {"path": "\ud800"}, 422),
    ],
)
def test_bodies(idle_server: Server, shoot: int, path: str, body: dict[str, Any], status: int) -> None:
    found, headers, answer = idle_server.request("POST", f"/api/shoots/{shoot}/{path}", body)
    assert found == status, answer
    if status >= 400:
        assert headers["content-type"] == "application/problem+json" and json.loads(answer)["detail"]


@pytest.mark.parametrize(
    "lines",
    [
        b"Host: [::1",
        b"Host: 127.0.0.1:port",
        b"Host: \xff\xfe",
        b"Host: evil.example",
        b"",
        b"Host: localhost\r\nOrigin: http://[::1",
        b"Host: localhost\r\nOrigin: \xff",
        b"Host: localhost\r\nSec-Fetch-Site: cross-site",
    ],
)
def test_malformed_hosts_and_origins_are_refused(idle_server: Server, lines: bytes) -> None:
    head = b"\r\n".join(part for part in (b"GET /api/shoots HTTP/1.1", lines, b"Connection: close") if part)
    status, body = raw(idle_server, head + b"\r\n\r\n")
    assert status in (400, 403), body


@pytest.mark.parametrize(
    "cookie", [b"=", b'a="', b"\xff=\xfe", b"a=b;;; ,,=\x01", b"$Version=1; winnow-x", b"k[=v", b"x" * 4000]
)
def test_malformed_cookies_beside_ours_do_no_harm(idle_server: Server, cookie: bytes) -> None:
    from winnow.api.security import cookie_of

    assert idle_server.token
    ours = f"{cookie_of(idle_server.token)}={idle_server.token}".encode()
    for line in (cookie + b"; " + ours, ours + b"; " + cookie):
        head = b"GET /api/shoots HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\nCookie: " + line
        assert raw(idle_server, head + b"\r\n\r\n")[0] == 200
    bearer = b"\r\nAuthorization: Bearer " + idle_server.token.encode()
    head = b"GET /api/shoots HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\nCookie: " + cookie + bearer
    assert raw(idle_server, head + b"\r\n\r\n")[0] == 200


@pytest.mark.parametrize(
    "body", [b"", b"{", b"[" * 100_000, b"\xff", b"9" * 10_000, b"null", b'{"frame_ids":[1e999]}']
)
def test_bodies_that_are_no_json(idle_server: Server, shoot: int, body: bytes) -> None:
    head = (
        f"POST /api/shoots/{shoot}/marks HTTP/1.1\r\nHost: localhost\r\nConnection: close\r\n"
        f"Authorization: Bearer {idle_server.token}\r\nContent-Type: application/json\r\n"
        f"Content-Length: {len(body)}\r\n\r\n"
    ).encode()
    status, answer = raw(idle_server, head + body)
    assert status == 422, answer
    assert json.loads(answer)["code"] == "not-understood"


def test_bodies_that_are_too_large_are_not_read(idle_server: Server, shoot: int) -> None:
    """300 MB announced: refused before a byte of it was sent. As much in chunks: refused on the way."""
    head = (
        f"POST /api/shoots/{shoot}/marks HTTP/1.1\r\nHost: localhost\r\n"
        f"Authorization: Bearer {idle_server.token}\r\nContent-Type: application/json\r\n"
    ).encode()
    status, body = raw(idle_server, head + b"Content-Length: 300000000\r\n\r\n")
    assert (status, json.loads(body)["code"]) == (413, "too-large")
    assert raw(idle_server, head + b"Content-Length: 99999999999999999999999\r\n\r\n")[0] in (400, 413)
    chunk = b"x" * 65536
    chunks = (b"%x\r\n%b\r\n" % (len(chunk), chunk)) * (MAX_BODY // len(chunk) + 1)
    status, body = raw(idle_server, head + b"Transfer-Encoding: chunked\r\n\r\n" + chunks)
    assert (status, json.loads(body)["code"]) == (413, "too-large")


@settings(max_examples=60, deadline=None, suppress_health_check=list(HealthCheck))
@given(path=st.text(max_size=300), label=st.text(max_size=90))
def test_paths_and_labels_of_all_kinds(idle_server: Server, shoot: int, path: str, label: str) -> None:
    for address, body in (
        ("/api/shoots", {"path": path}),
        (f"/api/shoots/{shoot}/plans", {"kind": "copy-keepers", "target": path}),
        (f"/api/shoots/{shoot}/marks", {"frame_ids": [1], "label": label}),
    ):
        status, _, answer = idle_server.request("POST", address, body)
        assert status < 500, (address, body, answer)


def test_a_change_with_a_key_is_done_once(server: Server, shoot_folder: Path) -> None:
    shoot = server.open(shoot_folder)
    ids = [frame["id"] for frame in server.frames(shoot)]
    base = f"/api/shoots/{shoot}"

    def send(path: str, body: object, key: str) -> tuple[int, dict[str, Any]]:
        status, _, answer = server.request("POST", base + path, body, {"Idempotency-Key": key})
        return status, json.loads(answer)

    first = send("/marks", {"frame_ids": ids[:2], "rating": 3}, "key-number-1")
    assert send("/marks", {"frame_ids": ids[2:3], "rating": 1}, "key-number-2")[0] == 200
    again = send("/marks", {"frame_ids": ids[:2], "rating": 3}, "key-number-1")
    assert (again[0], again[1]["frames"], again[1]["title"]) == (200, first[1]["frames"], first[1]["title"])
    other = send("/marks", {"frame_ids": ids[:2], "rating": 4}, "key-number-1")
    assert (other[0], other[1]["code"]) == (422, "key-reused")
    # An undo that got no answer is sent again: one step back, not two.
    meant = {"batch": server.get(f"{base}/actions")["undo"]["batch"]}
    for _ in range(3):
        status, answer = send("/undo", meant, "key-number-3")
        assert status == 200 and answer["title"] == "frame WIN_0003: 1 star"
    assert [frame["rating"] for frame in server.frames(shoot)] == [3, 3, 0, 0, 0, 0]
    # Without a key, or with another, the action that is meant is not the last any more.
    assert send("/undo", meant, "key-number-4")[1]["code"] == "overtaken"
    wish = {"kind": "write-sidecars"}
    plans = [send("/plans", wish, "key-number-5")[1]["id"] for _ in range(3)]
    assert len(set(plans)) == 1
    applied = [
        server.request("POST", f"/api/plans/{plans[0]}/apply", {}, {"Idempotency-Key": "key-number-6"})[0]
        for _ in range(3)
    ]
    assert applied == [200, 200, 200]
    until(lambda: server.get(f"/api/plans/{plans[0]}")["state"] == "applied")


def test_undo_means_one_action(server: Server, shoot_folder: Path) -> None:
    """Two windows on one shoot: neither takes back what the other did without having seen it."""
    shoot = server.open(shoot_folder)
    ids = [frame["id"] for frame in server.frames(shoot)]
    base = f"/api/shoots/{shoot}"
    seen = server.post(f"{base}/marks", {"frame_ids": ids[:1], "rating": 1})["actions"]["undo"]
    server.post(f"{base}/marks", {"frame_ids": ids[1:2], "decision": "reject"})
    status, _, body = server.request("POST", f"{base}/undo", {"batch": seen["batch"]})
    problem = json.loads(body)
    assert (status, problem["code"]) == (409, "overtaken") and "WIN_0002: rejected" in problem["detail"]
    assert [f["decision"] for f in server.frames(shoot)][:2] == ["undecided", "reject"]
    assert server.step(shoot, "undo")["actions"]["undo"] == seen
    assert server.step(shoot, "redo")["title"] == "frame WIN_0002: rejected"


def test_lists_come_in_pages_and_only_when_changed(server: Server, shoot_folder: Path) -> None:
    shoot = server.open(shoot_folder)
    base = f"/api/shoots/{shoot}"
    ids = sorted(frame["id"] for frame in server.frames(shoot))
    first = server.get(f"{base}/frames?limit=4")
    assert [frame["id"] for frame in first["frames"]] == ids[:4] and first["more"]
    rest = server.get(f"{base}/frames?limit=4&after={ids[3]}")
    assert [frame["id"] for frame in rest["frames"]] == ids[4:] and not rest["more"]
    for path in (f"{base}/frames?limit=4", f"{base}/view?show=keepers"):
        tag = server.request("GET", path)[1]["etag"]
        assert server.request("GET", path, headers={"If-None-Match": f'"other", {tag}'})[0] == 304
        server.post(f"{base}/marks", {"frame_ids": ids[:1], "rating": 1 + len(path) % 5})
        status, headers, _ = server.request("GET", path, headers={"If-None-Match": tag})
        assert status == 200 and headers["etag"] != tag
    frame = server.frames(shoot)[0]
    assert frame["roles"] == ["picture"] and frame["warnings"] == [] and frame["stage"] == "preview"
