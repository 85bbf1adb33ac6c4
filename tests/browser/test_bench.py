"""The bench as it is used: a group side by side, two frames, zoom that follows, faces, groups by hand, touch."""

from __future__ import annotations

import time
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests import photographs
from tests.browser.conftest import Page
from tests.browser.stage import SHIFTS, active, cells, decisions, drag, names, touch
from tests.server import until
from winnow.bench.browser import set_size


def test_frames_leave_the_stage_and_the_rest_grow(bench: Page) -> None:
    before = cells(bench)[0]["width"]
    bench.press(Keys.ARROW_RIGHT, "l")
    until(lambda: names(bench) == "134")
    until(lambda: cells(bench)[0]["width"] >= before)
    assert active(bench) == "3" and decisions(bench) == "......."
    bench.press("c")
    until(lambda: names(bench) == "14")
    until(lambda: decisions(bench) == "..R....")
    until(lambda: cells(bench)[0]["width"] > before)
    bench.until_text("[data-testid=stage-line]", "2 set aside")
    bench.press(Keys.BACKSPACE, Keys.BACKSPACE)
    until(lambda: names(bench) == "1234")
    assert active(bench) == "2" and decisions(bench) == "..R....", "putting back is no mark"


def test_losers_vanish_while_only_the_rest_is_wanted(bench: Page) -> None:
    bench.press("/", "d")
    until(lambda: "1" not in names(bench) or active(bench) == "1")
    bench.press(Keys.ARROW_RIGHT, "d", Keys.ARROW_RIGHT)
    until(lambda: names(bench) == "34")
    bench.press("/")
    until(lambda: names(bench) == "1234")


def test_two_frames_one_holds_its_place(bench: Page) -> None:
    lead = next(f["name"] for f in bench.server.frames(1) if f["lead"])[-5]
    others = [n for n in "1234" if n != lead]
    while active(bench) != others[0]:
        bench.press(Keys.ARROW_RIGHT)
    bench.press("i")
    until(lambda: names(bench) == lead + others[0])
    bench.press(Keys.ARROW_RIGHT)
    until(lambda: names(bench) == lead + others[1])
    bench.press("=")
    until(lambda: names(bench)[0] == others[1])
    bench.press("y")
    until(lambda: names(bench)[1] == others[1])
    bench.press("a")
    until(lambda: decisions(bench).count("P") == 1)
    # in the same spot, one in front of the other
    bench.press("i", "f")
    until(lambda: len(cells(bench)) == 1)
    first = cells(bench)[0]
    bench.press("f")
    until(lambda: names(bench) != first["name"])
    assert [cells(bench)[0][k] for k in ("left", "top", "width")] == [
        first[k] for k in ("left", "top", "width")
    ]
    bench.press("f")
    until(lambda: names(bench) == first["name"])
    bench.press("g")
    until(lambda: names(bench) == "1234")


# Source of the expected places: the frames were made by moving one photograph by SHIFTS.
def test_the_zoom_follows_the_subject(bench: Page) -> None:
    bench.press(" ")
    until(lambda: all(cell["followed"] for cell in cells(bench) if not cell["active"]))
    first = cells(bench)[0]["at"]
    for cell, shift in zip(cells(bench), SHIFTS, strict=True):
        assert cell["at"] == pytest.approx([first[0] + shift - SHIFTS[0], first[1]], abs=5.1)  # 1 % of 512 px
    bench.press(";")
    until(lambda: not any(cell["followed"] for cell in cells(bench)))
    assert {tuple(cell["at"]) for cell in cells(bench)} == {tuple(first)}
    bench.press(";")
    until(lambda: all(cell["quality"] == "full" and cell["zoomed"] for cell in cells(bench)))
    # the zoom stays from group to group, and goes with the same key
    bench.press(Keys.ARROW_DOWN)
    until(lambda: names(bench) == "56" and all(cell["zoomed"] for cell in cells(bench)))
    bench.press("j")
    bench.until_text("[data-testid=stage]", "200 %")
    bench.press("j")
    until(lambda: not any(cell["zoomed"] for cell in cells(bench)))


def test_zoomed_pictures_share_the_whole_stage(bench: Page) -> None:
    stage = bench.see("[data-testid=stage]").rect
    whole = sum(cell["width"] * cell["height"] for cell in cells(bench))
    bench.press("j")
    until(lambda: all(cell["zoomed"] for cell in cells(bench)))
    # All but the gaps and the strips under the pictures, whatever the shape of the pictures.
    until(
        lambda: sum(c["width"] * c["height"] for c in cells(bench)) > 0.85 * stage["width"] * stage["height"]
    )
    assert len({round(cell["width"]) for cell in cells(bench)}) == 1
    bench.press("j")
    until(lambda: sum(c["width"] * c["height"] for c in cells(bench)) == pytest.approx(whole, rel=0.01))


