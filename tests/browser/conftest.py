"""A browser on a running server."""

from __future__ import annotations

import json
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import pytest
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.by import By
from selenium.webdriver.common.keys import Keys
from selenium.webdriver.remote.webelement import WebElement

from tests.browser.stage import cells, poses
from tests.server import Server, running, until
from winnow.api.security import cookie_of
from winnow.bench.browser import chromium

ONE_PROCESS = (
    "--renderer-process-limit=1",
    "--disable-site-isolation-trials",
    "--disable-features=IsolateOrigins,site-per-process,SpareRendererForSitePerProcess",
)
"""One process is kept from page to page: starting one takes as long as showing what is in it."""

GUIDE_LEFT = """if (location.protocol === 'http:' && !localStorage.getItem('tests.met')) {
  localStorage.setItem('tests.met', 'yes');
  localStorage.setItem('winnow.guide', '{"state":{"left":true},"version":0}');
}"""


class Page:
    """The interface as a person uses it: keys, clicks, and what can be seen."""

    def __init__(self, driver: webdriver.Chrome, server: Server) -> None:
        self.driver = driver
        self.server = server
        self.shoot = 1

    def go(self, path: str) -> None:
        self.driver.get(self.server.address + path)

    def forget(self) -> None:
        """What the browser remembers of earlier servers; this one is to let it in. No page is loaded for it."""
        token = self.server.token
        assert token is not None
        tell = self.driver.execute_cdp_cmd
        tell("Storage.clearDataForOrigin", {"origin": self.server.address, "storageTypes": "local_storage"})
        tell("Network.clearBrowserCookies", {})
        cookie = {"name": cookie_of(token), "value": token, "httpOnly": True, "sameSite": "Strict"}
        tell("Network.setCookie", {"url": self.server.address, **cookie})

    def open(self, folder: Path, screen: str = "wall") -> int:
        shoot = self.shoot = self.server.open(folder)
        self.go(f"/shoots/{shoot}/{screen}")
        self.see("[data-testid=scope]")
        until(lambda: "frame" in self.text("[data-testid=scope]"))
        return shoot

    def press(self, *keys: str) -> None:
        for key in keys:
            ActionChains(self.driver).send_keys(key).perform()

    def chord(self, modifier: str, key: str) -> None:
        ActionChains(self.driver).key_down(modifier).send_keys(key).key_up(modifier).perform()

    def find(self, selector: str) -> list[WebElement]:
        return self.driver.find_elements(By.CSS_SELECTOR, selector)

    def type_over(self, selector: str, text: str) -> None:
        """Types in place of what a field holds, as a person does: what clears it by script may be undone by a field
        that is drawn meanwhile."""
        self.see(selector).send_keys(Keys.CONTROL, "a", Keys.NULL, text)

    def see(self, selector: str) -> WebElement:
        until(lambda: self.find(selector))
        return self.find(selector)[0]

    def text(self, selector: str) -> str:
        return self.see(selector).text

    def button(self, words: str) -> WebElement:
        path = f"//button[normalize-space()='{words}']"
        until(lambda: self.driver.find_elements(By.XPATH, path))
        return self.driver.find_element(By.XPATH, path)

    def click(self, words: str) -> None:
        self.button(words).click()

    def way(self, title: str) -> None:
        """Chooses what is to be done with files, in the handoff."""
        xpath = f"//nav[@aria-label='What to do with files']//button[.//b[normalize-space()=\"{title}\"]]"
        until(lambda: self.driver.find_elements(By.XPATH, xpath))
        self.driver.find_element(By.XPATH, xpath).click()

    def say_word(self, word: str, text: str) -> None:
        """Says what a free word in a pattern of names is."""
        xpath = f"//fieldset[@aria-label='Names']//label[contains(., '{word}')]//input"
        until(lambda: self.driver.find_elements(By.XPATH, xpath))
        self.driver.find_element(By.XPATH, xpath).send_keys(text)

    def until_text(self, selector: str, words: str) -> None:
        """Waits for words; what shows them may be made anew meanwhile."""
        read = "return document.querySelector(arguments[0])?.innerText ?? ''"
        until(lambda: words in self.run(read, selector), 15)

    def run(self, script: str, *arguments: object) -> Any:
        return self.driver.execute_script(script, *arguments)

    def errors(self) -> list[str]:
        """What the browser complained about: scripts, policy violations, failed requests."""
        return [entry["message"] for entry in self.driver.get_log("browser") if entry["level"] == "SEVERE"]

    def serious_problems(self, *rules: str) -> list[str]:
        """What axe-core (npm) finds against WCAG, from serious up; by default by all its rules."""
        axe = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
        if not self.run("return 'axe' in window"):
            self.driver.execute_cdp_cmd("Runtime.evaluate", {"expression": axe.read_text()})
        found = self.driver.execute_async_script(
            """const [rules, done] = arguments;
            axe.run(document, rules.length ? {runOnly: rules} : {}).then(r => done(JSON.stringify(r.violations)))""",
            rules,
        )
        return [
            f"{v['id']}: {v['help']} {[n['html'][:200] for n in v['nodes'][:3]]}"
            for v in json.loads(found)
            if v["impact"] in ("serious", "critical")
        ]


