"""Colours of files to those of screens, in bands: a whole picture is never held more often than it must be."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from enum import Enum
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

from winnow.formats.icc import DISPLAY_P3

Pixels = NDArray[np.uint8]


class Colours(Enum):
    """What pixels are wanted in. SRGB: what is measured. WIDE: Display P3 where the file goes beyond sRGB, else sRGB.
    STORED: the numbers of the file, as if it had no profile."""

    SRGB = "srgb"
    WIDE = "wide"
    STORED = "stored"


BAND_PIXELS = 2_000_000
BEYOND = 4
"""Levels of 255 from which on a colour is another one."""
MOST_NAME = 60


def converted(pixels: Pixels, profile: bytes | None, wanted: Colours = Colours.SRGB) -> Pixels:
    """RGB pixels under an embedded ICC profile, converted in their place. Without a profile, or with one that cannot
    be used, the pixels are taken for sRGB, as browsers do."""
    if wanted is Colours.STORED or not profile:
        return pixels
    transform = _transform(profile, wanted is Colours.WIDE and is_wide(profile))
    if transform is None:
        return pixels
    if not pixels.flags.writeable:
        pixels = pixels.copy()
    for top, bottom in _bands(*pixels.shape[:2]):
        pixels[top:bottom] = np.asarray(transform.apply(Image.fromarray(pixels[top:bottom])))
    return pixels


def is_srgb(profile: bytes | None) -> bool:
    """Whether pixels under this profile are taken as they are."""
    return not profile or _transform(profile) is None


@lru_cache(maxsize=16)
def is_wide(profile: bytes | None) -> bool:
    """Whether a profile holds colours that sRGB cannot: whether its red, green or blue is another one after a way
    through sRGB."""
    if not profile or is_srgb(profile):
        return False
    ends = np.array([[[255, 0, 0], [0, 255, 0], [0, 0, 255]]], np.uint8)
    to_wide = _transform(profile, True)
    within = _transform(DISPLAY_P3)
    assert to_wide is not None and within is not None
    wide = np.asarray(to_wide.apply(Image.fromarray(ends)))
    back = ImageCms.buildTransform(ImageCms.createProfile("sRGB"), _opened(DISPLAY_P3), "RGB", "RGB")
    again = np.asarray(back.apply(within.apply(Image.fromarray(wide))))
    return bool(np.abs(wide.astype(int) - again).max() > BEYOND)


def name_of(profile: bytes) -> str:
    """What a profile calls itself."""
    try:
        return (_opened(profile).profile.profile_description or "").strip("\0 ")[:MOST_NAME] or "unnamed"
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return "a profile that cannot be read"


def rgb_of(picture: Image.Image, profile: bytes | None, wanted: Colours = Colours.SRGB) -> Pixels:
    """Any loaded Pillow picture as RGB; transparency lies on white."""
    band = _band_reader(picture, profile)
    cmyk = picture.mode == "CMYK"
    out = np.empty((picture.height, picture.width, 3), np.uint8)
    for top, bottom in _bands(picture.height, picture.width):
        out[top:bottom] = band(picture.crop((0, top, picture.width, bottom)))
    return out if cmyk else converted(out, profile, wanted)


def _band_reader(picture: Image.Image, profile: bytes | None) -> Callable[[Image.Image], Pixels]:
    if picture.mode.startswith("I;16") or picture.mode in ("I", "F"):
        extrema = picture.getextrema()
        top = 65535.0 if picture.mode != "F" else max(float(extrema[1]), 1e-9)  # type: ignore[arg-type]
        return lambda part: _grey(part, top)
    if picture.mode == "CMYK" and profile:
        transform = _from_cmyk(profile)
        if transform is not None:
            return lambda part: np.asarray(transform.apply(part))
    if picture.has_transparency_data:
        return _on_white
    return lambda part: np.asarray(part.convert("RGB"))


def _grey(part: Image.Image, top: float) -> Pixels:
    grey = np.clip(np.asarray(part).astype(np.float32) / top * 255, 0, 255).astype(np.uint8)
    return np.repeat(grey[..., None], 3, axis=2)


def _on_white(part: Image.Image) -> Pixels:
    whole = part.convert("RGBA")
    return np.asarray(Image.alpha_composite(Image.new("RGBA", whole.size, "white"), whole).convert("RGB"))


def _bands(height: int, width: int) -> Iterator[tuple[int, int]]:
    rows = max(1, BAND_PIXELS // max(1, width))
    for top in range(0, height, rows):
        yield top, min(height, top + rows)


@lru_cache(maxsize=16)
def _transform(profile: bytes, wide: bool = False) -> ImageCms.ImageCmsTransform | None:
    """To sRGB, or to Display P3; None for sRGB itself, and for what is no profile of RGB."""
    try:
        source = _opened(profile)
        if source.profile.xcolor_space.strip() != "RGB":
            return None
        if "sRGB" in (source.profile.profile_description or ""):
            return None
        target = _opened(DISPLAY_P3) if wide else ImageCms.createProfile("sRGB")
        return ImageCms.buildTransform(source, target, "RGB", "RGB")
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return None


def _opened(profile: bytes) -> ImageCms.ImageCmsProfile:
    return ImageCms.ImageCmsProfile(io.BytesIO(profile))


def _from_cmyk(profile: bytes) -> ImageCms.ImageCmsTransform | None:
    try:
        return ImageCms.buildTransform(_opened(profile), ImageCms.createProfile("sRGB"), "CMYK", "RGB")
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return None
