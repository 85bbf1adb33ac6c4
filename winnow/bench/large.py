"""One shoot of 50,000 frames in the browser, beside 200 others on the list: `python -m winnow.bench.large FOLDER`.

The frames are small, so that they fit a disk; what is asked here does not depend on their size. Measuring all of
them would take hours: the first `KINDS` are measured, and what was found is copied to the frames that repeat them.
"""

from __future__ import annotations

import os
import sqlite3
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Annotated

import typer
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from winnow.bench.browser import chromium
from winnow.bench.figures import display_frame_ms, measures, percentile
from winnow.bench.frames import make_large_shoot
from winnow.bench.serving import get, post, serving
from winnow.bench.stage import renderer_megabytes
from winnow.bench.stepping import PRESS
from winnow.pipeline.cache import Cache, Kind
from winnow.store.database import DATABASE, Database

KINDS = 120
WIDTH = 480
SCENE = 240
OTHERS = 199
"""Shoots beside it on the list."""
WHEELS, WHEEL_PX, WHEEL_MS = 60, 1500, 100
"""A wheel that is turned fast: ten notches a second, each twice the height of the window."""
STEPS, STEP_MS = 60, 250
JUMPS = 12

Line = tuple[str, float, str, float | None, str]
"""name, value, unit, bound, baseline"""


def prepare(folder: Path, count: int) -> None:
    """A data folder in which all frames have thumbnail, preview and evidence."""
    make_large_shoot(folder / "shoot", count, KINDS, width=WIDTH, scene=SCENE)
    with serving(folder / "data", folder, keep=True) as address:
        for number in range(OTHERS):
            (folder / "others" / f"Shoot {number + 1}").mkdir(parents=True, exist_ok=True)
            post(f"{address}/api/shoots", {"path": str(folder / "others" / f"Shoot {number + 1}")})
        shoot = post(f"{address}/api/shoots", {"path": str(folder / "shoot")})["id"]
        while get(f"{address}/api/shoots/{shoot}")["progress"]["measured"] < KINDS + 40:
            time.sleep(1)
    repeat(folder / "data", shoot)


def repeat(data: Path, shoot: int) -> None:
    """What was found in the first pictures, for all frames that repeat them."""
    cache = Cache(data / "cache")
    with Database(data / DATABASE).transaction() as connection:
        rows = connection.execute(
            "SELECT id, version FROM frame WHERE shoot_id = ? ORDER BY position", (shoot,)
        ).fetchall()
        for number, row in enumerate(rows[KINDS:], KINDS):
            kind = rows[number % KINDS]
            _copy_evidence(connection, kind["id"], row["id"], row["version"])
            for size in (Kind.THUMB, Kind.MEDIUM, Kind.PREVIEW):
                _link(cache.path(size, kind["version"]), cache.path(size, row["version"]))
        connection.execute("UPDATE frame SET stage = 3 WHERE shoot_id = ?", (shoot,))


def _copy_evidence(connection: sqlite3.Connection, of: int, to: int, version: str) -> None:
    connection.execute(
        """INSERT OR REPLACE INTO evidence (frame_id, version, method, content, descriptor)
           SELECT ?, ?, method, content, descriptor FROM evidence WHERE frame_id = ?""",
        (to, version, of),
    )


def _link(source: Path, target: Path) -> None:
    if source.exists() and not target.exists():
        target.parent.mkdir(parents=True, exist_ok=True)
        os.link(source, target)


def lines(folder: Path) -> Iterator[Line]:
    """All figures of a folder that is prepared."""
    with serving(folder / "data", folder, keep=True) as address, chromium() as driver:
        shoot = post(f"{address}/api/shoots", {"path": str(folder / "shoot")})["id"]
        url = f"{address}/api/shoots/{shoot}"
        while get(url)["progress"]["state"] != "done":
            time.sleep(1)
        driver.set_script_timeout(120)
        base = f"one display frame of this browser: {display_frame_ms(driver):.1f} ms"
        yield "list of 200 shoots on screen", _until_list(driver, address), "s", 1, base
        yield "first wall, from the list of shoots", _until_wall(driver, address, shoot), "s", 1, base
        yield "the page after opening", renderer_megabytes(driver), "MB", None, base
        blanks, longest = _scroll(driver)
        yield f"{WHEELS} turns of the wheel: looks at rows that were not there", blanks, "", 0, base
        yield "longest time between two display frames meanwhile", longest, "ms", None, base
        settled = [_jump(driver, share) for share in _shares()]
        name = f"{JUMPS} jumps by the scroll bar, until all pictures in sight are painted"
        yield f"{name}, median", percentile(settled, 50), "ms", None, base
        yield f"{name}, longest", max(settled), "ms", None, base
        yield from _keys(driver, address, shoot, base)
        yield "the page at the end", renderer_megabytes(driver), "MB", 1200, base


def _shares() -> list[float]:
    return [(number * 0.618) % 1 for number in range(1, JUMPS + 1)]


