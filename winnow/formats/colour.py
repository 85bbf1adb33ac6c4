"""Any pixels to sRGB, in bands: a whole picture is never held more often than it must be."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageCms

Pixels = NDArray[np.uint8]

BAND_PIXELS = 2_000_000


def to_srgb(pixels: Pixels, profile: bytes | None) -> Pixels:
    """RGB pixels under an embedded ICC profile, converted to sRGB in their place. Without a profile, or with one
    that cannot be used, the pixels are taken for sRGB, as browsers do."""
    transform = _transform(profile) if profile else None
    if transform is None:
        return pixels
    if not pixels.flags.writeable:
        pixels = pixels.copy()
    for top, bottom in _bands(*pixels.shape[:2]):
        pixels[top:bottom] = np.asarray(transform.apply(Image.fromarray(pixels[top:bottom])))
    return pixels


def is_srgb(profile: bytes | None) -> bool:
    """Whether `to_srgb` leaves pixels under this profile as they are."""
    return not profile or _transform(profile) is None


def rgb_of(picture: Image.Image, profile: bytes | None) -> Pixels:
    """Any loaded Pillow picture as sRGB; transparency lies on white."""
    band = _band_reader(picture, profile)
    cmyk = picture.mode == "CMYK"
    out = np.empty((picture.height, picture.width, 3), np.uint8)
    for top, bottom in _bands(picture.height, picture.width):
        out[top:bottom] = band(picture.crop((0, top, picture.width, bottom)))
    return out if cmyk else to_srgb(out, profile)


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
def _transform(profile: bytes) -> ImageCms.ImageCmsTransform | None:
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if source.profile.xcolor_space.strip() != "RGB":
            return None
        if "sRGB" in (source.profile.profile_description or ""):
            return None
        return ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), "RGB", "RGB")
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return None


def _from_cmyk(profile: bytes) -> ImageCms.ImageCmsTransform | None:
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        return ImageCms.buildTransform(source, ImageCms.createProfile("sRGB"), "CMYK", "RGB")
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        return None
