"""A mark hits what is in sight, or nothing: whatever a key, a click or a gesture did before it."""

from __future__ import annotations

import time
from pathlib import Path

import pytest
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import active, cells, decisions, names, touch
from tests.photographs import save
from tests.server import until
from winnow.bench.browser import set_size

ANSWERED_S = 0.6
"""Long enough for an answer of the server to arrive and be shown."""


def hold(page: Page, key: str, code: str, number: int, times: int) -> None:
    """A key that is held down: one press, and the repeats that the keyboard makes of it."""
    for n in range(times):
        page.driver.execute_cdp_cmd(
            "Input.dispatchKeyEvent",
            {
                "type": "rawKeyDown",
                "key": key,
                "code": code,
                "windowsVirtualKeyCode": number,
                "autoRepeat": n > 0,
            },
        )
    page.driver.execute_cdp_cmd("Input.dispatchKeyEvent", {"type": "keyUp", "key": key, "code": code})


def scope(page: Page) -> str:
    """The frame that the scope line names, as `names` does."""
    return page.text("[data-testid=scope]").split("POS_000")[-1].strip()


def assert_in_sight(page: Page) -> None:
    assert scope(page) in names(page), (scope(page), names(page))
    assert [cell["name"] for cell in cells(page) if cell["active"]] == [scope(page)]


def spine(page: Page, number: int) -> None:
    """A click on a group in the spine."""
    page.find("nav[aria-label^=Scenes] button[aria-label^=Group]")[number].click()


@pytest.mark.parametrize("way", ["key", "spine", "swipe", "undo", "undecided"])
def test_two_frames_follow_wherever_one_goes(bench: Page, way: str) -> None:
    if way == "undo":
        spine(bench, 1)
        bench.press("3")
        until(lambda: bench.server.frames(1)[4]["rating"] == 3)
        spine(bench, 0)
    bench.press("i")
    until(lambda: len(cells(bench)) == 2)
    if way == "key":
        bench.press(Keys.ARROW_DOWN)
    elif way == "spine":
        spine(bench, 1)
    elif way == "undo":
        bench.press("z")
        until(lambda: bench.server.frames(1)[4]["rating"] == 0)
    elif way == "undecided":
        while active(bench) not in "56":
            bench.press("d")
            time.sleep(0.2)
            bench.press("u")
            time.sleep(0.2)
    else:
        bench.driver.execute_cdp_cmd(
            "Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2}
        )
        while active(bench) not in "56":
            cell = cells(bench)[0]
            x, y = cell["left"] + cell["width"] / 2, cell["top"] + 60
            touch(bench, [(x, y)], [(x - 40, y)], [(x - 90, y)])
            time.sleep(0.2)
        bench.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
    until(lambda: set(names(bench)) == {"5", "6"})
    assert_in_sight(bench)
    meant = int(scope(bench))
    bench.press("c")
    until(lambda: decisions(bench)[meant - 1] == "R")
    # One frame alone is a group too.
    spine(bench, 2)
    until(lambda: names(bench) == "7")
    assert_in_sight(bench)
    bench.press(Keys.ARROW_UP)
    until(lambda: "7" not in names(bench))
    assert_in_sight(bench)


def test_a_face_of_another_frame_brings_that_frame(bench: Page) -> None:
    bench.press("i")
    until(lambda: len(cells(bench)) == 2)
    until(lambda: len(bench.find("[data-testid=face-table] td button")) == 4)
    for n in range(4):
        bench.run(f"document.querySelectorAll('[data-testid=face-table] td button')[{n}].click()")
        until(lambda n=n: scope(bench) == str(n + 1))
        assert_in_sight(bench)


def test_frames_that_were_chosen_give_way_to_where_one_goes(bench: Page) -> None:
    bench.press("v")
    bench.see("[data-frame] img")
    bench.press(Keys.HOME)
    bench.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    bench.chord(Keys.SHIFT, "B")
    until(lambda: names(bench) == "12")
    spine(bench, 2)
    until(lambda: names(bench) == "7")
    assert_in_sight(bench)


