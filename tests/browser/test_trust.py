"""What a careless photographer sees: a folder that is elsewhere, a plan that is out of date, marks that another
program changed."""

from __future__ import annotations

import shutil
import time
from pathlib import Path

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.support.ui import WebDriverWait

from tests import photographs
from tests.browser.conftest import Page
from tests.server import until
from winnow.core.xmp_marks import XmpMarks
from winnow.formats import xmp

REFUSED = "status of 409"


def type_path(page: Page, path: Path) -> None:
    page.type_over("[role=dialog] input", str(path))


def click_starting(page: Page, words: str) -> None:
    path = f"//button[starts-with(normalize-space(), '{words}')]"
    WebDriverWait(page.driver, 15).until(lambda d: d.find_elements(By.XPATH, path))
    page.driver.find_element(By.XPATH, path).click()


def rate_all(page: Page, shoot: int, rating: int) -> list[int]:
    ids: list[int] = [f["id"] for f in page.server.frames(shoot)]
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids, "rating": rating})
    return ids


def test_where_is_it_now(lone_page: Page, shoot_folder: Path) -> None:
    page = lone_page
    shoot = page.open(shoot_folder)
    rate_all(page, shoot, 4)
    new = shoot_folder.with_name("Moved")
    shoot_folder.rename(new)
    page.go(f"/shoots/{shoot}/wall")
    page.until_text("[role=alert]", "cannot be reached. Connect its disk")
    page.button("Where is it now? …")
    page.go("/")
    page.until_text("article", "Its folder cannot be reached")
    page.click("Where is it now? …")
    type_path(page, new.parent / "nowhere")
    page.click("Look there")
    page.until_text("[role=dialog] [role=alert]", "not a folder")
    type_path(page, new)
    page.click("Look there")
    page.until_text("[data-testid=question]", "6 of its 6 frames are in this folder")
    assert page.server.get(f"/api/shoots/{shoot}")["folders"] == [str(shoot_folder)], "only counted"
    page.click("This is it")
    until(lambda: "cannot be reached" not in page.text("article"))
    page.go(f"/shoots/{shoot}/wall")
    page.until_text("[data-testid=shown]", "6 of 6")
    frames = page.server.frames(shoot)
    assert [(f["rating"], f["place"]) for f in frames] == [(4, "shoot")] * 6
    page.driver.get_log("browser")  # it was asked for a folder that is not there


def test_a_moved_shoot_is_not_opened_a_second_time(lone_page: Page, shoot_folder: Path) -> None:
    page = lone_page
    shoot = page.open(shoot_folder)
    rate_all(page, shoot, 3)
    new = shoot_folder.with_name("Moved")
    shoot_folder.rename(new)
    page.go("/")
    page.click("Open a folder …")
    type_path(page, new)
    page.click("Open")
    page.until_text("[data-testid=question]", "look like the frames of 'Six'")
    click_starting(page, "It is")
    page.until_text("[data-testid=shown]", "6 of 6")
    assert page.run("return location.pathname") == f"/shoots/{shoot}/wall"
    assert len(page.server.get("/api/shoots")["shoots"]) == 1
    assert all(REFUSED in message for message in page.errors())


def test_theirs_stays_unless_chosen(page: Page, shoot_folder: Path) -> None:
    shoot = page.open(shoot_folder)
    ids = rate_all(page, shoot, 1)
    page.go(f"/shoots/{shoot}/handoff")
    page.way("Sidecars")
    page.click("Plan the sidecars")
    click_starting(page, "Write 6")
    page.see("[data-state=applied]")
    card = shoot_folder / "100WINNO"
    for n in (1, 2):
        path = card / f"WIN_000{n}.xmp"
        path.write_bytes(xmp.write_marks(path.read_bytes(), XmpMarks(rating=5)))
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:3], "rating": 2})
    page.click("Plan the sidecars")
    page.until_text("[data-testid=conflicts]", "2 marks changed by another program")
    table = page.text("[data-testid=conflicts] table")
    assert "2 ★" in table and "5 ★" in table
    rows = page.find("[data-testid=conflicts] tbody tr")
    assert [b.get_attribute("aria-pressed") for b in rows[0].find_elements(By.TAG_NAME, "button")] == [
        "false",
        "true",
    ]
    rows[0].find_elements(By.TAG_NAME, "button")[0].click()
    click_starting(page, "Write 2")
    until(lambda: len(page.find("[data-state=applied]")) == 2)
    stars = [xmp.read_marks((card / f"WIN_000{n}.xmp").read_bytes()).rating for n in (1, 2, 3)]
    assert stars == [2, 5, 2]


