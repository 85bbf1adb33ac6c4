"""Every key of the list of keys does what the list says. A command that is not here fails the test."""

from __future__ import annotations

import time
from collections.abc import Callable
from pathlib import Path
from typing import Any, NamedTuple

from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import active, cells, names
from tests.server import until

HELD = {"Shift": Keys.SHIFT, "Ctrl": Keys.CONTROL, "Alt": Keys.ALT}
NAMED = {
    "→": Keys.ARROW_RIGHT,
    "←": Keys.ARROW_LEFT,
    "↑": Keys.ARROW_UP,
    "↓": Keys.ARROW_DOWN,
    "Space": " ",
    "⌫": Keys.BACKSPACE,
    "Esc": Keys.ESCAPE,
    "Enter": Keys.ENTER,
    "Home": Keys.HOME,
    "End": Keys.END,
    "Page↓": Keys.PAGE_DOWN,
    "Page↑": Keys.PAGE_UP,
}


def press(page: Page, shown: str) -> None:
    """Presses keys as the list shows them, with a comma between: "Shift Z, A"."""
    for one in shown.split(", "):
        *held, key = one.replace("Page ", "Page").split(" ")
        chain = ActionChains(page.driver)
        for name in held:
            chain.key_down(HELD[name])
        chain.send_keys(NAMED.get(key, key.lower()))
        for name in reversed(held):
            chain.key_up(HELD[name])
        chain.perform()


class Told(NamedTuple):
    """What a key does. first, last: keys before and after it; look: what is seen of it."""

    look: Callable[[Page], object] = lambda _: True
    first: str = ""
    last: str = ""
    repaints: bool = False
    """The picture looks otherwise than before."""


def frame(page: Page, number: int = 1) -> dict[str, Any]:
    return page.server.frames(1)[number - 1]


def marked(field: str, value: object, first: str = "") -> Told:
    return Told(lambda p: frame(p)[field] == value, first, "Z")


def at(name: str, first: str = "") -> Told:
    return Told(lambda p: active(p) == name, first, "Home")


def there(selector: str, last: str = "") -> Told:
    return Told(lambda p: p.find(selector), "", last)


def gone(selector: str, last: str) -> Told:
    return Told(lambda p: not p.find(selector), "", last)


def layout(name: str, last: str = "G", first: str = "") -> Told:
    chosen = "[aria-label='Layout of the stage'] [data-state=on]"
    return Told(lambda p: p.run(f'return document.querySelector("{chosen}")?.innerText') == name, first, last)


def filtered(shown: str, first: str = "") -> Told:
    """The same key again takes it off."""
    return Told(lambda p: shown in p.text("[data-testid=shown]"), first, "again")


def groups(want: list[int], first: str = "") -> Told:
    """How many frames each group has."""

    def sizes(page: Page) -> list[int]:
        numbers = [one["group"] for one in page.server.frames(1)]
        return [numbers.count(number) for number in dict.fromkeys(numbers)]

    return Told(lambda p: sizes(p) == want, first, "Z, Home")


def switched(text: str, on: bool) -> Told:
    """A switch on the line under the stage; the same key again switches back."""
    path = f"//*[@data-testid='stage-line']//button[@aria-pressed='{str(on).lower()}'][contains(., '{text}')]"
    return Told(lambda p: p.driver.find_elements(By.XPATH, path), "", "again")


def screen(name: str, last: str) -> Told:
    return Told(lambda p: f"/{name}" in p.driver.current_url, "", last)


def zoomed(last: str) -> Told:
    return Told(lambda p: all(cell["zoomed"] for cell in cells(p)), "", last)