def _until_list(driver: webdriver.Chrome, address: str) -> float:
    start = time.perf_counter()
    driver.get(address)
    while driver.execute_script("return document.querySelectorAll('main a[href*=\"/shoots/\"]').length") < 1:
        time.sleep(0.01)
    return time.perf_counter() - start


def _until_wall(driver: webdriver.Chrome, address: str, shoot: int) -> float:
    """From going there to a wall full of pictures that are painted."""
    time.sleep(2)
    found: float = driver.execute_async_script(
        """
        const [path, done] = arguments;
        const start = performance.now();
        const poll = () => {
          const ready = [...document.querySelectorAll('[data-frame] img')]
            .filter(i => i.complete && i.naturalWidth > 0).length;
          if (ready >= 12) requestAnimationFrame(() => done((performance.now() - start) / 1000));
          else requestAnimationFrame(poll);
        };
        history.pushState(null, '', path);
        window.dispatchEvent(new PopStateEvent('popstate'));
        poll();
        """,
        f"/shoots/{shoot}/wall",
    )
    return found


HEIGHTS = (0.06, 0.17, 0.25, 0.38, 0.46, 0.57, 0.65, 0.76, 0.88)
"""Where on the wall it is looked whether a frame is there, apart by no distance that the rows have between them."""
WALL = 'section[aria-label="Frames in view"]'


def _scroll(driver: webdriver.Chrome) -> tuple[int, float]:
    """(display frames in which more than half of the wall was bare, longest time between two, ms)."""
    blanks, longest = driver.execute_async_script(
        """
        const [wall, turns, px, pace, heights, done] = arguments;
        const section = document.querySelector(wall);
        const box = section.getBoundingClientRect();
        let blanks = 0, longest = 0, last = performance.now(), on = true;
        const look = () => {
          const now = performance.now();
          longest = Math.max(longest, now - last); last = now;
          const bare = heights.filter(share => {
            const at = document.elementsFromPoint(box.left + 60, box.top + box.height * share);
            return !at.some(e => e.closest('[data-frame]') || e.closest('h2'));
          });
          if (bare.length > heights.length / 2) blanks++;
          if (on) requestAnimationFrame(look);
        };
        requestAnimationFrame(look);
        let turned = 0;
        const turn = () => {
          section.scrollBy(0, px);
          if (++turned < turns) setTimeout(turn, pace);
          else setTimeout(() => { on = false; done([blanks, longest]); }, 500);
        };
        turn();
        """,
        WALL,
        WHEELS,
        WHEEL_PX,
        WHEEL_MS,
        HEIGHTS,
    )
    return blanks, longest


def _jump(driver: webdriver.Chrome, share: float) -> float:
    """ms until all pictures in sight are painted, somewhere else in the shoot."""
    time.sleep(0.5)
    found: float = driver.execute_async_script(
        """
        const [wall, share, done] = arguments;
        const section = document.querySelector(wall);
        const box = section.getBoundingClientRect();
        const start = performance.now();
        section.scrollTop = share * section.scrollHeight;
        const poll = () => {
          const seen = [...section.querySelectorAll('[data-frame] img')].filter(i => {
            const at = i.getBoundingClientRect(); return at.bottom > box.top && at.top < box.bottom; });
          if (seen.length && seen.every(i => i.complete && i.naturalWidth > 0)) done(performance.now() - start);
          else requestAnimationFrame(poll);
        };
        requestAnimationFrame(() => requestAnimationFrame(poll));
        """,
        WALL,
        share,
    )
    return found


def _keys(driver: webdriver.Chrome, address: str, shoot: int, base: str) -> Iterator[Line]:
    driver.get(f"{address}/shoots/{shoot}/bench")
    time.sleep(4)
    ActionChains(driver).send_keys("o", Keys.HOME).perform()
    time.sleep(2)
    driver.execute_async_script(PRESS, ["ArrowRight"], STEPS, STEP_MS)
    stepped = measures(driver, "winnow:show-frame")
    yield f"show-frame, {STEPS} steps at 4 a second, median", percentile(stepped, 50), "ms", None, base
    yield "show-frame, 95th percentile", percentile(stepped, 95), "ms", None, base
    driver.execute_async_script(PRESS, ["a", "d", "3", "0"], STEPS, STEP_MS)
    marked = measures(driver, "winnow:mark")
    yield f"mark, {STEPS} marks, median", percentile(marked, 50), "ms", None, base
    yield "mark, 95th percentile", percentile(marked, 95), "ms", None, base


def main(
    folder: Path,
    frames: Annotated[int, typer.Option(help="How many.")] = 50_000,
) -> None:
    """Measure in a folder, which is prepared first if it is not there (an hour and 10 GB for 50,000)."""
    if not (folder / "data").exists():
        prepare(folder, frames)
    for name, value, unit, bound, baseline in lines(folder):
        shown = f"≤ {bound:g}" if bound is not None else ""
        typer.echo(f"{name:72} {value:9.2f} {unit:6} {shown:8} {baseline}")


if __name__ == "__main__":
    typer.run(main)
