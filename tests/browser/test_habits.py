"""What a person expects without being told: the address and Back, empty screens, focus, fingers, keyboards of
other countries, small windows, colours."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from PIL import Image
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import active, cells, decisions, names, touch
from tests.photographs import save
from tests.server import until
from winnow.bench.browser import set_size
from winnow.formats.icc import ADOBE_RGB, DISPLAY_P3
from winnow.formats.images import decode


def address(page: Page) -> str:
    return page.driver.current_url.removeprefix(page.server.address)


def entries(page: Page) -> int:
    found: int = page.run("return history.length")
    return found


def test_the_address_says_where_one_is(bench: Page) -> None:
    bench.press(Keys.ARROW_DOWN, Keys.ARROW_RIGHT, "o")
    until(lambda: address(bench) == "/shoots/1/bench?frame=6&layout=one")
    bench.chord(Keys.ALT, "s")
    until(lambda: "show=undecided" in address(bench))
    bench.press(Keys.ARROW_RIGHT, "a")
    until(lambda: decisions(bench) == "......P")
    until(lambda: "frame=7" in address(bench))
    where = address(bench)
    bench.driver.refresh()
    until(lambda: names(bench) in ("6", "7"))
    assert bench.find("[aria-pressed=true]")[0].text.startswith("undecided")
    assert bench.driver.title.endswith(" · Bench · Winnow")
    first = bench.driver.current_window_handle
    bench.driver.switch_to.new_window("tab")
    bench.go(where)
    bench.until_text("[data-testid=shown]", "6 of 7")
    assert len(cells(bench)) == 1, "one frame, as the address says"
    bench.driver.close()
    bench.driver.switch_to.window(first)


def test_back_and_forward(bench: Page) -> None:
    bench.go("/")
    bench.see("article a").click()
    bench.see("[data-frame] img")
    bench.press(Keys.ARROW_RIGHT, Keys.ENTER)
    until(lambda: len(cells(bench)) == 4)
    before = entries(bench)
    for _ in range(4):
        bench.press(Keys.ENTER)
        until(lambda: address(bench).startswith("/shoots/1/wall"))
        bench.see("section[aria-label^=Frames]")
        bench.press(Keys.ENTER)
        until(lambda: len(cells(bench)) == 4)
    assert entries(bench) == before, "to and fro does not fill the history"
    bench.press(Keys.ARROW_RIGHT)
    bench.chord(Keys.ALT, "d")
    bench.until_text("[data-testid=shown]", "0 of 7")
    bench.driver.back()
    bench.until_text("[data-testid=shown]", "7 of 7")
    until(lambda: active(bench) == "3")
    bench.driver.back()
    bench.see("section[aria-label^=Frames]")
    bench.until_text("[data-testid=scope]", "POS_0003")
    bench.driver.forward()
    until(lambda: len(cells(bench)) == 4)
    bench.driver.back()
    bench.driver.back()
    bench.see("article")
    assert bench.driver.title == "Shoots · Winnow"


def test_an_address_that_says_nonsense(bench: Page) -> None:
    bench.go("/shoots/1/bench?frame=99999&show=keepers%2C+perhaps&layout=round")
    bench.until_text("[role=alert]", "in the address: 'perhaps' is nothing that can be asked for")
    bench.until_text("[data-testid=shown]", "7 of 7")
    until(lambda: len(cells(bench)) in (1, 2, 4))


def test_loading_empty_and_unknown_are_three_screens(bench: Page, tmp_path: Path) -> None:
    watch = """window.said = new Set();
    new MutationObserver(() => window.said.add(document.querySelector('main')?.innerText ?? ''))
      .observe(document, {childList: true, subtree: true});"""
    made = bench.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": watch})
    slow = {"offline": False, "latency": 250, "downloadThroughput": -1, "uploadThroughput": -1}
    bench.driver.execute_cdp_cmd("Network.enable", {})
    try:
        bench.driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow)
        for screen in ("wall", "bench"):
            bench.go(f"/shoots/1/{screen}")
            bench.until_text("[data-testid=shown]", "7 of 7")
            said = bench.run("return [...window.said].join(' ')")
            assert "Opening the shoot" in said and "no pictures" not in said
    finally:
        bench.driver.execute_cdp_cmd("Network.emulateNetworkConditions", slow | {"latency": 0})
        bench.driver.execute_cdp_cmd("Network.disable", {})
        bench.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", made)
    for unknown in ("999", "abc"):
        bench.go(f"/shoots/{unknown}/wall")
        bench.until_text("main [role=alert]", "There is no such shoot here")
    bench.errors()  # the refused requests


def test_the_active_frame_has_the_keyboard_and_is_announced(bench: Page) -> None:
    def focused() -> str:
        found: str = bench.run("return document.activeElement.ariaLabel ?? document.activeElement.tagName")
        return found

    until(lambda: "POS_0001" in focused())
    bench.press(Keys.ARROW_RIGHT, "3")
    until(lambda: focused().startswith("POS_0002.JPG, undecided, 3 stars"))
    bench.until_text("output[data-testid=last-action]", "frame POS_0002: 3 stars")
    bench.button("follow").click()
    until(lambda: "POS_0002" in focused())
    bench.press("o")
    until(lambda: len(cells(bench)) == 1)
    # One canvas shows one frame after another: it must be announced anew.
    bench.run("window.heard = 0; document.addEventListener('focusin', () => window.heard++)")
    bench.press(Keys.ARROW_RIGHT)
    until(lambda: "POS_0003" in focused() and bench.run("return window.heard") == 1)
    # Who goes about with Tab comes through the frame's own controls, and sees where.
    bench.press(Keys.TAB)
    until(lambda: focused() == "Keep POS_0003.JPG")
    ring = bench.run("return getComputedStyle(document.activeElement).outline")
    assert "solid" in ring and "rgba(0, 0, 0, 0)" not in ring
    # The next step takes the keyboard back: Enter is the screen's again.
    bench.press("g", Keys.ARROW_LEFT, Keys.ARROW_RIGHT, Keys.ENTER)
    bench.see("section[aria-label^=Frames]")
    until(lambda: "POS_0003" in focused())
    # The list of keys does nothing by Enter that was not chosen in it.
    bench.press("?")
    bench.see("[role=dialog]")
    bench.press(Keys.ENTER, Keys.ESCAPE)
    until(lambda: not bench.find("[role=dialog]"))
    assert decisions(bench) == "......."
    bench.press(Keys.ARROW_RIGHT, " ")
    bench.until_text("[data-testid=scope]", "1 selected frame")
    bench.press(Keys.ARROW_RIGHT, " ")
    bench.until_text("[data-testid=scope]", "2 selected frames")
    bench.click("select nothing")
    until(lambda: "POS_0005" in focused() and "frame POS_0005" in bench.text("[data-testid=scope]"))


def test_fingers_select_on_the_wall_and_read_reasons(bench: Page) -> None:
    def middle(selector: str) -> tuple[float, float]:
        x, y = bench.run(
            """const box = document.querySelector(arguments[0]).getBoundingClientRect();
            return [box.left + box.width / 2, box.top + box.height / 2]""",
            selector,
        )
        return x, y

    bench.press(Keys.ENTER)
    bench.see("section [data-frame]")
    send = bench.driver.execute_cdp_cmd
    send("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
    try:
        x, y = middle("button[data-frame='2']")
        send("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [{"x": x, "y": y}]})
        bench.until_text("[data-testid=scope]", "1 selected frame")
        send("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
        for number in ("4", "6"):
            touch(bench, [middle(f"button[data-frame='{number}']")])
        bench.until_text("[data-testid=scope]", "3 selected frames")
        touch(bench, [middle("button[data-frame='4']")])
        bench.until_text("[data-testid=scope]", "2 selected frames")
        bench.click("A keep")
        until(lambda: decisions(bench) == ".P...P.")
        bench.click("select nothing")
        touch(bench, [middle("button[data-frame='4']")])
        bench.until_text("[data-testid=scope]", "frame POS_0004")
        if bench.find("button[aria-label^='Look at']"):
            touch(bench, [middle("button[aria-label^='Look at']")])
            bench.see("[role=tooltip]")
    finally:
        send("Emulation.setTouchEmulationEnabled", {"enabled": False})


PRESS = """const [key, code, shiftKey] = arguments;
const press = {key, code, shiftKey, bubbles: true, cancelable: true};
for (const kind of ['keydown', 'keyup']) document.activeElement.dispatchEvent(new KeyboardEvent(kind, press));"""


@pytest.mark.parametrize(
    ("layout", "three", "slash", "keep", "undo"),
    [
        ("QWERTZ", ("3", "Digit3", False), ("/", "Digit7", True), ("a", "KeyA", False), ("z", "KeyY", False)),
        ("AZERTY", ('"', "Digit3", False), ("/", "Period", True), ("a", "KeyQ", False), ("z", "KeyW", False)),
    ],
)
def test_keys_do_what_is_printed_on_them(
    bench: Page,
    layout: str,
    three: tuple[str, str, bool],
    slash: tuple[str, str, bool],
    keep: tuple[str, str, bool],
    undo: tuple[str, str, bool],
) -> None:
    """Where `code` and `key` of a press differ (layouts from memory)."""
    bench.run(PRESS, *three)
    bench.run(PRESS, *keep)
    until(lambda: decisions(bench) == "P......")
    assert bench.server.frames(1)[0]["rating"] == 3, layout
    bench.run(PRESS, *slash)
    until(lambda: bench.button("without rejects").get_attribute("aria-pressed") == "true")
    bench.run(PRESS, *undo)
    until(lambda: decisions(bench) == ".......")


HIDDEN = """
const gone = [];
for (const one of document.querySelectorAll('header *, footer *, [data-testid=stage-line] *, main form *')) {
  if (!one.matches('button, a, input, [role=slider], [role=switch], [data-testid=shown]')) continue;
  const box = one.getBoundingClientRect();
  if (!box.width) continue;
  const inside = box.left >= 0 && box.top >= 0 && box.right <= innerWidth + 0.5 && box.bottom <= innerHeight + 0.5;
  const top = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
  if (!inside || !(one.contains(top) || top?.contains(one))) gone.push(one.ariaLabel ?? one.innerText);
}
if (document.documentElement.scrollWidth > innerWidth) gone.push('the page is wider than the window');
return gone;"""


@pytest.mark.parametrize(("width", "height"), [(1280, 800), (1024, 700), (820, 1180)])
def test_nothing_is_out_of_reach(bench: Page, width: int, height: int) -> None:
    set_size(bench.driver, width, height)
    try:
        gone = {}
        bench.press("d")
        bench.chord(Keys.ALT, "s")
        bench.press(Keys.ARROW_RIGHT)
        bench.until_text("[data-testid=shown]", "6 of 7")
        for screen in ("bench", "wall", "handoff"):
            bench.press({"bench": "", "wall": "v", "handoff": "m"}[screen])
            time.sleep(0.3)
            gone[screen] = bench.run(HIDDEN)
        bench.go("/")
        bench.see("article")
        gone["shoots"] = bench.run(HIDDEN)
        assert {screen: found for screen, found in gone.items() if found} == {}
    finally:
        set_size(bench.driver, 1280, 800)


def test_capture_data_over_the_picture(page: Page, tmp_path: Path) -> None:
    more = {"ExposureTime": 1 / 250, "FNumber": 2.8, "ISOSpeedRatings": 400, "FocalLength": 85.0}
    for number in range(2):
        save(tmp_path / "told" / f"TLD_{number:04d}.JPG", 0, number, LensModel="Fine 85", Model="T2", **more)
    page.open(tmp_path / "told", "bench")
    page.press("8")
    for key in ("o", "i", "g", "."):
        page.press(key)
        for part in ("1/250 s", "f/2.8", "ISO 400", "85 mm", "Fine 85", "T2", ":"):
            page.until_text("[data-testid=capture]", part)
    page.press("8")
    until(lambda: not page.find("[data-testid=capture]"))


def test_scrollbars_are_of_the_surround(bench: Page) -> None:
    read = "return getComputedStyle(document.documentElement).colorScheme"
    assert bench.run(read) == "dark"
    bench.chord(Keys.SHIFT, "l")
    bench.chord(Keys.SHIFT, "l")
    until(lambda: bench.run(read) == "light")


SAMPLES = [(0.2, 0.5, 0.4), (0.6, 0.55, 0.3), (0.8, 0.7, 0.75), (0.35, 0.3, 0.5)]


def test_colours_are_those_of_the_browser(page: Page, tmp_path: Path) -> None:
    """Our profiles against Chromium's own Display P3 and Adobe RGB (CSS Color 4: display-p3, a98-rgb)."""
    for profile, css in ((DISPLAY_P3, "display-p3"), (ADOBE_RGB, "a98-rgb")):
        for number, sample in enumerate(SAMPLES):
            path = tmp_path / f"{css}-{number}.png"
            levels = tuple(round(255 * part) for part in sample)
            Image.new("RGB", (40, 30), levels).save(path, icc_profile=profile)
            theirs = page.run(
                """const context = new OffscreenCanvas(1, 1).getContext('2d');
                context.fillStyle = arguments[0];
                context.fillRect(0, 0, 1, 1);
                return [...context.getImageData(0, 0, 1, 1).data].slice(0, 3)""",
                f"color({css} {' '.join(str(level / 255) for level in levels)})",
            )
            assert decode(path).pixels[10, 10].astype(int).tolist() == pytest.approx(theirs, abs=1), (
                css,
                sample,
            )


