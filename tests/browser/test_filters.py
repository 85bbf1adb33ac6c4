"""Questions to the shoot: chips and sentence, the address, names, and what comes back."""

from __future__ import annotations

from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import cells
from tests.server import until


def show(page: Page) -> str:
    return str(page.run("return new URLSearchParams(location.search).get('show') ?? ''"))


def type_filter(page: Page, text: str) -> None:
    page.chord(Keys.CONTROL, "f")
    field = page.see("[role=combobox]")
    field.send_keys(text)


def test_chips_and_sentence_say_the_same(bench: Page) -> None:
    bench.press("a", Keys.ARROW_RIGHT, "3")
    type_filter(bench, "undecided, 3 stars or more")
    bench.until_text("[data-testid=shown]", "1 of 7")
    until(lambda: show(bench) == "undecided, 3 stars or more")
    bench.press(Keys.ENTER)
    until(lambda: not bench.find("[role=combobox]"))
    assert bench.see("[aria-label^='3 stars or more']")
    bench.see("[aria-label^='3 stars or more']").click()
    bench.click("the opposite")
    bench.until_text("[data-testid=shown]", "5 of 7")
    until(lambda: show(bench) == "undecided, not 3 stars or more")
    bench.click("drop it")
    bench.until_text("[data-testid=shown]", "6 of 7")
    bench.chord(Keys.ALT, "a")
    bench.until_text("[data-testid=shown]", "7 of 7")
    until(lambda: show(bench) == "undecided or keepers")
    bench.chord(Keys.CONTROL, "f")
    assert bench.see("[role=combobox]").get_attribute("value") == "undecided or keepers"


def test_what_is_typed_is_completed_or_pointed_at(bench: Page) -> None:
    type_filter(bench, "no fa")
    bench.until_text("[role=listbox]", "no faces 3")
    bench.press(Keys.TAB)
    bench.until_text("[data-testid=shown]", "3 of 7")
    bench.see("[role=combobox]").send_keys(", keeprs")
    bench.until_text("[data-testid=typed-problem]", "Did you mean “keepers”?")
    assert bench.text("[data-testid=typed-problem] mark") == "keeprs"
    assert "3 of 7" in bench.text("[data-testid=shown]"), "what was understood last is shown"
    bench.see("[role=option]").click()
    bench.until_text("[data-testid=shown]", "0 of 7")
    assert bench.serious_problems() == []


def test_figures_are_dragged_over(bench: Page) -> None:
    bench.press("v")
    bench.chord(Keys.CONTROL, "f")
    bench.click("Blur at the subject")
    thumb = bench.see("[aria-label='Blur at the subject, to']")
    thumb.send_keys(Keys.ARROW_LEFT)
    until(lambda: show(bench).startswith("blur "))
    bench.until_text("[data-testid=shown]", "4 of 7")
    assert bench.serious_problems() == []


def test_a_filter_with_a_name_comes_back(bench: Page) -> None:
    bench.press("v")
    type_filter(bench, "many faces or one face")
    bench.until_text("[data-testid=shown]", "4 of 7")
    bench.see("input[aria-label='Name for this filter']").send_keys("Portraits", Keys.ENTER)
    bench.until_text("section[aria-label='Filters with a name']", "Portraits")
    bench.press(Keys.ESCAPE)
    bench.until_text("fieldset[aria-label=Filter]", "“Portraits”")
    # Somebody goes away and opens the shoot again.
    bench.go("/")
    bench.see("article a").click()
    bench.until_text("[data-testid=shown]", "4 of 7")
    bench.until_text("fieldset[aria-label=Filter]", "filter as you left it")
    bench.press("h")
    bench.until_text("[data-testid=shown]", "7 of 7")
    bench.press("h")
    bench.chord(Keys.ALT, "d")
    bench.until_text("[data-testid=shown]", "0 of 7")
    bench.chord(Keys.CONTROL, "f")
    bench.click("Portraits")
    bench.until_text("[data-testid=shown]", "4 of 7")
    bench.see("[aria-label='Forget the filter Portraits']").click()
    bench.until_text("section[aria-label='Filters with a name']", "None yet")


def test_a_filter_in_the_address(bench: Page) -> None:
    bench.go("/shoots/1/wall?show=NOT+with+faces%2C++blur+0-99px")
    bench.until_text("[data-testid=shown]", "3 of 7")
    until(lambda: show(bench) == "not with faces, blur 0–99 px")
    bench.press(Keys.ENTER)
    until(lambda: len(cells(bench)) == 2)
