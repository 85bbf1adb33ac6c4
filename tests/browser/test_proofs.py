"""A proof set as the client sees it, from a folder, and the answer as it comes back."""

from __future__ import annotations

import json
from pathlib import Path

from selenium.webdriver.common.keys import Keys

from tests.api.test_proofs import lay_out
from tests.browser.conftest import Page
from tests.server import until
from winnow.bench.browser import chromium

SAVED = """window.saved = null;
URL.createObjectURL = blob => { blob.text().then(text => window.saved = text); return "#"; };
document.getElementById("save-json").click()"""


def answered(client: Page, target: Path) -> str:
    """Likes two, refuses one, comments; by keys. The file that the page gives back."""
    client.driver.get(f"file://{target}/index.html")
    client.until_text("#counts", "4 pictures · 0 liked")
    assert client.serious_problems() == []
    until(lambda: client.run("return [...document.images].every(i => !i.src || i.naturalWidth > 0)"))
    client.find("#all button")[0].click()
    client.press("l", Keys.ARROW_RIGHT, "n", Keys.ARROW_RIGHT, "l", "c", "crop it")
    assert client.serious_problems() == []
    client.press(Keys.ENTER, Keys.ESCAPE)
    client.until_text("#counts", "2 liked · 1 not")
    client.driver.refresh()
    client.until_text("#counts", "2 liked · 1 not")  # kept in the browser
    assert client.run("return document.getElementById('text').value").splitlines() == [
        "I like 1, 3.", "Not 2.", "Comments, one a line:", "#3: crop it",
    ]  # fmt: skip
    client.see("#client").send_keys("Íde")
    client.run(SAVED)
    until(lambda: client.run("return window.saved"))
    return str(client.run("return window.saved"))


def test_a_client_answers_and_it_becomes_marks(page: Page, shoot_folder: Path, tmp_path: Path) -> None:
    shoot = page.open(shoot_folder, "wall")
    page.server.post(f"/api/shoots/{shoot}/marks", {"frame_ids": [], "decision": "keep"} | {
        "frame_ids": [frame["id"] for frame in page.server.frames(shoot)[:4]]
    })  # fmt: skip
    target = tmp_path / "proofs"
    lay_out(page.server, shoot, target)
    answer = tmp_path / "answer.json"
    with chromium(network=True) as driver:
        answer.write_text(answered(Page(driver, page.server), target), "utf-8")
        sent = [json.loads(entry["message"])["message"] for entry in driver.get_log("performance")]
    asked = [one["params"] for one in sent if one["method"] == "Network.requestWillBeSent"]
    ours = [one["request"]["url"] for one in asked if one["documentURL"].startswith("file://")]
    assert len(ours) >= 5 and all(url.startswith(("file://", "data:", "blob:")) for url in ours)
    page.go(f"/shoots/{shoot}/handoff")
    page.way("A client's answer")
    page.see("[aria-label='Answer of a client']").send_keys(str(answer))
    page.until_text("[data-testid=matched]", "2 pictures liked, 1 not")
    assert page.serious_problems() == []
    page.click("rejected")
    assert page.find("[aria-label='Name of the client']")[0].get_attribute("value") == "Íde"
    page.click("Take the answer over")
    page.until_text("[data-testid=answers]", "2 liked, 1 not")
    frames = page.server.frames(shoot)
    assert [frame["label"] for frame in frames[:4]] == ["Retouch", None, "Retouch", None]
    assert frames[1]["decision"] == "reject"
    # and by mail, with what cannot be told
    page.see("[aria-label='What the client wrote']").send_keys("Rather win 0004 than 99")
    page.click("Read the answer")
    page.until_text("[data-testid=doubts]", "99")
    page.until_text("[data-testid=matched]", "1 picture liked, 0 not")
    # and as a table that a spreadsheet saved
    answer.with_suffix(".csv").write_bytes("number;verdict;comment\r\n2;yes;Schön – 5 €\r\n".encode("cp1252"))
    page.see("[aria-label='Answer of a client']").send_keys(str(answer.with_suffix(".csv")))
    page.until_text("[data-testid=matched]", "1 picture liked, 0 not")
    until(lambda: page.find("[data-testid=matched] [title='Schön – 5 €']"))
