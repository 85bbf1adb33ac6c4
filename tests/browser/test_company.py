"""Two people in one shoot: each sees where the other is, and can come along; one proposes, one decides."""

from __future__ import annotations

from pathlib import Path
from urllib.parse import urlsplit

from tests.api.test_proposals import assistant_of
from tests.browser.conftest import Page, browser, visit
from tests.server import until

OTHERS = "ul[aria-label='Others in this shoot'] button"


def named(page: Page, name: str) -> None:
    page.go("/favicon.svg")  # no application: that takes longer
    page.run(
        "const kept = JSON.parse(localStorage.getItem('winnow.settings') ?? '{\"state\":{},\"version\":0}');"
        "kept.state.name = arguments[0]; localStorage.setItem('winnow.settings', JSON.stringify(kept))",
        name,
    )


def test_one_comes_along_with_another(bench: Page) -> None:
    page = bench
    assert page.find(OTHERS) == [], "nobody is there yet"
    ids = [frame["id"] for frame in page.server.frames(1)]
    with browser() as second, visit(second, page.server) as other:
        named(other, "Mia")
        other.go(f"/shoots/1/wall?frame={ids[2]}")
        page.until_text(OTHERS, "Mia")
        page.until_text(OTHERS, "0003")
        other.until_text(OTHERS, "another window")  # who gave no name
        # Coming along: to the frame, to the screen, and on from there.
        page.find(OTHERS)[0].click()
        page.until_text("[data-testid=scope]", "POS_0003")
        until(lambda: urlsplit(page.driver.current_url).path == "/shoots/1/wall")
        page.until_text(OTHERS, "with Mia")
        other.press("\ue014")  # right
        page.until_text("[data-testid=scope]", "POS_0004")
        assert page.serious_problems() == []
        # Going anywhere by oneself ends it.
        page.press("\ue012")
        page.until_text("[data-testid=scope]", "POS_0003")
        until(lambda: page.find(OTHERS)[0].get_attribute("aria-pressed") == "false")
        other.press("\ue014")
        page.until_text(OTHERS, "0005")
        assert "POS_0003" in page.text("[data-testid=scope]")
        # What the other marks is signed.
        other.press("a")
        until(lambda: page.server.frames(1)[4]["decision"] == "keep")
        assert page.server.get("/api/shoots/1/history")["entries"][0]["actor"] == "Mia"
    until(lambda: page.find(OTHERS) == [])


def test_what_an_assistant_proposes_is_seen_and_decided_over(own_bench: Page, tmp_path: Path) -> None:
    page, at = own_bench, f"/api/shoots/{own_bench.shoot}"
    mia = assistant_of(page.server, tmp_path / "data")
    ids = [frame["id"] for frame in page.server.frames(page.shoot)]
    assert "proposed" not in page.text("header")
    mia.post(f"{at}/marks", {"frame_ids": ids[:3], "decision": "keep", "rating": 3})
    page.until_text("header", "3 proposed")
    page.until_text("main", "Mia")
    # One by one: the same key takes it over, another one says otherwise.
    page.press("\ue011", "a", "3")
    page.until_text("header", "2 proposed")
    page.click("2 proposed")
    page.until_text("header", "Take over 2")
    assert page.serious_problems() == []
    page.click("Take over 2")
    until(lambda: [frame["proposed"] for frame in page.server.frames(page.shoot)] == [None] * len(ids))
    page.until_text("[data-testid=last-action]", "what Mia proposed taken over")
    page.until_text("header", "none hidden")
    page.press("z")
    page.click("2 proposed")
    page.click("Turn down")
    until(
        lambda: (
            [frame["decision"] for frame in page.server.frames(page.shoot)][:3]
            == ["keep", *["undecided"] * 2]
        )
    )
