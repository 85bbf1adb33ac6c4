"""Edges of known blur, blurs of known size, and pictures of hard edges, for the tests of focus."""

from __future__ import annotations

import io
import math

import cv2
import numpy as np
from PIL import Image
from scipy.special import erf

from tests import photographs

LIGHT = np.array([0.2126, 0.7152, 0.0722])


def slanted_edge(
    sigma: float, degrees: float = 5, size: int = 400, low: float = 60, high: float = 190, noise: float = 0
) -> np.ndarray:
    """A step blurred by a Gaussian of σ px, sampled at the middle of each pixel: (size, size), 8 bit."""
    y, x = np.mgrid[0:size, 0:size] - size / 2
    across = x * math.cos(math.radians(degrees)) + y * math.sin(math.radians(degrees))
    picture = low + (high - low) * (1 + erf(across / (sigma * math.sqrt(2)))) / 2
    return eight_bit(picture + np.random.default_rng(1).normal(0, noise, picture.shape))


def mtf50(edge: np.ndarray, degrees: float) -> float:
    """Cycles a pixel at half contrast, by e-SFR (ISO 12233): project, bin to quarter pixels, differentiate,
    transform. `edge` as `slanted_edge` makes it."""
    y, x = np.mgrid[0 : edge.shape[0], 0 : edge.shape[1]] - edge.shape[0] / 2
    across = x * math.cos(math.radians(degrees)) + y * math.sin(math.radians(degrees))
    near = np.abs(across) < 32
    bins = np.floor((across[near] + 32) * 4).astype(int)
    profile = np.bincount(bins, edge[near]) / np.maximum(np.bincount(bins), 1)
    line = np.diff(profile) * np.hanning(len(profile) - 1)
    spectrum = np.abs(np.fft.rfft(line))
    spectrum /= spectrum[0]
    frequency = np.fft.rfftfreq(len(line), 0.25)
    below = int(np.argmax(spectrum < 0.5))
    share = (spectrum[below - 1] - 0.5) / (spectrum[below - 1] - spectrum[below])
    return float(frequency[below - 1] + share * (frequency[below] - frequency[below - 1]))


def grey(number: int) -> np.ndarray:
    """A real photograph as brightness, 0 to 255, float."""
    rgb = np.asarray(photographs.photograph(number))
    return cv2.cvtColor(rgb, cv2.COLOR_RGB2GRAY).astype(np.float64)


def blurred(picture: np.ndarray, sigma: float) -> np.ndarray:
    return cv2.GaussianBlur(picture, (0, 0), sigma) if sigma else picture


def smeared(picture: np.ndarray, length: float, degrees: float, bow: float = 0.0) -> np.ndarray:
    """Blurred by a smear from end to end, finely sampled; bow: how far it bends to one side, in its length."""
    size = 2 * math.ceil(length / 2) + 3
    steps = np.linspace(-0.5, 0.5, int(64 * length))
    along, aside = length * steps, bow * length * (0.5 - 4 * steps**2)
    cos, sin = math.cos(math.radians(degrees)), math.sin(math.radians(degrees))
    x = along * cos - aside * sin + size // 2
    y = along * sin + aside * cos + size // 2
    kernel, _, _ = np.histogram2d(y, x, bins=size, range=[[-0.5, size - 0.5]] * 2)
    return cv2.filter2D(picture, -1, kernel / kernel.sum(), borderType=cv2.BORDER_REFLECT)


def out_of_focus(picture: np.ndarray, diameter: float) -> np.ndarray:
    """Blurred by a uniform disc."""
    reach = math.ceil(diameter / 2) + 1
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1]
    disc = np.clip(diameter / 2 + 0.5 - np.hypot(x, y), 0, 1)
    return cv2.filter2D(picture, -1, disc / disc.sum(), borderType=cv2.BORDER_REFLECT)


def brighter(picture: np.ndarray, stops: float) -> np.ndarray:
    """Exposed otherwise: in linear light, by the sRGB curve (IEC 61966-2-1)."""
    value = picture / 255
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4) * 2.0**stops
    linear = np.clip(linear, 0, 1)
    return 255 * np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)


def through_jpeg(picture: np.ndarray, quality: int) -> np.ndarray:
    out = io.BytesIO()
    Image.fromarray(eight_bit(picture)).save(out, "JPEG", quality=quality)
    return np.asarray(Image.open(out)).astype(np.float64)


def noisy(picture: np.ndarray, deviation: float) -> np.ndarray:
    return picture + np.random.default_rng(2).normal(0, deviation, picture.shape)


def eight_bit(picture: np.ndarray) -> np.ndarray:
    return np.clip(np.rint(picture), 0, 255).astype(np.uint8)


def dead_leaves(size: int, smallest: float, largest: float, seed: int) -> np.ndarray:
    """Discs of random grey that hide each other, radii by r⁻³: edges at all distances from each other, all of
    them perfectly sharp. Source: Lee, Mumford & Huang, *Occlusion models for natural images*, IJCV 41, 2001."""
    rng = np.random.default_rng(seed)
    picture = np.full((size, size), 128.0, np.float32)
    free = np.ones((size, size), bool)
    for _ in range(40_000):
        share = rng.random()
        radius = 1 / math.sqrt((1 - share) / smallest**2 + share / largest**2)
        x, y = rng.random(2) * (size + 2 * radius) - radius
        left, right = int(max(0, x - radius)), int(min(size, x + radius + 1))
        top, bottom = int(max(0, y - radius)), int(min(size, y + radius + 1))
        value = rng.uniform(20, 235)
        if right <= left or bottom <= top:
            continue
        rows, columns = np.ogrid[top:bottom, left:right]
        disc = ((columns - x) ** 2 + (rows - y) ** 2 <= radius**2) & free[top:bottom, left:right]
        picture[top:bottom, left:right][disc] = value
        free[top:bottom, left:right] &= ~disc
        if not free.any():
            break
    return picture