BOTH: dict[str, Told] = {
    "Keep": marked("decision", "keep"),
    "Reject": marked("decision", "reject"),
    "Undo the last mark": Told(lambda p: frame(p)["decision"] == "undecided", "A"),
    "Redo": Told(lambda p: frame(p)["decision"] == "reject", "D, Z", "Z"),
    "Going on by itself after a mark: on or off": there("[role=switch][aria-checked=true]", "again"),
    "No stars": Told(lambda p: frame(p)["rating"] == 0, "2", ""),
    "1 star": marked("rating", 1),
    **{f"{n} stars": marked("rating", n) for n in (2, 3, 4, 5)},
    "Label: Retouch": marked("label", "Retouch"),
    "Label: Combine": marked("label", "Combine"),
    "Label: Send first": marked("label", "Send first"),
    "No label": Told(lambda p: frame(p)["label"] is None, "Q", ""),
    "Turn the picture left": marked("turn", 3),
    "Turn the picture right": marked("turn", 1),
    "Labels: what they mean, and how to change them": there("[data-testid=legend]", "again"),
    "History: what was done, and back to any point": there("[data-testid=history]", "again"),
    "Words: caption, keywords, creator; in the caption Ctrl Enter goes on to the next frame": there(
        "[data-testid=words]", "Esc, again"
    ),
    "Only the picture": gone("header", "again"),
    "Spine: show or hide": gone("nav[aria-label='Scenes and groups']", "again"),
    "Keep the lead, leave the rest": Told(
        lambda p: [f["lead"] for f in p.server.frames(1) if f["decision"] == "keep"] == [True], "", "Z, Home"
    ),
    "Keep the lead, reject the rest": Told(
        lambda p: sum(f["decision"] == "reject" for f in p.server.frames(1)) == 3, "", "Z, Home"
    ),
    "Begin a new group at this frame": groups([1, 3, 2, 1], "→"),
    "Join with the next group": groups([6, 1]),
    "Move the frame to the group before": groups([5, 1, 1], "↓"),
    "Move the frame to the next group": groups([3, 3, 1], "→, →, →"),
    "Show all, and back to the filter": Told(
        lambda p: "7 of 7" in p.text("[data-testid=shown]"), "Alt A", "H, Alt A"
    ),
    "Ask for more: choose, or type a filter": there("input:focus, [role=dialog]", "Esc"),
    "Filter: keepers": filtered("0 of 7"),
    "Filter: undecided": filtered("7 of 7"),
    "Filter: rejects": filtered("0 of 7"),
    "Filter: at least 1 star": filtered("0 of 7"),
    **{f"Filter: at least {n} stars": filtered("0 of 7") for n in (2, 3, 4, 5)},
    "Filter: unrated": filtered("7 of 7"),
    "Filter: label Retouch": filtered("0 of 7"),
    "Filter: label Combine": filtered("0 of 7"),
    "Filter: label Send first": filtered("0 of 7"),
    "Open in an editing program": Told(lambda p: "editing program" in p.text("[role=dialog]"), "", "Esc"),
    "Passes: begin one, or go on with one": Told(lambda p: "Weed" in p.text("[role=dialog]"), "", "Esc"),
    "Find anything: commands, filters, scenes, frames": there("[role=combobox]", "Esc"),
    "Full screen": Told(lambda p: p.run("return document.fullscreenElement !== null"), "", "again"),
    "Surround: dark, mid, light": there("[data-surround=mid]", "again, again"),
    "First steps: six, each done by doing it": there("[data-testid=guide]", ""),
    "The keys in force": Told(lambda p: "Keys on the" in p.text("[role=dialog]"), "", "Esc"),
}

