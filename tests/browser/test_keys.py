"""Keys of one's own: found by word and by pressing, changed by pressing, clashes resolved, kept."""

from __future__ import annotations

import base64
import json
import re
from pathlib import Path

from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.conftest import Page
from tests.browser.stage import decisions
from tests.server import until


def row(page: Page, title: str) -> WebElement:
    path = f"//ul[@aria-label='Commands']/li[span[1][text()='{title}']]"
    until(lambda: page.driver.find_elements("xpath", path))
    return page.driver.find_element("xpath", path)


def press_for(page: Page, title: str, key: str) -> None:
    """Presses on the first key of a command, and then the one it is to have."""
    row(page, title).find_element("css selector", "button[title$='press another key for it']").click()
    page.until_text("[aria-label='A key for it']", f"Press a key for {title}")
    page.press(key)


def keys_of(page: Page, title: str) -> list[str]:
    return [one.text for one in row(page, title).find_elements("css selector", "kbd")]


def test_keys_are_changed_by_pressing_and_kept(bench: Page, tmp_path: Path) -> None:
    page = bench
    page.press("?")
    page.until_text("[role=dialog]", "Change keys")
    page.driver.find_element("link text", "Change keys …").click()
    page.see("[aria-label=Keyboard]")
    assert page.serious_problems() == []
    # A free key is taken at once; one that the browser keeps is refused, with the reason.
    page.see("[aria-label='Find a command']").send_keys("peak", Keys.CONTROL, "a", Keys.NULL, "keep")
    row(page, "Keep").find_element("css selector", "[aria-label='Another key for Keep']").click()
    page.until_text("[aria-label='A key for it']", "Press a key for Keep")
    page.press(Keys.TAB)
    page.until_text("[aria-label='A key for it']", "cannot be had")
    page.press("q")
    page.until_text("[aria-label='A key for it']", "Label: Retouch has it")
    page.press("r")
    until(lambda: keys_of(page, "Keep") == ["A", "R"])
    # A clash is shown with both commands, and swapped or taken over.
    page.type_over("[aria-label='Find a command']", Keys.BACKSPACE)
    press_for(page, "Reject", "a")
    page.until_text("[aria-label='A key for it']", "A is taken: it does Keep. You give it to Reject.")
    page.click("Swap: that gets D")
    until(lambda: (keys_of(page, "Keep"), keys_of(page, "Reject")) == (["D", "R"], ["A"]))
    press_for(page, "Flip two frames in the same spot", "v")
    page.click("Keep as it was")
    assert keys_of(page, "Flip two frames in the same spot") == ["F"]
    press_for(page, "Undo the last mark", "f")
    page.click("Take it over")
    until(lambda: keys_of(page, "Flip two frames in the same spot") == [])
    # Found by pressing.
    page.click("or press a key")
    page.press("a")
    until(lambda: len(page.find("ul[aria-label=Commands] li")) == 1)
    assert keys_of(page, "Reject") == ["A"]
    # In force at once, after a reload too, and hints say the key in force.
    page.go("/shoots/1/bench")
    page.see("[role=img][data-frame]")
    page.until_text("[data-testid=measured]", "px")
    page.press("d", Keys.ARROW_RIGHT, "r", Keys.ARROW_RIGHT, "a")
    until(lambda: decisions(page) == "PPR....")
    assert page.driver.find_element("xpath", "//footer//button[contains(., 'reject')]//kbd").text == "A"
    page.press("f")
    until(lambda: decisions(page) == "PP.....")
    # A broken set is taken as far as it goes, with what did not fit; and all is undone.
    page.go("/keys")
    file = tmp_path / "keys.json"
    file.write_text(json.dumps({"keys": {"keep": ["k"], "reject": ["x"], "gone": ["y"], "next": "q"}}))
    page.see("[aria-label='Import keys from a file']").send_keys(str(file))
    page.until_text("[role=alert]", "gone: there is no such command")
    assert len(page.find("[role=alert] li")) == 5, page.text("[role=alert]")
    assert keys_of(page, "Reject") == []
    page.driver.find_element("xpath", "//button[starts-with(., 'Undo all')]").click()
    until(lambda: (keys_of(page, "Keep"), keys_of(page, "Reject")) == (["A"], ["D"]))
    # Ours stay as they come: what was changed is a copy, which can be gone back to.
    page.click("Left hand")
    until(lambda: keys_of(page, "Next frame") == ["F", "→"])
    page.click("Default")
    until(lambda: keys_of(page, "Reject") == ["D"])
    page.click("Default, mine")
    until(lambda: keys_of(page, "Reject") == ["A"])


