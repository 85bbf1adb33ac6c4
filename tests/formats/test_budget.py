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
path, cache = sys.argv[1:]
task = tasks.DeriveTask(1, path, str(Path(path).parent), "ab", cache)
head = tasks.read_heads([tasks.HeadTask(1, path, str(Path(path).parent), ())])[0]
found = tasks.prepare(tasks.PrepareTask(task, None))
tasks.glimpse(task)
tasks.develop_full(task)
peak = next(line for line in open("/proc/self/status") if line.startswith("VmHWM"))
said = found.problem or (found.measured and found.measured.problem)
print(int(peak.split()[1]) // 1024, "|", said and getattr(said, "text", said))
"""


def peak_of(path: Path, tmp_path: Path) -> tuple[int, str]:
    """Peak of a worker that does all there is to do with a picture, MiB, and what it said of it."""
    run = subprocess.run(
        [sys.executable, "-c", PEAK, path, tmp_path / "cache"], capture_output=True, text=True, timeout=300
    )
    assert run.returncode == 0, run.stderr
    megabytes, _, said = run.stdout.strip().splitlines()[-1].partition(" | ")
    return int(megabytes), said


def large(width: int, height: int) -> Image.Image:
    return photographs.photograph(2).resize((width, height))


@pytest.mark.parametrize("name", hostile.BOMBS)
def test_bombs(tmp_path: Path, name: str) -> None:
    peak, said = peak_of(hostile.bomb(tmp_path / name), tmp_path)
    assert peak <= 600
    # A profile that is none does not keep a picture from being shown.
    assert (said == "None") is (name == "icc.png"), said


@pytest.mark.parametrize(
    ("name", "megapixels", "measured"),
    [
        ("a.jpg", 40, True),
        ("progressive.jpg", 30, True),
        ("turned.jpg", 60, True),
        ("huge.jpg", 100, False),
        ("a.png", 20, True),
        ("deep.tif", 30, True),
        ("a.heic", 5, True),
        ("a.dng", 12, True),
    ],
)
def test_pictures_as_large_as_cameras_make_them(
    tmp_path: Path, name: str, megapixels: int, measured: bool
) -> None:
    width = int((megapixels * 1.5e6) ** 0.5)
    picture, path = large(width, width * 2 // 3), tmp_path / name
    if path.suffix == ".jpg":
        more = {"progressive": True} if name == "progressive.jpg" else {}
        orientation = 6 if name in ("turned.jpg", "huge.jpg") else 1
        picture.save(path, quality=85, exif=photographs.exif(orientation=orientation), **more)
    elif path.suffix == ".png":
        picture.save(path, compress_level=1)
    elif path.suffix == ".tif":
        tifffile.imwrite(path, np.asarray(picture).astype(np.uint16) * 257, photometric="rgb")
    elif path.suffix == ".heic":
        pillow_heif.from_pillow(picture).save(path, quality=50)
    else:
        small = photographs.jpeg_bytes(picture.resize((160, 107)))
        path.write_bytes(dng.encode(np.asarray(picture), small, photographs.exif()))
    peak, said = peak_of(path, tmp_path)
    assert peak <= 600
    assert ("not measured" in said) is not measured, said
    assert len(list((tmp_path / "cache" / "preview").rglob("*.jpg"))) == 1


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