BENCH: dict[str, Told] = BOTH | {
    "Leave undecided, go on": at("2"),
    "Next frame": at("2"),
    "Previous frame": at("1", "→"),
    "Next group": at("5"),
    "Previous group": at("1", "↓"),
    "Next group with something undecided": at("5"),
    "Next undecided frame": at("2"),
    "First frame": at("1", "→"),
    "Last frame": at("7"),
    "Next face of this frame, close up": zoomed("Space"),
    "Previous face": zoomed("Space"),
    "The whole group on the stage": layout("group", "", "O"),
    "Two frames: one holds its place, the arrows bring challengers": layout("two"),
    "One frame": layout("one"),
    "Flip two frames in the same spot": Told(
        lambda p: "flipping" in p.text("[data-testid=stage-line]"), "", "G"
    ),
    "Two frames: swap sides": Told(lambda p: cells(p)[0]["active"], "I", "G"),
    "Two frames: the challenger takes the place": Told(lambda p: active(p) != "1", "I", "G, Home"),
    "Take the frame off the stage": Told(lambda p: names(p) == "234", "", "⌫, Home"),
    "Reject, and off the stage": Told(
        lambda p: names(p) == "234" and frame(p)["decision"] == "reject", "", "Z, ⌫, Home"
    ),
    "Put back what left the stage last": Told(lambda p: names(p) == "1234", "L", "Home"),
    "Only undecided and kept on the stage: on or off": switched("without rejects", True),
    "100 % at the pointer or the subject, and back": zoomed("again"),
    "200 %, and back": zoomed("again"),
    "The zoom follows the subject from frame to frame: on or off": switched("follow", False),
    "Light up edges in focus": Told(last="again", repaints=True),
    "Hatch what is burnt or blocked": Told(last="again", repaints=True),
    "Blur map over the picture: σ in px by tiles, faces, subject": Told(last="again", repaints=True),
    "Face table: wide or narrow": there("[data-testid=face-table]", "again"),
    "Run through what is in view, full screen; again: end it": there("[data-testid=changing]", "again, G"),
    "Without the profiles of the files: on or off": there("[data-testid=plain]", "again"),
    "Loupe under the pointer, while held": Told(lambda p: p.find("[data-testid=loupe]"), "held"),
    "Evidence: show or hide": gone("[data-testid=measured]", "again"),
    "To the wall": screen("wall", "B"),
    "Back: out of the pass, or to the wall": screen("wall", "B"),
    "Wall": screen("wall", "B"),
    "Handoff": screen("handoff", "B"),
    "Sync": screen("sync", "B"),
}

WALL: dict[str, Told] = {
    "Leave undecided, go on": Told(lambda p: "POS_0002" in p.text("[data-testid=scope]"), "", "Home"),
    "Select the frame, or take it out": Told(lambda p: selected(p) == 1, "", "Esc"),
    "Selection up to the next frame": Told(lambda p: selected(p) == 2, "", "Esc, Home"),
    "Selection up to the previous frame": Told(lambda p: selected(p) == 2, "→", "Esc, Home"),
    "Select the group": Told(lambda p: selected(p) == 4, "", "Esc"),
    "Select the scene": Told(lambda p: selected(p) == 7, "", "Esc"),
    "Select what is not selected": Told(lambda p: selected(p) == 6, "Space", "Esc"),
    "Select all with the same label": Told(lambda p: selected(p) == 7, "", "Esc"),
    "Select all with the same stars": Told(lambda p: selected(p) == 7, "", "Esc"),
    "Select all with the same decision": Told(lambda p: selected(p) == 7, "", "Esc"),
    "Select all in view": Told(lambda p: selected(p) == 7, "", "Esc"),
    "Select nothing, or end painting": Told(lambda p: selected(p) == 0, "Ctrl A", ""),
    "Paint: press the key of a mark, then click or drag over frames": there("[aria-label=Paint]", "Esc"),
    "The selected frames on the stage": Told(lambda p: "/bench" in p.driver.current_url, "Ctrl A", "V"),
    "Select again what was selected when the wall was left": Told(
        lambda p: selected(p) == 7, "Ctrl A, Enter, V", "Esc"
    ),
    "Wall: dense, standard, table": there("[role=table]", "again, again"),
    "To the bench": screen("bench", "V"),
    "Bench": screen("bench", "V"),
}

ELSEWHERE = {
    "A second window with the active frame, large": "test_a_second_window_opens",
    "Capture data over the picture: show or hide": "test_capture_data_over_the_picture",
    "In a pass: several frames together, to be rejected at once": "test_several_at_once_are_shown_first",
    "Label the fewest frames in which everybody is well shown: Combine": (
        "test_the_fewest_frames_that_show_everybody_are_combined"
    ),
    "Copy the names, one a line; what is marked as text goes first": "test_names_are_copied",
    "Next scene": "test_first_steps_are_done_by_doing_them",
    "Previous scene": "test_first_steps_are_done_by_doing_them",
    "Long group: next run of frames": "test_a_long_group_comes_in_runs",
    "Long group: previous run": "test_a_long_group_comes_in_runs",
    "Read the folder again and try what failed": "test_copies_and_trying_again",
    "Run through: a second shorter; less than one: by key": "test_run_through_by_timer_and_by_key",
    "Run through: each frame stays a second longer": "test_run_through_by_timer_and_by_key",
    "This is what matters: the point under the pointer, in the whole group; there again: take it back": (
        "test_a_point_of_ones_own_gives_the_verdict_for_the_group"
    ),
    "Undo all moving about": "test_all_are_moved_together_or_one_alone",
}
"""What one key does not show; the test that shows it."""


