"""A shoot of thousands: what is about the person comes first, and the spine can be looked over."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.server import until
from tests.store.test_store import fill
from winnow.store import shoots
from winnow.store.database import DATABASE, Database

FRAMES, SCENES = 2400, 10
HEADS = "nav[aria-label='Scenes and groups'] button[aria-expanded]"


def bare_after_turns(page: Page) -> int:
    """In how many of 20 display frames nothing was on the wall, each after a turn of the wheel that came just before
    a pause in scrolling was noticed (150 ms), with the page busy meanwhile."""
    bare: int = page.driver.execute_async_script(
        """
        const [done] = arguments;
        const wall = document.querySelector('section[aria-label="Frames in view"]');
        const box = wall.getBoundingClientRect();
        const seen = () => [...wall.querySelectorAll('[data-frame]')].some((frame) => {
          const at = frame.getBoundingClientRect();
          return at.bottom > box.top && at.top < box.bottom;
        });
        let bare = 0, turns = 0;
        const turn = () => {
          wall.scrollBy(0, 1500);
          requestAnimationFrame(() => {
            if (!seen()) bare++;
            if (++turns === 20) return done(bare);
            setTimeout(turn, 120);
            setTimeout(() => { const end = performance.now() + 150; while (performance.now() < end); }, 60);
          });
        };
        turn();
        """
    )
    return bare


def test_frames_about_the_person_come_first(lone_page: Page, tmp_path: Path) -> None:
    page = lone_page
    database = Database(tmp_path / "data" / DATABASE)
    shoot, ids = fill(database, tmp_path / "on a disk that is away", FRAMES)
    with database.transaction() as connection:
        # No file of them is there: so none of them is asked for as a picture either.
        connection.execute(
            "UPDATE frame SET frame_group = position / 2, scene = position / ?, problem = 'It is gone.', stage = 3",
            (FRAMES // SCENES,),
        )
        shoots.next_revision(connection, shoot)
    page.go(f"/shoots/{shoot}/wall?frame={ids[2000]}")
    page.until_text("[data-testid=scope]", "frame 2000")
    pages = page.run(
        "return performance.getEntriesByType('resource').map(e => e.name).filter(n => n.includes('/frames?'))"
    )
    first = next(name for name in pages if "limit=" in name)
    assert f"after={ids[2000] - 200}&" in first
    # All come in the end, and the person is where they were.
    page.until_text("header", "2,400 of 2,400")
    until(lambda: "fetching" not in page.text("header"))
    assert "frame 2000" in page.text("[data-testid=scope]")
    assert bare_after_turns(page) == 0
    # 1,200 groups: scenes are folded up but for the one that the person is in.
    page.press(Keys.HOME)
    page.until_text("[data-testid=scope]", "frame 0")
    until(lambda: [e.get_attribute("aria-expanded") for e in page.find(HEADS)[:2]] == ["true"])
    page.find(HEADS)[0].click()
    until(lambda: len(page.find(HEADS)) == SCENES)
    assert [e.get_attribute("aria-expanded") for e in page.find(HEADS)] == ["false"] * SCENES
    page.find(HEADS)[5].click()
    until(lambda: page.find(HEADS)[5].get_attribute("aria-expanded") == "true")
    page.see("nav[aria-label='Scenes and groups'] button[aria-label^='Group of 2']")
