"""What stands beside the shoots: settings, and finding frames in all of them."""

from __future__ import annotations

import tomllib
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.common.by import By

from tests import photographs
from tests.browser.conftest import Page, visit
from tests.server import running, until
from winnow.api.shoots import MOST_SHOOTS
from winnow.store import shoots
from winnow.store.database import DATABASE, Database


def test_settings_are_changed_on_the_screen_and_in_the_file(lone_page: Page, tmp_path: Path) -> None:
    page, file = lone_page, tmp_path / "data" / "settings.toml"
    page.go("/settings")
    page.see("#takes_in").click()
    until(lambda: tomllib.loads(file.read_text())["takes_in"] is False)
    page.type_over("#cache_gb", "0")
    page.click("Set")
    page.until_text("[role=alert]", "greater than or equal to 1")
    assert len([e for e in page.errors() if "422" in e]) == 1
    assert tomllib.loads(file.read_text())["cache_gb"] == 40
    page.type_over("#cache_gb", "25")
    page.click("Set")
    until(lambda: tomllib.loads(file.read_text())["cache_gb"] == 25)
    assert page.serious_problems() == []
    page.click("Back up now")
    page.until_text("main", "1 backup of marks")
    assert len(list((tmp_path / "data" / "backups").glob("*.zip"))) == 1
    # What somebody wrote into the file and that cannot be read is told, and takes nothing back.
    file.write_text("cache_gb = much")
    page.go("/settings")
    page.until_text("[role=alert]", "settings.toml")
    assert page.see("#cache_gb").get_attribute("value") == "25" and not page.see("#watch").is_enabled()
    page.click("End Winnow …")
    page.click("End it")
    page.until_text("main", "Winnow has ended")
    assert lone_page.server.process.wait(20) == 0
    page.errors()  # the events ended with the server


def test_frames_are_found_in_all_shoots_and_back_leads_to_what_was_found(page: Page, tmp_path: Path) -> None:
    for number, name in enumerate(("Mill", "Quarry")):
        for frame in range(3):
            photographs.save(
                tmp_path / name / f"WDL_{7100 + 10 * number + frame}.jpg", frame, shift=number * 9
            )
        page.server.open(tmp_path / name)
    page.go("/")
    page.see("input[type=search]").send_keys("wdl 71")
    page.until_text("[aria-label='What was found']", "6 frames in 2 shoots")
    page.see("input[type=search]").send_keys(" quarry")
    page.until_text("[aria-label='What was found']", "3 frames in 1 shoot")
    assert page.serious_problems() == []
    page.driver.find_element(By.XPATH, "//a[contains(., 'WDL_7111')]").click()
    page.until_text("[data-testid=scope]", "WDL_7111")
    page.driver.back()
    page.until_text("[aria-label='What was found']", "3 frames in 1 shoot")
    page.see("input[type=search]").send_keys(" nowhere")
    page.until_text("[aria-label='What was found']", "Nothing is called like that")


def test_hundreds_of_shoots_are_fetched_as_one_gets_to_them(driver: webdriver.Chrome, tmp_path: Path) -> None:
    count = 2 * MOST_SHOOTS + 5
    with Database(tmp_path / "data" / DATABASE).transaction() as connection:
        for number in range(count):
            (tmp_path / f"Job {number}").mkdir()
            shoots.open_folder(connection, tmp_path / f"Job {number}", f"2026-10-17T16:00:00.{number:03}Z")
    with running(tmp_path / "data", root=tmp_path) as server, visit(driver, server) as page:
        page.go("/")
        page.see("article")
        assert len(page.find("article")) == MOST_SHOOTS
        bottom = "const main = document.querySelector('main'); main.scrollTop = main.scrollHeight"
        until(lambda: [page.run(bottom), len(page.find("article")) == count][1])
        titles = page.run("return [...document.querySelectorAll('article b')].map(b => b.textContent)")
        assert titles == [f"Job {number}" for number in reversed(range(count))]
        assert not [b for b in page.find("main button") if "Further" in b.text]
        page.driver.find_element(By.XPATH, "//article[.//b='Job 3']//button[.='take off the list']").click()
        until(lambda: len(page.find("article")) == count - 1)