def test_all_are_moved_together_or_one_alone(bench: Page) -> None:
    bench.press("j")
    until(lambda: all(cell["followed"] for cell in cells(bench) if not cell["active"]))
    start = [cell["at"][0] for cell in cells(bench)]
    drag(bench, 0, 40)
    moved = [cell["at"][0] - x for cell, x in zip(cells(bench), start, strict=True)]
    assert moved == pytest.approx([-20] * 4, abs=2)
    drag(bench, 2, -40, Keys.ALT)
    moved = [cell["at"][0] - x for cell, x in zip(cells(bench), start, strict=True)]
    assert moved == pytest.approx([-20, -20, 0, -20], abs=2)
    bench.press("'")
    until(lambda: [cell["at"][0] for cell in cells(bench)] == start)


def test_the_wheel_zooms_all(bench: Page) -> None:
    cell = bench.find("[data-testid=stage] [role=img][data-frame]")[1]
    bench.run(
        """arguments[0].dispatchEvent(new WheelEvent('wheel', {deltaY: -900, clientX: 400, clientY: 200,
        cancelable: true, bubbles: true}))""",
        cell,
    )
    until(lambda: all(cell["zoomed"] for cell in cells(bench)))


def test_faces_side_by_side(bench: Page) -> None:
    until(lambda: len(bench.find("[data-testid=face-table] td button")) == 4)
    button = "document.querySelectorAll('[data-testid=face-table] td button')[2]"
    assert "Person 1 in POS_0003, eyes open" in bench.run(f"return {button}.ariaLabel")
    bench.run(f"{button}.click()")
    until(lambda: active(bench) == "3" and cells(bench)[2]["zoomed"])
    face = bench.server.get("/api/frames/3/evidence")["faces"][0]["box"]
    assert cells(bench)[2]["at"] == pytest.approx([(face[0] + face[2]) / 2, (face[1] + face[3]) / 2], abs=2)
    bench.press(" ")
    bench.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    until(lambda: cells(bench)[2]["zoomed"])
    # without faces: the place that is sharp
    bench.press(" ", Keys.ARROW_DOWN)
    bench.until_text("[data-testid=face-table]", "Places")


def test_overlays_and_loupe(bench: Page) -> None:
    read = "return document.querySelector('[data-active=true] canvas').toDataURL()"
    until(lambda: cells(bench)[0]["quality"] == "fit")
    plain = bench.run(read)
    for toggle in (
        lambda: bench.press("k"),
        lambda: bench.chord(Keys.SHIFT, "f"),
        lambda: bench.press("-"),
    ):
        toggle()
        until(lambda: bench.run(read) != plain)
        toggle()
        until(lambda: bench.run(read) == plain)
    cell = bench.find("[role=img][data-active=true]")[0]
    ActionChains(bench.driver).move_to_element(cell).key_down("b").perform()
    until(lambda: len(bench.find("[data-testid=loupe]")) == 4)
    ActionChains(bench.driver).key_up("b").perform()
    until(lambda: not bench.find("[data-testid=loupe]"))


CONTRAST = """
const canvas = document.querySelector('[data-active=true] canvas');
const data = canvas.getContext('2d').getImageData(canvas.width / 2 - 50, canvas.height / 2, 100, 1).data;
const grey = [...data].filter((_, at) => at % 4 === 0);
return Math.max(...grey) - Math.min(...grey);
"""


def test_a_large_display_shows_more_than_a_preview_holds(page: Page, tmp_path: Path) -> None:
    """Stripes as wide as two pixels: a preview of 2,560 px holds less of them than a stage of 3,000."""
    stripes = np.tile(np.array([40, 40, 215, 215], np.uint8), (2600, 1000))
    (tmp_path / "shoots" / "Stripes").mkdir(parents=True)
    Image.fromarray(stripes).save(
        tmp_path / "shoots" / "Stripes" / "a.jpg", quality=95, exif=photographs.exif()
    )
    try:
        dense(page, 3.5)
        page.open(tmp_path / "shoots" / "Stripes", "bench")
        page.see("[role=img][data-quality=fit]")
        until(lambda: page.run(CONTRAST) > 165)  # of 175; blown up from a preview 143
    finally:
        set_size(page.driver, 1280, 800)


def dense(page: Page, ratio: float) -> None:
    """A display with so many pixels to a CSS px."""
    size = {"width": 1280, "height": 800, "mobile": False}
    page.driver.execute_cdp_cmd("Emulation.setDeviceMetricsOverride", {**size, "deviceScaleFactor": ratio})


