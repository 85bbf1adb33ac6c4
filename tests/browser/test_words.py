"""Words on frames: for the whole scope, mixed values, keywords with completion, templates; typed text is text."""

from __future__ import annotations

import json
from pathlib import Path

from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.conftest import Page
from tests.browser.test_labels import on_wall
from tests.server import until

PANEL = "[data-testid=words]"


def held(page: Page, *numbers: int) -> dict[str, object]:
    """What the server says that frames have in common."""
    ids = [page.server.frames(1)[number]["id"] for number in numbers]
    found: dict[str, object] = page.server.post("/api/shoots/1/words/common", {"frame_ids": ids})
    return found


def caption(page: Page, *numbers: int) -> list[tuple[str | None, int]]:
    texts = held(page, *numbers)["captions"][0]["texts"]  # type: ignore[index]
    return [(one["text"], one["frames"]) for one in texts]


def field(page: Page, label: str) -> WebElement:
    return page.see(f"{PANEL} [aria-label='{label}']")


def put(box: WebElement, text: str) -> None:
    """As it comes from the clipboard."""
    box.parent.execute_script(
        """const [box, text] = arguments; box.focus(); box.select();
        document.execCommand('insertText', false, text)""",
        box,
        text,
    )


def offered(page: Page) -> list[str]:
    return [one.text for one in page.find(f"{PANEL} [role=option]")]


def test_words_on_a_mixed_selection(own_bench: Page, tmp_path: Path) -> None:
    page = own_bench
    on_wall(page)
    page.chord(Keys.SHIFT, "t")
    page.until_text(PANEL, "POS_0001")
    until(lambda: page.driver.switch_to.active_element.get_attribute("id") == "words-caption")
    # Letters that are commands elsewhere are text here; Ctrl Enter goes on to the next frame.
    page.press("adz \U0001f33e ")
    page.chord(Keys.CONTROL, Keys.ENTER)
    page.until_text(f"{PANEL} [data-testid=words-scope]", "POS_0002")
    until(lambda: page.driver.switch_to.active_element.get_attribute("value") == "")
    page.press('Zoë & "<one>"', Keys.ENTER, "second line")
    field(page, "Headline").click()
    until(lambda: caption(page, 0, 1) == [('Zoë & "<one>"\nsecond line', 1), ("adz \U0001f33e", 1)])
    assert [frame["decision"] for frame in page.server.frames(1)] == ["undecided"] * 7
    page.press(Keys.ESCAPE, Keys.HOME)
    for _ in range(2):
        page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    page.until_text(f"{PANEL} [data-testid=words-scope]", "3 frames")
    hint = lambda: field(page, "Caption").get_attribute("placeholder")  # noqa: E731
    until(lambda: hint() == "mixed · 2 different, 1 empty")
    assert page.serious_problems() == []
    # Only what is typed changes; tokens are filled in, counted in the order on screen.
    field(page, "Headline").send_keys("Kiln {counter:2} {name}")
    page.until_text(PANEL, "on the first: Kiln 01 POS_0001")
    # However long: what it becomes is asked by an address, which holds less.
    put(field(page, "Headline"), "{name} " + "\U0001d11e" * 9000)
    page.until_text(PANEL, "on the first: POS_0001 \U0001d11e")
    put(field(page, "Headline"), "Kiln {counter:2} {name}")
    page.press(Keys.ENTER)
    adder = field(page, "Add a keyword")
    adder.click()
    page.press("boats, small", Keys.ENTER)
    texts = lambda: [one["text"] for one in held(page, 0, 1, 2)["headline"]]  # type: ignore[attr-defined] # noqa: E731
    until(lambda: texts() == [f"Kiln 0{n} POS_000{n}" for n in (1, 2, 3)])
    until(lambda: held(page, 0, 1, 2, 3)["keywords"] == [{"word": "boats, small", "frames": 3}])
    assert caption(page, 2) == [(None, 1)]
    # One keyword on one frame more: said where it is on some only, and put on all.
    page.press(Keys.ESCAPE)
    page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    page.until_text(PANEL, "3 of 4")
    page.see(f"{PANEL} [title='On 3 of 4: put it on all']").click()
    until(lambda: held(page, 0, 1, 2, 3)["keywords"] == [{"word": "boats, small", "frames": 4}])
    page.press("z", "z")
    until(lambda: held(page, 0, 1, 2, 3)["keywords"] == [])
    page.press("z")
    until(lambda: texts() == [None])
    # A vocabulary, read from a file, and what goes on from what is typed.
    page.click("templates and vocabulary …")
    file = tmp_path / "words.txt"
    file.write_text("Orte\n\tDún Laoghaire\n\tDublin\n", "utf-8")
    page.see("[aria-label='Read a vocabulary from a file']").send_keys(str(file))
    page.until_text("[role=dialog]", "3 keywords")
    for label, text in (("Name", "Press"), ("Creator", "Íde\nZoë"), ("Copyright", "© {date:%Y} Íde")):
        page.see(f"[role=dialog] [aria-label='{label}']").send_keys(text)
    page.click("Keep as a template")
    page.button("Keep the change")
    page.click("Close")
    field(page, "Add a keyword").click()
    page.press("dun")
    until(lambda: offered(page) == ["Dún Laoghaire\nbelow Orte"])
    page.press(Keys.ARROW_DOWN)
    page.chord(Keys.SHIFT, Keys.ENTER)
    until(lambda: {one["word"] for one in held(page, 3)["keywords"]} == {"Orte", "Dún Laoghaire"})  # type: ignore[attr-defined]
    page.press(Keys.ESCAPE)
    page.click("Press")
    until(lambda: held(page, 3)["creator"] == [{"text": "Íde; Zoë", "frames": 1}])
    assert json.dumps(held(page, 3)["copyright"]).count("{date") == 0
    # Filters ask for words; they outlive the page.
    page.go("/shoots/1/wall?show=keyword+Orte,+with+a+creator")
    page.until_text("[data-testid=shown]", "4 of 7")
