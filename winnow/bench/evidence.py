"""What the evidence costs: a frame of 24 megapixels with two faces stage by stage, groups of a large shoot, the
same point in a group."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass
from multiprocessing import get_context
from pathlib import Path
from statistics import median
from typing import Any

import cv2
import numpy as np
import psutil
import simplejpeg
from PIL import Image

from winnow.core.evidence import Sheet, measure_faces, measure_focus
from winnow.core.exposure import measure_exposure, step_of
from winnow.core.grouping import Shot, group_shots
from winnow.core.match import find_point, prepare
from winnow.core.picture import Picture, Planes
from winnow.core.similarity import describe
from winnow.demo.layout import shipped_frames
from winnow.formats.whole import read_whole
from winnow.pipeline import tasks

WIDTH, HEIGHT = 6000, 4000
TWO_FACES = ("101TARN/TRN_0462.JPG", "101TARN/TRN_0537.JPG", "102TMINI/TMN_0105.JPG")
NO_FACES = ("101TARN/TRN_0412.JPG", "101TARN/TRN_0482.JPG", "102TMINI/TMN_0118.JPG")
GRAIN = 5.0
"""Standard deviation of the noise, grey levels: with it the files are about as large as a camera's."""
REPEATS = 3
GROUPED = 10_000
GROUP = 6


@dataclass(frozen=True, slots=True)
class Cost:
    """Processor milliseconds of the stages of one frame, and of one plain full decode of it."""

    decode: float
    whole: float
    stages: dict[str, float]
    megabytes: float


def write_large(folder: Path, names: tuple[str, ...]) -> list[Path]:
    """Demo frames enlarged to 24 megapixels, with grain in every pixel."""
    written = []
    for number, name in enumerate(names):
        small = simplejpeg.decode_jpeg((shipped_frames() / name).read_bytes())
        large = cv2.resize(small, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC).astype(np.int16)
        large += np.random.default_rng(number).normal(0, GRAIN, (HEIGHT, WIDTH, 1)).astype(np.int16)
        path = folder / f"LARGE_{number}_{Path(name).stem}.JPG"
        path.write_bytes(simplejpeg.encode_jpeg(np.clip(large, 0, 255).astype(np.uint8), 92, "RGB", "420"))
        written.append(path)
    return written


def cost_of(path: Path, cache: Path) -> Cost:
    """Least processor times of some runs, so that a busy machine counts little."""
    data = path.read_bytes()
    task = tasks.PrepareTask(tasks.DeriveTask(0, str(path), str(path.parent), "", str(cache)), None)
    tasks.face_nets()
    decode = min(_milliseconds(lambda: simplejpeg.decode_jpeg(data)) for _ in range(REPEATS + 2))

    def whole(run: int) -> float:
        fresh = tasks.PrepareTask(
            tasks.DeriveTask(0, str(path), str(path.parent), f"{path.stem}{run}", str(cache)), task.subject
        )
        return _milliseconds(lambda: tasks.prepare(fresh))

    runs = [_stages(read_whole(path).picture) for _ in range(REPEATS)]
    stages = {name: min(run[name] for run in runs) for name in runs[0]}
    return Cost(decode, min(whole(run) for run in range(REPEATS)), stages, len(data) / 1e6)


def _stages(picture: Picture) -> dict[str, float]:
    """The measurements of `core.evidence.measure`, one after another."""
    sheet, spent = Sheet(picture), {}

    def timed(name: str, work: Callable[[], Any]) -> Any:
        start = time.process_time()
        result = work()
        spent[name] = 1000 * (time.process_time() - start)
        return result

    timed("reduced pictures", lambda: (sheet.picture.reduced(1024), sheet.levels))
    timed("edges", lambda: (sheet.noise, sheet.edges))
    faces = timed("faces and eyes", lambda: measure_faces(sheet, tasks.face_nets()))
    timed("blur map, shake", lambda: measure_focus(sheet, faces))
    timed("exposure", lambda: measure_exposure(sheet.picture.sampled(step_of(*sheet.picture.shape))))
    timed("descriptor", lambda: describe(sheet.picture.reduced(960)[0]))
    return spent