def test_a_selection_stays_on_the_wall(bench: Page) -> None:
    bench.press("v")
    bench.see("[data-frame] img")
    bench.chord(Keys.CONTROL, "a")
    bench.until_text("[data-testid=scope]", "7 selected frames")
    bench.driver.back()
    until(lambda: len(cells(bench)) > 0)
    bench.until_text("[data-testid=scope]", "frame POS")
    bench.press("a")
    until(lambda: decisions(bench).count("P") == 1)
    time.sleep(ANSWERED_S)
    assert decisions(bench).count("P") == 1
    bench.driver.forward()
    bench.see("[data-frame] img")
    bench.until_text("footer", "select 7 again")
    bench.chord(Keys.SHIFT, "G")
    bench.until_text("[data-testid=scope]", "7 selected frames")


def test_a_frame_that_was_scrolled_away_is_not_marked(page: Page, tmp_path: Path) -> None:
    for n in range(24):
        save(tmp_path / "long" / f"LNG_{n + 1:04d}.JPG", n % 4, 60 * n)
    shoot = page.open(tmp_path / "long")
    page.run("document.querySelector('[role=slider]').focus()")
    page.press(Keys.END)
    until(lambda: page.run("return document.querySelector('main section').scrollHeight > 2000"))
    page.find("[data-frame]")[0].click()
    page.run("document.querySelector('main section').scrollTop = 9999")
    page.until_text("[data-testid=scope]", "nothing: LNG_0001 is out of sight")
    page.press("d")
    page.until_text("[data-testid=last-action]", "was out of sight")
    page.until_text("[data-testid=scope]", "frame LNG_0001")
    until(lambda: page.run("return document.querySelector('main section').scrollTop") < 100)
    assert all(f["decision"] == "undecided" for f in page.server.frames(shoot))
    page.press("d")
    until(lambda: page.server.frames(shoot)[0]["decision"] == "reject")


def test_keys_belong_to_a_menu_while_it_is_open(bench: Page) -> None:
    cell = bench.find("[data-testid=stage] [role=img][data-frame]")[1]
    ActionChains(bench.driver).context_click(cell).perform()
    bench.until_text("[role=menu]", "Begin a new group here")
    bench.press("d", "3", "v")
    bench.press(Keys.ESCAPE)
    until(lambda: not bench.find("[role=menu]"))
    assert bench.run("return location.pathname").endswith("/bench")
    ActionChains(bench.driver).context_click(cell).perform()
    bench.until_text("[role=menu]", "Reject")
    bench.press(Keys.ARROW_DOWN, Keys.ENTER)
    until(lambda: not bench.find("[role=menu]"))
    until(lambda: "P" in decisions(bench))
    time.sleep(ANSWERED_S)
    assert decisions(bench) == ".P....."
    assert bench.run("return location.pathname").endswith("/bench")
    assert [f["rating"] for f in bench.server.frames(1)] == [0] * 7


def test_keys_belong_to_a_popover_and_a_slider(bench: Page) -> None:
    bench.click("and …")
    bench.see("[role=dialog]")
    bench.run("document.activeElement.blur()")
    bench.press("d", "v")
    bench.press(Keys.ESCAPE)
    until(lambda: not bench.find("[role=dialog]"))
    assert bench.run("return location.pathname").endswith("/bench")
    bench.press("v")
    bench.see("[role=slider]")
    bench.run("document.querySelector('[role=slider]').focus()")
    bench.press("d", Keys.HOME)
    time.sleep(ANSWERED_S)
    assert decisions(bench) == "......."


def test_a_held_key_marks_once_and_moves_on_and_on(bench: Page) -> None:
    bench.press("n")  # going on by itself
    hold(bench, "d", "KeyD", 68, 6)
    until(lambda: decisions(bench)[0] == "R")
    hold(bench, "3", "Digit3", 51, 4)
    until(lambda: bench.server.frames(1)[1]["rating"] == 3)
    time.sleep(ANSWERED_S)
    assert decisions(bench) == "R......"
    assert [f["rating"] for f in bench.server.frames(1)] == [0, 3, 0, 0, 0, 0, 0]
    bench.press(Keys.HOME)
    hold(bench, "ArrowRight", "ArrowRight", 39, 5)
    until(lambda: active(bench) == "6")