def test_a_plan_on_screen_goes_with_its_options(page: Page, shoot_folder: Path, tmp_path: Path) -> None:
    shoot = page.open(shoot_folder)
    ids = [f["id"] for f in page.server.frames(shoot)]
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:2], "decision": "keep"})
    page.go(f"/shoots/{shoot}/handoff")
    page.click("Choose a folder …")
    type_path(page, tmp_path / "keepers")
    page.click("Choose")
    page.click("Plan a copy")
    page.until_text("[data-testid=plan]", "2 frames, 4 files")
    page.click("sidecars with the marks go along")
    until(lambda: not page.find("[data-testid=plan]"))
    page.click("Plan a copy")
    page.until_text("[data-testid=plan]", "2 frames, 2 files")
    # Marked meanwhile, in another window: what was planned is not what is wanted.
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[:1], "decision": "reject"})
    click_starting(page, "Copy 2")
    page.until_text("[data-state=outdated]", "WIN_0001.JPG is no longer a keeper")
    assert not (tmp_path / "keepers").exists()
    page.click("Make the plan anew")
    page.until_text("[data-testid=plan]", "1 frame, 1 file")
    click_starting(page, "Copy 1")
    page.see("[data-state=applied]")
    assert [path.name for path in (tmp_path / "keepers").iterdir()] == ["WIN_0002.JPG"]


def test_copies_and_trying_again(page: Page, shoot_folder: Path) -> None:
    shutil.copy(shoot_folder / "100WINNO" / "WIN_0001.JPG", shoot_folder / "again.jpg")
    page.open(shoot_folder)
    page.until_text("main", "copy")
    click_starting(page, "and")
    click_starting(page, "Same content twice")
    click_starting(page, "copies 2")
    page.until_text("[data-testid=shown]", "2 of 7")
    page.press(Keys.ESCAPE)
    page.find("[data-frame]")[0].click()
    page.press("b")
    page.until_text("aside[aria-label=Evidence]", "Its content is in the shoot twice.")
    photographs.save(shoot_folder / "late.jpg", 4, second=300)
    page.press("h")
    page.chord(Keys.SHIFT, "k")
    page.press("v")
    page.until_text("[data-testid=shown]", "8 of 8")


def test_a_mark_whose_answer_is_lost_is_set_once(page: Page, shoot_folder: Path) -> None:
    """The line breaks after the request arrived: it is sent again, and one undo takes it back."""
    shoot = page.open(shoot_folder)
    page.run(
        """const real = window.fetch;
        window.lost = 0;
        window.fetch = async (request, ...more) => {
          const answer = await real(request, ...more);
          if (request.method === 'POST' && request.url.endsWith('/marks') && window.lost++ === 0)
            throw new TypeError('network changed');
          return answer;
        };"""
    )
    page.press("3")
    until(lambda: page.run("return window.lost") == 2)
    until(lambda: page.server.frames(shoot)[0]["rating"] == 3)
    assert not page.find("[role=alert]")
    page.press("z")
    until(lambda: page.server.frames(shoot)[0]["rating"] == 0)
    assert page.server.get(f"/api/shoots/{shoot}/actions")["undo"] is None


def test_undo_means_what_another_window_did_once_it_is_on_screen(page: Page, shoot_folder: Path) -> None:
    shoot = page.open(shoot_folder)
    ids = [frame["id"] for frame in page.server.frames(shoot)]
    page.press("3")
    until(lambda: page.server.frames(shoot)[0]["rating"] == 3)
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": ids[4:5], "decision": "reject"})
    until(lambda: "rejects 1" in " ".join(page.text("header").split()))
    page.press("z")
    until(lambda: page.server.frames(shoot)[4]["decision"] == "undecided")
    assert page.server.frames(shoot)[0]["rating"] == 3


def test_another_shoot_on_the_same_page_is_read_once(lone_page: Page, shoot_folder: Path) -> None:
    """News of the shoot before, which has seen more changes, say nothing of this one."""
    page = lone_page
    other = photographs.shoot(shoot_folder.with_name("Other"), 2)
    page.server.open(other)
    page.open(shoot_folder)
    for key in "12345":
        page.press(key)
    until(lambda: page.server.frames(2)[0]["rating"] == 5)
    page.find("header a")[0].click()
    page.see("article")
    page.driver.find_element(By.XPATH, "//article[contains(., 'Other')]//a").click()
    page.until_text("[data-testid=shown]", "2 of 2")
    asked = "return performance.getEntriesByType('resource').filter(e => e.name.includes('/shoots/1/frames')).length"
    time.sleep(1)
    before = page.run(asked)
    time.sleep(1)
    assert page.run(asked) == before
