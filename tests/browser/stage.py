"""What stands on the stage, as a person sees it, and hands on it."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

from selenium.webdriver.common.action_chains import ActionChains

from tests.photographs import save

if TYPE_CHECKING:
    from tests.browser.conftest import Page

SHIFTS = (0, 24, -18, 40)
"""How far the four frames of the portrait lie apart, px."""


def cells(page: Page) -> list[dict[str, Any]]:
    """The pictures on the stage that can be seen, in order."""
    found: list[dict[str, Any]] = page.run(
        """return [...document.querySelectorAll('[data-testid=stage] [role=img][data-frame]')]
        .filter(c => getComputedStyle(c).visibility === 'visible').map(c => {
          const box = c.getBoundingClientRect();
          return {name: c.ariaLabel.split(',')[0].replace(/.*POS_000|.JPG/g, ''), active: c.dataset.active === 'true',
            at: c.dataset.at.split(',').map(Number), zoomed: c.dataset.zoomed === 'true', quality: c.dataset.quality,
            followed: c.dataset.followed === 'true',
            left: box.left, top: box.top, width: box.width, height: box.height};
        })"""
    )
    return found


def names(page: Page) -> str:
    return "".join(cell["name"] for cell in cells(page))


def active(page: Page) -> str:
    """Empty while the stage is not there yet: on the way from another screen."""
    return next((cell["name"] for cell in cells(page) if cell["active"]), "")


def decisions(page: Page) -> str:
    """P, R or a point for each frame in order of names."""
    frames = sorted(page.server.frames(1), key=lambda f: f["name"])
    return "".join({"keep": "P", "reject": "R"}.get(f["decision"], ".") for f in frames)


def drag(page: Page, number: int, dx: int, modifier: str | None = None) -> None:
    cell = page.find("[data-testid=stage] [role=img][data-frame]")[number]
    chain = ActionChains(page.driver, duration=20).move_to_element(cell)
    if modifier:
        chain = chain.key_down(modifier)
    chain = chain.click_and_hold().move_by_offset(dx // 2, 0).move_by_offset(dx - dx // 2, 0).release()
    (chain.key_up(modifier) if modifier else chain).perform()


def poses(folder: Path) -> Path:
    """Four portraits a second apart, moved by known amounts; half a minute later two cups; then a rocket."""
    for n, shift in enumerate(SHIFTS):
        save(folder / f"POS_{n + 1:04d}.JPG", 0, n, shift=shift)
    for n in (0, 1):
        save(folder / f"POS_{n + 5:04d}.JPG", 2, 40 + n, shift=6 * n)
    save(folder / "POS_0007.JPG", 3, 80)
    return folder


def touch(page: Page, *steps: list[tuple[float, float]]) -> None:
    """Fingers put down, moved and lifted: real touch events, as the browser gets them from a screen."""
    kinds = ["touchStart"] + ["touchMove"] * (len(steps) - 1)
    for kind, points in zip(kinds, steps, strict=True):
        at = [{"x": x, "y": y, "id": n} for n, (x, y) in enumerate(points)]
        page.driver.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": kind, "touchPoints": at})
    page.driver.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