@contextmanager
def browser() -> Iterator[webdriver.Chrome]:
    """A browser in which first steps were left: they are offered on the demo shoot, not in every test."""
    with chromium(flags=ONE_PROCESS) as driver:
        driver.execute_cdp_cmd("Page.addScriptToEvaluateOnNewDocument", {"source": GUIDE_LEFT})
        yield driver


@pytest.fixture(scope="session")
def driver() -> Iterator[webdriver.Chrome]:
    with browser() as driver:
        yield driver


@pytest.fixture
def page(driver: webdriver.Chrome, server: Server) -> Iterator[Page]:
    """The interface on a server that other tests use too: shoots have other numbers than 1."""
    with visit(driver, server) as page:
        yield page


@pytest.fixture
def lone_page(driver: webdriver.Chrome, lone_server: Server) -> Iterator[Page]:
    """The interface on a lone_server of its own."""
    with visit(driver, lone_server) as page:
        yield page


@contextmanager
def visit(driver: webdriver.Chrome, server: Server) -> Iterator[Page]:
    """The interface on a server, with nothing left from earlier ones."""
    page = Page(driver, server)
    page.forget()
    page.errors()
    yield page
    leave(page)


def leave(page: Page) -> None:
    """Looks at what the browser complained about, before the server goes."""
    found = page.errors()
    page.driver.get("about:blank")
    assert found == []


@pytest.fixture(scope="session")
def posed(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Server]:
    """A server on the seven frames of `stage.poses`, all measured: one for all tests that only mark them."""
    folder = tmp_path_factory.mktemp("posed")
    with running(folder / "data", root=folder) as server:
        server.open(poses(folder / "poses"))
        yield server


@pytest.fixture
def bench(driver: webdriver.Chrome, posed: Server) -> Iterator[Page]:
    """Seven frames of three groups on the bench, unmarked: see `stage.poses`."""
    page = Page(driver, posed)
    page.forget()
    ids = [frame["id"] for frame in posed.frames(1)]
    posed.post("/api/shoots/1/marks", {"frame_ids": ids, "decision": "undecided", "rating": 0, "label": None})
    page.errors()
    page.go("/shoots/1/bench")
    page.until_text("[data-testid=measured]", "px")
    until(lambda: len(cells(page)) == 4)
    yield page
    leave(page)


@pytest.fixture
def own_bench(lone_page: Page, tmp_path: Path) -> Page:
    """The same on a server of its own, for tests that change files or groups."""
    page = lone_page
    page.open(poses(tmp_path / "poses"), "bench")
    page.until_text("[data-testid=measured]", "px")
    until(lambda: len(cells(page)) == 4)
    return page
