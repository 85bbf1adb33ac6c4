"""Labels: by key, on the frame, with a stroke; what they mean, changed; selections and going on."""

from __future__ import annotations

import base64
import io
import json
import time
from pathlib import Path

import numpy as np
from PIL import Image
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page
from tests.browser.stage import cells, decisions, touch
from tests.server import until

ANSWERED_S = 0.4


def marks(page: Page, what: str) -> list[object]:
    """A mark of all frames, in order of names."""
    return [frame[what] for frame in sorted(page.server.frames(1), key=lambda frame: frame["name"])]


def on_wall(page: Page) -> None:
    page.press("v", Keys.HOME)
    page.see("section[aria-label^=Frames] [data-frame]")
    until(lambda: len(page.find("section[aria-label^=Frames] [data-frame]")) == 7)


def chord(page: Page, key: str) -> None:
    page.chord(Keys.SHIFT, key)


def frame(page: Page, number: int) -> object:
    return page.find("section[aria-label^=Frames] [data-frame]")[number]


def test_labels_by_key_in_every_view(bench: Page) -> None:
    bench.press("q")
    until(lambda: marks(bench, "label")[0] == "Retouch")
    bench.until_text("[data-testid=last-action]", "frame POS_0001: label Retouch")
    assert "Retouch" in bench.text("[data-testid=strip]")
    # And with the mouse, under its picture.
    ActionChains(bench.driver).move_to_element(
        bench.find("[data-testid=stage] [role=img][data-frame]")[3]
    ).perform()
    bench.see("[data-testid=strip-labels] [aria-label^='Label Send first']").click()
    until(lambda: marks(bench, "label")[3] == "Send first")
    bench.press("z")
    until(lambda: marks(bench, "label")[3] is None)
    bench.press(Keys.HOME, "w", Keys.ARROW_RIGHT, "e", "e")
    until(lambda: marks(bench, "label")[:2] == ["Combine", None])
    bench.press("o", "q")  # one frame alone
    until(lambda: marks(bench, "label")[1] == "Retouch")
    on_wall(bench)
    bench.press(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, "g", "e")
    until(lambda: marks(bench, "label") == ["Send first"] * 4 + [None] * 3)
    bench.press("z")
    until(lambda: marks(bench, "label")[:3] == ["Combine", "Retouch", None])
    bench.chord(Keys.ALT, "q")
    bench.until_text("[data-testid=shown]", "1 of 7")
    assert "label Retouch" in bench.text("fieldset[aria-label=Filter]")


def test_what_labels_mean_can_be_changed(bench: Page) -> None:
    ids = [one["id"] for one in bench.server.frames(1)]
    bench.server.post("/api/shoots/1/marks", {"frame_ids": ids[:2], "label": "Client"})
    bench.press("q")
    on_wall(bench)
    chord(bench, "q")
    bench.until_text("[data-testid=legend]", "goes on to be edited by hand")
    bench.until_text("[data-testid=legend]", "Client · 1 · not defined here")
    assert bench.serious_problems() == []
    bench.click("Change …")
    bench.click("Adopt Client")
    bench.see("input[aria-label='Key of Combine']").send_keys("a")
    bench.until_text("[role=alert]", "A is the key for: Keep")
    bench.type_over("input[aria-label='Name of Retouch']", "Hand work")
    bench.see("input[aria-label='an editing program']").send_keys("press", Keys.ENTER)
    bench.see("input[aria-label='Text of Client for press']").send_keys("Rot")
    assert bench.serious_problems() == []
    bench.button("Keep 4 changes").click()
    until(lambda: not bench.find("[role=dialog]"))
    bench.until_text("[data-testid=legend]", "Hand work")
    assert "not defined" not in bench.text("[data-testid=legend]")
    bench.press(Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, "r")  # the key that was free
    until(lambda: marks(bench, "label")[2] == "Client")
    kept = bench.server.get("/api/labels")
    assert (kept["program"], [one["name"] for one in kept["labels"]][::3]) == (
        "press",
        ["Hand work", "Client"],
    )
    # Deleted, it stays on its frames; and all can be taken back.
    bench.click("Change …")
    bench.see("button[aria-label='Delete Client']").click()
    bench.until_text("[role=dialog] [role=status]", "Client is on 2 frames")
    bench.button("Keep 1 change").click()
    bench.until_text("[data-testid=legend]", "Client · 2 · not defined here")
    for said in ("label Client deleted", "label Client defined"):
        bench.click("Change …")
        bench.see("[role=dialog]")
        until(lambda said=said: any(said in one.text for one in bench.find("[role=dialog] button")))  # type: ignore[misc]
        next(one for one in bench.find("[role=dialog] button") if said in one.text).click()
        time.sleep(ANSWERED_S)
        bench.press(Keys.ESCAPE)
        until(lambda: not bench.find("[role=dialog]"))
    assert [one["name"] for one in bench.server.get("/api/labels")["labels"]] == [
        "Retouch",
        "Combine",
        "Send first",
    ]
    assert marks(bench, "label")[:3] == ["Retouch", "Client", "Client"]


