"""The wall in other orders, dense, and as a table; clocks of cameras; people in no kept frame."""

from __future__ import annotations

from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests import photographs
from tests.browser.conftest import Page
from tests.browser.test_labels import on_wall
from tests.server import until

FRAMES = "section[aria-label='Frames in view'] [data-frame]"


def shown(page: Page) -> list[int]:
    """The frames on screen from the top, left to right."""
    places = page.run(
        "return [...document.querySelectorAll(arguments[0])].map(e => [e.getBoundingClientRect().top,"
        " e.getBoundingClientRect().left, Number(e.dataset.frame)])",
        FRAMES,
    )
    return [frame for *_, frame in sorted(places)]


def order_by(page: Page, title: str) -> None:
    page.see("main button[aria-haspopup=menu]").click()
    until(lambda: page.driver.find_elements("xpath", f"//*[@role='menuitem'][text()='{title}']"))
    page.driver.find_element("xpath", f"//*[@role='menuitem'][text()='{title}']").click()


def test_no_picture_is_blown_up(page: Page, tmp_path: Path) -> None:
    for number in (3, 4):  # 640 px wide
        photographs.save(tmp_path / "shoots" / "Two" / f"{number}.jpg", number, second=number)
    page.open(tmp_path / "shoots" / "Two")
    page.run("document.querySelector('[role=slider]').focus()")
    page.press(Keys.END)
    until(
        lambda: page.run(
            """const cells = [...document.querySelectorAll(arguments[0])];
            return cells.length === 2 && cells.every(cell => {
              const best = [...cell.querySelectorAll('img')].at(-1);
              return best?.complete && best.clientWidth > 512 && best.naturalWidth >= best.clientWidth;
            });""",
            FRAMES,
        )
    )


def test_orders_densities_and_the_table(bench: Page) -> None:
    page = bench
    ids = [frame["id"] for frame in page.server.frames(1)]
    for frame, rating in zip(ids, (0, 3, 5, 0, 1, 4, 3), strict=True):
        page.server.post("/api/shoots/1/marks", {"frame_ids": [frame], "rating": rating})
    on_wall(page)
    order_by(page, "rating")
    by_rating = [ids[n] for n in (2, 5, 1, 6, 4, 0, 3)]
    until(lambda: shown(page) == by_rating)
    assert "5 stars" in page.text("main h2") and "POS_0003" in page.text("[data-testid=scope]")
    # Keys go along it, and a frame that is marked does not run away.
    page.press(Keys.ARROW_RIGHT, "1")
    until(lambda: page.server.frames(1)[5]["rating"] == 1)
    assert shown(page) == by_rating
    page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    page.until_text("[data-testid=scope]", "2 selected frames")
    page.press("q", Keys.ESCAPE)
    until(lambda: [f["label"] for f in page.server.frames(1)].count("Retouch") == 2)
    assert [page.server.frames(1)[n]["label"] for n in (5, 1)] == ["Retouch"] * 2
    page.click("sort again")
    until(lambda: shown(page) == [ids[n] for n in (2, 1, 6, 4, 5, 0, 3)])
    # As a table: the same order, marked by the same keys, sorted by its headers, with evidence and capture data.
    page.click("table")
    until(lambda: shown(page) == [ids[n] for n in (2, 1, 6, 4, 5, 0, 3)])
    page.until_text("[role=table]", "px")
    page.press(Keys.HOME, Keys.ARROW_DOWN, "d")
    until(lambda: page.server.frames(1)[1]["decision"] == "reject")
    page.until_text("[role=table]", "rejected")
    page.click("columns …")
    page.see("[aria-label='Columns of the table'] label:nth-child(11)").click()
    page.press(Keys.ESCAPE)
    told = page.server.get("/api/shoots/1/columns?names=sigma")
    sigma = dict(zip(told["ids"], told["columns"]["sigma"], strict=True))
    page.driver.find_element(
        "xpath", "//*[@role='columnheader']//button[starts-with(normalize-space(), 'σ')]"
    ).click()
    expected = sorted(ids, key=lambda one: (sigma[one] is None, sigma[one] or 0, ids.index(one)))
    until(lambda: shown(page) == expected)
    assert page.find("[aria-sort=ascending]")[0].text.startswith("σ at the subject")
    assert page.serious_problems() == []
    page.click("dense")
    until(lambda: len(shown(page)) == 7)
    heights = page.run("return [...document.querySelectorAll(arguments[0])].map(e => e.offsetHeight)", FRAMES)
    assert max(heights) <= 48 and not page.find(f"{FRAMES} [aria-label$='of 5 stars']")
    page.press(Keys.HOME, "a")
    until(lambda: {f["id"]: f["decision"] for f in page.server.frames(1)}[expected[0]] == "keep")
    # Off the wall, and in capture order again, all is as it was.
    order_by(page, "capture time")
    until(lambda: shown(page) == ids)