def test_two_keys_under_a_filter_hit_one_frame(bench: Page) -> None:
    bench.chord(Keys.ALT, "s")
    bench.until_text("[data-testid=shown]", "7 of 7")
    bench.press("a")
    until(lambda: decisions(bench)[0] == "P")
    time.sleep(ANSWERED_S)
    assert scope(bench) == "1" and active(bench) == "1"
    bench.press("3")
    until(lambda: bench.server.frames(1)[0]["rating"] == 3)
    time.sleep(ANSWERED_S)
    assert [f["rating"] for f in bench.server.frames(1)] == [3, 0, 0, 0, 0, 0, 0]
    # It leaves when the person goes on.
    bench.press(Keys.ARROW_RIGHT)
    until(lambda: names(bench) == "234")
    bench.until_text("[data-testid=shown]", "6 of 7")


def test_two_keys_under_a_filter_hit_one_selection(bench: Page) -> None:
    bench.press("v")
    bench.see("[data-frame] img")
    bench.chord(Keys.ALT, "s")
    bench.press(Keys.HOME)
    bench.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    bench.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
    bench.press("d")
    until(lambda: decisions(bench).startswith("RRR"))
    time.sleep(ANSWERED_S)
    bench.until_text("[data-testid=scope]", "3 selected frames")
    bench.press("2")
    until(lambda: bench.server.frames(1)[2]["rating"] == 2)
    time.sleep(ANSWERED_S)
    assert [f["rating"] for f in bench.server.frames(1)] == [2, 2, 2, 0, 0, 0, 0]
    bench.press(Keys.ESCAPE, Keys.END)
    until(lambda: len(bench.find("[data-frame]")) == 4)


def test_the_last_frame_of_a_filter_can_be_left(bench: Page) -> None:
    bench.press(Keys.END, "4", Keys.HOME)
    until(lambda: bench.server.frames(1)[6]["rating"] == 4)
    bench.chord(Keys.ALT, "4")
    bench.until_text("[data-testid=shown]", "1 of 7")
    until(lambda: names(bench) == "7")
    bench.press("0")
    until(lambda: bench.server.frames(1)[6]["rating"] == 0)
    time.sleep(ANSWERED_S)
    assert names(bench) == "7"
    bench.press(Keys.ARROW_RIGHT)
    bench.until_text("main", "No frame passes the filter")
    bench.until_text("[data-testid=scope]", "nothing")


def test_one_of_two_is_taken_off(bench: Page) -> None:
    """Whichever it is, neighbours or not: another of the group comes in its place, and the two stay two."""
    lead = next(f["name"] for f in bench.server.frames(1) if f["lead"])[-5]
    beside = str(int(lead) + 1) if lead != "4" else "3"
    bench.press("i")
    until(lambda: len(cells(bench)) == 2)
    while set(names(bench)) != {lead, beside}:
        bench.press(Keys.ARROW_RIGHT)
        time.sleep(0.1)
    # the one that holds its place, by a click on it
    ActionChains(bench.driver).click(bench.find("[data-testid=stage] [role=img][data-frame]")[0]).perform()
    until(lambda: active(bench) == lead)
    bench.press("l")
    until(lambda: lead not in names(bench))
    time.sleep(0.2)
    assert len(cells(bench)) == 2 and beside in names(bench), names(bench)
    assert_in_sight(bench)
    # the other one, which challenges
    gone = active(bench)
    bench.press("l")
    until(lambda: gone not in names(bench))
    time.sleep(0.2)
    assert len(cells(bench)) == 2 and set(names(bench)) < set("1234"), names(bench)
    assert_in_sight(bench)


