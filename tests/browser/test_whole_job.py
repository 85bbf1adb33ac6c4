"""The whole job in headless Chromium, on real photographs (scikit-image, scikit-learn)."""

from __future__ import annotations

import hashlib
import json
import subprocess
from pathlib import Path

import cv2
import numpy as np
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.server import until


def digests(folder: Path, pattern: str = "*.JPG") -> dict[str, str]:
    return {p.name: hashlib.sha256(p.read_bytes()).hexdigest() for p in folder.rglob(pattern)}


def open_by_browsing(page: Page) -> None:
    """The folder `Six`, in the folder chooser."""
    page.go("/")
    page.click("Open a folder …")
    page.see("[role=dialog] li button").click()
    page.click("shoots")
    page.click("Six")
    page.click("Open")


def test_from_a_folder_of_photographs_to_a_folder_of_keepers(
    lone_page: Page, measured_folder: Path, tmp_path: Path
) -> None:
    page = lone_page
    before = digests(measured_folder)
    # open, by the folder chooser
    open_by_browsing(page)
    until(lambda: len(page.find("[data-frame] img")) == 6)
    until(lambda: len(page.find("nav button[aria-label^='Group of 3']")) == 2)
    # look, mark by keys alone
    page.press(Keys.ENTER)
    page.until_text("[data-testid=scope]", "WIN_0001")
    page.press("a", "4", Keys.ARROW_RIGHT, "d", Keys.ARROW_RIGHT, "a", Keys.ARROW_DOWN, "d")
    page.until_text("[data-testid=strip]", "rejected")
    assert "WIN_0004" in page.text("[data-testid=scope]")
    page.press("z")
    page.until_text("[data-testid=strip]", "undecided")
    page.chord(Keys.SHIFT, "z")
    page.until_text("[data-testid=strip]", "rejected")
    # filter to the keepers; the hidden count is in sight; one key shows all
    page.chord(Keys.ALT, "a")
    page.until_text("[data-testid=shown]", "2 of 6")
    page.until_text("header", "4 hidden")
    page.until_text("[data-testid=stage-line]", "of 2")
    page.press("h")
    page.until_text("[data-testid=shown]", "6 of 6")
    # reject
    page.press("m")
    page.way("Rejects")
    until(lambda: len(page.find("[aria-label=Rejects] img")) == 2)
    page.click("Plan to hold them back")
    page.until_text("[data-testid=plan]", "2 frames, 2 files")
    page.click("Move 2 files")
    until(lambda: page.find("[data-testid=past-plan][data-state=applied]"))
    holding = measured_folder.with_name("Six (held back)")
    assert set(digests(holding)) == {"WIN_0002.JPG", "WIN_0004.JPG"}
    assert len(digests(measured_folder)) == 4
    # bring back
    page.way("Holding folder")
    page.click("Bring back 2")
    page.until_text("[data-testid=plan]", "2 frames")
    page.click("Move 2 files")
    until(lambda: len(page.find("[data-testid=past-plan][data-state=applied]")) == 2)
    assert digests(measured_folder) == before
    # hand on
    page.way("A folder")
    page.click("Choose a folder …")
    field = page.see("[role=dialog] input")
    field.send_keys(str(tmp_path / "shoots" / "keepers"))
    page.click("Choose")
    page.until_text("[data-testid=target]", "keepers")
    page.click("Plan a copy")
    page.until_text("[data-testid=plan]", "2 frames, 4 files")
    assert not (tmp_path / "shoots" / "keepers").exists()
    page.click("Copy 4 files")
    until(lambda: len(page.find("[data-testid=past-plan][data-state=applied]")) == 3)
    # the files on disk, read by another program
    kept = digests(tmp_path / "shoots" / "keepers")
    assert kept == {name: before[name] for name in ("WIN_0001.JPG", "WIN_0003.JPG")}
    sidecar = tmp_path / "shoots" / "keepers" / "WIN_0001.xmp"
    seen = json.loads(subprocess.run(["exiftool", "-j", sidecar], capture_output=True).stdout)[0]
    assert seen["Rating"] == 4


def test_a_folder_is_taken_by_its_very_name_and_as_file_managers_copy_it(
    lone_page: Page, shoot_folder: Path
) -> None:
    page = lone_page
    shoot_folder = shoot_folder.rename(shoot_folder.with_name("Six  "))
    open_by_browsing(page)
    page.until_text("[data-testid=shown]", "6 of 6")
    page.go("/")
    page.click("Open a folder …")
    page.see("[role=dialog] input").send_keys(shoot_folder.as_uri())
    page.click("Open")
    page.until_text("[data-testid=shown]", "6 of 6")
    assert [one["id"] for one in page.server.get("/api/shoots")["shoots"]] == [1]


