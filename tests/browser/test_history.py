"""The list of what was done: back ten steps and forward again, one action alone, search."""

from __future__ import annotations

from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import decisions
from tests.server import until


def rows(page: Page) -> list[str]:
    found: list[str] = page.run(
        "return [...document.querySelectorAll('[data-testid=history] li')].map(l => l.innerText)"
    )
    return found


def press_in(page: Page, title: str, words: str) -> None:
    row = f"//aside[@data-testid='history']//li[.//span[text()='{title}']]"
    path = f"{row}//button[starts-with(normalize-space(), '{words}')]"
    until(lambda: page.driver.find_elements("xpath", path))
    page.driver.find_elements("xpath", path)[0].click()


def test_back_ten_steps_forward_again_and_one_alone(own_bench: Page) -> None:
    page = own_bench
    page.chord(Keys.SHIFT, "h")
    page.until_text("[data-testid=history]", "Nothing was done yet.")
    for stars in "12345":
        page.press("a", stars, Keys.ARROW_RIGHT)
    until(lambda: decisions(page) == "PPPPP..")
    until(lambda: len(rows(page)) == 11)
    assert page.serious_problems() == []
    press_in(page, "frame POS_0001: kept", "back to here")
    until(lambda: decisions(page) == "P......")
    until(lambda: sum("taken back" in row for row in rows(page)) == 9)
    press_in(page, "frame POS_0004: kept", "forward to here")
    until(lambda: decisions(page) == "PPPP...")
    assert [frame["rating"] for frame in page.server.frames(1)] == [1, 2, 3, 0, 0, 0, 0]
    press_in(page, "frame POS_0002: 2 stars", "take this back alone")
    until(lambda: [frame["rating"] for frame in page.server.frames(1)] == [1, 0, 3, 0, 0, 0, 0])
    page.until_text("[data-testid=history]", "taken back: frame POS_0002: 2 stars")
    page.press("z")
    until(lambda: [frame["rating"] for frame in page.server.frames(1)] == [1, 2, 3, 0, 0, 0, 0])
    page.see("input[type=search]").send_keys("0003")
    until(lambda: len(rows(page)) == 2)
    page.type_over("input[type=search]", "x")
    page.until_text("[data-testid=history]", "Nothing like that was done.")
