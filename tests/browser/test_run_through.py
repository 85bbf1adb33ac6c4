"""Running through what is in view, and the first steps on the demo shoot."""

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


def test_first_steps_are_done_by_doing_them(demo_page: Page) -> None:
    page = demo_page
    page.run("localStorage.removeItem('winnow.guide')")
    page.go("/shoots/1/wall")
    until(lambda: page.server.get("/api/shoots/1")["progress"]["measured"] >= 30)
    page.until_text("[aria-label='First steps']", "New here?")
    assert page.serious_problems() == []
    page.click("Begin")
    page.until_text("[data-testid=guide]", "step 1 of 6")
    page.see("[role=img][data-frame]")
    page.press("a")  # not what is asked for
    page.press(Keys.ARROW_DOWN)
    page.until_text("[data-testid=guide]", "Look closer")
    page.press(" ")
    page.until_text("[data-testid=guide]", "Keep a good one")
    page.press(" ", "a")
    page.until_text("[data-testid=guide]", "Reject another")
    page.press(Keys.ARROW_RIGHT, "d")
    page.until_text("[data-testid=guide]", "Take that back")
    page.press("z")
    page.until_text("[data-testid=guide]", "step 6 of 6")
    page.press("p")
    until(lambda: page.find("[role=dialog] li button:focus"))
    page.press(Keys.ENTER)
    page.until_text("[data-testid=guide]", "all six steps done")
    page.click("close")
    page.press(Keys.ESCAPE)
    # Left for good, and called again.
    page.go("/shoots/1/bench")
    page.until_text("[data-testid=scope]", "frame")
    assert not page.find("[aria-label='First steps']")
    page.chord(Keys.SHIFT, "i")
    page.until_text("[data-testid=guide]", "step 1 of 6")
    # The demo shoot has several scenes; keys lead from one to the next.
    frames = page.server.frames(1)
    scenes = [next(one["name"] for one in frames if one["scene"] == number)[-8:-4] for number in (0, 1)]
    page.press(Keys.HOME)
    page.chord(Keys.CONTROL, Keys.ARROW_DOWN)
    page.until_text("[data-testid=scope]", scenes[1])
    page.chord(Keys.CONTROL, Keys.ARROW_UP)
    page.until_text("[data-testid=scope]", scenes[0])
