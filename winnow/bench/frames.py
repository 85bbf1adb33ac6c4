"""Large shoots for the benchmark and for load tests: frames of 24 megapixels made of demo frames.

By hand: `python -m winnow.bench.frames FOLDER --frames 3000`.

Every frame is a file of its own with its own times, but pictures repeat: bursts of `BURST` frames of
`distinct` different pictures come round again and again. Each burst enlarges one demo frame; its
members drift by known affines, and some are blurred or smeared by known amounts. All that is written
down in `made.json`. Deterministic by seed. 3,000 frames take about 10 GB.
"""

from __future__ import annotations

import json
import math
import re
from collections.abc import Iterator
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict, dataclass
from datetime import datetime, timedelta
from itertools import repeat
from multiprocessing import get_context
from pathlib import Path
from typing import Annotated

import cv2
import numpy as np
import simplejpeg
import typer
from numpy.typing import NDArray

from winnow.bench.camera_preview import with_preview
from winnow.demo.layout import shipped_frames

WIDTH, HEIGHT = 6000, 4000
QUALITY = 90
BURST = 6
START = datetime(2026, 10, 17, 9)
PAUSE = timedelta(minutes=15)
GRAIN = 3.0
"""Standard deviation of the added noise, grey levels."""
RECORD = "made.json"
PREVIEW, PREVIEW_QUALITY = (1620, 1080), 85
"""The second picture in each file, (width, height) px; files of one and the same camera differ in it little."""
WITHOUT_PREVIEW = 12
"""One file in so many has none."""


@dataclass(frozen=True, slots=True)
class Making:
    """What was done to the enlarged demo frame `source` (name). Lengths in px of the large frame.

    affine: 2×3, from the enlarged frame to this one. sigma_px: of the added Gaussian blur. motion_px
    and motion_deg: of the added smear, 0° = along the rows, counted clockwise.
    """

    source: str
    affine: tuple[tuple[float, ...], ...]
    sigma_px: float
    motion_px: float
    motion_deg: float


