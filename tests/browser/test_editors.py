"""Frames go to an editing program and come back, and what can be carried out of the page."""

from __future__ import annotations

import shlex
import sys
from pathlib import Path

from tests.browser.conftest import Page
from tests.server import until


def test_a_frame_goes_to_a_program_and_comes_back_edited(lone_page: Page, shoot_folder: Path) -> None:
    """The program is named by the person; what it wrote appears by itself, its marks when they are asked for."""
    page = lone_page
    page.open(shoot_folder, "wall")
    page.chord("\ue009", "o")
    page.see("#editor-name").send_keys("Stand-in")
    page.see("#editor-command").send_keys("edit {files}")
    page.click("Keep the program")
    page.until_text("[role=dialog]", "no program that can be started")
    page.type_over(
        "#editor-command", f"{shlex.quote(sys.executable)} -m winnow.demo.editor --derive {{files}}"
    )
    page.click("Keep the program")
    page.until_text("[role=dialog]", "Open 1 frame in Stand-in")
    assert any("422" in error for error in page.errors())
    page.click("Open 1 frame in Stand-in")
    until(lambda: not page.find("[role=dialog]"))
    page.until_text("main", "edited file")
    page.until_text("header", "1 marked elsewhere")
    assert page.server.frames(page.shoot)[0]["rating"] == 0
    page.click("1 marked elsewhere")
    page.until_text("[data-testid=sync-in]", "stars 1")
    page.driver.find_element("xpath", "//button[starts-with(normalize-space(), 'Settle ')]").click()
    until(lambda: page.server.frames(page.shoot)[0]["rating"] == 5)
    until(lambda: "marked elsewhere" not in page.text("header"))
    page.go(f"/shoots/{page.shoot}/handoff")
    page.way("An editing program")
    page.until_text("[data-testid=came-back]", "1 frame edited, 1 edited file")


def test_names_are_copied(bench: Page) -> None:
    """For pasting: of what the next key acts on; several that are dragged bring addresses and names (RFC 2483)."""
    grant = {"permissions": ["clipboardReadWrite", "clipboardSanitizedWrite"]}
    bench.driver.execute_cdp_cmd("Browser.grantPermissions", grant)
    read = "return navigator.clipboard.readText()"
    bench.chord("\ue009", "c")
    until(lambda: bench.run(read) == "POS_0001.JPG")
    bench.press("v")
    bench.see("[data-testid=scope]")
    bench.chord("\ue009", "a")
    bench.chord("\ue009", "c")
    until(lambda: bench.run(read).split("\n") == [f"POS_000{n}.JPG" for n in range(1, 8)])
    dragged = bench.run(
        """const data = new DataTransfer();
        const cell = document.querySelector('main button[data-frame]').parentElement;
        cell.dispatchEvent(new DragEvent('dragstart', {dataTransfer: data, bubbles: true}));
        return [...data.types].map(type => [type, data.getData(type)])"""
    )
    held = dict(dragged)
    assert held["text/plain"].split("\n") == [f"POS_000{n}.JPG" for n in range(1, 8)]
    assert len(held["text/uri-list"].split("\r\n")) == 7 and "downloadurl" not in held
