"""What leaves: by a filter, into folders, under new names, as a list."""

from __future__ import annotations

import csv
import io
import json
import shutil
from pathlib import Path

import pytest

from tests.browser.conftest import Page
from tests.browser.test_trust import click_starting, type_path
from tests.commands import command
from tests.server import until


def test_what_a_filter_shows_leaves_under_new_names(page: Page, shoot_folder: Path, tmp_path: Path) -> None:
    shoot = page.server.open(shoot_folder)
    ids = [frame["id"] for frame in page.server.frames(shoot)]
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:4], "rating": 3})
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:1], "label": "Retouch"})
    page.go(f"/shoots/{shoot}/handoff?show=3+stars+or+more")
    page.until_text("main", "the filter: 3 stars or more")
    page.driver.find_element("xpath", "//button[contains(., 'the filter: ')]").click()
    page.click("Choose a folder …")
    type_path(page, tmp_path / "client")
    page.click("Choose")
    page.until_text("[data-testid=target]", "client")
    page.click("for each label")
    page.click("new names")
    page.until_text("[aria-label=Names]", "Say what {subject} is.")
    assert page.serious_problems() == []
    page.say_word("subject", "kiln")
    page.type_over("[aria-label='Pattern of the names']", "{subject}")
    page.until_text("[aria-label=Names]", "3 frames would share a name")
    assert page.text("[data-testid=names]").count("(twice)") == 3
    page.see("[aria-label='Pattern of the names']").send_keys("_{counter:2}")
    page.until_text("[data-testid=names]", "kiln_04")
    assert not page.find("[aria-label=Names] [role=alert]")
    page.click("Plan a copy")
    page.until_text("[data-testid=plan]", "4 frames")
    page.until_text("[data-testid=plan]", "Copy: 3 stars or more")
    page.driver.find_element("xpath", "//button[starts-with(normalize-space(), 'Copy ')]").click()
    until(lambda: page.find("[data-testid=past-plan][data-state=applied]"))
    copied = {str(path.relative_to(tmp_path / "client")) for path in (tmp_path / "client").rglob("*.JPG")}
    assert copied == {"Retouch/kiln_01.JPG", *(f"no label/kiln_0{n}.JPG" for n in (2, 3, 4))}


def test_a_list_of_what_a_filter_shows(lone_page: Page, shoot_folder: Path, tmp_path: Path) -> None:
    page = lone_page
    shoot = page.server.open(shoot_folder)
    ids = [frame["id"] for frame in page.server.frames(shoot)]
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[2:4], "decision": "keep"})
    page.go(f"/shoots/{shoot}/handoff?show=keepers")
    page.way("A list")
    page.until_text("main", "Of keepers, in capture order")
    page.driver.find_element("xpath", "//summary[contains(., 'columns')]").click()
    page.click("ISO")
    address = page.driver.find_element("link text", "Save the list").get_attribute("href")
    assert address
    status, headers, body = page.server.request("GET", address.removeprefix(page.server.address))
    assert status == 200 and "frames.csv" in headers["content-disposition"]
    rows = list(csv.DictReader(io.StringIO(body.decode(), newline="")))
    assert [row["Decision"] for row in rows] == ["kept", "kept"] and "ISO" in rows[0]
    page.click("names, one a line")
    address = page.driver.find_element("link text", "Save the list").get_attribute("href")
    assert address and page.server.request("GET", address.removeprefix(page.server.address))[2] == (
        b"100WINNO/WIN_0003.JPG\n100WINNO/WIN_0004.JPG\n"
    )
    # The same without a screen, while the server runs.
    export = ("export", shoot_folder, "--data", tmp_path / "data")
    told = command(*export, "--as", "json", "--show", "keepers")
    assert [frame["name"] for frame in json.loads(told.stdout)] == [row["File"] for row in rows]
    for options, said in (
        (["--show", "unicorns"], "nothing that can be asked for"),
        (["--column", "x"], "no column"),
    ):
        refused = command(*export, *options)
        assert refused.returncode == 2 and said in refused.stderr


@pytest.fixture
def with_own_bin(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """The bin of whoever the tests are: where the Trash and XDG Base Directory specifications put it."""
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "xdg"))
    return tmp_path / "xdg" / "Trash" / "files"