def test_another_display_has_other_pixels(bench: Page) -> None:
    """The window is moved to a display of twice the density, and keeps its size in CSS px (CSS Values 4, 5.2)."""
    pixels = """const canvas = document.querySelector('[data-active=true] canvas');
    return canvas.width / canvas.getBoundingClientRect().width"""
    try:
        for ratio in (2, 1):
            dense(bench, ratio)
            bench.run("window.dispatchEvent(new Event('resize'))")  # an emulated display tells nobody
            until(lambda ratio=ratio: abs(bench.run(pixels) - ratio) < 0.01)
    finally:
        set_size(bench.driver, 1280, 800)


def test_groups_by_hand(own_bench: Page) -> None:
    def groups() -> list[str]:
        found: list[str] = own_bench.run(
            """return [...document.querySelectorAll('nav[aria-label^=Scenes] button[aria-label^=Group]')]
            .map(row => row.ariaLabel.split(' ')[2])"""
        )
        return found

    until(lambda: groups() == ["4", "2", "1"])
    own_bench.press(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT)
    own_bench.chord(Keys.SHIFT, "S")
    until(lambda: groups() == ["2", "2", "2", "1"])
    until(lambda: names(own_bench) == "34")
    own_bench.chord(Keys.SHIFT, Keys.ARROW_UP)
    until(lambda: groups() == ["3", "1", "2", "1"])
    own_bench.press("z")
    until(lambda: groups() == ["2", "2", "2", "1"])
    own_bench.until_text("[data-testid=last-action]", "undone: frame moved")
    own_bench.press(Keys.ARROW_UP)
    until(lambda: names(own_bench) == "12")
    own_bench.chord(Keys.SHIFT, "J")
    until(lambda: groups() == ["4", "2", "1"])
    own_bench.press("z", "z")
    until(lambda: groups() == ["4", "2", "1"])


def test_the_lead_is_kept_and_taken_back(bench: Page) -> None:
    bench.press("7")
    until(lambda: decisions(bench).count("P") == 1 and decisions(bench).count("R") == 3)
    bench.press("z")
    until(lambda: decisions(bench) == ".......")
    bench.press("6")
    until(lambda: decisions(bench).count("P") == 1 and "R" not in decisions(bench))


def test_marks_with_the_mouse(bench: Page) -> None:
    bench.run("document.querySelector(\"button[aria-label^='Reject'][aria-label*=POS_0003]\").click()")
    bench.run("document.querySelector(\"button[aria-label^='Keep'][aria-label*=POS_0002]\").click()")
    until(lambda: decisions(bench) == ".PR....")
    bench.run("document.querySelector(\"button[aria-label^='4 stars'][aria-label*=POS_0001]\").click()")
    until(lambda: bench.server.frames(1)[0]["rating"] == 4)
    cell = bench.find("[data-testid=stage] [role=img][data-frame]")[3]
    ActionChains(bench.driver).context_click(cell).perform()
    bench.until_text("[role=menu]", "Begin a new group here")
    bench.find("[role=menuitem]")[2].click()
    until(lambda: decisions(bench) == ".PRR...")


def test_fingers(bench: Page) -> None:
    """Real touch events, as the browser gets them from a screen."""

    def swipe(number: int, dx: float, dy: float) -> None:
        cell = cells(bench)[number]
        x, y = cell["left"] + cell["width"] / 2, cell["top"] + 100
        touch(bench, [(x, y)], [(x + dx / 2, y + dy / 2)], [(x + dx, y + dy)])

    bench.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
    swipe(1, 0, -80)
    until(lambda: decisions(bench) == ".P.....")
    swipe(2, 0, 80)
    until(lambda: decisions(bench) == ".PR....")
    before = active(bench)
    swipe(0, -80, 0)
    until(lambda: active(bench) != before)
    cell = cells(bench)[0]
    x, y = cell["left"] + cell["width"] / 2, cell["top"] + 100
    touch(bench, [(x - 20, y), (x + 20, y)], [(x - 50, y), (x + 50, y)], [(x - 90, y), (x + 90, y)])
    until(lambda: all(c["zoomed"] for c in cells(bench)))
    bench.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})


def test_a_second_window_follows(bench: Page) -> None:
    first = bench.driver.current_window_handle
    bench.driver.switch_to.new_window("tab")
    bench.go("/shoots/1/large")
    until(lambda: names(bench) == "1")
    second = bench.driver.current_window_handle
    bench.driver.switch_to.window(first)
    bench.press(Keys.ARROW_RIGHT, " ")
    until(lambda: active(bench) == "2" and cells(bench)[1]["zoomed"])
    at = cells(bench)[1]["at"]
    bench.driver.switch_to.window(second)
    until(lambda: names(bench) == "2" and cells(bench)[0]["zoomed"] and cells(bench)[0]["at"] == at)
    bench.driver.close()
    bench.driver.switch_to.window(first)


