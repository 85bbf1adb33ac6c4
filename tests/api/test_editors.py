"""Frames opened in another program: by whom, how, and what becomes of it."""

from __future__ import annotations

import json
import shlex
import sys
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.server import Server, running, until
from winnow.core.editor_command import calls, words_of


def put(server: Server, name: str, command: str) -> tuple[int, str]:
    status, _, body = server.request("PUT", "/api/editors", {"name": name, "command": command})
    return status, json.loads(body).get("detail", "")


def test_frames_are_opened_and_what_comes_back_is_shown(
    server: Server, shoot_folder: Path, tmp_path: Path
) -> None:
    """By the stand-in: RAW or JPEG, names with spaces and quotes as they are; no shell sees them."""
    shoot_folder = shoot_folder.rename(tmp_path / 'it\'s a $(touch gone) "shoot"')
    shoot = server.open(shoot_folder)
    log = tmp_path / "edited files.log"
    stand_in = f"{shlex.quote(sys.executable)} -m winnow.demo.editor --derive --log {shlex.quote(str(log))} {{files}}"
    assert put(server, "Stand-in", stand_in) == (200, "")
    first, second = server.frames(shoot)[:2]
    wish = {"editor": "stand-IN", "frames": [second["id"], first["id"]], "prefer": "picture"}
    assert put(server, "stand-IN", stand_in)[0] == 200  # in the place of the other
    assert server.post(f"/api/shoots/{shoot}/open-in-editor", wish) == {"files": 2, "missing": []}
    until(lambda: log.exists() and len(log.read_text().splitlines()) == 2)
    assert log.read_text().splitlines() == [str(shoot_folder / frame["name"]) for frame in (second, first)]
    until(lambda: sum(frame["original"] is not None for frame in server.frames(shoot)) == 2)
    frames = {frame["id"]: frame for frame in server.frames(shoot)}
    assert frames[first["id"]]["edited"] and frames[first["id"]]["incoming"]
    assert not list(tmp_path.rglob("gone"))


@pytest.mark.parametrize(
    ("command", "said"),
    [
        ("/no/such/program {files}", "no program that can be started"),
        ("true", "Say where the files go"),
        ("{files}", "Say where the files go"),
        ("true 'x {files}", "A quotation mark is open"),
    ],
)
def test_a_command_that_cannot_work_is_refused_with_what_to_do(
    idle_server: Server, command: str, said: str
) -> None:
    status, detail = put(idle_server, "Mine", command)
    assert status == 422 and said in detail
    assert idle_server.get("/api/editors")["editors"] == []


def test_an_editor_that_fails_says_why(server: Server, shoot_folder: Path) -> None:
    shoot = server.open(shoot_folder)
    code = "import sys; sys.exit('no licence for ' + str(len(sys.argv) - 1))"
    assert put(server, "Broken", f"{shlex.quote(sys.executable)} -c {shlex.quote(code)} {{files}}")[0] == 200
    frame = server.frames(shoot)[0]
    path = f"/api/shoots/{shoot}/open-in-editor"
    status, _, body = server.request("POST", path, {"editor": "Broken", "frames": [frame["id"]]})
    assert status == 422 and b"ended with an error: no licence for 1" in body
    (shoot_folder / frame["name"]).unlink()
    status, _, body = server.request("POST", path, {"editor": "Broken", "frames": [frame["id"]]})
    assert status == 422 and b"None of the files is where it was" in body


def test_nobody_without_the_secret_has_a_program_run(tmp_path: Path) -> None:
    """Else whoever can reach the port would run what they like as the person who started it."""
    with running(tmp_path / "data", "--no-secret", root=tmp_path) as server:
        assert put(server, "Mine", "true {files}") == (403, server.get("/api/editors")["refusal"])


WORDS = st.text(st.characters(min_codepoint=32, exclude_categories=["Cs"]), min_size=1)


@given(st.lists(WORDS, min_size=1), st.lists(WORDS.map("/{}".format)), st.integers(1, 200))
def test_a_command_is_split_as_a_shell_would(words: list[str], paths: list[str], limit: int) -> None:
    """Python's shlex quotes for POSIX shells. Every file is handed over once, in order, in few calls or many."""
    words = [*words, "{files}"]
    assert words_of(" ".join(one if one == "{files}" else shlex.quote(one) for one in words)) == words
    found = list(calls(words, paths, limit))
    at = words.index("{files}")
    rest = words[at + 1 :]
    if at and "{files}" not in rest:
        assert [path for call in found for path in call[at : len(call) - len(rest)]] == paths