def test_labels_come_and_go_as_a_file(bench: Page, tmp_path: Path) -> None:
    on_wall(bench)
    chord(bench, "q")
    bench.click("Change …")
    file = tmp_path / "labels.json"
    field = bench.see("input[aria-label='Import labels from a file']")
    file.write_text("not json")
    field.send_keys(str(file))
    bench.until_text("[role=alert]", "holds no labels: it is no JSON")
    twice = [{"name": "Print", "colour": "green", "shape": "ring"}, {"name": "print"}]
    file.write_text(json.dumps({"labels": twice}))
    field.send_keys(str(file))
    bench.see("input[aria-label='Name of Print']")
    bench.run("""window.called = []; URL.createObjectURL = blob => {
      blob.text().then(text => window.called.push(text)); return 'blob:none'; };
      HTMLAnchorElement.prototype.click = () => undefined;""")
    bench.click("Export")
    until(lambda: bench.run("return window.called.length") == 1)
    said = json.loads(bench.run("return window.called[0]"))
    assert [(one["name"], one["shape"]) for one in said["labels"]] == [("Print", "ring"), ("print", "disc")]
    bench.press(Keys.ESCAPE)
    assert len(bench.server.get("/api/labels")["labels"]) == 3, "nothing is in force before it is kept"


def test_marks_on_the_frame_itself(bench: Page) -> None:
    on_wall(bench)
    ActionChains(bench.driver).move_to_element(frame(bench, 2)).perform()
    bar = bench.see("[data-testid=on-frame]")
    bar.find_element("css selector", "[aria-label^='Keep']").click()
    until(lambda: decisions(bench) == "..P....")
    stars = bench.find("[data-testid=on-frame] fieldset button")
    # Across the stars: from the first to the fourth.
    chain = ActionChains(bench.driver, duration=20).move_to_element(stars[0]).click_and_hold()
    chain.move_to_element(stars[2]).move_to_element(stars[3]).release().perform()
    until(lambda: marks(bench, "rating")[2] == 4)
    bench.see("[data-testid=on-frame] [aria-label^='Label Combine']").click()
    until(lambda: marks(bench, "label")[2] == "Combine")
    bench.find("[data-testid=on-frame] fieldset button")[3].click()
    until(lambda: marks(bench, "rating")[2] == 0)
    # Of a selection, all of it.
    bench.press(Keys.HOME)
    bench.chord(Keys.CONTROL, "a")
    ActionChains(bench.driver).move_to_element(frame(bench, 6)).perform()
    bench.see("[data-testid=on-frame] [aria-label^='Reject']").click()
    until(lambda: decisions(bench) == "RRRRRRR")
    bench.press("z")
    until(lambda: decisions(bench) == "..P....")


def test_a_frame_held_by_a_finger_offers_its_marks(bench: Page) -> None:
    on_wall(bench)
    box = frame(bench, 1).rect  # type: ignore[attr-defined]
    at = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 3)
    finger = {"x": at[0], "y": at[1], "id": 0}
    bench.driver.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": "touchStart", "touchPoints": [finger]})
    bench.see("[data-testid=on-frame]")
    bench.driver.execute_cdp_cmd("Input.dispatchTouchEvent", {"type": "touchEnd", "touchPoints": []})
    keep = bench.see("[data-testid=on-frame] [aria-label^='Keep']").rect
    touch(bench, [(keep["x"] + 12, keep["y"] + 12)])
    until(lambda: decisions(bench) == ".P.....")


def test_painting(bench: Page) -> None:
    on_wall(bench)
    chord(bench, "c")
    bench.see("[role=toolbar][aria-label=Paint]")
    bench.press("d")
    assert decisions(bench) == ".......", "the key chooses the paint"
    chain = ActionChains(bench.driver, duration=20).move_to_element(frame(bench, 1)).click_and_hold()
    for number in (2, 3, 4):
        chain = chain.move_to_element(frame(bench, number))
    chain.release().perform()
    until(lambda: decisions(bench) == ".RRRR..")
    bench.see("[data-testid=paint]")
    ActionChains(bench.driver).move_to_element(frame(bench, 2)).click().perform()
    until(lambda: decisions(bench) == ".R.RR..")
    bench.press("w")
    ActionChains(bench.driver).move_to_element(frame(bench, 6)).click().perform()
    until(lambda: marks(bench, "label")[6] == "Combine")
    bench.press(Keys.ESCAPE)
    until(lambda: not bench.find("[role=toolbar][aria-label=Paint]"))
    bench.press("z", "z", "z")
    until(lambda: decisions(bench) == "......." and marks(bench, "label")[6] is None)