def test_wide_colours_reach_a_wide_display(page: Page, tmp_path: Path) -> None:
    def red() -> list[int]:
        found: list[int] = page.run(
            """const canvas = document.querySelector('[data-active=true] canvas');
            const context = canvas.getContext('2d');
            const at = context.getImageData(canvas.width / 2, canvas.height / 2, 1, 1, {colorSpace: 'display-p3'});
            return [...at.data].slice(0, 3)"""
        )
        return found

    path = tmp_path / "wide" / "WID_0001.JPG"
    path.parent.mkdir()
    Image.new("RGB", (1200, 800), (255, 0, 0)).save(path, quality=97, icc_profile=DISPLAY_P3)
    wide = [{"name": "color-gamut", "value": "p3"}]
    page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": wide})
    try:
        shoot = page.open(path.parent, "bench")
        until(lambda: [cell["quality"] for cell in cells(page)] == ["fit"])
        assert red() == pytest.approx([255, 0, 0], abs=4)
        page.until_text("aside", "Display P3")
        page.press("9")
        page.until_text("[data-testid=plain]", "without its profile")
        until(
            lambda: page.run("return document.querySelector('[data-testid=plain] img').naturalWidth") == 1200
        )
        page.press("9", " ")
        until(lambda: [cell["quality"] for cell in cells(page)] == ["full"])
        assert red() == pytest.approx([255, 0, 0], abs=4)
    finally:
        page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
    page.go(f"/shoots/{shoot}/bench")
    until(lambda: [cell["quality"] for cell in cells(page)] == ["fit"])
    # The red of sRGB is a smaller one: (234, 51, 35) in Display P3 (CSS Color 4).
    assert red() == pytest.approx([234, 51, 35], abs=4)
