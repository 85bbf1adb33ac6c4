"""Keys of one's own: found by word and by pressing, changed by pressing, clashes resolved, kept."""

from __future__ import annotations

import json
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
    page.press("p")
    until(lambda: keys_of(page, "Keep") == ["A", "P"])
    # A clash is shown with both commands, and swapped or taken over.
    page.see("[aria-label='Find a command']").clear()
    page.see("[aria-label='Find a command']").send_keys(" ", Keys.BACKSPACE)
    press_for(page, "Reject", "a")
    page.until_text("[aria-label='A key for it']", "A is taken: it does Keep. You give it to Reject.")
    page.click("Swap: that gets D")
    until(lambda: (keys_of(page, "Keep"), keys_of(page, "Reject")) == (["D", "P"], ["A"]))
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
    page.press("d", Keys.ARROW_RIGHT, "p", Keys.ARROW_RIGHT, "a")
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
