"""All figures, one after another. Each is printed beside the bound it is held to and a baseline."""

from __future__ import annotations

import json
import os
import platform
import tempfile
import time
import urllib.error
import urllib.request
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from statistics import median

import simplejpeg
import typer
from selenium import webdriver
from selenium.webdriver.common.action_chains import ActionChains
from selenium.webdriver.common.keys import Keys

from winnow.bench import evidence, first_look, scale, stage, trust
from winnow.bench.browser import chromium
from winnow.bench.figures import display_frame_ms, measures, percentile
from winnow.bench.frames import make_large_shoot
from winnow.bench.serving import serving
from winnow.pipeline import tasks

STEPS = 300
MARKS = 100
PACE_S = 0.25
"""A fluent person marks 3 to 4 frames a second (common practice, no source)."""


@dataclass(frozen=True, slots=True)
class Figure:
    """A measured value; `bound` is what it should stay below, `baseline` what it is compared with."""

    name: str
    value: float
    unit: str
    bound: float | None
    baseline: str


def run_all(target: Path | None, count: int) -> None:
    """Measures everything, prints it, and writes it to `target` as JSON."""
    figures: list[Figure] = []

    def add(*new: Figure) -> None:
        for figure in new:
            figures.append(figure)
            bound = f"≤ {figure.bound:g}" if figure.bound is not None else ""
            typer.echo(f"{figure.name:58} {figure.value:9.2f} {figure.unit:6} {bound:8} {figure.baseline}")

    tasks.use_one_thread()  # as in a worker process
    with tempfile.TemporaryDirectory(prefix="winnow-bench-") as name:
        folder = Path(name)
        typer.echo(f"Making {count} frames of 24 megapixels …", err=True)
        make_large_shoot(folder / "shoot", count, distinct=min(count, 50))
        sample = sorted((folder / "shoot").rglob("*.JPG"))[:9]
        decode_s = _full_decode(sample)
        add(*_derive_cost(sample, decode_s, folder))
        add(*(Figure(*line) for line in evidence.lines(folder)))
        add(*(Figure(*line) for line in scale.lines(folder)))
        add(*(Figure(*line) for line in trust.planning(folder)))
        add(*(Figure(*line) for line in first_look.lines(folder, 1000 * decode_s)))
        with serving(folder / "data", folder) as address, chromium() as driver:
            add(*_first_thumbnails(driver, address, folder / "shoot", decode_s))
            _wait_for_previews(address, count)
            add(*_stepping(driver, address))
            _wait_until_measured(address)
            add(*(Figure(*line) for line in stage.lines(driver, address, display_frame_ms(driver))))
            previews = folder / "data" / "cache" / "preview"
            add(*(Figure(*line) for line in trust.moved(address, folder / "shoot", count, previews)))
    document = {
        "machine": f"{platform.machine()}, {os.cpu_count()} cores",
        "frames": count,
        "figures": [asdict(figure) for figure in figures],
    }
    if target:
        target.write_text(json.dumps(document, indent=1, ensure_ascii=False) + "\n")


def _processor_time(work: Callable[[], object]) -> float:
    start = time.process_time()
    work()
    return time.process_time() - start


def _full_decode(sample: list[Path]) -> float:
    """Processor seconds of one plain full RGB decode by libjpeg-turbo, the baseline of this run."""
    data = [path.read_bytes() for path in sample]
    return median(_processor_time(lambda d=d: simplejpeg.decode_jpeg(d)) for d in data)  # type: ignore[misc]


def _derive_cost(sample: list[Path], decode_s: float, folder: Path) -> list[Figure]:
    cache = str(folder / "derive-cache")
    todo = [
        tasks.DeriveTask(n, str(path), str(path.parent), f"{n:020x}", cache) for n, path in enumerate(sample)
    ]
    tasks.derive(todo[0])
    cost = median(_processor_time(lambda t=t: tasks.derive(t)) for t in todo)  # type: ignore[misc]
    megabytes = median(path.stat().st_size for path in sample) / 1e6
    return [
        Figure(
            "thumbnail + preview of a 24-megapixel JPEG",
            cost / decode_s,
            "×",
            1.5,
            f"one plain full RGB decode: {1000 * decode_s:.0f} ms of processor time, {megabytes:.1f} MB",
        )
    ]


