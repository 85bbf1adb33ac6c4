"""A mark survives whatever happens to the connection: the server goes away in the middle of marking, hangs, refuses,
or the page itself breaks."""

from __future__ import annotations

import signal
import time
from collections.abc import Iterator
from contextlib import suppress
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.common.exceptions import WebDriverException
from selenium.webdriver.common.keys import Keys

from tests import photographs
from tests.browser.conftest import Page
from tests.server import Server, start, until
from winnow.store.database import DATABASE, Database


class Plug:
    """A server that can be pulled out and plugged in again at the same address, and a page on it."""

    def __init__(self, driver: webdriver.Chrome, folder: Path) -> None:
        self.driver = driver
        self.folder = folder
        self.server = self._start(0, folder)
        self.page = Page(driver, self.server)
        self.page.forget()

    def _start(self, port: int, root: Path) -> Server:
        return start(self.folder / "data", "--root", str(root), port=port)

    def pull(self) -> None:
        """As a crash or a power cut would."""
        self.server.kill()

    def plug_in(self, root: Path | None = None) -> None:
        """root: below which folders may be served; all of the test's by default."""
        self.server = self._start(int(self.server.address.rsplit(":", 1)[1]), root or self.folder)
        self.page.server = self.server

    def batches(self) -> list[str]:
        """What is in the journal, in order."""
        database = Database(self.folder / "data" / DATABASE)
        return [row[0] for row in database.connection().execute("SELECT title FROM batch ORDER BY id")]

    def marks(self) -> list[tuple[str, int]]:
        return [(f["decision"], f["rating"]) for f in self.server.frames(1)]


@pytest.fixture
def plug(driver: webdriver.Chrome, tmp_path: Path, shoot_folder: Path) -> Iterator[Plug]:
    plug = Plug(driver, tmp_path)
    plug.page.open(shoot_folder, "bench")
    plug.page.see("[data-frame] canvas")
    yield plug
    driver.get("about:blank")
    driver.get_log("browser")  # of requests that found nobody
    plug.server.kill()


def waiting(page: Page) -> list[dict[str, Any]]:
    """What the browser keeps of marks that were not confirmed, read past the page's own code."""
    found: list[dict[str, Any]] = page.driver.execute_async_script(
        """const done = arguments[0];
        const asked = indexedDB.open('winnow-outbox');
        asked.onsuccess = () => {
          const base = asked.result;
          if (!base.objectStoreNames.contains('entries')) { base.close(); return done([]); }
          const all = base.transaction('entries').objectStore('entries').getAll();
          all.onsuccess = () => { base.close(); done(all.result); };
        };"""
    )
    return found


def counts(page: Page) -> str:
    """The counts of the filter line."""
    return " ".join(page.text("fieldset[aria-label=Filter]").split())


def test_the_server_goes_and_comes_back_while_marking_goes_on(plug: Plug) -> None:
    page = plug.page
    page.press("a", Keys.ARROW_RIGHT)
    until(lambda: plug.marks()[0] == ("keep", 0))
    until(lambda: waiting(page) == [])  # the answer is there too
    plug.pull()
    page.press("d", Keys.ARROW_RIGHT, "a", "4", Keys.ARROW_RIGHT, "5", Keys.ARROW_RIGHT, "d")
    page.until_text("footer", "5 marks wait for Winnow")
    page.until_text("[role=alert]", "does not answer")
    # On screen at once, counts included.
    page.until_text("[data-testid=strip]", "rejected")
    assert "keepers 2 undecided 2 rejects 2" in counts(page)
    with suppress(WebDriverException):  # nobody is there
        page.go("/shoots/1/bench")
    plug.plug_in()
    page.go("/shoots/1/bench")
    until(lambda: plug.marks()[4] == ("reject", 0))
    assert plug.marks() == [
        ("keep", 0),
        ("reject", 0),
        ("keep", 4),
        ("undecided", 5),
        ("reject", 0),
        ("undecided", 0),
    ]
    assert plug.batches() == [
        "frame WIN_0001: kept",
        "frame WIN_0002: rejected",
        "frame WIN_0003: kept",
        "frame WIN_0003: 4 stars",
        "frame WIN_0004: 5 stars",
        "frame WIN_0005: rejected",
    ]
    until(lambda: waiting(page) == [])
    assert "for Winnow" not in page.text("footer")
    assert not page.find("[role=alert]")
    # And they are taken back one by one, as if nothing had been.
    page.until_text("footer", "undo")
    page.press("z")
    until(lambda: plug.marks()[4] == ("undecided", 0))