def test_names_in_the_order_of_the_wall_and_some_rejects_into_the_bin(
    with_own_bin: Path, lone_page: Page, shoot_folder: Path
) -> None:
    page = lone_page
    shoot = page.open(shoot_folder)
    ids = [frame["id"] for frame in page.server.frames(shoot)]
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[3:], "decision": "reject"})
    last = (shoot_folder / "100WINNO" / "WIN_0006.JPG").read_bytes()
    page.see("button[aria-label*='turn it round']").click()
    page.press("m")
    page.driver.find_element("xpath", "//button[starts-with(normalize-space(), 'all frames')]").click()
    page.way("Other names")
    page.say_word("subject", "kiln")
    page.until_text("[data-testid=names] tbody tr", "WIN_0006")
    page.see("[aria-label='Name for this pattern']").send_keys("By day")
    page.click("Keep")
    page.see("[aria-label='Forget the pattern By day']")
    kept = page.server.get("/api/name-patterns")[0]
    assert kept["naming"] | {"words": {}} == {
        "pattern": "{subject}_{date:%Y%m%d}_{counter:4}", "words": {}, "start": 1, "step": 1, "per": "all"
    }  # fmt: skip
    page.click("Plan the names")
    page.until_text("[data-testid=plan]", "6 frames, 12 files")
    page.click("Rename 12 files")
    until(lambda: page.find("[data-testid=past-plan][data-state=applied]"))
    assert (shoot_folder / "100WINNO" / "kiln_20261017_0001.JPG").read_bytes() == last
    # two of three rejects are held back, one of these two goes off the disk
    page.way("Rejects")
    until(lambda: len(page.find("[aria-label=Rejects] img")) == 3)
    assert page.serious_problems() == []
    page.find("[aria-label=Rejects] button")[0].click()
    page.click("Plan to hold them back")
    page.until_text("[data-testid=plan]", "2 frames, 4 files")
    page.click("Move 4 files")
    page.way("Holding folder")
    until(lambda: len(page.find("[aria-label='Held back'] img")) == 2)
    page.find("[aria-label='Held back'] button")[0].click()
    click_starting(page, "Off the disk: 1")
    page.until_text("[data-testid=plan]", "Winnow cannot take this back")
    page.click("Put in the bin: 2 files")
    until(lambda: len(page.find("[data-testid=past-plan][data-state=applied]")) == 3)
    assert len(list(with_own_bin.glob("*.JPG"))) == 1
    page.until_text("main", "1 frame, ")
    assert not any(button.text == "" for button in page.find("[data-testid=past-plan] button"))
    page.go("/")
    page.until_text("main", "1 held back")


def test_a_whole_shoot_is_saved_and_joined_to_its_pictures_elsewhere(
    page: Page, shoot_folder: Path, tmp_path: Path
) -> None:
    page.open(shoot_folder, "wall")
    page.press("a", "3")
    until(lambda: page.server.frames(page.shoot)[0]["rating"] == 3)
    page.go(f"/shoots/{page.shoot}/handoff")
    page.way("The whole shoot")
    address = page.see("a[download]").get_attribute("href")
    file = tmp_path / "whole.zip"
    file.write_bytes(page.server.request("GET", address.removeprefix(page.server.address))[2])
    other = shutil.copytree(shoot_folder, tmp_path / "elsewhere" / "Other")
    next(other.rglob("*0002.JPG")).unlink()
    page.open(other, "wall")
    page.go(f"/shoots/{page.shoot}/handoff")
    page.way("The whole shoot")
    page.see("[aria-label='Archive of a shoot']").send_keys(str(file))
    page.until_text("[data-testid=joining]", "5 of 6 frames are here")
    assert page.server.frames(page.shoot)[0]["rating"] == 0
    page.click("Join the archive")
    page.until_text("[role=status]", "Joined")
    first = page.server.frames(page.shoot)[0]
    assert (first["rating"], first["decision"]) == (3, "keep")
    file.write_bytes(b"nothing of the kind")
    page.see("[aria-label='Archive of a shoot']").send_keys(str(file))
    page.until_text("[role=alert]", "damaged or none at all")
    assert any("422" in error for error in page.errors())
