"""The first seconds on a card that was never seen: how soon frames are there at preview quality, and how many of a
held key's are painted at it."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from statistics import median

from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains

from winnow.bench.browser import chromium
from winnow.bench.figures import measures, percentile
from winnow.bench.frames import make_large_shoot
from winnow.bench.serving import post, serving
from winnow.bench.stage import Line

STEPS, FRAMES = 300, 320
HELD_MS = 33
"""A held key comes some 30 times a second (common practice, no source)."""
QUICK_MS = 125

JUMPS = 12
"""So many jumps down the spine, each past what is made ready ahead."""

_JUMP = """
    const done = arguments[0];
    const groups = () => [...document.querySelectorAll('button[aria-label^="Group of"]')];
    const last = groups().at(-1);
    if (last) last.click();
    setTimeout(done, 900);
"""

_STEP = """
    const [count, pause, done] = arguments;
    performance.clearMeasures();
    let left = count;
    const step = () => {
      window.dispatchEvent(new KeyboardEvent('keydown', {key: 'ArrowRight', bubbles: true, cancelable: true}));
      if (--left) setTimeout(step, pause); else setTimeout(done, 2000);
    };
    step();
"""


def lines(folder: Path, decode_ms: float) -> Iterator[Line]:
    """(name, value, unit, bound, baseline). folder: for a card that is made for it. decode_ms: one plain full decode
    of one of its frames."""
    baseline = f"one plain full decode of such a frame: {decode_ms:.0f} ms of processor time"
    make_large_shoot(folder / "card", FRAMES, distinct=48, seed=2)
    with serving(folder / "jumped", folder) as address, chromium() as driver:
        _opened(driver, address, folder / "card")
        for _ in range(JUMPS):
            driver.execute_async_script(_JUMP)
        jumps = measures(driver, "winnow:show-frame") or [0.0]
    name = f"just opened, {len(jumps)} jumps to frames never prepared: until painted, median"
    yield name, median(jumps), "ms", 40, baseline
    yield "  longest", max(jumps), "ms", None, baseline
    for words, pause, bound in (("held at 30 a second", HELD_MS, None), ("8 a second", QUICK_MS, 25)):
        with serving(folder / "first", folder) as address, chromium() as driver:
            _opened(driver, address, folder / "card")
            driver.execute_async_script(_STEP, STEPS, pause)
            painted = measures(driver, "winnow:show-frame") or [0.0]
        share = 100 * len(painted) / STEPS
        yield f"just opened, {words}: frames painted at preview quality", share, "%", None, baseline
        yield f"just opened, {words}: until painted, median", median(painted), "ms", None, baseline
        yield "  95th percentile", percentile(painted, 95), "ms", bound, baseline


def _opened(driver: webdriver.Chrome, address: str, card: Path) -> None:
    """A card on the bench, one frame at a time, moments after it was opened for the first time."""
    shoot = post(f"{address}/api/shoots", {"path": str(card)})["id"]
    driver.get(f"{address}/shoots/{shoot}/bench")
    driver.set_script_timeout(120)
    time.sleep(2)
    ActionChains(driver).send_keys("o").perform()
    time.sleep(1)


def main() -> None:
    """Prints these figures alone: `python -m winnow.bench.first_look`."""
    with tempfile.TemporaryDirectory() as name:
        for title, value, unit, _, _ in lines(Path(name), 0):
            print(f"{title:70} {value:8.1f} {unit}", flush=True)


if __name__ == "__main__":
    main()
