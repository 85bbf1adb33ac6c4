"""Takes the pictures of docs/screenshots from the demo shoot: `make screenshots`."""

from __future__ import annotations

import time
from pathlib import Path
from tempfile import TemporaryDirectory
from urllib.parse import urlencode

from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys

from tests.browser.conftest import Page, browser
from tests.server import running, until
from winnow.demo.editor import edit
from winnow.demo.layout import shipped_frames

CHOSEN = (2, 5, 9, 16, 19, 24, 26, 28, 31, 34, 38, 40, 44, 48, 52, 57)
"""What the client is shown."""
TARGET = Path(__file__).parents[2] / "docs" / "screenshots"


def copy_under_way(page: Page, folder: Path) -> None:
    """A card with so much on it that its copy can be seen: the shipped frames, six times, a byte longer each."""
    slot = folder / "demo" / "volumes" / "TARN III"
    for number in range(6):
        for path in shipped_frames().rglob("*.JPG"):
            there = slot / "DCIM" / f"{100 + number}TARNS" / path.name
            there.parent.mkdir(parents=True, exist_ok=True)
            there.write_bytes(path.read_bytes() + bytes([number]))
    for name in ("Pictures", "Backup"):
        (folder / "demo" / name).mkdir()
    page.go("/card?" + urlencode({"from": slot / "DCIM"}))
    for opened_by, place in (("Choose a folder …", "Pictures"), ("A second copy …", "Backup")):
        page.click(opened_by)
        page.see("[role=dialog] input").send_keys(str(folder / "demo" / place))
        page.click("Choose")
        until(lambda: not page.find("[role=dialog]"))
    page.click("Plan the copy")
    page.see("[data-testid=plan]")
    page.driver.find_element(By.XPATH, "//button[starts-with(normalize-space(), 'Copy ')]").click()
    page.see("progress")


