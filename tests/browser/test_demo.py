"""The demo shoot as whoever tries Winnow meets it: all passes one after another on its first hour; it opens; the
first steps."""

from __future__ import annotations

import re
import shutil
import time
from collections.abc import Iterator
from pathlib import Path
from xml.etree import ElementTree

import pytest
from selenium import webdriver
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page, visit
from tests.browser.test_passes import at_its_end, far, in_pass, marks
from tests.server import Server, running, until
from winnow.demo.layout import shipped_frames

XMP = "{http://ns.adobe.com/xap/1.0/}"
"""The XMP basic schema (XMP Specification Part 1)."""
FIRST_HOUR = 50
"""Frames."""


def test_ours_one_after_another_by_keys_alone(lone_page: Page, tmp_path: Path) -> None:
    page, server = lone_page, lone_page.server
    hour = tmp_path / "Hour"
    hour.mkdir()
    for path in sorted(shipped_frames().glob("101TARN/*.JPG"))[:FIRST_HOUR]:
        shutil.copy(path, hour)
    page.open(hour)
    # Weed: all that is undecided starts kept; every seventh is out.
    page.press("p")
    until(lambda: page.find("[role=dialog] li button:focus"))
    page.press(Keys.ENTER)
    weed = in_pass(page, "Weed")["frames"]
    since = time.monotonic()
    page.press(*("d" if place % 7 == 3 else "a" for place in range(len(weed) - 1)))
    time.sleep(3)  # before that it is too early to say a pace
    page.press("d" if len(weed) % 7 == 4 else "a")
    at_its_end(page, "Weed")
    pace = int(re.search(r"(\d+) a minute", far(page))[1])  # type: ignore[index]
    assert 0.25 < pace / (60 * len(weed) / (time.monotonic() - since)) < 4
    out = set(weed[3::7])
    decided = {i: "reject" if i in out else "keep" for i in weed}
    until(lambda: {i: mark["decision"] for i, mark in marks(server).items() if i in decided} == decided)
    page.until_text("[data-testid=pass-end]", f"rejected\n{len(out)}")
    # Choose: what only the pass kept is open again where others compete; the first of each group stays.
    page.press(Keys.ENTER)
    choose = in_pass(page, "Choose")["frames"]
    groups: dict[int, list[int]] = {}
    for frame_id in choose:
        groups.setdefault(marks(server)[frame_id]["group"], []).append(frame_id)
    for _ in groups:
        page.press("a", Keys.ARROW_DOWN)
    at_its_end(page, "Choose")
    kept = {frames[0] for frames in groups.values()}
    until(lambda: {i for i, frame in marks(server).items() if frame["decision"] == "keep"} == kept)
    # Rate: keepers only; stars go on by themselves, and nobody must give any.
    page.press(Keys.ENTER)
    rate = in_pass(page, "Rate")["frames"]
    assert set(rate) == kept
    page.press(*(Keys.ARROW_RIGHT if place % 5 == 4 else "3" for place in range(len(rate))))
    at_its_end(page, "Rate")
    rated = {i for place, i in enumerate(rate) if place % 5 != 4}
    until(lambda: all(marks(server)[i]["rating"] == 3 for i in rated))
    # Sort: the labels.
    page.press(Keys.ENTER)
    sort = in_pass(page, "Sort")["frames"]
    for place in range(len(sort)):
        page.press(*(["q"] if place % 2 else []), Keys.ARROW_RIGHT)
    at_its_end(page, "Sort")
    until(lambda: [marks(server)[i]["label"] for i in sort[1::2]] == ["Retouch"] * len(sort[1::2]))
    # Rescue: rejects and undecided once more; Check: the keepers, full screen.
    page.press(Keys.ENTER)
    rescue = in_pass(page, "Rescue")["frames"]
    assert not set(rescue) & kept
    page.press("a", "a", *["s"] * 3, *[Keys.ARROW_RIGHT] * (len(rescue) - 5))
    at_its_end(page, "Rescue")
    page.press(Keys.ENTER)
    check = in_pass(page, "Check")["frames"]
    assert set(check) == kept | set(rescue[:2])
    page.press(*[Keys.ARROW_RIGHT] * len(check))
    at_its_end(page, "Check")
    page.until_text("[data-testid=pass-end]", "Hand the keepers on")
    done = [(name, True) for name in ("Check", "Rescue", "Sort", "Rate", "Choose", "Weed")]
    until(
        lambda: (
            [
                (walk["name"], walk["seen"] == walk["total"])
                for walk in server.get("/api/shoots/1/passes")["walks"]
            ]
            == done
        )
    )
    on_disk(server, rated, set(sort[1::2]))


def on_disk(server: Server, rated: set[int], labelled: set[int]) -> None:
    """The marks in sidecars, read by another parser."""
    plan = server.post("/api/shoots/1/plans", {"kind": "write-sidecars"})["id"]
    server.post(f"/api/plans/{plan}/apply", {})
    until(lambda: server.get(f"/api/plans/{plan}")["state"] == "applied")
    folder = Path(server.get("/api/shoots/1")["folders"][0])
    found = set()
    for frame in server.frames(1):
        files = [folder / frame["name"], (folder / frame["name"]).with_suffix(".xmp")]
        sidecar = next((file for file in files[1:] if file.exists()), None)
        if frame["problem"]:
            found.add(frame["id"])
        if sidecar is None or frame["problem"]:
            continue
        told: dict[str, str] = {}
        found.add(frame["id"])
        for element in ElementTree.parse(sidecar).iter():
            told |= {**element.attrib, element.tag: element.text or ""}
        if frame["id"] in rated:
            assert told[f"{XMP}Rating"] == "3"
        if frame["id"] in labelled:
            assert told[f"{XMP}Label"] == "Retouch"
        if frame["decision"] == "reject":
            assert told[f"{XMP}Rating"] == "-1"
    assert rated | labelled <= found


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """As `winnow demo` lays it out. Measuring goes on in the background, as it does for a person."""
    folder = tmp_path_factory.mktemp("demo")
    with running(folder / "data", root=folder, command="demo") as server:
        until(lambda: server.get("/api/shoots/1")["progress"]["previewed"] >= 30)
        yield server


@pytest.fixture
def demo_page(driver: webdriver.Chrome, demo: Server) -> Iterator[Page]:
    with visit(driver, demo) as page:
        yield page


def test_the_demo_shoot_opens(demo_page: Page) -> None:
    page = demo_page
    page.go("/shoots/1/wall")
    page.until_text("[data-testid=shown]", "172 of 172")
    until(lambda: len(page.find("[data-frame] img")) > 8)
    widths = page.run(
        "return [...document.querySelectorAll('[data-frame] img')].map(i => i.complete ? i.naturalWidth : -1)"
    )
    assert all(width != 0 for width in widths)
    page.driver.find_element(By.CSS_SELECTOR, "nav[aria-label^=Scenes] button").click()
    page.press("u", Keys.ENTER)
    page.see("[role=img][data-frame]")


def test_first_steps_are_done_by_doing_them(demo_page: Page) -> None:
    page = demo_page
    every = [frame["id"] for frame in page.server.frames(1)]
    page.server.post(
        "/api/shoots/1/marks", {"frame_ids": every, "decision": "undecided", "rating": 0, "label": None}
    )
    page.go("/favicon.svg")
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