def press_at(page: Page, key: str, code: str, held: int = 0) -> None:
    """Presses the key at a place (UI Events `code`) on a layout on which it gives `key`."""
    for kind in ("keyDown", "keyUp"):
        page.driver.execute_cdp_cmd(
            "Input.dispatchKeyEvent", {"type": kind, "key": key, "code": code, "modifiers": held}
        )


def choose_set(page: Page, *buttons: str) -> None:
    page.go("/keys")
    page.see("[aria-label=Keyboard]")
    for button in buttons:
        page.click(button)
    page.go("/shoots/1/bench")
    page.see("[role=img][data-frame]")


def test_letters_or_places_on_other_layouts(bench: Page) -> None:
    """Layouts: DIN 2137 (QWERTZ) and the common French AZERTY, from memory."""
    page = bench
    press_at(page, "a", "KeyQ")  # AZERTY, by letter
    until(lambda: decisions(page) == "P......")
    press_at(page, "z", "KeyY")  # QWERTZ
    until(lambda: decisions(page) == ".......")
    choose_set(page, "places")
    press_at(page, "q", "KeyA")  # AZERTY, by place: where A lies for most
    until(lambda: decisions(page) == "P......")
    press_at(page, "y", "KeyZ")  # QWERTZ
    until(lambda: decisions(page) == ".......")
    press_at(page, "a", "KeyQ")
    until(lambda: page.server.frames(1)[0]["label"] == "Retouch")


def test_one_hand_a_pad_and_the_mouse(bench: Page) -> None:
    page = bench
    choose_set(page, "Left hand")
    page.press("d", "f", "a", "r", "s")
    until(lambda: decisions(page) == ".P.....")
    choose_set(page, "Right hand")
    page.press("l", "8")
    until(lambda: decisions(page) == ".R....." and page.server.frames(1)[1]["rating"] == 3)
    page.press("u", "u")
    choose_set(page, "Digits only")
    page.press(Keys.HOME, Keys.NUMPAD5, Keys.NUMPAD6, Keys.NUMPAD0)
    until(lambda: decisions(page) == "PR.....")
    # A button under the thumb, and the wheel with a key held.
    page.go("/keys")
    page.see("[aria-label='Find a command']").send_keys("next frame")
    row(page, "Next frame").find_element("css selector", "[aria-label='Another key for Next frame']").click()
    page.until_text("[aria-label='A key for it']", "Press a key for Next frame")
    thumb(page, "[aria-label='A key for it'] button", "back")
    until(lambda: "Mouse 4" in keys_of(page, "Next frame"))
    page.go("/shoots/1/bench")
    page.see("[role=img][data-frame]")
    page.press(Keys.HOME)
    page.until_text("[data-testid=scope]", "POS_0001")
    thumb(page, "[data-testid=stage]", "back")
    page.until_text("[data-testid=scope]", "POS_0002")
    assert "/bench" in page.driver.current_url  # the browser did not go back


def thumb(page: Page, selector: str, button: str) -> None:
    """Presses a button of the mouse under the thumb over an element."""
    box = page.see(selector).rect
    at = {"x": box["x"] + 20, "y": box["y"] + 10, "button": button, "clickCount": 1}
    for kind in ("mousePressed", "mouseReleased"):
        page.driver.execute_cdp_cmd("Input.dispatchMouseEvent", {"type": kind, **at})


def test_the_sheet_goes_on_one_page(bench: Page) -> None:
    page = bench
    page.go("/keys/sheet")
    page.see("svg[aria-label='Keys of the set Default']")
    assert page.serious_problems() == []
    printed = page.driver.execute_cdp_cmd("Page.printToPDF", {"preferCSSPageSize": True})
    assert len(re.findall(rb"/Type\s*/Page\b(?!s)", base64.b64decode(printed["data"]))) == 1
    titles = page.text("svg[aria-label='Keys of the set Default']")
    assert "Keep" in titles and "Filter: keepers" in titles
