"""From a card to a shoot, by the interface: seen, copied twice, worked on; and nothing written to it."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import bagit
import pytest
from selenium import webdriver

from tests import photographs
from tests.browser.conftest import Page, visit
from tests.faults.scene import contents
from tests.server import running, until
from winnow.demo.card import Card


@pytest.fixture
def card(tmp_path: Path) -> Card:
    return Card(
        tmp_path / "volumes" / "EVENING B", photographs.shoot(tmp_path / "frames", edge=photographs.WHOLE)
    )


@pytest.fixture
def card_page(driver: webdriver.Chrome, tmp_path: Path, card: Card) -> Iterator[Page]:
    volumes = card.slot.parent
    volumes.mkdir()
    with (
        running(tmp_path / "data", "--volumes", str(volumes), root=tmp_path) as server,
        visit(driver, server) as page,
    ):
        yield page


def choose(page: Page, opened_by: str, folder: Path) -> None:
    page.click(opened_by)
    page.see("[role=dialog] input").send_keys(str(folder))
    page.click("Choose")
    until(lambda: not page.find("[role=dialog]"))


def test_a_card_comes_in_twice_and_is_culled(card_page: Page, card: Card, tmp_path: Path) -> None:
    page = card_page
    page.go("/")
    page.until_text("main", "No shoot is open yet")
    before = contents(card.insert())
    page.until_text("[data-testid=card]", "6 frames")
    page.until_text("[data-testid=card]", "6 not here yet")
    # on the card itself: marks, but nothing that writes to it
    page.click("Copy …")
    page.until_text("[data-testid=new-here]", "6 frames not here yet")
    page.click("Look through the card")
    page.until_text("[data-testid=scope]", "WIN_0001")
    page.press("a")
    page.until_text("[data-testid=last-action]", "kept")
    shoot = page.run("return location.pathname.split('/')[2]")
    page.go(f"/shoots/{shoot}/handoff")
    page.way("Sidecars")
    page.click("Plan the sidecars")
    page.until_text("[role=alert]", "to which nothing is written")
    page.errors()  # that refusal
    # both copies, under new names
    page.go("/")
    page.until_text("[data-testid=card]", "6 not here yet")
    page.click("Copy …")
    (tmp_path / "one").mkdir()
    (tmp_path / "two").mkdir()
    choose(page, "Choose a folder …", tmp_path / "one")
    choose(page, "A second copy …", tmp_path / "two")
    page.click("new names")
    page.until_text("[role=status]", "Say what {subject} is")
    page.say_word("subject", "kiln")
    page.until_text("[data-testid=names]", "kiln_20261017_0001")
    page.click("Plan the copy")
    page.until_text("[data-testid=plan]", "6 frames, 24 files")
    page.click("Copy 24 files")
    until(lambda: page.find("[data-testid=past-plan][data-state=applied]"))
    page.click("Report …")
    page.until_text("[data-testid=report]", "12 copies")
    page.click("Close")
    page.click("Start")
    page.until_text("[data-testid=scope]", "kiln_20261017_0001")
    page.until_text("[data-testid=shown]", "6 of 6")
    # the mark that was made on the card
    until(lambda: page.server.frames(2)[0]["decision"] == "keep")
    assert contents(card.slot / "DCIM") == before
    for place in ("one", "two"):
        copied = next((tmp_path / place).iterdir())
        assert bagit.Bag(str(copied)).validate()
        assert len(list(copied.rglob("kiln_*.JPG"))) == 6
    page.go("/")
    page.until_text("[data-testid=card]", "all here already")
    card.pull()
    until(lambda: not page.find("[data-testid=card]"))