def main() -> None:
    TARGET.mkdir(parents=True, exist_ok=True)
    with TemporaryDirectory(prefix="pictures-") as name:
        folder = Path(name)
        with running(folder, root=folder, command="demo") as server, browser() as driver:
            page = Page(driver, server)
            page.forget()

            def shot(title: str) -> None:
                time.sleep(1.2)
                driver.save_screenshot(str(TARGET / f"{title}.png"))

            until(lambda: server.get("/api/shoots/1")["progress"]["state"] == "done", 400)
            frames = server.frames(1)
            ids = [frame["id"] for frame in frames]

            def mark(numbers: list[int], **values: object) -> None:
                wanted = {"frame_ids": [ids[n] for n in numbers], **values}
                server.post("/api/shoots/1/marks", wanted)

            mark([0, 1, 3, 6, 8, 10, 14, 21, 22], decision="reject")
            mark([2, 5, 9, 16, 19, 24], decision="keep")
            mark([5, 16], rating=5)
            mark([2, 9], rating=3)
            mark([2, 16, 31], label="Retouch")
            mark([5, 24], label="Combine")
            mark([9, 19, 40], label="Send first")
            page.go("/shoots/1/wall")
            until(lambda: len(page.find("[data-frame] img")) > 10)
            page.press(*[Keys.ARROW_RIGHT] * 3)
            page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
            shot("wall")
            page.press(Keys.ESCAPE)
            page.chord(Keys.CONTROL, "f")
            page.see("[role=combobox]").send_keys("not rejects, eyes open, 50–85 mm, not labelled")
            page.click("Focal length")
            shot("filter")
            page.press(Keys.ESCAPE)
            press = {
                "name": "For the press",
                "caption": "{title}, {date}",
                "copyright": "© {date:%Y} Íde Bhriain",
            }
            server.request("PUT", "/api/templates", press)
            words = {"frame_ids": ids[24:27], "add_keywords": ["portrait", "window light"]}
            server.post("/api/shoots/1/words", words)
            server.post("/api/shoots/1/words", {"frame_ids": ids[25:26], "headline": "Open evening"})
            page.go(f"/shoots/1/wall?show=&frame={ids[24]}")
            until(lambda: len(page.find("[data-frame] img")) > 10)
            for _ in range(4):
                page.chord(Keys.SHIFT, Keys.ARROW_RIGHT)
            page.chord(Keys.SHIFT, "t")
            page.until_text("[data-testid=words]", "3 of 5")
            page.press("A visitor by the window")
            shot("words")
            page.press(Keys.ESCAPE)
            page.chord(Keys.SHIFT, "t")
            page.press(Keys.ESCAPE)
            page.go("/shoots/1/wall?show=")
            until(lambda: len(page.find("[data-frame] img")) > 10)
            page.press(Keys.HOME)
            page.press(*[Keys.ARROW_RIGHT] * 3)
            page.press(Keys.ESCAPE, *[Keys.ARROW_DOWN] * 17, Keys.ENTER)
            until(lambda: page.find("[data-testid=face-table]"))
            shot("bench")
            page.press("o", "k")
            shot("bench-blur-map")
            page.press("k", "g")
            page.press(Keys.ARROW_DOWN, ",")
            shot("bench-faces")
            page.press(",")
            page.chord(Keys.SHIFT, "h")
            shot("history")
            page.chord(Keys.SHIFT, "h")
            page.chord(Keys.SHIFT, "l")
            page.chord(Keys.SHIFT, "l")
            page.chord(Keys.SHIFT, "l")
            walk = server.post("/api/shoots/1/passes", {"name": "Choose"})
            back = driver.current_url
            page.go(f"/shoots/1/bench?pass={walk['id']}")
            page.until_text("[data-testid=pass-line]", "Choose")
            for _ in range(9):
                time.sleep(0.8)  # a pace to be shown
                page.press(Keys.ARROW_DOWN)
            page.press("d", "d", "a")
            shot("pass")
            while not page.find("[data-testid=pass-end]"):
                page.press(Keys.ARROW_DOWN)
            page.until_text("[data-testid=pass-end]", "Next: ")
            server.post(f"/api/shoots/1/passes/{walk['id']}/take-back")
            page.go("/keys")
            page.see("[aria-label='Find a command']").send_keys("blur map")
            page.see("ul[aria-label=Commands] button[title$='press another key for it']").click()
            page.press("-")
            shot("keys")
            driver.get(back)
            until(lambda: page.find("[role=img][data-frame]"))
            page.press(Keys.ESCAPE)
            page.go("/shoots/1/handoff")
            page.click("Choose a folder …")
            page.see("[role=dialog] input").send_keys(str(folder / "demo" / "Client"))
            page.click("Choose")
            until(lambda: not page.find("[role=dialog]"))
            page.click("Plan a copy")
            page.see("[data-testid=plan]")
            shot("handoff")
            page.way("Other names")
            page.say_word("subject", "kiln")
            page.type_over("[aria-label='Pattern of the names']", "{subject}_{letter}_{scene}")
            page.until_text("fieldset[aria-label=Names]", "would share a name")
            shot("handoff-names")
            page.way("Rejects")
            page.click("Plan to hold them back")
            page.see("[data-testid=plan]")
            page.driver.find_element(By.XPATH, "//button[starts-with(normalize-space(), 'Move ')]").click()
            until(lambda: page.find("[data-state=applied]"))
            page.way("Holding folder")
            until(lambda: page.find("[aria-label='Held back'] img"))
            page.find("[aria-label='Held back'] button")[1].click()
            page.driver.find_element(By.XPATH, "//button[starts-with(normalize-space(), 'Off the')]").click()
            page.see("[data-testid=plan]")
            shot("handoff-holding")
            page.go("/shoots/1/sync")
            page.until_text("[data-testid=sync-counts]", "go out")
            page.driver.find_element(By.XPATH, "//button[starts-with(normalize-space(), 'Settle ')]").click()
            page.until_text("[role=status]", "files written")
            server.request("PUT", "/api/settings", {"takes_in": False})
            demo = Path(server.get("/api/shoots/1")["folders"][0])
            mark([5, 16, 24], rating=2)
            mark([2, 9], label="Combine")
            edit([demo / frames[n]["name"] for n in (2, 5, 16, 31)])
            page.click("Look again")
            page.see("[data-testid=both-row]")
            page.click("the newer wins")
            shot("sync")
            proof = {"target": str(folder / "demo" / "For the client"), "title": "Open evening at the kiln"}
            proof |= {"note": "Please choose about ten for the leaflet.", "frames": [ids[n] for n in CHOSEN]}
            made = server.post("/api/shoots/1/proofs", proof | {"expires": "Until 1 November 2026"})
            server.post(f"/api/plans/{made['plan']['id']}/apply")
            until(lambda: server.get(f"/api/plans/{made['plan']['id']}")["state"] == "applied")
            page.go("/shoots/1/handoff")
            page.way("A client's answer")
            wrote = "I love 2, 5-7 and trn 0413!!, not 9. And 3 copies of 4 please."
            page.see("[aria-label='What the client wrote']").send_keys(wrote)
            page.click("Read the answer")
            page.see("[data-testid=doubts]")
            shot("answer")
            page.go("/")
            page.see("[data-testid=card]")
            shot("shoots")
            page.go("/settings")
            page.see("#takes_in")
            shot("settings")
            page.go("/")
            page.see("[data-testid=card]")
            copy_under_way(page, folder)
            shot("card")
            page.go("/shoots/1/bench")
            until(lambda: page.find("[data-testid=face-table]"))
            back = driver.current_url
            driver.get(f"file://{folder}/demo/For the client/index.html")
            page.find("#all button")[0].click()
            page.press("l", Keys.ARROW_RIGHT, "n", Keys.ARROW_RIGHT, "l", Keys.ESCAPE)
            shot("proof")
            driver.get(back)
            until(lambda: page.find("[data-testid=face-table]"))
            server.kill()
            page.press("d", Keys.ARROW_RIGHT, "a", "4")
            page.until_text("footer", "3 marks wait")
            shot("bench-marks-wait")


if __name__ == "__main__":
    main()