def selected(page: Page) -> int:
    words = page.text("[data-testid=scope]")
    return int(words.split("acts on ")[1].split()[0]) if "selected" in words else 0


def sheet(page: Page) -> dict[str, str]:
    """The first key of each command of the screen that has one, by its title."""
    page.press("?")
    page.until_text("[role=dialog]", "Keys on the")
    rows = page.run(
        """return [...document.querySelectorAll('[role=dialog] dl > div')].map(row =>
        [row.querySelector('dt').innerText, row.querySelector('dd kbd')?.innerText ?? ''])"""
    )
    page.press(Keys.ESCAPE)
    until(lambda: not page.find("[role=dialog]"))
    return {title: key for title, key in rows if key}


def picture(page: Page) -> object:
    return page.run(
        "return document.querySelector('[data-testid=stage] canvas')?.toDataURL('image/jpeg', 0.5)"
    )


def does_it(page: Page, key: str, told: Told) -> bool:
    if told.first == "held":
        cell = page.see("[data-testid=stage] [role=img][data-frame]")
        ActionChains(page.driver).move_to_element(cell).key_down(key.lower()).perform()
        until(lambda: told.look(page), 10)
        ActionChains(page.driver).key_up(key.lower()).perform()
        until(lambda: not told.look(page), 10)
        return True
    if told.first:
        press(page, told.first)
    before = picture(page) if told.repaints else None
    press(page, key)
    try:
        until(lambda: told.look(page) and (not told.repaints or picture(page) != before), 10)
    except AssertionError:
        return False
    for one in told.last.replace("again", key).split(", "):
        if one:
            press(page, one)
        if one == "Z":
            # Its answer leads to what it changed: not in the middle of what comes next.
            page.until_text("[data-testid=last-action]", "undone")
            time.sleep(0.3)
    return True


def works(page: Page, key: str, told: Told, screen: str) -> bool:
    """Begins anew where a key did not do what is said, so that the others can be tried."""
    if screen == "bench":
        # An undo leads to what it changed, when the answer is there.
        until(lambda: page.press(Keys.HOME) or (active(page) == "1" and names(page) == "1234"), 10)
    done = does_it(page, key, told)
    if not done:
        page.go(f"/shoots/1/{screen}?frame={frame(page)['id']}")
        page.until_text("[data-testid=scope]", "POS_0001")
    return done


def test_every_key_of_the_list_does_what_it_says(own_bench: Page) -> None:
    page = own_bench
    keys = sheet(page)
    assert set(keys) - set(ELSEWHERE) == set(BENCH)
    idle = [title for title, told in BENCH.items() if not works(page, keys[title], told, "bench")]
    page.press(Keys.HOME, "v")
    page.until_text("[data-testid=shown]", "7 of 7")
    on_wall = sheet(page)
    assert set(on_wall) - set(ELSEWHERE) - set(BENCH) <= set(WALL)
    idle += [title for title, told in WALL.items() if not works(page, on_wall[title], told, "wall")]
    print("IDLE", *idle, sep="\n  ")
    assert idle == []


def test_a_long_group_comes_in_runs(own_bench: Page) -> None:
    page = own_bench
    page.chord(Keys.SHIFT, "j")
    until(lambda: names(page) == "123")  # of six
    page.press(Keys.PAGE_DOWN)
    until(lambda: names(page) == "456")
    page.press(Keys.PAGE_UP)
    until(lambda: names(page) == "123")


def test_a_second_window_opens(bench: Page) -> None:
    driver = bench.driver
    here = driver.current_window_handle
    bench.chord(Keys.SHIFT, Keys.ENTER)
    until(lambda: len(driver.window_handles) == 2)
    driver.switch_to.window(next(handle for handle in driver.window_handles if handle != here))
    until(lambda: driver.current_url.endswith("/shoots/1/large") and names(bench) == "1")
    driver.close()
    driver.switch_to.window(here)


def test_what_is_shown_elsewhere_is_there() -> None:
    here = "".join(file.read_text() for file in Path(__file__).parent.glob("test_*.py"))
    for test in set(ELSEWHERE.values()):
        assert f"def {test}(" in here
