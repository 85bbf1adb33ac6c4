"""The evidence as a person meets it: groups, warnings with their reasons, the panel, the blur map, filters."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import cells
from tests.edges import blurred, eight_bit, smeared
from tests.photographs import exif, photograph
from tests.server import until


def mixed_shoot(folder: Path) -> Path:
    """A portrait sharp, out of focus and shaken, a second apart; half a minute later a cup, alone."""
    import numpy as np
    from PIL import Image

    folder.mkdir(parents=True)
    portrait = np.asarray(photograph(0)).astype(np.float64)
    pictures = [portrait, blurred(portrait, 3.5), smeared(portrait, 16, 30), np.asarray(photograph(2))]
    for n, (picture, second) in enumerate(zip(pictures, (0, 1, 2, 40), strict=True)):
        block = exif(f"2026:10:17 16:00:{second:02d}")
        Image.fromarray(eight_bit(picture)).save(folder / f"MIX_{n + 1:04d}.JPG", quality=92, exif=block)
    return folder


@pytest.fixture(scope="module")
def mixed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """One for all tests that only look."""
    return mixed_shoot(tmp_path_factory.mktemp("mixed") / "mixed")


def warnings_of(page: Page) -> list[str]:
    found = [element.get_attribute("aria-label") for element in page.find("button[aria-label^='Look at']")]
    return [label for label in found if label]


def test_groups_warnings_and_reasons_on_the_wall(page: Page, mixed: Path) -> None:
    page.open(mixed)
    until(lambda: len(warnings_of(page)) == 2)
    assert warnings_of(page) == ["Look at: soft", "Look at: shaken"]
    assert len(page.find("nav[aria-label^=Scenes] button[aria-label^=Group]")) == 2

    def told() -> bool:
        # What is drawn anew under a pointer that rests loses it.
        header, sign = page.see("header"), page.see("button[aria-label='Look at: shaken']")
        ActionChains(page.driver).move_to_element(header).move_to_element(sign).pause(0.6).perform()
        return "shaken by" in page.run("return document.querySelector('[role=tooltip]')?.innerText ?? ''")

    until(told)
    assert "soft" in (page.find("[data-frame]")[1].get_attribute("aria-label") or "")


def test_the_panel_leads_to_the_place_in_the_picture(page: Page, mixed: Path) -> None:
    page.open(mixed, "bench")
    page.until_text("[data-testid=measured]", "Why it leads its group")
    words = page.text("[data-testid=measured]")
    for expected in ("sharp:", "px at the eye", "1: open", "eyes open", "burnt", "no shake"):
        assert expected in words
    page.driver.find_element(By.XPATH, "//button[contains(., 'px at the eye')]").click()
    page.see("[role=img][data-zoomed=true]")
    page.press(" ", "d")
    page.until_text("[data-testid=scope]", "MIX_0001")
    assert page.server.frames(page.shoot)[0]["decision"] in ("reject", "undecided")


def test_strips_say_what_spoils_a_frame_and_one_alone_leads_nothing(page: Page, mixed: Path) -> None:
    page.open(mixed, "bench")
    page.until_text("[data-testid=measured]", "Why it leads its group")
    strips = [strip.text for strip in page.find("[data-strip]")]
    assert [("lead" in text, "moved" in text) for text in strips] == [
        (True, False),
        (False, False),
        (False, True),
    ]
    told = re.search(r"moved (\d+) px", strips[2])
    assert told and int(told[1]) == pytest.approx(16, rel=0.25)  # the smear that was put into it
    page.press(Keys.ARROW_DOWN)
    page.until_text("[data-strip]", "MIX_0004")
    assert "lead" not in page.text("[data-strip]")


def test_zoomed_each_frame_says_how_sharp_the_face_there_is(page: Page, mixed: Path) -> None:
    page.open(mixed, "bench")
    page.until_text("[data-testid=measured]", "1: open")
    page.press(" ")
    read = "return [...document.querySelectorAll('[data-testid=stage] output')].map(o => o.innerText)"
    until(lambda: sum("face" in words for words in page.run(read)) == 3)
    sharp, blurred_by_3_5 = (
        float(found[1]) for words in page.run(read)[:2] if (found := re.search(r"face\s([\d.]+)\spx", words))
    )
    # σ of blurs in a row add in squares (Gaussian blur; common practice, no source).
    assert blurred_by_3_5 == pytest.approx((sharp**2 + 3.5**2) ** 0.5, rel=0.25)


def test_the_blur_map_lies_over_the_picture(page: Page, mixed: Path) -> None:
    page.open(mixed, "bench")
    page.see("[role=img][data-quality=fit]")
    page.until_text("[data-testid=measured]", "sharp")
    read = "return document.querySelector('[data-frame] canvas').toDataURL().length"
    plain = page.run(read)
    page.press("k")
    until(lambda: page.run(read) != plain)
    page.press("k")
    until(lambda: page.run(read) == plain)


def test_a_point_of_ones_own_gives_the_verdict_for_the_group(own_bench: Page) -> None:
    """`T` over the picture: seen at once in all four, measured, taken back by one undo; without a place it says what
    to do."""
    page = own_bench
    page.press("x")
    page.until_text("[role=alert]", "Point at the place")
    cell = page.find("[data-testid=stage] [role=img][data-frame]")[0]
    ActionChains(page.driver).move_to_element_with_offset(cell, 10, -30).perform()
    page.press("x")
    until(lambda: len(page.find("[data-testid=own-point]")) == 4)
    page.until_text("[data-testid=measured]", "at your point")
    page.until_text("footer", "point that matters in 4 frames")
    left = [
        point.rect["x"] - cell["left"]
        for point, cell in zip(page.find("[data-testid=own-point]"), cells(page), strict=True)
    ]
    assert max(left) - min(left) > 5, "it follows the picture, which moved from frame to frame"
    page.press("z")
    until(lambda: not page.find("[data-testid=own-point]"))
    page.until_text("[data-testid=measured]", "at the eye")


def test_filters_by_evidence_with_counts(page: Page, mixed: Path) -> None:
    page.open(mixed)
    until(lambda: warnings_of(page))
    page.click("and …")
    page.click("Look at")
    page.click("shaken 1")
    page.until_text("[data-testid=shown]", "1 of 4")
    page.click("shaken 1")
    page.click("Faces")
    page.click("no faces 1")
    page.until_text("[data-testid=shown]", "1 of 4")
    page.click("no faces 1")
    page.click("Similar frames")
    page.click("has similar 3")
    page.until_text("[data-testid=shown]", "3 of 4")
    page.press("\ue00c", "h")  # Escape closes the popover; H shows all and keeps the filter
    page.until_text("[data-testid=shown]", "4 of 4")


def test_nothing_serious_for_assistive_technology(page: Page, mixed: Path) -> None:
    page.open(mixed)
    until(lambda: warnings_of(page))
    assert page.serious_problems() == []
    page.go(f"/shoots/{page.shoot}/bench")
    page.until_text("[data-testid=measured]", "sharp")
    assert page.serious_problems() == []
