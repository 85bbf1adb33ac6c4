"""Passes: one question at a time, by keys alone, left and come back to, taken back as a whole."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import decisions, names
from tests.server import Server, until


def begin(page: Page, name: str) -> dict[str, Any]:
    """Begins a pass from the dialog; what the server knows of it."""
    page.press("p")
    page.see("[role=dialog]")
    until(lambda: page.driver.find_elements("xpath", f"//ol//button[.='{name}']"))
    page.driver.find_element("xpath", f"//ol//button[.='{name}']").click()
    return in_pass(page, name)


def in_pass(page: Page, name: str) -> dict[str, Any]:
    page.until_text("[data-testid=pass-line]", name)
    walk = page.server.get("/api/shoots/1/passes")["walks"][0]
    assert walk["name"] == name
    found: dict[str, Any] = page.server.get(f"/api/shoots/1/passes/{walk['id']}")
    until(lambda: f"of {len(found['frames'])}" in far(page))
    return found


def far(page: Page) -> str:
    return page.text("[data-testid=how-far]")


def marks(server: Server) -> dict[int, dict[str, Any]]:
    return {frame["id"]: frame for frame in server.frames(1)}


def at_its_end(page: Page, name: str) -> None:
    page.until_text("[data-testid=pass-end]", f"{name} is done")


def test_left_and_come_back_to_with_nothing_else_in_force(bench: Page) -> None:
    page = bench
    begin(page, "Weed")
    assert page.serious_problems() == []
    until(lambda: decisions(page) == "PPPPPPP")
    page.press("z")
    page.until_text("[data-testid=last-action]", "nothing to undo in Weed")
    page.press("d")
    until(lambda: decisions(page) == "RPPPPPP" and far(page).startswith("1 of 7"))
    # What the pass does not ask for rests, by key and by hand.
    page.press("4", "q", "l", "g", "6", "v", "`", "x")
    cell = page.see("[data-testid=stage] [role=img][data-frame]")
    assert not page.find("[aria-label^='4 stars for']")
    ActionChains(page.driver).context_click(cell).perform()
    page.until_text("[role=menu]", "Copy the name")
    assert "Two frames" not in page.text("[role=menu]") and "lead" not in page.text("[role=menu]")
    page.press(Keys.ESCAPE)
    frames = page.server.frames(1)
    assert {(frame["rating"], frame["label"]) for frame in frames} == {(0, None)}
    assert far(page).startswith("1 of 7") and names(page) == "2"
    # A reload goes on there; leaving and coming back too; what left is not in view.
    until(lambda: "pass=" in page.driver.current_url)
    page.driver.refresh()
    page.until_text("[data-testid=pass-line]", "Weed")
    until(lambda: far(page).startswith("1 of 7") and names(page) == "2")
    page.press(Keys.ARROW_LEFT)
    page.press("d", Keys.ESCAPE)
    until(lambda: not page.find("[data-testid=pass-line]"))
    page.until_text("[data-testid=shown]", "7 of 7")
    page.press("4")
    until(lambda: page.server.frames(1)[1]["rating"] == 4 or page.server.frames(1)[2]["rating"] == 4)
    page.press("z", "p")
    page.until_text("[role=dialog]", "Go on with Weed")
    until(lambda: page.find("[role=dialog] li button:focus"))
    page.press(Keys.ENTER)
    page.until_text("[data-testid=pass-line]", "Weed")
    until(lambda: far(page).startswith("2 of 7"))
    page.press(*["a"] * 5)
    at_its_end(page, "Weed")
    assert page.serious_problems() == []
    # All of it is taken back from the history, and one undo brings it again.
    page.press(Keys.ESCAPE)
    page.chord(Keys.SHIFT, "h")
    page.until_text("[data-testid=history]", "in Weed")
    page.driver.find_element("xpath", "//button[starts-with(., 'undo the whole pass')]").click()
    until(lambda: decisions(page) == ".......")
    page.until_text("[data-testid=last-action]", "the whole pass undone: 7 frames")
    page.press("z")
    until(lambda: decisions(page) == "RRPPPPP")


def test_losers_leave_the_stage_of_their_group(bench: Page) -> None:
    page = bench
    page.press("3")
    until(lambda: page.server.frames(1)[0]["rating"] == 3)
    begin(page, "Choose")
    until(lambda: names(page) == "1234")
    # What was done before the pass is not taken back in it.
    page.press("z")
    page.until_text("[data-testid=last-action]", "nothing to undo in Choose")
    assert page.server.frames(1)[0]["rating"] == 3
    page.press("d")
    until(lambda: names(page) == "234" and decisions(page) == "R......")
    page.press("l")
    until(lambda: names(page) == "34")
    assert len(page.find("[aria-label='Left the stage'] img")) == 2
    page.press(Keys.BACKSPACE)
    until(lambda: names(page) == "234")
    page.press("a", Keys.ARROW_DOWN)
    until(lambda: far(page).startswith("4 of 7") and names(page) == "56")
    until(lambda: decisions(page) == "RP.....")
    # What was passed over on the way is led back to before the end.
    page.press(Keys.END, Keys.ARROW_DOWN)
    until(lambda: names(page) == "56" or page.find("[data-testid=pass-end]"))
    page.press(Keys.ARROW_DOWN, Keys.ARROW_DOWN)
    at_its_end(page, "Choose")


def test_several_at_once_are_shown_first(bench: Page) -> None:
    page = bench
    begin(page, "Weed")
    page.chord(Keys.SHIFT, "a")
    page.see("[data-testid=together]")
    page.driver.find_element("xpath", "//button[starts-with(., 'no faces')]").click()
    until(lambda: len(page.find("[data-together]")) == 3)
    assert page.serious_problems() == []
    page.until_text("[data-testid=scope]", "3 frames together")
    page.press(Keys.ARROW_RIGHT, " ")
    page.until_text("[data-together][aria-selected=false]", "stays")
    page.until_text("[data-testid=together]", "Reject these 2")
    until(lambda: decisions(page) == "PPPPPPP")
    page.press("d")
    until(lambda: decisions(page).count("R") == 2)
    page.press("z")
    until(lambda: decisions(page) == "PPPPPPP")


def test_a_pass_of_ones_own(bench: Page, tmp_path: Path) -> None:
    page = bench
    page.press("p")
    page.until_text("[role=dialog]", "Copy, change, order")
    page.click("Copy, change, order …")
    page.driver.find_element("xpath", "//button[.='Copy Rate']").click()
    page.click("the whole group")
    page.click("labels")
    assert page.serious_problems() == []
    page.driver.find_element("xpath", "//button[@type='submit']").click()
    page.until_text("[aria-label='All passes']", "Rate 2")
    own = page.server.get("/api/passes")["own"][0]
    assert (own["name"], own["layout"]) == ("Rate 2", "the whole group")
    assert [key["does"] for key in own["keys"]] == ["stars", "labels"]
    # From a file: what fits is taken, what does not is named.
    file = tmp_path / "passes.json"
    file.write_text(json.dumps({"passes": [{"version": 1} | own | {"name": "Third"}, {"name": "Broken"}]}))
    page.see("[aria-label='Import passes from a file']").send_keys(str(file))
    page.until_text("[role=alert]", "Taken in: Third.")
    page.until_text("[role=alert]", "Broken: It is written in version None")
    for name in ("Rate 2", "Third"):
        page.see(f"[aria-label='Forget {name}']").click()
        until(lambda name=name: not page.find(f"[aria-label='Forget {name}']"))
    assert page.server.get("/api/passes")["own"] == []
