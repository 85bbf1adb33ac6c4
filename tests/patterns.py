"""Made-up content that repeats itself or runs in one direction: what is most easily taken for a smear."""

from __future__ import annotations

import math
import zlib

import cv2
import numpy as np

SIZE = (600, 800)
KINDS = ("grating", "blinds", "bars", "chess", "bricks", "text", "foliage", "grass")


def draw(kind: str, period: int, degrees: float) -> np.ndarray:
    """A pattern of a period (px), turned, with a little noise: brightness 0 to 255, float."""
    rng = np.random.default_rng(zlib.crc32(f"{kind} {period} {degrees}".encode()))
    height, width = SIZE
    y, x = np.mgrid[0:height, 0:width]
    turn = math.radians(degrees)
    u, v = x * math.cos(turn) + y * math.sin(turn), y * math.cos(turn) - x * math.sin(turn)
    if kind == "grating":
        picture = 128 + 90 * np.sin(2 * np.pi * u / period)
    elif kind == "blinds":
        picture = np.where((u / period) % 1 < 0.7, 200, 60) + 20 * np.sin(v / 300)
    elif kind == "bars":
        picture = np.where((u / period) % 1 < 0.5, 210, 50)
    elif kind == "chess":
        picture = np.where((np.floor(u / period) + np.floor(v / period)) % 2, 205, 45)
    elif kind == "bricks":
        picture = _bricks(u, v, period)
    elif kind == "text":
        picture = _text(period, degrees, rng)
    else:
        picture = _leaves(period, degrees, rng, kind == "grass")
    return picture.astype(np.float64) + rng.normal(0, 2, SIZE)


def _bricks(u: np.ndarray, v: np.ndarray, period: int) -> np.ndarray:
    """Courses of bricks of different greys, mortar between them."""
    course = np.floor(v / period)
    along = u / (2.2 * period) + 0.5 * (course % 2)
    grey = 90 + 0.6 * ((course * 131 + np.floor(along) * 17) % 97)
    return np.where((along % 1 < 0.05) | ((v / period) % 1 < 0.1), 190, grey)


def _text(period: int, degrees: float, rng: np.random.Generator) -> np.ndarray:
    """Lines of words, black on white."""
    height, width = SIZE
    picture = np.full(SIZE, 235, np.uint8)
    words = "frames light shutter keeper lens open field bright river stone over under quick amber".split()
    for line in range(period, height, int(1.6 * period)):
        text, scale = " ".join(rng.choice(words, 30)), period / 30
        thickness = max(1, int(2 * scale))
        cv2.putText(picture, text, (10, line), cv2.FONT_HERSHEY_COMPLEX, scale, 30, thickness, cv2.LINE_AA)
    turn = cv2.getRotationMatrix2D((width / 2, height / 2), degrees, 1.5 if degrees else 1)
    return cv2.warpAffine(picture, turn, (width, height), borderMode=cv2.BORDER_REFLECT)


def _leaves(period: int, degrees: float, rng: np.random.Generator, grass: bool) -> np.ndarray:
    """Ellipses every way, or blades that lean one way."""
    height, width = SIZE
    picture = np.full(SIZE, 70, np.uint8)
    for _ in range(int(height * width / period**2 * (10 if grass else 6))):
        x, y, shade = (int(rng.integers(0, limit)) for limit in (width, height, 215))
        if grass:
            lean, length = math.radians(degrees + 90 + rng.normal(0, 12)), period * rng.uniform(2, 5)
            end = (int(x + length * math.cos(lean)), int(y + length * math.sin(lean)))
            cv2.line(picture, (x, y), end, 20 + shade, max(1, period // 8), cv2.LINE_AA)
        else:
            axes = (max(1, int(period * rng.uniform(0.3, 1))), max(1, int(period * rng.uniform(0.1, 0.4))))
            cv2.ellipse(picture, (x, y), axes, rng.uniform(0, 360), 0, 360, 20 + shade, -1, cv2.LINE_AA)
    return picture
