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

from winnow.bench import evidence, files, first_look, scale, stage, stepping, trust, weeding
from winnow.bench.browser import chromium
from winnow.bench.figures import display_frame_ms
from winnow.bench.frames import make_large_shoot
from winnow.bench.serving import serving
from winnow.pipeline import tasks


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
        add(*(Figure(*line) for line in files.lines(folder / "files")))
        add(*(Figure(*line) for line in first_look.lines(folder, 1000 * decode_s)))
        with serving(folder / "data", folder) as address, chromium() as driver:
            add(*_first_thumbnails(driver, address, folder / "shoot", decode_s))
            _wait_for_previews(address, count)
            _wait_until_measured(address)
            frame_ms = display_frame_ms(driver)
            add(*(Figure(*line) for line in stepping.lines(driver, address, frame_ms)))
            add(*(Figure(*line) for line in stage.lines(driver, address, frame_ms)))
            add(*(Figure(*line) for line in weeding.lines(driver, address, frame_ms)))
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