def test_without_a_reload_the_page_catches_up(plug: Plug) -> None:
    page = plug.page
    plug.pull()
    page.press("3")
    page.until_text("footer", "1 mark waits for Winnow")
    page.until_text("[role=alert]", "does not answer")
    photographs.save(plug.folder / "shoots" / "Six" / "WIN_0101.JPG", 1, 70, edge=photographs.SMALL)
    plug.plug_in()
    until(lambda: plug.marks()[0] == ("undecided", 3), 30)
    until(lambda: not page.find("[role=alert]"))
    until(lambda: "for Winnow" not in page.text("footer"))
    # News from elsewhere arrives again, and what happened meanwhile too.
    frames = [f["id"] for f in plug.server.frames(1)]
    plug.server.post("/api/shoots/1/marks", {"frame_ids": frames[4:6], "decision": "reject"})
    until(lambda: "rejects 2" in counts(page))
    # So does what has come into the folder since, and what comes into it now.
    until(lambda: "undecided 5" in counts(page))
    photographs.save(plug.folder / "shoots" / "Six" / "WIN_0102.JPG", 1, 80, edge=photographs.SMALL)
    until(lambda: "undecided 6" in counts(page))


def test_marks_made_without_a_server_are_undone_without_one(plug: Plug) -> None:
    page = plug.page
    page.press("a")
    until(lambda: plug.marks()[0] == ("keep", 0))
    until(lambda: waiting(page) == [])  # the answer is there too
    plug.pull()
    page.press("2", "4", "d")
    page.until_text("[data-testid=strip]", "rejected")
    page.press("z")
    page.until_text("[data-testid=strip]", "kept")
    page.press("z", "z")
    page.chord(Keys.SHIFT, "z")
    until(
        lambda: "2 of 5 stars" in page.run("return document.querySelector('[data-testid=strip]').innerHTML")
    )
    page.until_text("footer", "7 marks wait")
    plug.plug_in()
    until(lambda: waiting(page) == [], 30)
    assert plug.marks()[0] == ("keep", 2)
    page.press("z", "z")
    until(lambda: plug.marks()[0] == ("undecided", 0))


def test_a_mark_is_safe_before_it_is_on_screen(plug: Plug) -> None:
    page = plug.page
    page.run("window.fetch = () => new Promise(() => {})")  # nothing reaches the server any more
    seen = page.driver.execute_async_script(
        """const done = arguments[0];
        const label = () => document.querySelector('[data-active=true]').ariaLabel;
        new MutationObserver((_, observer) => {
          if (!label().includes('rejected')) return;
          observer.disconnect();
          const asked = indexedDB.open('winnow-outbox');
          asked.onsuccess = () => {
            const base = asked.result;
            if (!base.objectStoreNames.contains('entries')) return done(0);
            const all = base.transaction('entries').objectStore('entries').getAll();
            all.onsuccess = () => { base.close(); done(all.result.length); };
          };
        }).observe(document.body, {subtree: true, attributes: true, childList: true});
        window.dispatchEvent(new KeyboardEvent('keydown', {key: 'd', code: 'KeyD', bubbles: true}));"""
    )
    assert seen == 1
    # The page dies with the mark on it.
    page.go("/shoots/1/bench")
    until(lambda: plug.marks()[0] == ("reject", 0))
    until(lambda: waiting(page) == [])


def test_a_request_that_hangs_holds_nothing_up_for_ever(plug: Plug) -> None:
    page = plug.page
    page.run(
        """const real = window.fetch;
        window.hung = 0;
        window.fetch = (request, ...more) => {
          if (request.method !== 'POST' || !request.url.endsWith('/marks') || window.hung++)
            return real(request, ...more);
          return new Promise((_, reject) => request.signal.addEventListener('abort',
            () => reject(request.signal.reason)));
        };"""
    )
    page.press("3", Keys.ARROW_RIGHT, "d")
    page.until_text("footer", "2 marks wait")
    until(lambda: plug.marks()[:2] == [("undecided", 3), ("reject", 0)], 40)
    assert plug.batches() == ["frame WIN_0001: 3 stars", "frame WIN_0002: rejected"]