def test_a_pinch_keeps_its_scale(bench: Page) -> None:
    bench.press("o")
    until(lambda: len(cells(bench)) == 1)
    cell = cells(bench)[0]
    fit = min(cell["width"], cell["height"]) / 512  # the photograph is 512 px wide and high
    bench.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": True, "maxTouchPoints": 2})
    x, y = cell["left"] + cell["width"] / 2, cell["top"] + cell["height"] / 2
    apart = [40, 60, 80, 100, 120]
    touch(bench, *[[(x - a / 2, y), (x + a / 2, y)] for a in apart])
    bench.driver.execute_cdp_cmd("Emulation.setTouchEmulationEnabled", {"enabled": False})
    until(lambda: cells(bench)[0]["zoomed"])
    time.sleep(0.2)
    shown = int(bench.text("[data-testid=stage] output").split(" %")[0]) / 100
    assert shown == pytest.approx(fit * apart[-1] / apart[0], rel=0.06)


def test_a_stage_that_becomes_lower_is_drawn_for_its_height(bench: Page) -> None:
    """The cell keeps its width; its picture is made anew all the same, not rescaled from the one before."""
    bench.press("o")
    until(lambda: cells(bench)[0]["quality"] == "fit")
    time.sleep(1.5)  # all that is made ready for a frame that is looked at is there
    set_size(bench.driver, 1280, 640)
    try:
        until(lambda: cells(bench)[0]["height"] < 560)
        until(lambda: bench.driver.execute_async_script(WORST) <= 2, 10)
    finally:
        set_size(bench.driver, 1280, 800)


WORST = """
const done = arguments[0];
const cell = document.querySelector('[data-active=true]');
const [wide, high] = [cell.clientWidth, cell.clientHeight];
fetch('/api/shoots/1/frames').then(r => r.json()).then(async ({frames}) => {
  const frame = frames.find(f => f.id == cell.dataset.frame);
  const scale = Math.min(wide / frame.width, high / frame.height);
  const size = {resizeWidth: Math.round(frame.width * scale), resizeHeight: Math.round(frame.height * scale)};
  const blob = await (await fetch(`/api/pictures/${frame.id}/${frame.version}/preview`)).blob();
  const bitmap = await createImageBitmap(blob, {...size, resizeQuality: 'high'});
  const other = new OffscreenCanvas(wide, high).getContext('2d');
  other.drawImage(bitmap, Math.round((wide - bitmap.width) / 2), Math.round((high - bitmap.height) / 2));
  const middle = [Math.round(wide / 2) - 50, Math.round(high / 2) - 50, 100, 100];
  const theirs = other.getImageData(...middle).data;
  const mine = cell.querySelector('canvas').getContext('2d').getImageData(...middle).data;
  done(theirs.reduce((worst, value, at) => Math.max(worst, Math.abs(value - mine[at])), 0));
});
"""
"""How far the middle of the active picture is from its preview, reduced by the browser to the size of the cell."""


def test_nothing_is_taken_back_where_it_cannot_be_seen(bench: Page) -> None:
    bench.press("d")
    until(lambda: decisions(bench)[0] == "R")
    bench.press("m")
    bench.way("Sidecars")
    bench.button("Plan the sidecars")
    bench.press("z")
    bench.chord(Keys.CONTROL, "z")
    time.sleep(ANSWERED_S)
    assert decisions(bench)[0] == "R"
    bench.press("b")
    until(lambda: cells(bench))
    bench.press("z")
    until(lambda: decisions(bench)[0] == ".")


def test_the_lead_is_taken_among_what_is_in_view(bench: Page) -> None:
    """A keeper that the filter hides is not rejected with the rest."""
    lead = next(f["name"] for f in bench.server.frames(1) if f["lead"])[-5]
    kept, *others = [n for n in "1234" if n != lead]
    bench.press(*[Keys.ARROW_RIGHT] * (int(kept) - 1), "a")
    until(lambda: decisions(bench)[int(kept) - 1] == "P")
    bench.chord(Keys.ALT, "s")
    bench.press(Keys.HOME)
    until(lambda: kept not in names(bench))
    bench.press("7")
    until(lambda: "R" in decisions(bench))
    expected = {lead: "P", kept: "P", **dict.fromkeys(others, "R")}
    assert decisions(bench) == "".join(expected.get(str(n + 1), ".") for n in range(7))
    bench.press("z")
    until(lambda: decisions(bench).count("P") == 1 and "R" not in decisions(bench))
