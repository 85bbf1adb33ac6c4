"""Memory that a picture will take, asked before it is decoded; measured from outside, by the system.

Source of the figures: VmHWM in /proc/PID/status (proc(5)), the peak of resident memory.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import numpy as np
import pillow_heif
import pytest
import tifffile
from PIL import Image

from tests import hostile, photographs
from winnow.demo import dng
from winnow.formats import budget

PEAK = """
import sys
from pathlib import Path
from winnow.pipeline import tasks
tasks.start_worker()
cache, *paths = sys.argv[1:]
for path in paths:
    task = tasks.DeriveTask(1, path, str(Path(path).parent), Path(path).name.replace(".", ""), cache)
    head = tasks.read_heads([tasks.HeadTask(1, path, str(Path(path).parent), ())])[0]
    found = tasks.prepare(tasks.PrepareTask(task, None))
    tasks.glimpse(task)
    tasks.develop_full(task)
    peak = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
    said = found.problem or (found.measured and found.measured.problem)
    print(Path(path).name, int(peak.split()[1]) // 1024, said and getattr(said, "text", said))
"""


def peaks_of(paths: list[Path], tmp_path: Path) -> dict[str, tuple[int, str]]:
    """Of a worker that does all there is to do with one picture after another: its peak so far, MiB, and what it said
    of each."""
    run = subprocess.run(
        [sys.executable, "-c", PEAK, tmp_path / "cache", *paths], capture_output=True, text=True, timeout=600
    )
    assert run.returncode == 0, run.stderr
    told = (line.split(" ", 2) for line in run.stdout.splitlines() if line.count(" ") > 1)
    return {name: (int(megabytes), said) for name, megabytes, said in told}


def large(width: int, height: int) -> Image.Image:
    return photographs.photograph(2).resize((width, height))


def test_bombs(tmp_path: Path) -> None:
    told = peaks_of([hostile.bomb(tmp_path / name) for name in hostile.BOMBS], tmp_path)
    assert set(told) == set(hostile.BOMBS)
    for name, (peak, said) in told.items():
        assert peak <= 600, told
        # A profile that is none does not keep a picture from being shown.
        assert (said == "None") is (name == "icc.png"), (name, said)


LARGE = {
    "progressive.jpg": 30,
    "turned.jpg": 60,
    "huge.jpg": 100,
    "a.png": 20,
    "deep.tif": 30,
    "a.heic": 5,
    "a.dng": 12,
}
"""Megapixels of pictures as large as cameras make them."""


def made(path: Path, megapixels: int) -> Path:
    width = int((megapixels * 1.5e6) ** 0.5)
    picture = large(width, width * 2 // 3)
    if path.suffix == ".jpg":
        more = {"progressive": True} if path.name == "progressive.jpg" else {}
        orientation = 6 if path.name in ("turned.jpg", "huge.jpg") else 1
        picture.save(path, quality=85, exif=photographs.exif(orientation=orientation), **more)
    elif path.suffix == ".png":
        picture.save(path, compress_level=1)
    elif path.suffix == ".tif":
        tifffile.imwrite(path, np.asarray(picture).astype(np.uint16) * 257, photometric="rgb")
    elif path.suffix == ".heic":
        pillow_heif.from_pillow(picture).save(path, quality=50, enc_params={"preset": "ultrafast"})
    else:
        small = photographs.jpeg_bytes(picture.resize((160, 107)))
        path.write_bytes(dng.encode(np.asarray(picture), small, photographs.exif()))
    return path


def test_pictures_as_large_as_cameras_make_them(tmp_path: Path) -> None:
    told = peaks_of([made(tmp_path / name, megapixels) for name, megapixels in LARGE.items()], tmp_path)
    assert set(told) == set(LARGE)
    for name, (peak, said) in told.items():
        assert peak <= 600, told
        assert ("not measured" in said) is (name == "huge.jpg"), (name, said)
    assert len(list((tmp_path / "cache" / "preview").rglob("*.jpg"))) == len(LARGE)


def test_what_no_header_announced_is_refused_by_the_system(tmp_path: Path) -> None:
    """A worker that asks for more than its share gets no memory, and goes on."""
    code = """
from winnow.formats import budget
import numpy as np
budget.bind()
try:
    np.ones(900 * 1024**2, np.uint8)
    print("given")
except MemoryError:
    print("refused", np.ones(50 * 1024**2, np.uint8).size)
"""
    run = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True)
    assert run.stdout.startswith("refused 52428800"), run.stderr


def test_the_message_says_what_to_do() -> None:
    with pytest.raises(budget.TooMuchMemoryError, match=r"253 megapixels and would take 1770 MB.*smaller"):
        budget.demand(15_900, 15_900, 7)
    assert budget.fits(6000, 4000, budget.MEASURED)