def test_marks_survive_a_reload_and_go_on_by_itself(page: Page, shoot_folder: Path) -> None:
    page.open(shoot_folder, "bench")
    page.press("n", "a", "d", "s", "3")
    page.until_text("[data-testid=scope]", "WIN_0005")
    page.driver.refresh()
    page.until_text("[data-testid=scope]", "WIN_0005")
    page.press(*[Keys.ARROW_LEFT] * 4)
    page.until_text("[data-testid=scope]", "WIN_0001")
    page.until_text("[data-testid=strip]", "kept")
    expected = [("keep", 0), ("reject", 0), ("undecided", 0), ("undecided", 3), ("undecided", 0)]
    until(lambda: [(f["decision"], f["rating"]) for f in page.server.frames(page.shoot)[:5]] == expected)


def test_a_slow_reload_comes_back_to_the_frame(page: Page, shoot_folder: Path) -> None:
    """The address is written anew while the page is being fetched: it is not what the reload asked for."""
    page.open(shoot_folder, "bench")
    network = {"offline": False, "downloadThroughput": -1, "uploadThroughput": -1}
    page.driver.execute_cdp_cmd("Network.enable", {})
    page.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {**network, "latency": 400})
    page.press("n", "a", "d")
    page.until_text("[data-testid=scope]", "WIN_0003")
    page.driver.refresh()
    page.driver.execute_cdp_cmd("Network.emulateNetworkConditions", {**network, "latency": 0})
    page.until_text("[data-testid=scope]", "WIN_0003")


def test_rejects_disappear_as_one_goes_on(page: Page, shoot_folder: Path) -> None:
    """Opting out: with the filter on what is not rejected, a reject leaves when one goes on, by hand or by itself."""
    page.open(shoot_folder, "bench")
    page.chord(Keys.ALT, "s")
    page.until_text("[data-testid=shown]", "6 of 6")
    page.press("d", Keys.ARROW_RIGHT)
    page.until_text("[data-testid=scope]", "WIN_0002")
    page.until_text("[data-testid=shown]", "5 of 6")
    page.press("n", "d")
    page.until_text("[data-testid=scope]", "WIN_0003")
    page.until_text("[data-testid=shown]", "4 of 6")
    page.press("z")
    page.until_text("[data-testid=scope]", "WIN_0002")
    page.until_text("[data-testid=shown]", "5 of 6")


def test_selection_on_the_wall_and_its_scope(page: Page, measured_folder: Path) -> None:
    page.open(measured_folder)
    cells = page.find("[data-frame]")
    cells[1].click()
    page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    page.until_text("[data-testid=scope]", "3 selected frames")
    page.press("d")
    page.until_text("[data-testid=last-action]", "3 frames: rejected")
    page.press("z")
    page.until_text("[data-testid=last-action]", "undone: 3 frames: rejected")
    page.press(Keys.ESCAPE)
    page.until_text("[data-testid=scope]", "frame WIN")
    page.chord(Keys.CONTROL, "a")
    page.until_text("[data-testid=scope]", "6 selected frames")
    page.press(Keys.ESCAPE, "g")
    page.until_text("[data-testid=scope]", "3 selected frames")
    # a mark on the bench acts on the one frame that is there
    page.press(Keys.ENTER)
    page.until_text("[data-testid=scope]", "frame WIN")


def difference(page: Page, where: str, photograph: Path) -> int:
    """How far the middle of an element, as it is on the screen, is from what is most like it in a photograph, as
    OpenCV decodes it: 0 to 255."""
    shot = cv2.imdecode(np.frombuffer(page.driver.get_screenshot_as_png(), np.uint8), cv2.IMREAD_COLOR)
    left, top = page.run(
        "const at = document.querySelector(arguments[0]).getBoundingClientRect();"
        "return [Math.round(at.x + at.width / 2), Math.round(at.y + at.height / 2)]",
        where,
    )
    seen = shot[top - 40 : top + 40, left - 40 : left + 40]
    whole = cv2.imread(str(photograph))
    _, _, (x, y), _ = cv2.minMaxLoc(cv2.matchTemplate(whole, seen, cv2.TM_SQDIFF))
    return int(np.abs(whole[y : y + 80, x : x + 80].astype(int) - seen).max())