def grouping_seconds() -> float:
    """Wall time of grouping 10,000 frames from descriptors, bursts of five of one picture each."""
    names = sorted(shipped_frames().rglob("*.JPG"))[::8]
    looks = [describe(simplejpeg.decode_jpeg(path.read_bytes())) for path in names]
    shots = [
        Shot(n, n // 5 * 9.0 + n % 5 * 0.8, "body", "lens", 50.0, descriptor=looks[n // 5 % len(looks)])
        for n in range(GROUPED)
    ]
    start = time.monotonic()
    group_shots(shots)
    return time.monotonic() - start


def point_milliseconds() -> list[float]:
    """Wall times of finding a point again in the other five of a group of six, on two threads."""
    from concurrent.futures import ThreadPoolExecutor

    names = [f"101TARN/TRN_{n:04d}.JPG" for n in range(434, 434 + GROUP)]
    ready = []
    for name in names:
        with Image.open(shipped_frames() / name) as picture:
            rgb = np.asarray(picture.convert("RGB"))
        height, width = rgb.shape[:2]
        grey = np.asarray(cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY), np.uint8)
        ready.append(prepare(grey, (width, height), describe(rgb)))
    spent = []
    with ThreadPoolExecutor(2) as pool:
        for x in range(300, 700, 40):
            start = time.monotonic()
            list(pool.map(lambda other, x=x: find_point(ready[0], other, x, 400), ready[1:]))
            spent.append(1000 * (time.monotonic() - start))
    return spent


def worker_megabytes(path: Path, cache: Path) -> float:
    """Most memory that a worker process held while preparing frames."""
    with ProcessPoolExecutor(1, mp_context=get_context("spawn"), initializer=tasks.start_worker) as pool:
        return pool.submit(_peak, path, cache).result()


def _peak(path: Path, cache: Path) -> float:
    for run in range(3):
        tasks.prepare(
            tasks.PrepareTask(
                tasks.DeriveTask(0, str(path), str(path.parent), f"peak{run}", str(cache)), None
            )
        )
    if sys.platform == "win32":
        return float(psutil.Process().memory_info().peak_wset) / 1e6
    import resource

    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1000


def _milliseconds(work: Callable[[], Any]) -> float:
    start = time.process_time()
    work()
    return 1000 * (time.process_time() - start)


def lines(folder: Path) -> Iterator[tuple[str, float, str, float | None, str]]:
    """(name, value, unit, bound, baseline) of every figure."""
    cache = folder / "evidence-cache"
    for words, names in (("two faces", TWO_FACES), ("no face", NO_FACES)):
        large = write_large(folder, names)
        costs = [cost_of(path, cache) for path in large]
        ratio = median(cost.whole / cost.decode for cost in costs)
        decode = median(cost.decode for cost in costs)
        megabytes = median(cost.megabytes for cost in costs)
        baseline = f"one plain full RGB decode: {decode:.0f} ms of processor time, {megabytes:.1f} MB"
        planar = isinstance(read_whole(large[0]).picture, Planes)
        form, bound = ("planes", 2.0) if planar else ("RGB", 2.2)
        yield f"everything on a 24-megapixel JPEG by {form}, {words}", ratio, "×", bound, baseline
        for stage in costs[0].stages:
            share = median(cost.stages[stage] / cost.decode for cost in costs)
            yield f"  of it {stage}", share, "×", None, baseline
        if names is TWO_FACES:
            peak = worker_megabytes(large[0], cache)
            yield "most memory of a worker", peak, "MB", 600, "one 24-megapixel picture in memory: 72 MB"
    empty = _milliseconds(lambda: None)
    yield f"groups of {GROUPED:,} frames", grouping_seconds(), "s", 5, f"no work at all: {empty:.3f} ms"
    spent = point_milliseconds()
    yield (
        f"the same point in a group of {GROUP}, median",
        median(spent),
        "ms",
        100,
        f"worst {max(spent):.0f} ms",
    )


def main() -> None:
    """Prints these figures alone: `python -m winnow.bench.evidence`."""
    import tempfile

    tasks.use_one_thread()
    with tempfile.TemporaryDirectory() as name:
        for title, value, unit, bound, baseline in lines(Path(name)):
            print(f"{title:50} {value:8.2f} {unit:3} {f'≤ {bound:g}' if bound else '':7} {baseline}")


if __name__ == "__main__":
    main()