def test_only_pictures(bench: Page) -> None:
    bench.press(".")
    until(lambda: not bench.find("header, footer, nav, aside, [data-strip], [data-testid=stage-line]"))
    assert len(cells(bench)) == 4
    bench.press("a", ".")
    until(lambda: len(bench.find("[data-strip]")) == 4 and decisions(bench) == "P......")


def test_a_shoot_opens_where_it_was_left(bench: Page) -> None:
    bench.press(Keys.ARROW_DOWN, Keys.ARROW_RIGHT)
    until(lambda: names(bench) == "56" and active(bench) == "6")
    bench.go("/")
    bench.go("/shoots/1/bench")
    until(lambda: names(bench) == "56" and active(bench) == "6")


def test_undo_goes_to_what_it_changed_unless_one_has_gone_on(bench: Page) -> None:
    bench.press("d", Keys.ARROW_RIGHT)
    until(lambda: decisions(bench).startswith("R") and active(bench) != "1")
    bench.press("z")
    until(lambda: active(bench) == "1" and decisions(bench) == ".......")
    bench.press("d", Keys.ARROW_RIGHT)
    until(lambda: decisions(bench).startswith("R"))
    before = active(bench)
    bench.driver.set_network_conditions(latency=800, throughput=10_000_000)
    try:
        bench.press("z", Keys.ARROW_RIGHT)
        until(lambda: decisions(bench) == ".......")
        time.sleep(2)
    finally:
        bench.driver.delete_network_conditions()
    assert active(bench) not in ("1", before)


def test_full_screen(bench: Page) -> None:
    bench.press("\\")
    until(lambda: bench.run("return document.fullscreenElement !== null"))
    bench.press("\\")
    until(lambda: bench.run("return document.fullscreenElement === null"))
    # A browser that has no such thing, as that of a telephone, says so.
    bench.run("Element.prototype.requestFullscreen = undefined")
    bench.press("\\")
    bench.until_text("[role=alert]", "does not let Winnow fill the screen")


# `DownloadURL` (type:name:address) is what Chromium hands to the desktop as a file; common practice, no source.
def test_a_name_is_dragged_out_as_its_file(own_bench: Page, tmp_path: Path) -> None:
    found = own_bench.run(
        """const name = [...document.querySelectorAll('[data-strip] button')].find(b => b.draggable);
        const data = new DataTransfer();
        name.dispatchEvent(new DragEvent('dragstart', {bubbles: true, dataTransfer: data}));
        return [data.getData('DownloadURL'), data.getData('text/plain')];"""
    )
    kind, name, address = found[0].split(":", 2)
    assert (kind, name, found[1]) == ("application/octet-stream", "POS_0001.JPG", "POS_0001.JPG")
    assert address.startswith(own_bench.server.address)
    _, headers, content = own_bench.server.request("GET", address.removeprefix(own_bench.server.address))
    assert content == (tmp_path / "poses" / "POS_0001.JPG").read_bytes()
    assert "POS_0001.JPG" in headers["content-disposition"]


def test_a_selection_of_any_groups_on_the_stage(bench: Page) -> None:
    bench.press("v")
    bench.see("[data-frame] img")
    bench.press(Keys.HOME)
    for _ in range(4):
        bench.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    bench.until_text("[data-testid=scope]", "5 selected frames")
    bench.chord(Keys.SHIFT, "B")
    until(lambda: names(bench) == "12345")
    bench.until_text("[data-testid=scope]", "frame POS")
    bench.press("g")
    until(lambda: len(cells(bench)) in (2, 4))


def test_a_walk_by_keys_ends_with_marks_on_disk(own_bench: Page, tmp_path: Path) -> None:
    """Groups one after another: the lead, a keeper, a reject; then the marks go into sidecars."""
    own_bench.press("7", Keys.ARROW_DOWN, "a", Keys.ARROW_RIGHT, "d", Keys.ARROW_DOWN, "3")
    until(lambda: decisions(own_bench)[4:] == "PR." and decisions(own_bench)[:4].count("R") == 3)
    own_bench.press("m")
    own_bench.way("Sidecars")
    own_bench.click("Plan the sidecars")
    own_bench.see("[data-testid=plan]")
    own_bench.driver.find_element("xpath", "//button[starts-with(normalize-space(), 'Write ')]").click()
    until(lambda: own_bench.find("[data-testid=past-plan][data-state=applied]"))
    rocket = (tmp_path / "poses" / "POS_0007.xmp").read_text()
    assert "3" in rocket and "Rating" in rocket
    assert (tmp_path / "poses" / "POS_0005.xmp").exists()