def test_zoom_shows_true_pixels_and_stays(page: Page, measured_folder: Path) -> None:
    page.open(measured_folder, "bench")
    page.press("o")
    until(lambda: page.find("[role=img][data-quality=fit]"))
    page.press(" ")
    until(lambda: page.find("[role=img][data-zoomed=true][data-quality=full]"))
    # the middle of the stage against the middle of the photograph, decoded by the browser itself
    same = page.driver.execute_async_script(
        """
        const done = arguments[0];
        const cell = document.querySelector('[role=img][data-frame]');
        const canvas = cell.querySelector('canvas');
        const frame = cell.dataset.frame;
        fetch(`/api/shoots/${location.pathname.split('/')[2]}/frames`).then(r => r.json()).then(async ({frames}) => {
          const f = frames.find(f => f.id == frame);
          const blob = await (await fetch(`/api/pictures/${f.id}/${f.version}/full`)).blob();
          const bitmap = await createImageBitmap(blob);
          const other = new OffscreenCanvas(20, 20).getContext('2d');
          other.drawImage(bitmap, -Math.floor(bitmap.width / 2), -Math.floor(bitmap.height / 2));
          const left = Math.round((cell.clientWidth - bitmap.width) / 2);
          const top = Math.round((cell.clientHeight - bitmap.height) / 2);
          const mine = canvas.getContext('2d').getImageData(
            left + Math.floor(bitmap.width / 2), top + Math.floor(bitmap.height / 2), 20, 20).data;
          const theirs = other.getImageData(0, 0, 20, 20).data;
          let worst = 0;
          for (let i = 0; i < mine.length; i++) worst = Math.max(worst, Math.abs(mine[i] - theirs[i]));
          done(worst);
        });
        """
    )
    assert same <= 2
    (photograph,) = measured_folder.rglob("WIN_0001.JPG")
    assert difference(page, "[role=img][data-frame]", photograph) <= 2
    page.press(" ")
    until(lambda: page.find("[role=img][data-zoomed=false]"))
    cell = page.find("[role=img][data-frame]")[0]
    ActionChains(page.driver).move_to_element_with_offset(cell, 13, 7).key_down("b").perform()
    until(
        lambda: page.find("[data-testid=loupe]") and difference(page, "[data-testid=loupe]", photograph) <= 2
    )
    ActionChains(page.driver).key_up("b").perform()
    page.press(" ", Keys.ARROW_RIGHT)
    until(lambda: page.find("[role=img][data-zoomed=true][data-quality=full]"))
    page.press(" ")
    until(lambda: page.find("[role=img][data-zoomed=false]"))
    names = page.run("return performance.getEntriesByType('measure').map(m => m.name)")
    assert {"winnow:show-frame", "winnow:zoom-preview", "winnow:zoom-pixels"} <= set(names)


def test_panels_leave_and_keys_are_listed(page: Page, shoot_folder: Path) -> None:
    page.open(shoot_folder, "bench")
    page.press(".")
    until(lambda: not page.find("header"))
    assert not page.find("footer")
    assert not page.find("nav")
    page.press("a", ".")
    page.until_text("[data-testid=strip]", "kept")
    page.press("?")
    page.until_text("[role=dialog]", "Keep the lead, leave the rest")
    page.press("d")  # no mark behind a dialog
    page.press(Keys.ESCAPE)
    until(lambda: not page.find("[role=dialog]"))
    assert "kept" in page.text("[data-testid=strip]")


def test_files_that_cannot_be_read_say_why(page: Page, shoot_folder: Path) -> None:
    (shoot_folder / "100WINNO" / "WIN_0000.JPG").write_text("Dear diary")
    page.open(shoot_folder)
    page.until_text("main", "holds text, not a picture")
    page.until_text("header", "file notes 1")
    page.click("file notes 1")
    page.until_text("[data-testid=shown]", "1 of 7")
    page.press(Keys.ENTER)
    page.until_text("main [role=alert]", "holds text")


def test_an_empty_folder_and_a_lost_server(page: Page, tmp_path: Path) -> None:
    (tmp_path / "empty").mkdir()
    shoot = page.server.open(tmp_path / "empty")
    page.go(f"/shoots/{shoot}")
    page.until_text("main", "no pictures in this folder")


def test_no_serious_accessibility_problem(page: Page, measured_folder: Path) -> None:
    """Every main screen, in every surround."""
    shoot = page.open(measured_folder)
    page.press("a", Keys.ARROW_RIGHT, "d", Keys.ARROW_RIGHT, "3")
    problems: dict[str, list[str]] = {}

    def look(screen: str) -> None:
        problems[screen] = page.serious_problems()
        for surround in ("mid", "light", "dark"):
            page.run("document.documentElement.dataset.surround = arguments[0]", surround)
            problems[f"{screen}, {surround}"] = page.serious_problems("color-contrast")

    for surround in ("mid", "light", "dark"):
        page.chord(Keys.SHIFT, "l")
        assert page.run("return document.documentElement.dataset.surround") == surround
    look("wall")
    for screen in ("handoff", "large", "bench"):
        page.go(f"/shoots/{shoot}/{screen}")
        page.see("main button" if screen == "handoff" else "canvas")
        look(screen)
    page.press(" ", ",")
    page.see("[role=img][data-zoomed=true]")
    look("bench, zoomed")
    page.press("?")
    page.see("[role=dialog]")
    look("keys")
    page.go("/")
    page.see("article")
    look("shoots")
    page.click("Open a folder …")
    page.see("[role=dialog] li")
    look("chooser")
    assert {screen: found for screen, found in problems.items() if found} == {}
