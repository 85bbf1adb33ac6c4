"""Large frames for the benchmark: 24 megapixels, with the Exif block (thumbnail included) of a camera."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import datetime, timedelta
from pathlib import Path

import cv2
import numpy as np
import simplejpeg

from winnow.demo.layout import shipped_frames

WIDTH, HEIGHT = 6000, 4000
QUALITY = 90
START = datetime(2026, 10, 17, 9)


def make_large_shoot(folder: Path, count: int, distinct: int, seed: int = 1) -> None:
    """`count` JPEG files of 24 megapixels in DCF names and bursts of five.

    `distinct` pictures are made by enlarging demo frames, shifting, and adding grain; each is written
    `count / distinct` times with a time of its own, so that no two files are the same.
    """
    sources = [path for path in sorted(shipped_frames().rglob("*.JPG")) if _is_wide(path)]
    rng = np.random.default_rng(seed)
    pictures: dict[int, tuple[bytes, bytes]] = {}
    for number in range(count):
        kind = number % distinct
        if kind not in pictures:
            pictures[kind] = _enlarge(sources[(kind * 7) % len(sources)], rng)
        exif, rest = pictures[kind]
        taken = START + timedelta(seconds=number // 5 * 30 + number % 5)
        path = folder / f"{100 + number // 1000}BENCH" / f"BEN_{number % 9999 + 1:04d}.JPG"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(b"\xff\xd8" + _at(exif, taken) + rest)


def _is_wide(path: Path) -> bool:
    height, width = simplejpeg.decode_jpeg_header(path.read_bytes())[:2]
    return bool(width > height)


def _enlarge(path: Path, rng: np.random.Generator) -> tuple[bytes, bytes]:
    """(Exif segment of the source, the enlarged picture without its first two bytes)."""
    data = path.read_bytes()
    exif = next(segment for segment in _segments(data) if segment[4:8] == b"Exif")
    small = simplejpeg.decode_jpeg(data)
    shifted = np.roll(small, int(rng.integers(-90, 90)), axis=1)
    large = cv2.resize(shifted, (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC).astype(np.int16)
    grain = rng.normal(0, 3.0, (HEIGHT, WIDTH // 8)).astype(np.int16)
    large += np.tile(grain, (1, 8))[..., None]
    jpeg = simplejpeg.encode_jpeg(np.clip(large, 0, 255).astype(np.uint8), QUALITY, "RGB", "420")
    return exif, jpeg[2:]


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
