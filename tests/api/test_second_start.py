"""A second start finds the server that runs and opens folders there; the browser is let in by a code, once."""

from __future__ import annotations

import os
import stat
from pathlib import Path
from urllib.parse import urlsplit

import pytest

from tests.api.test_secret import opened
from tests.commands import winnow
from tests.server import Server, running, until
from winnow.api.models.plans import PlanWish
from winnow.client import NotReachedError, Winnow, WinnowError
from winnow.store import data_folder
from winnow.store.plans import PlanKind

NOTE = """#!/bin/sh
echo "$1" >> {log}
"""


@pytest.fixture
def browser(tmp_path: Path) -> dict[str, str]:
    """A stand-in for a browser, that notes what it is told to open."""
    script = tmp_path / "browser"
    script.write_text(NOTE.format(log=tmp_path / "opened"))
    script.chmod(0o755)
    return {"BROWSER": str(script)}


def addresses(tmp_path: Path) -> list[str]:
    log = tmp_path / "opened"
    return log.read_text().split() if log.exists() else []


def test_the_second_start_opens_folders_in_the_first(
    lone_server: Server, shoot_folder: Path, tmp_path: Path, browser: dict[str, str]
) -> None:
    data = tmp_path / "data"
    code, told = winnow("serve", shoot_folder, "--data", data, "--browser", **browser)
    assert code == 0 and f"{lone_server.address}/shoots/1" in told
    (card,) = lone_server.get("/api/shoots")["shoots"]
    assert card["folders"] == [str(shoot_folder)]
    until(lambda: addresses(tmp_path))
    (address,) = addresses(tmp_path)
    assert lone_server.token and lone_server.token not in address and lone_server.token not in told
    status, headers = opened(lone_server, urlsplit(address).path + "?" + urlsplit(address).query)
    assert (status, headers["location"]) == (303, "/shoots/1") and lone_server.token in headers["set-cookie"]
    assert opened(lone_server, urlsplit(address).path + "?" + urlsplit(address).query)[0] == 401, (
        "a code is good once"
    )
    assert len(addresses(tmp_path)) == 1
    # A folder outside the roots: whoever starts Winnow may name it, the interface may not.
    outside = tmp_path.parent / f"{tmp_path.name}-outside"
    outside.mkdir()
    assert lone_server.request("POST", "/api/shoots", {"path": str(outside)})[0] == 422
    assert lone_server.request("PUT", "/api/settings", {"roots": [str(outside)]})[0] == 422
    code, told = winnow("serve", outside, "--data", data, "--no-browser", **browser)
    assert code == 0 and "may be opened from now on" in told
    assert str(outside) in [one["path"] for one in lone_server.get("/api/folders")["folders"]]
    code, told = winnow("serve", outside / "not there", "--data", data, "--no-browser", **browser)
    assert code == 2 and "not there" in told
    assert len(addresses(tmp_path)) == 1


def test_the_first_start_opens_the_browser_if_that_is_wished_for(
    tmp_path: Path, browser: dict[str, str]
) -> None:
    os.environ.update(browser)
    try:
        with running(tmp_path / "a", root=tmp_path) as server:
            until(lambda: addresses(tmp_path))
            assert opened(server, "/?" + urlsplit(addresses(tmp_path)[0]).query)[0] == 303
        with running(tmp_path / "b", "--no-browser", root=tmp_path):
            pass
        (tmp_path / "c").mkdir()
        (tmp_path / "c" / "settings.toml").write_text("open_browser = false\nport = 0")
        with running(tmp_path / "c", root=tmp_path):
            pass
    finally:
        del os.environ["BROWSER"]
    assert len(addresses(tmp_path)) == 1


def test_a_server_that_was_killed_is_not_taken_for_one_that_runs(lone_server: Server, tmp_path: Path) -> None:
    data = tmp_path / "data"
    there = data_folder.running(data)
    assert (
        there
        and there.address.rstrip("/") == lone_server.address
        and there.process == lone_server.process.pid
    )
    lone_server.kill()
    assert (data / data_folder.RUNNING).exists() and data_folder.running(data) is None
    with pytest.raises(NotReachedError, match="winnow serve"):
        Winnow.running(data)
    with running(data, root=tmp_path) as again:
        assert Winnow.running(data).address == again.address
    assert not (data / data_folder.RUNNING).exists()


def test_the_client_does_what_the_interface_does(
    lone_server: Server, shoot_folder: Path, tmp_path: Path
) -> None:
    with Winnow.running(tmp_path / "data", name="Žofie") as winnow_there:
        shoot = winnow_there.prepared(winnow_there.open(shoot_folder).id)
        frames = winnow_there.frames(shoot.id)
        assert len(frames) == 6 and [frame.position for frame in frames] == sorted(f.position for f in frames)
        marked = winnow_there.mark(shoot.id, [frames[0].id, frames[3].id], decision="keep", rating=4)
        assert marked.title == "2 frames: kept, 4 stars"
        assert {f.id for f in winnow_there.frames(shoot.id, "keepers, 4 stars or more")} == {
            frames[0].id,
            frames[3].id,
        }
        (entry, *_) = lone_server.get(f"/api/shoots/{shoot.id}/history")["entries"]
        assert entry["actor"] == "Žofie"
        assert winnow_there.undo(shoot.id).title == marked.title
        assert winnow_there.frames(shoot.id, "keepers") == []
        assert len(winnow_there.redo(shoot.id).frames) == 2
        with pytest.raises(WinnowError) as nothing:
            winnow_there.redo(shoot.id)
        assert nothing.value.code == "overtaken"
        assert winnow_there.picture(frames[0], "thumb").startswith(b"\xff\xd8")
        assert winnow_there.details(frames[0].id).name == frames[0].name
        with pytest.raises(WinnowError) as refused:
            winnow_there.open("/")
        assert refused.value.code == "folder-refused" and refused.value.status == 422
        target = tmp_path / "keepers"
        plan = winnow_there.plan(shoot.id, PlanWish(kind=PlanKind.COPY_KEEPERS, target=str(target)))
        assert winnow_there.apply(plan.id).state == "applied"
        assert len([path for path in target.rglob("*") if path.suffix.lower() == ".jpg"]) == 2
    with Winnow(lone_server.address) as stranger, pytest.raises(WinnowError) as closed:
        stranger.shoots()
    assert closed.value.code == "no-access"
    assert stat.S_IMODE((tmp_path / "data" / data_folder.SECRET).stat().st_mode) == 0o600