def _first_thumbnails(driver: webdriver.Chrome, address: str, folder: Path, decode_s: float) -> list[Figure]:
    """From asking for the folder to pictures of it painted on the wall."""
    driver.get(address)
    time.sleep(2)
    driver.set_script_timeout(60)
    seconds = driver.execute_async_script(
        """
        const [path, done] = arguments;
        const start = performance.now();
        const poll = first => {
          const ready = [...document.querySelectorAll('[data-frame] img')]
            .filter(i => i.complete && i.naturalWidth > 0).length;
          if (ready >= 1 && first === undefined) first = performance.now() - start;
          if (ready >= 12) requestAnimationFrame(() => done([first, performance.now() - start]));
          else requestAnimationFrame(() => poll(first));
        };
        fetch('/api/shoots', {method: 'POST', headers: {'Content-Type': 'application/json'},
          body: JSON.stringify({path})}).then(r => r.json()).then(card => {
            history.pushState(null, '', `/shoots/${card.id}/wall`);
            window.dispatchEvent(new PopStateEvent('popstate'));
            poll();
          });
        """,
        str(folder),
    )
    baseline = f"one full decode here: {1000 * decode_s:.0f} ms of processor time"
    return [
        Figure("first thumbnail on the wall after opening", seconds[0] / 1000, "s", 1, baseline),
        Figure("a wall full of thumbnails after opening", seconds[1] / 1000, "s", None, baseline),
    ]


def _wait_for_previews(address: str, count: int) -> None:
    while True:
        with urllib.request.urlopen(f"{address}/api/shoots/1") as answer:
            progress = json.load(answer)["progress"]
        if progress["previewed"] >= count:
            typer.echo(f"{progress['rate'] or 0:.1f} previews a second while preparing", err=True)
            return
        time.sleep(0.5)


def _wait_until_measured(address: str) -> None:
    while True:
        with urllib.request.urlopen(f"{address}/api/shoots/1") as answer:
            if json.load(answer)["progress"]["state"] == "done":
                return
        time.sleep(1)


def _stepping(driver: webdriver.Chrome, address: str) -> list[Figure]:
    driver.get(f"{address}/shoots/1/bench")
    time.sleep(4)
    ActionChains(driver).send_keys("o").perform()
    paced = _walk(driver, PACE_S)
    driver.get(f"{address}/shoots/1/bench")
    time.sleep(4)
    ActionChains(driver).send_keys("o").perform()
    fast = _walk(driver, 0)
    marked = []
    driver.execute_script("performance.clearMeasures()")
    for n in range(MARKS):
        ActionChains(driver).send_keys("ad"[n % 2]).perform()
        time.sleep(0.05)
    marked = measures(driver, "winnow:mark")
    frame = display_frame_ms(driver)
    baseline = f"one display frame of this browser: {frame:.1f} ms"
    return [
        Figure(f"show-frame, {len(paced)} steps at 4 a second, median", median(paced), "ms", 20, baseline),
        Figure("show-frame, 95th percentile", percentile(paced, 95), "ms", 50, baseline),
        Figure(f"show-frame, {len(fast)} steps without a pause, median", median(fast), "ms", None, baseline),
        Figure("show-frame without a pause, 95th percentile", percentile(fast, 95), "ms", None, baseline),
        Figure(f"mark, {len(marked)} marks, median", median(marked), "ms", None, baseline),
        Figure("mark, 95th percentile", percentile(marked, 95), "ms", 30, baseline),
    ]


def _walk(driver: webdriver.Chrome, pause_s: float) -> list[float]:
    driver.execute_script("performance.clearMeasures()")
    for _ in range(STEPS):
        ActionChains(driver).send_keys(Keys.ARROW_RIGHT).perform()
        time.sleep(pause_s)
    time.sleep(1)
    return measures(driver, "winnow:show-frame")
