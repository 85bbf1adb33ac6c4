"""How fast the bench answers: groups side by side, zoom in all of them, flipping; what the page holds in memory."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from winnow.bench.figures import RUNS, measures, of_runs

GROUP = 6
GROUPS = 40
PACE_S = 0.7
"""Between groups while their time to the screen is measured: somebody who only glances."""
ZOOMS = 15
LOOK_S = 2.0
FLIPS = 20
WALK = 1000
"""Groups that are walked through while memory is watched."""
WALK_PACE_S = 0.15
ONE_WAY = 100
"""Groups in one direction before the walk turns round: more than are kept decoded."""

Line = tuple[str, float, str, float | None, str]


def lines(driver: webdriver.Chrome, address: str, frame_ms: float) -> Iterator[Line]:
    """(name, value, unit, bound, baseline). The shoot of groups of `GROUP` frames of 24 megapixels is number 1 and
    prepared. frame_ms: one display frame of the browser."""
    baseline = f"one display frame of this browser: {frame_ms:.1f} ms; medians of {RUNS} runs"
    driver.get(f"{address}/shoots/1/bench")
    time.sleep(6)
    shown = len(driver.find_elements("css selector", "[data-testid=stage] [role=img][data-frame]"))
    groups = [_groups(driver) for _ in range(RUNS)]
    name = f"show-group, {GROUPS} groups of {shown} next in order, median"
    yield name, of_runs(groups, 50), "ms", 40, baseline
    yield "show-group, 95th percentile", of_runs(groups, 95), "ms", 80, baseline
    zooms = [_zooms(driver) for _ in range(RUNS)]
    previews, pixels = [run[0] for run in zooms], [run[1] for run in zooms]
    yield f"zoom-preview, {ZOOMS} times, 95th percentile", of_runs(previews, 95), "ms", 50, baseline
    full = f"{shown} × 24 megapixels; {baseline}"
    yield f"zoom-pixels after {LOOK_S:.0f} s on screen, median", of_runs(pixels, 50), "ms", None, full
    yield "zoom-pixels, 95th percentile", of_runs(pixels, 95), "ms", 50, full
    flips = _flips(driver)
    yield (
        f"flip two in one spot, script time, worst of {FLIPS}",
        max(flips),
        "ms",
        round(frame_ms, 1),
        baseline,
    )
    start = renderer_megabytes(driver)
    most = _walk(driver)
    yield f"memory of the page through {WALK:,} groups, most", most, "MB", 1200, f"before: {start:.0f} MB"


def _press(driver: webdriver.Chrome, key: str) -> None:
    ActionChains(driver).send_keys(key).perform()


def _groups(driver: webdriver.Chrome) -> list[float]:
    driver.execute_script("performance.clearMeasures()")
    for _ in range(GROUPS):
        _press(driver, Keys.ARROW_DOWN)
        time.sleep(PACE_S)
    return measures(driver, "winnow:show-group")


def _zooms(driver: webdriver.Chrome) -> tuple[list[float], list[float]]:
    driver.execute_script("performance.clearMeasures()")
    for n in range(ZOOMS):
        _press(driver, Keys.ARROW_DOWN)
        time.sleep(LOOK_S)
        _press(driver, " ")
        end = time.monotonic() + 20
        while len(measures(driver, "winnow:zoom-pixels")) <= n and time.monotonic() < end:
            time.sleep(0.05)
        _press(driver, " ")
    return measures(driver, "winnow:zoom-preview"), measures(driver, "winnow:zoom-pixels")


def _flips(driver: webdriver.Chrome) -> list[float]:
    """From the key to the end of the page's own work: what is left is one paint of what was drawn before."""
    _press(driver, "f")
    time.sleep(2)
    found: list[float] = driver.execute_async_script(
        """
        const [count, done] = arguments; const took = [];
        const flip = async () => {
          const start = performance.now();
          window.dispatchEvent(new KeyboardEvent('keydown', {key: 'f', bubbles: true, cancelable: true}));
          for (let turn = 0; turn < 5; turn++) await null;
          took.push(performance.now() - start);
          if (took.length < count) setTimeout(flip, 120); else done(took);
        };
        flip();
        """,
        FLIPS,
    )
    _press(driver, "g")
    return found


def _walk(driver: webdriver.Chrome) -> float:
    most = 0.0
    for n in range(WALK):
        _press(driver, Keys.ARROW_DOWN if n // ONE_WAY % 2 == 0 else Keys.ARROW_UP)
        time.sleep(WALK_PACE_S)
        if n % 50 == 49:
            # Long enough for the true pixels of the group to be decoded, which is when the page holds most.
            time.sleep(2.5)
            most = max(most, renderer_megabytes(driver))
    return most


def renderer_megabytes(driver: webdriver.Chrome) -> float:
    """Resident memory of the largest process that draws a page, MB (Linux)."""
    largest = 0
    for process in Path("/proc").glob("[0-9]*"):
        try:
            if b"--type=renderer" not in (process / "cmdline").read_bytes():
                continue
            status = (process / "status").read_text()
        except OSError:
            continue
        resident = next((line for line in status.splitlines() if line.startswith("VmRSS")), "VmRSS: 0 kB")
        largest = max(largest, int(resident.split()[1]))
    return largest / 1000
