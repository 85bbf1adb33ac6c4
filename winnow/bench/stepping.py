"""How fast frames come and marks are shown, one frame at a time: at a person's pace, and while a key is held.

Keys are given to the page when they are due, and timed from then: a page that is busy answers late, not less often.
"""

from __future__ import annotations

import time
from collections.abc import Iterator

from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from winnow.bench.figures import RUNS, measures, of_runs

STEPS, PACE_MS = 120, 250
"""A fluent person marks 3 to 4 frames a second (common practice, no source)."""
HELD, HELD_MS = 200, 33
"""A held key comes some 30 times a second (common practice, no source)."""
MARKS, MARK_MS = 80, 250

Line = tuple[str, float, str, float | None, str]

PRESS = """
    const [keys, count, pace, done] = arguments;
    performance.clearMeasures();
    const start = performance.now() + pace;
    let number = 0;
    const press = () => {
      const due = start + pace * number;
      const wait = due - performance.now();
      if (wait > 0.5) return setTimeout(press, wait);
      const event = new KeyboardEvent('keydown', {key: keys[number % keys.length], bubbles: true, cancelable: true});
      Object.defineProperty(event, 'timeStamp', {value: due});
      window.dispatchEvent(event);
      if (++number < count) setTimeout(press, Math.max(0, start + pace * number - performance.now()));
      else setTimeout(done, 1000);
    };
    press();
"""


def lines(driver: webdriver.Chrome, address: str, frame_ms: float) -> Iterator[Line]:
    """(name, value, unit, bound, baseline). Shoot 1 is prepared. frame_ms: one display frame of the browser."""
    baseline = f"one display frame of this browser: {frame_ms:.1f} ms; medians of {RUNS} runs"
    driver.set_script_timeout(120)
    paced = [_walk(driver, address, STEPS, PACE_MS) for _ in range(RUNS)]
    yield f"show-frame, {STEPS} steps at 4 a second, median", of_runs(paced, 50), "ms", None, baseline
    yield "show-frame, 95th percentile", of_runs(paced, 95), "ms", 17, baseline
    held = [_walk(driver, address, HELD, HELD_MS) for _ in range(RUNS)]
    painted = min(len(run) for run in held)
    yield f"a key held at 30 a second: frames painted of {HELD}, fewest", painted, "", None, baseline
    yield "show-frame while a key is held, median", of_runs(held, 50), "ms", None, baseline
    yield "show-frame while a key is held, 95th percentile", of_runs(held, 95), "ms", 33, baseline
    marked = [_marks(driver) for _ in range(RUNS)]
    yield f"mark, {MARKS} marks, median", of_runs(marked, 50), "ms", None, baseline
    yield "mark, 95th percentile", of_runs(marked, 95), "ms", 17, baseline


def _walk(driver: webdriver.Chrome, address: str, steps: int, pace_ms: int) -> list[float]:
    _alone(driver, address)
    driver.execute_async_script(PRESS, ["ArrowRight"], steps, pace_ms)
    return measures(driver, "winnow:show-frame")


def _marks(driver: webdriver.Chrome) -> list[float]:
    driver.execute_async_script(PRESS, ["a", "d", "3", "0"], MARKS, MARK_MS)
    return measures(driver, "winnow:mark")


def _alone(driver: webdriver.Chrome, address: str) -> None:
    """One frame on the bench, the first of the shoot."""
    driver.get(f"{address}/shoots/1/bench")
    time.sleep(3)
    ActionChains(driver).send_keys("o", Keys.HOME).perform()
    time.sleep(2)
