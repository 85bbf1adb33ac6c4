"""A part of the demo shoot, measured: the group completed, clocks of two cameras, people who are missing."""

from __future__ import annotations

import shutil
from collections.abc import Iterator

import pytest
from selenium import webdriver
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page, leave
from tests.server import Server, running, until
from winnow.demo.layout import lay_out
from winnow.demo.second_body import MOMENTS

SHOWN = [*range(428, 431), *range(434, 437), *range(440, 443), *range(462, 469), *range(528, 535)]
"""Three people by the window, two across a table, three in the group photo."""


@pytest.fixture(scope="module")
def measured(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    folder = tmp_path_factory.mktemp("evening")
    laid_out, shoot = lay_out(folder / "demo"), folder / "Evening"
    for name in [f"101TARN/TRN_{n:04d}" for n in SHOWN] + [f"102TMINI/{one}" for one in MOMENTS]:
        (shoot / name).parent.mkdir(parents=True, exist_ok=True)
        shutil.copy2(laid_out / f"{name}.JPG", shoot / f"{name}.JPG")
    with running(folder / "data", root=folder) as server:
        server.open(shoot)
        until(lambda: server.get("/api/shoots/1")["progress"]["state"] == "done", 180)
        yield server


@pytest.fixture
def evening(driver: webdriver.Chrome, measured: Server) -> Iterator[Page]:
    page = Page(driver, measured)
    page.forget()
    ids = [frame["id"] for frame in measured.frames(1)]
    measured.post("/api/shoots/1/marks", {"frame_ids": ids, "decision": "undecided", "label": None})
    page.errors()
    yield page
    leave(page)


def test_the_fewest_frames_that_show_everybody_are_combined(evening: Page) -> None:
    """On the demo shoot, against its truth: who is well shown in which of the frames that are named."""
    page, server = evening, evening.server
    for one in sorted(server.frames(1), key=lambda frame: frame["position"]):
        found = server.get(f"/api/frames/{one['id']}/cover-set")
        if len(found["frames"]) > 1:
            break
    assert len(found["frames"]) == 2 and found["nobody"] == []
    page.go(f"/shoots/1/bench?frame={one['id']}")
    page.until_text("[data-testid=cover-set]", "Everybody well shown")
    page.chord(Keys.SHIFT, "e")
    named = {frame["id"] for frame in found["frames"]}
    until(lambda: {f["id"] for f in server.frames(1) if f["label"] == "Combine"} == named)
    for frame in found["frames"]:
        seen = server.get(f"/api/frames/{frame['id']}/evidence")["faces"]
        for person in frame["people"]:
            face = next(face for face in seen if face["person"] == person)
            assert face["facing"] and {eye["state"] for eye in face["eyes"]} <= {"open", "unknown"}
    ids = [f["id"] for f in server.frames(1)]
    server.post("/api/shoots/1/marks", {"frame_ids": ids[:1], "decision": "keep"})
    page.go("/shoots/1/handoff")
    page.until_text("[data-testid=still-missing]", "in groups without a keeper")
    page.see("[data-testid=still-missing] button").click()
    page.until_text("fieldset[aria-label=Filter]", "groups without a keeper")


def test_a_clock_is_suggested_taken_over_and_undone_and_people_are_missed(evening: Page) -> None:
    page = evening
    page.go("/shoots/1/wall")
    page.click("clocks …")
    page.until_text("[data-testid=suggested-shift]", "its clock is 3 min 20 s slow")
    assert len(page.find("[role=dialog] li img")) == 12
    assert page.serious_problems() == []
    before = [frame["name"] for frame in sorted(page.server.frames(1), key=lambda f: f["position"])]
    page.click("Set it by these")
    page.until_text("[role=dialog]", "Taken over.")
    in_order = lambda: [f["name"] for f in sorted(page.server.frames(1), key=lambda f: f["position"])]  # noqa: E731
    until(lambda: in_order() != before, 60)
    page.click("By its own clock again")
    page.button("Set it by these")
    until(lambda: in_order() == before, 60)
    page.click("Close")
    # One of three people by the window kept: the others of that scene are in no kept frame.
    mara = next(frame for frame in page.server.frames(1) if frame["name"].endswith("TRN_0428.JPG"))
    page.server.post("/api/shoots/1/marks", {"frame_ids": [mara["id"]], "decision": "keep"})
    page.until_text("nav[aria-label='Scenes and groups']", "2 unkept")
    page.click("2 unkept")
    page.until_text("fieldset[aria-label=Filter]", "people without a keeper")
    there = page.server.get("/api/shoots/1/view?show=people+without+a+keeper,+scene+1")["ids"]
    frames = {frame["id"]: frame for frame in page.server.frames(1)}
    assert there and all(frames[one]["people"] != mara["people"] for one in there)
