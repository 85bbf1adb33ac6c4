"""Real photographs for the tests: scikit-image and scikit-learn carry them in their packages."""

from __future__ import annotations

import io
from importlib.util import find_spec
from pathlib import Path

import numpy as np
from PIL import ExifTags, Image, ImageChops


def _inside(package: str, *folders: str) -> Path:
    """A folder of an installed package; it is not imported for it, which takes seconds."""
    found = find_spec(package)
    assert found is not None and found.origin is not None
    return Path(found.origin).parent.joinpath(*folders)


SKIMAGE = _inside("skimage", "data")
SKLEARN = _inside("sklearn", "datasets", "images")

PHOTOGRAPHS = (
    SKIMAGE / "astronaut.png",
    SKIMAGE / "chelsea.png",
    SKIMAGE / "coffee.png",
    SKIMAGE / "rocket.jpg",
    SKLEARN / "china.jpg",
    SKLEARN / "flower.jpg",
)


def photograph(number: int = 0) -> Image.Image:
    """One of them as RGB, round and round."""
    return Image.open(PHOTOGRAPHS[number % len(PHOTOGRAPHS)]).convert("RGB")


def exif(
    taken: str | None = "2026:10:17 16:00:00",
    *,
    subsec: str | None = None,
    offset: str | None = None,
    orientation: int = 1,
    **more: object,
) -> Image.Exif:
    """An Exif block with the usual tags; further ones by their standard names."""
    block = Image.Exif()
    block[ExifTags.Base.Orientation] = orientation
    inner = block.get_ifd(ExifTags.IFD.Exif)
    if taken:
        inner[ExifTags.Base.DateTimeOriginal] = taken
    if subsec:
        inner[ExifTags.Base.SubsecTimeOriginal] = subsec
    if offset:
        inner[ExifTags.Base.OffsetTimeOriginal] = offset
    for name, value in more.items():
        tag = ExifTags.Base[name]
        (block if name in ("Make", "Model") else inner)[tag] = value
    return block


SMALL = 240
"""px: too small to be measured, which takes longer than all else."""
WHOLE = 0
"""As large as it is: for tests that ask for what is measured."""


def save(
    path: Path, number: int = 0, second: int = 0, *, shift: int = 0, edge: int = WHOLE, **tags: object
) -> Path:
    """A photograph as a JPEG taken at 16:00 plus some seconds, moved by `shift` px, reduced to `edge` px."""
    path.parent.mkdir(parents=True, exist_ok=True)
    taken = f"2026:10:17 16:{second // 60:02d}:{second % 60:02d}"
    picture = ImageChops.offset(photograph(number), shift, 0)
    if edge:
        picture.thumbnail((edge, edge))
    picture.save(path, quality=88, exif=exif(**{"taken": taken, **tags}))  # type: ignore[arg-type]
    return path


def shoot(folder: Path, count: int = 6, *, edge: int = SMALL) -> Path:
    """A folder of frames in DCF names: two groups of one picture each, with a pause between them. The camera
    moves on a little from frame to frame. Too small to be measured, unless an `edge` is given."""
    for n in range(count):
        later = n >= count // 2
        path = folder / "100WINNO" / f"WIN_{n + 1:04d}.JPG"
        save(path, 2 if later else 0, second=2 * n + (40 if later else 0), shift=3 * n, edge=edge)
    return folder


def jpeg_bytes(picture: Image.Image, **options: object) -> bytes:
    out = io.BytesIO()
    picture.save(out, "JPEG", **options)
    return out.getvalue()


def large(width: int = 6000, height: int = 4000, seed: int = 0) -> np.ndarray:
    """A real photograph enlarged to 24 megapixels, with fine grain so that it compresses like one."""
    picture = photograph(seed).resize((width, height), Image.Resampling.BICUBIC)
    grain = np.random.default_rng(seed).normal(0, 3.5, (height, width, 1))
    return np.clip(np.asarray(picture) + grain, 0, 255).astype(np.uint8)
