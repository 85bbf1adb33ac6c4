"""Running through what is in view."""

from __future__ import annotations

import time

from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import active, decisions
from tests.server import until


def test_run_through_by_timer_and_by_key(bench: Page) -> None:
    page = bench
    page.press("<", "<", "<")  # from three seconds to none: by key
    page.chord(Keys.SHIFT, "n")
    until(lambda: page.run("return document.fullscreenElement !== null"))
    assert not page.find("header, footer, nav, aside, [data-testid=stage-line]")
    assert active(page) == "1"
    page.press(Keys.ARROW_RIGHT, "a")
    until(lambda: active(page) == "2" and decisions(page) == ".P.....")
    time.sleep(1.5)
    assert active(page) == "2"  # nothing comes by itself
    page.press(">")
    page.until_text("main output", "1 s a frame")
    until(lambda: active(page) == "4")
    page.press(Keys.ARROW_LEFT)  # and back the other way
    until(lambda: active(page) == "1")
    page.press(Keys.ESCAPE)
    until(lambda: page.find("header") and not page.run("return document.fullscreenElement !== null"))
    page.until_text("[data-testid=stage-line]", "frame 1 of 4")
    page.press(">", ">")


def test_no_motion_for_who_wants_none(bench: Page) -> None:
    page = bench
    page.press("<", "<", "<")
    for wish, changes in (("no-preference", 1), ("reduce", 0)):
        media = {"features": [{"name": "prefers-reduced-motion", "value": wish}]}
        page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", media)
        page.chord(Keys.SHIFT, "n")
        page.see("[data-testid=changing]")
        page.run(
            """window.changes = 0; const over = document.querySelector('[data-testid=changing]');
            over.addEventListener('transitionrun', () => window.changes++)"""
        )
        page.press(Keys.ARROW_RIGHT)
        until(lambda: active(page) == "2")
        time.sleep(0.5)
        assert page.run("return window.changes") == changes
        page.press(Keys.HOME)
        page.chord(Keys.SHIFT, "n")
        until(lambda: page.find("header"))
    page.driver.execute_cdp_cmd("Emulation.setEmulatedMedia", {"features": []})