def make_large_shoot(
    folder: Path, count: int, distinct: int, seed: int = 1, width: int = WIDTH, scene: int | None = None
) -> None:
    """`count` JPEG files in DCF names, of `distinct` pictures (whole bursts, if there are as many files). width: of a
    picture, px. scene: so many frames, and then a quarter of an hour passes."""
    sources = [path for path in sorted(shipped_frames().rglob("*.JPG")) if _is_wide(path)]
    kinds = range(min(count, math.ceil(distinct / BURST) * BURST))
    chosen = [sources[kind // BURST * 7 % len(sources)] for kind in kinds]
    makings = [_plan(source.name, kind, seed) for kind, source in zip(kinds, chosen, strict=True)]
    with ProcessPoolExecutor(mp_context=get_context("spawn")) as pool:
        pictures = list(pool.map(_make, chosen, makings, [(seed, kind, 1) for kind in kinds], repeat(width)))
    record = {}
    for number in range(count):
        kind = number % len(kinds)
        exif, rest, preview = pictures[kind]
        pauses = number // scene * PAUSE if scene else timedelta(0)
        taken = START + pauses + timedelta(seconds=number // BURST * 30 + number % BURST)
        path = folder / f"{100 + number // 1000}BENCH" / f"BEN_{number % 9999 + 1:04d}.JPG"
        path.parent.mkdir(parents=True, exist_ok=True)
        jpeg = b"\xff\xd8" + _at(exif, taken) + rest
        has_preview = width > PREVIEW[0] and number % WITHOUT_PREVIEW != 0
        path.write_bytes(with_preview(jpeg, preview) if has_preview else jpeg)
        record[path.relative_to(folder).as_posix()] = asdict(makings[kind])
    (folder / RECORD).write_text(json.dumps(record, indent=1) + "\n")


def _plan(source: str, kind: int, seed: int) -> Making:
    """The first of a burst stands still and sharp; the others drift, and two of them fail."""
    rng = np.random.default_rng((seed, kind))
    member = kind % BURST
    if member == 0:
        return Making(source, ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0)), 0, 0, 0)
    angle, scale = rng.normal(0, 0.006), 1 + rng.normal(0, 0.008)
    cos, sin = scale * math.cos(angle), scale * math.sin(angle)
    dx, dy = rng.normal(0, 60, 2)
    affine = ((cos, -sin, float(dx)), (sin, cos, float(dy)))
    soft = float(rng.uniform(4, 12)) if member == 2 else 0.0
    smear = float(rng.uniform(15, 60)) if member == 4 else 0.0
    return Making(source, affine, soft, smear, float(rng.uniform(0, 180)) if smear else 0.0)


def _make(path: Path, making: Making, seed: tuple[int, ...], width: int) -> tuple[bytes, bytes, bytes]:
    """(Exif segment of the source, the large picture without its first two bytes, a preview as cameras add)."""
    data = path.read_bytes()
    exif = next(segment for segment in _segments(data) if segment[4:8] == b"Exif")
    small = simplejpeg.decode_jpeg(data)
    enlarging = np.diag([WIDTH / small.shape[1], HEIGHT / small.shape[0], 1.0])
    whole = np.array(making.affine) @ enlarging
    large = cv2.warpAffine(
        small, whole, (WIDTH, HEIGHT), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT_101
    )
    if making.sigma_px:
        large = cv2.GaussianBlur(large, (0, 0), making.sigma_px)
    if making.motion_px:
        large = cv2.filter2D(large, -1, _line(making.motion_px, making.motion_deg))
    grain = np.random.default_rng(seed).normal(0, GRAIN, (HEIGHT, WIDTH // 8)).astype(np.int16)
    noisy = large.astype(np.int16)
    noisy += np.tile(grain, (1, 8))[..., None]
    pixels = np.clip(noisy, 0, 255).astype(np.uint8)
    if width < WIDTH:
        smaller = (width, HEIGHT * width // WIDTH)
        pixels = np.asarray(cv2.resize(pixels, smaller, interpolation=cv2.INTER_AREA), np.uint8)
    jpeg = simplejpeg.encode_jpeg(pixels, QUALITY, "RGB", "420")
    reduced = np.asarray(cv2.resize(pixels, PREVIEW, interpolation=cv2.INTER_AREA), np.uint8)
    return exif, jpeg[2:], simplejpeg.encode_jpeg(reduced, PREVIEW_QUALITY, "RGB", "422")


def _line(length: float, degrees: float) -> NDArray[np.float32]:
    """A smear along a straight line as a kernel, drawn at 8 × and averaged."""
    size = 2 * math.ceil(length / 2) + 3
    fine = np.zeros((size * 8, size * 8), np.float32)
    dx, dy = (4 * length * f(math.radians(degrees)) for f in (math.cos, math.sin))
    centre = size * 4
    ends = [(round(centre + sign * dx), round(centre + sign * dy)) for sign in (-1, 1)]
    cv2.line(fine, ends[0], ends[1], 1.0, thickness=8)
    kernel = cv2.resize(fine, (size, size), interpolation=cv2.INTER_AREA)
    scaled: NDArray[np.float32] = kernel / kernel.sum()
    return scaled


def _is_wide(path: Path) -> bool:
    height, width = simplejpeg.decode_jpeg_header(path.read_bytes())[:2]
    return bool(width > height)


def _segments(data: bytes) -> Iterator[bytes]:
    place = 2
    while data[place] == 0xFF and data[place + 1] != 0xDA:
        length = int.from_bytes(data[place + 2 : place + 4], "big") + 2
        yield data[place : place + length]
        place += length


def _at(exif: bytes, taken: datetime) -> bytes:
    """The segment with all its times set to `taken`; same length, so nothing else moves."""
    text = taken.strftime("%Y:%m:%d %H:%M:%S").encode()
    return re.sub(rb"\d{4}:\d\d:\d\d \d\d:\d\d:\d\d", text, exif)


def main(
    folder: Path,
    frames: Annotated[int, typer.Option(help="How many files.")] = 3000,
    distinct: Annotated[int, typer.Option(help="How many different pictures.")] = 300,
    seed: Annotated[int, typer.Option(help="Same seed, same files.")] = 1,
    width: Annotated[int, typer.Option(help="Of a picture, px.")] = WIDTH,
    scene: Annotated[int | None, typer.Option(help="So many frames, and then a pause.")] = None,
) -> None:
    """Make a large shoot."""
    make_large_shoot(folder, frames, distinct, seed, width, scene)


if __name__ == "__main__":
    typer.run(main)