def test_selections(bench: Page) -> None:
    on_wall(bench)
    bench.press("q", Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, "q", "a")
    until(lambda: marks(bench, "label")[2] == "Retouch" and decisions(bench) == "..P....")
    bench.press(Keys.HOME)
    chord(bench, "w")
    bench.until_text("[data-testid=scope]", "2 selected frames")
    bench.until_text("[data-testid=scope]", "Retouch · one group")
    bench.chord(Keys.CONTROL, "i")
    bench.until_text("[data-testid=scope]", "5 selected frames")
    bench.until_text("[data-testid=scope]", "all undecided")
    bench.press(Keys.ESCAPE)
    bench.chord(Keys.CONTROL, "g")
    bench.until_text("[data-testid=scope]", "7 selected frames")
    bench.press(Keys.ESCAPE, "?")
    bench.click("Select all with the same people, in this group")
    bench.until_text("[data-testid=scope]", "4 selected frames")


def test_going_on_and_stars_that_keep(bench: Page) -> None:
    bench.click("go on")
    for chip in ("labels", "the next undecided of the group, then the next group"):
        next(one for one in bench.find("[role=dialog] button") if one.text == chip).click()
    next(one for one in bench.find("[role=dialog] button") if one.text.startswith("a star keeps")).click()
    bench.press(Keys.ESCAPE, "n")
    bench.until_text("footer", "go on in the group")
    bench.press("q", "a", "3")  # 1 gets a label, 2 is kept, 3 is kept by its stars
    until(lambda: decisions(bench) == ".PP....")
    assert (marks(bench, "label")[0], marks(bench, "rating")[:3]) == ("Retouch", [0, 0, 3])
    bench.press("d", "d")  # 4, then round to 1
    until(lambda: decisions(bench) == "RPPR...")
    bench.until_text("[data-testid=scope]", "POS_0005")
    bench.press("n", Keys.ARROW_UP, Keys.ARROW_RIGHT, Keys.ARROW_RIGHT, "0")
    until(lambda: decisions(bench) == "RP.R...")
    # While two are compared, one stays.
    bench.press("n", "i", "a")
    time.sleep(ANSWERED_S)
    assert "POS_0003" in bench.text("[data-testid=scope]")


def crop(page: Page) -> np.ndarray:
    """The first face of the table, grey, as it is on screen."""
    data = page.run("return document.querySelector('[data-testid=face-table] canvas')?.toDataURL() ?? ''")
    if not data:
        return np.zeros((1, 1))
    picture = Image.open(io.BytesIO(base64.b64decode(data.partition(",")[2]))).convert("RGB")
    return np.asarray(picture.convert("L"), np.float64)


def test_a_picture_is_turned_and_all_that_lies_on_it(own_bench: Page) -> None:
    """Its shape, its picture, its measurements; and the sidecar says so."""
    page = own_bench
    canvas = "[data-testid=stage] [data-active=true] canvas"
    shape = f"return (c => c.width / c.height)(document.querySelector('{canvas}'))"
    page.press("o")
    until(lambda: len(cells(page)) == 1)
    before = page.server.frames(1)[0]
    eye = page.server.get(f"/api/frames/{before['id']}/evidence")["focus"]["subject"]
    until(lambda: crop(page).std() > 5)
    upright = crop(page)
    page.chord(Keys.CONTROL, Keys.ARROW_RIGHT)
    page.until_text("[data-testid=last-action]", "frame POS_0001: turned right")
    until(lambda: page.server.frames(1)[0]["turn"] == 1)
    after = page.server.frames(1)[0]
    assert (after["width"], after["height"]) == (before["height"], before["width"])
    now = page.server.get(f"/api/frames/{before['id']}/evidence")["focus"]["subject"]
    assert (now["x"], now["y"]) == (before["height"] - 1 - eye["y"], eye["x"])
    until(lambda: (page.run(shape) < 1) == (after["width"] < after["height"]))
    small = "return [...document.querySelectorAll('img')].filter(i => i.src.includes('.1/')).length"
    until(lambda: page.run(small) >= 1)  # those of the spine are turned as well
    # And so is what is cut out of it: the face of the table, against what it was, turned by NumPy.
    until(lambda: len(crop(page)) == len(upright) and np.abs(np.rot90(upright, -1) - crop(page)).mean() < 6)
    page.press("z")
    until(lambda: page.server.frames(1)[0]["turn"] == 0)
    until(lambda: (page.run(shape) < 1) == (before["width"] < before["height"]))
