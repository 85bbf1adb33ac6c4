"""The palette: a few letters of anything, and Enter does it."""

from __future__ import annotations

from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import decisions
from tests.browser.test_labels import on_wall
from tests.server import until


def offered(page: Page) -> list[str]:
    return [one.text.split("\n")[0] for one in page.find("[role=dialog] [role=option]")]


def find(page: Page, typed: str, first: str) -> None:
    """Opens it, types, and waits until something comes first."""
    page.chord(Keys.CONTROL, "k")
    page.see("[role=dialog] [role=combobox]")
    page.press(typed)
    until(lambda: offered(page)[:1] == [first])


def test_anything_is_found_by_a_few_letters(bench: Page) -> None:
    page = bench
    page.server.post(
        "/api/shoots/1/filters", {"name": "For the album", "show": "keepers", "everywhere": False}
    )
    find(page, "klrr", "Keep the lead, reject the rest")  # every letter is a command's key elsewhere
    assert decisions(page) == "......."
    assert page.serious_problems() == []
    page.press(Keys.ENTER)
    until(lambda: decisions(page).count("P") == 1 and decisions(page).count("R") == 3)
    # A frame by its number, a label, a scene.
    find(page, "0006", "POS_0006")
    page.press(Keys.ENTER)
    page.until_text("[data-testid=scope]", "POS_0006")
    find(page, "labret", "Label: Retouch")
    page.press(Keys.ENTER)
    until(lambda: page.server.frames(1)[5]["label"] == "Retouch")
    find(page, "scene 1", "Scene 1, " + page.server.frames(1)[0]["captured_at"][11:16])
    page.press(Keys.ENTER)
    page.until_text("[data-testid=scope]", "POS_0001")
    # What was used last comes first, and Esc does nothing.
    find(page, "", "Scene 1, " + page.server.frames(1)[0]["captured_at"][11:16])
    assert offered(page)[1] == "Label: Retouch"
    page.press(Keys.ESCAPE)
    until(lambda: not page.find("[role=dialog]"))
    on_wall(page)
    find(page, "album", "For the album")
    page.press(Keys.ENTER)
    page.until_text("[data-testid=shown]", "1 of 7")
    page.chord(Keys.CONTROL, "k")
    page.see("[role=dialog] [role=combobox]").send_keys("qqqq")
    page.until_text("[role=dialog]", "Nothing is called like that.")
