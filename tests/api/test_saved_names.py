"""What is saved under a name: a blank one is refused before it is stored, and one that is stored breaks no list."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path
from typing import Any

import pytest

from tests.server import Server

PATTERN = {
    "pattern": "{subject}_{counter:4}",
    "words": {"subject": "kiln"},
    "start": 1,
    "step": 1,
    "per": "all",
}
PASS = {"name": " ", "question": "Which?", "scope": ""}


@pytest.mark.parametrize(
    ("method", "path", "body"),
    [
        ("POST", "/api/shoots/{shoot}/filters", {"name": " ", "show": "keepers"}),
        ("PUT", "/api/name-patterns", {"name": "\u2003", "naming": PATTERN}),
        ("PUT", "/api/templates", {"name": " \t "}),
        ("PUT", "/api/editors", {"name": " ", "command": "true {files}"}),
        ("PUT", "/api/passes", PASS),
        ("POST", "/api/shoots/{shoot}/proofs", {"title": " ", "target": "/tmp/x"}),
    ],
)
def test_a_blank_name_is_refused_and_the_list_stays(
    server: Server, shoot_folder: Path, method: str, path: str, body: dict[str, Any]
) -> None:
    path = path.format(shoot=server.open(shoot_folder))
    status, _, _ = server.request(method, path, body)
    assert status == 422
    status, _, answer = server.request("GET", path.replace("/proofs", "/answers"))
    assert (status, b'"name":" "' in answer) == (200, False)


def test_rows_that_nobody_should_have_stored_break_no_list(
    lone_server: Server, tmp_path: Path, shoot_folder: Path
) -> None:
    """Each list is answered, with what can be read."""
    shoot = lone_server.open(shoot_folder)
    lone_server.post(f"/api/shoots/{shoot}/filters", {"name": "Best", "show": "keepers"})
    lone_server.request("PUT", "/api/name-patterns", {"name": "Kiln", "naming": PATTERN})
    with closing(sqlite3.connect(tmp_path / "data" / "winnow.sqlite")) as connection, connection:
        connection.execute(
            "INSERT INTO named_filter (shoot_id, name, sentence) VALUES (NULL, ' ', 'keepers')"
        )
        connection.execute(
            "UPDATE named_filter SET name = name || printf('%.*c', 200, 'x') WHERE name = 'Best'"
        )
        connection.execute(
            "INSERT INTO name_pattern SELECT 'bad', replace(naming, '1', '-1') FROM name_pattern"
        )
        connection.execute("INSERT INTO template VALUES ('', '{\"caption\": 3}')")
        connection.execute("INSERT INTO pass VALUES ('bad', '{\"version\": 99}')")
    assert {one["name"][:4] for one in lone_server.get(f"/api/shoots/{shoot}/filters")} == {" ", "Best"}
    assert "Kiln" in [one["name"] for one in lone_server.get("/api/name-patterns")]
    assert lone_server.get("/api/passes")["ours"] and lone_server.get("/api/templates") == []