def test_a_server_that_hangs_as_a_whole_refuses_nothing(plug: Plug) -> None:
    page = plug.page
    plug.server.process.send_signal(signal.SIGSTOP)
    try:
        page.press("4", "a")
        page.until_text("footer", "2 marks wait")
        until(lambda: page.find("[role=alert]"), 30)
    finally:
        plug.server.process.send_signal(signal.SIGCONT)
    until(lambda: plug.marks()[0] == ("keep", 4), 30)
    until(lambda: not page.find("[role=alert]"))
    assert not page.find("[data-testid=refused]")
    assert plug.batches() == ["frame WIN_0001: 4 stars", "frame WIN_0001: kept"]


def test_a_refused_mark_is_shown_and_can_be_sent_again(plug: Plug) -> None:
    page = plug.page
    plug.pull()
    page.press("3", "d")
    (plug.folder / "elsewhere").mkdir()
    plug.plug_in(plug.folder / "elsewhere")
    page.until_text("[data-testid=refused]", "2 marks refused")
    # What is on screen does not pretend.
    until(lambda: "undecided" in page.run("return document.querySelector('[data-active=true]').ariaLabel"))
    page.find("[data-testid=refused]")[0].click()
    page.until_text("[role=dialog]", "WIN_0001: 3 stars")
    page.click("Drop")
    page.until_text("[data-testid=refused]", "1 mark refused")
    plug.pull()
    plug.plug_in()
    page.click("Send again")
    until(lambda: plug.marks()[0] == ("reject", 0))
    until(lambda: not page.find("[data-testid=refused]"))
    assert plug.batches() == ["frame WIN_0001: rejected"]


def test_counts_do_not_wait_for_an_answer(plug: Plug) -> None:
    page = plug.page
    page.driver.set_network_conditions(latency=1500, throughput=10_000_000)
    try:
        page.press("a", Keys.ARROW_RIGHT, "d")
        time.sleep(0.3)
        assert "keepers 1 undecided 4 rejects 1" in counts(page)
    finally:
        page.driver.delete_network_conditions()
    until(lambda: plug.marks()[:2] == [("keep", 0), ("reject", 0)])
    time.sleep(0.5)
    assert "keepers 1 undecided 4 rejects 1" in counts(page)


def test_what_rests_on_marks_waits_for_those_that_are_on_their_way(plug: Plug) -> None:
    """On a slow link each action takes a round trip; who works by keys is in a pass by then."""
    page = plug.page
    ids = [frame["id"] for frame in page.server.frames(1)]
    page.driver.set_network_conditions(latency=700, throughput=10_000_000)
    try:
        page.press("a", Keys.ARROW_RIGHT, "a", Keys.ARROW_RIGHT, "d", "z", "p")
        until(lambda: page.find("[role=dialog] li button:focus"))
        page.press(Keys.ENTER)  # all that is not rejected
        page.until_text("[data-testid=pass-line]", "Weed")
        walk = page.server.get("/api/shoots/1/passes")["walks"][0]["id"]
        assert page.server.get(f"/api/shoots/1/passes/{walk}")["frames"] == ids
    finally:
        page.driver.delete_network_conditions()
    titles = plug.batches()
    assert len(titles) == 5 and "Weed" in titles[-1], titles  # after the undo, which did not take it back


def test_a_list_without_the_marks_on_their_way_is_not_reached_by_keys(plug: Plug) -> None:
    page = plug.page
    page.click("Handoff")
    page.way("A list")
    page.see("a[download]")
    page.click("Bench")
    page.see("[data-frame] canvas")
    page.driver.set_network_conditions(latency=2500, throughput=10_000_000)
    try:
        page.press("a")
        page.click("Handoff")
        page.way("A list")
        reached = (
            "const link = document.querySelector('a[download]'); link.focus();"
            "return document.activeElement === link"
        )
        page.until_text("main", "1 mark is on the way")
        assert not page.run(reached)
    finally:
        page.driver.delete_network_conditions()
    until(lambda: plug.marks()[0][0] == "keep")
    until(lambda: page.run(reached))


