"""Marks here and on disk, seen and settled on screen."""

from __future__ import annotations

import subprocess
from pathlib import Path

from tests.browser.conftest import Page
from tests.server import until


def test_marks_are_settled_by_the_person_and_taken_back(page: Page, shoot_folder: Path) -> None:
    """What another program (exiftool, Debian) wrote while the shoot was open waits; each side as it says."""
    shoot = page.open(shoot_folder, "wall")
    ids = [frame["id"] for frame in page.server.frames(shoot)]
    mark = f"/api/shoots/{shoot}/marks"
    page.server.post(mark, {"frame_ids": ids[:3], "rating": 2})
    page.chord("\ue009", "s")
    page.until_text("[data-testid=sync-counts]", "3 go out")
    page.click("Settle 3 marks")
    page.until_text("[role=status]", "3 files written")
    folder = shoot_folder / "100WINNO"
    for number, stars in ((1, 4), (2, 5)):
        said = [f"-XMP-xmp:Rating={stars}", folder / f"WIN_000{number}.xmp"]
        subprocess.run(["exiftool", "-q", "-overwrite_original", *said], check=True)
    page.server.post(mark, {"frame_ids": ids[1:2], "rating": 1})
    page.server.post(mark, {"frame_ids": ids[2:3], "label": "Retouch"})
    page.until_text("header", "2 marked elsewhere")
    page.click("Look again")
    page.until_text(
        "[data-testid=sync-counts]", "1 differ on both sides · 1 go out · 1 come in · 3 frames agree"
    )
    assert page.serious_problems() == []
    page.until_text("[data-testid=both-row]", "5 stars")
    page.click("the newer wins")
    until(lambda: page.find("[data-testid=both-row] [aria-pressed=true]")[0].text == "ours")
    page.click("Settle 3 marks")
    page.until_text("[role=status]", "1 mark came in, 2 files written")
    assert [frame["rating"] for frame in page.server.frames(shoot)[:2]] == [4, 1]
    assert 'Rating="1"' in (folder / "WIN_0002.xmp").read_text()
    page.click("Take it back")
    page.until_text("[data-testid=sync-counts]", "1 differ on both sides · 1 go out · 1 come in")
    assert "<xmp:Rating>5<" in (folder / "WIN_0002.xmp").read_text()
    assert page.server.frames(shoot)[0]["rating"] == 2
