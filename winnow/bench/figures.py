"""What figures of the browser are made of."""

from __future__ import annotations

from statistics import median

from selenium import webdriver

RUNS = 3
"""A slow minute of the machine must not decide: what is noisy is measured so many times."""


def measures(driver: webdriver.Chrome, name: str) -> list[float]:
    """Durations, ms, of the page's `performance.measure` entries of a name."""
    script = "return performance.getEntriesByName(arguments[0]).map(m => m.duration)"
    found: list[float] = driver.execute_script(script, name)
    return found


def percentile(values: list[float], share: int) -> float:
    """The value that a share (per cent) of the values does not exceed."""
    ordered = sorted(values)
    return ordered[min(len(ordered) - 1, round(share / 100 * (len(ordered) - 1)))]


def of_runs(runs: list[list[float]], share: int) -> float:
    """The median, over runs, of the value that a share (per cent) of each does not exceed."""
    return median(percentile(run or [0.0], share) for run in runs)


def display_frame_ms(driver: webdriver.Chrome) -> float:
    """How long one frame of the browser's display takes, ms."""
    found: float = driver.execute_async_script(
        """
        const done = arguments[0]; const at = [];
        const tick = t => at.push(t) < 60 ? requestAnimationFrame(tick) : done((at[59] - at[0]) / 59);
        requestAnimationFrame(tick);
        """
    )
    return found