def asked(page: Page) -> list[str]:
    """Questions to the server since the last call, but for pictures and what is measured."""
    found: list[str] = page.run(
        """const all = performance.getEntriesByType('resource').map(entry => new URL(entry.name).pathname);
        performance.clearResourceTimings();
        return all.filter(path => /^.api.shoots/.test(path))"""
    )
    return found


def test_a_mark_is_one_request_whatever_is_in_view(plug: Plug) -> None:
    page = plug.page
    page.chord(Keys.ALT, "s")
    until(lambda: any(path.endswith("/view") for path in asked(page)))
    page.until_text("[data-testid=shown]", "6 of 6")
    for key, wanted in (("3", ("undecided", 3)), ("d", ("reject", 3))):
        asked(page)
        page.press(key)
        until(lambda wanted=wanted: plug.marks()[0] == wanted)  # type: ignore[misc]
        until(lambda: waiting(page) == [])
        time.sleep(0.6)
        assert asked(page) == ["/api/shoots/1/marks"], key
    assert "undecided 5 rejects 1" in counts(page)
    # It leaves when one goes on, and comes back with its mark taken back, without a question either way.
    page.press(Keys.ARROW_RIGHT)
    page.until_text("[data-testid=shown]", "5 of 6")
    page.press("z")
    page.until_text("[data-testid=shown]", "6 of 6")
    page.until_text("[data-testid=scope]", "WIN_0001")
    assert [path for path in asked(page) if path.endswith(("/view", "/frames", "/actions"))] == []


def test_marks_of_another_data_folder_stay_where_they_are(plug: Plug) -> None:
    """Another Winnow at the same address has other frames under the same numbers."""
    page = plug.page
    plug.pull()
    page.press("d")
    page.until_text("footer", "1 mark waits")
    (plug.folder / "data").rename(plug.folder / "first data")
    plug.plug_in()
    page.server = plug.server
    page.go(f"/?token={plug.server.token}")
    page.open(plug.folder / "shoots" / "Six", "bench")
    page.press("5")
    until(lambda: plug.marks()[0][1] == 5)
    assert plug.marks()[0] == ("undecided", 5)
    assert [entry["act"]["decision"] for entry in waiting(page)] == ["reject"]
    plug.pull()
    (plug.folder / "data").rename(plug.folder / "second data")
    (plug.folder / "first data").rename(plug.folder / "data")
    plug.plug_in()
    page.go("/")
    until(lambda: plug.marks()[0] == ("reject", 0))


def test_two_windows_send_what_is_theirs_once_and_in_order(plug: Plug) -> None:
    page = plug.page
    first = page.driver.current_window_handle
    page.driver.switch_to.new_window("tab")
    page.go("/shoots/1/bench")
    page.see("[data-frame] canvas")
    second = page.driver.current_window_handle
    plug.pull()
    page.press("1")
    page.until_text("footer", "1 mark waits")
    page.driver.switch_to.window(first)
    page.press("2")
    page.until_text("footer", "2 marks wait")
    page.driver.switch_to.window(second)
    page.press("3")
    page.until_text("footer", "3 marks wait")
    page.driver.close()
    page.driver.switch_to.window(first)
    plug.plug_in()
    until(lambda: waiting(page) == [], 30)
    assert plug.batches() == [f"frame WIN_0001: {n}" for n in ("1 star", "2 stars", "3 stars")]


def test_a_page_that_cannot_be_drawn_says_so(plug: Plug) -> None:
    page = plug.page
    broken = """const real = window.fetch;
        window.fetch = async (request, ...more) => {
          const answer = await real(request, ...more);
          if (!request.url?.includes('/frames?')) return answer;
          const page = await answer.json();
          for (const frame of page.frames) frame.warnings = null;
          return new Response(JSON.stringify(page), {headers: {'Content-Type': 'application/json'}});
        };"""
    script = page.driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": broken})
    try:
        page.go("/shoots/1/wall")
        page.until_text("[role=alert]", "This page could not be shown")
        words = page.text("[role=alert]")
        assert "null" in words and "nothing of your work is lost" in words
        assert page.serious_problems() == []
    finally:
        page.driver.execute_cdp_cmd("Page.removeScriptToEvaluateOnNewDocument", script)
    page.click("Load the page again")
    until(lambda: len(page.find("[data-frame] img")) == 6)
