"""Profiles across edges, and what steps of known blur they are like."""

from __future__ import annotations

import math
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

Grey = NDArray[np.uint8]
Floats = NDArray[np.float32]

REACH = 12
"""Profiles reach this far to either side of an edge, px of the level."""
ALONG = 3
"""Profiles are averaged over this many px to either side along the edge."""

WINDOW = 4.5
"""A profile is compared with a step over this many σ of it to either side, and at least `LEAST_WINDOW` px."""
LEAST_WINDOW = 4.0

SIGMAS = np.geomspace(0.33, 3.2, 19)
"""σ of the steps that profiles are compared with, px of the level."""
SHIFTS = np.arange(-1.5, 1.51, 0.375)
"""Places of those steps along the profile, px."""

_PIECE = 500
"""So many places at a time stay in the processor's cache."""


def directions(level: Grey, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Direction of the gradient (from dark to light, radians) and its coherence (0 to 1), from the
    structure tensor over 7 × 7 px. Source: Bigün & Granlund 1987."""
    xx, yy, xy, sx, sy = (np.empty(len(x), np.float32) for _ in range(5))
    steps = np.arange(-4, 5)[:, None]
    flat = level.reshape(-1)
    for start in range(0, len(x), _PIECE):
        part = slice(start, start + _PIECE)
        rows = np.clip(np.rint(y[part]).astype(np.int32) + steps, 0, level.shape[0] - 1)
        columns = np.clip(np.rint(x[part]).astype(np.int32) + steps, 0, level.shape[1] - 1)
        # Places along the last axis. Sums of squares of differences of bytes are exact in single precision.
        patches = flat.take(rows[:, None] * level.shape[1] + columns[None]).astype(np.float32)
        dx = (patches[1:-1, 2:] - patches[1:-1, :-2]).reshape(49, -1)
        dy = (patches[2:, 1:-1] - patches[:-2, 1:-1]).reshape(49, -1)
        sx[part], sy[part] = dx.sum(axis=0), dy.sum(axis=0)
        xy[part] = (dx * dy).sum(axis=0)
        xx[part], yy[part] = np.square(dx, out=dx).sum(axis=0), np.square(dy, out=dy).sum(axis=0)
    angle = 0.5 * np.arctan2(2 * xy, xx - yy)
    pointing = np.cos(angle) * sx + np.sin(angle) * sy
    angle = np.where(pointing < 0, angle + np.pi, angle)
    coherence = np.hypot(xx - yy, 2 * xy) / (xx + yy + 1e-6)
    return angle.astype(np.float32), coherence.astype(np.float32)


def profiles(level: Grey, x: Floats, y: Floats, angle: Floats) -> Floats:
    """Brightness across edges, from dark to light, averaged along them: (n, 2 REACH + 1)."""
    across = np.arange(-REACH, REACH + 1, dtype=np.float32)
    along = np.arange(-ALONG, ALONG + 1, dtype=np.float32)
    cos, sin = np.cos(angle)[:, None, None], np.sin(angle)[:, None, None]
    at_x = x[:, None, None] + across[None, None, :] * cos - along[None, :, None] * sin
    at_y = y[:, None, None] + across[None, None, :] * sin + along[None, :, None] * cos
    found = []
    for start in range(0, len(x), 4000):  # maps larger than that are slow, and cv2 has a limit
        part = slice(start, start + 4000)
        shape = (-1, at_x.shape[1] * at_x.shape[2])
        read = cv2.remap(
            level,
            at_x[part].reshape(shape),
            at_y[part].reshape(shape),
            cv2.INTER_CUBIC,
            borderMode=cv2.BORDER_REPLICATE,
        )
        found.append(read.reshape(-1, len(along), len(across)).mean(axis=1, dtype=np.float32))
    return np.concatenate(found) if found else np.zeros((0, len(across)), np.float32)


@lru_cache(maxsize=1)
def _steps() -> tuple[Floats, Floats, Floats]:
    """Blurred steps to compare with: (shifts × σ, samples) with the window's weight inside, of mean 0 and
    length 1 under the window; the windows (σ, samples); the height of each step per unit of length (shifts, σ)."""
    across = np.arange(-REACH, REACH + 1, dtype=np.float64)
    windows, steps, heights = [], [], []
    for sigma in SIGMAS:
        half = max(LEAST_WINDOW, WINDOW * sigma)
        window = np.clip(half + 0.5 - np.abs(across), 0, 1)
        windows.append(window / window.sum())
        for shift in SHIFTS:
            step = np.array([math.erf((d - shift) / (sigma * math.sqrt(2))) for d in across]) / 2
            step -= (windows[-1] * step).sum()
            length = math.sqrt((windows[-1] * step**2).sum())
            steps.append(windows[-1] * step / length)
            heights.append(1 / length)
    shape = (len(SIGMAS), len(SHIFTS))
    by_shift = np.array(steps, np.float32).reshape(*shape, -1).swapaxes(0, 1).reshape(len(steps), -1)
    of_steps = np.array(heights, np.float32).reshape(shape).T
    return np.ascontiguousarray(by_shift), np.array(windows, np.float32), of_steps


def compare(profiles: Floats) -> tuple[Floats, Floats, Floats, Floats, Floats, Floats]:
    """For each profile the σ and shift of the step most like it, the likeness (correlation), the height
    of the step, and the lowest and highest value near it."""
    steps, windows, heights = _steps()
    count = len(profiles)
    rows = np.arange(count)
    across = np.ascontiguousarray(profiles.T)  # every reduction runs over whole rows
    centred = across - across.mean(axis=0, dtype=np.float32)
    product = (steps @ centred).reshape(len(SHIFTS), len(SIGMAS), count)
    mean = windows @ centred
    variance = np.maximum(windows @ (centred * centred) - mean * mean, np.float32(1e-3))
    by_sigma = product.max(axis=0) / np.sqrt(variance)
    at = by_sigma.argmax(axis=0)
    shift_at = product[:, at, rows].argmax(axis=0)
    inner = np.clip(at, 1, len(SIGMAS) - 2)
    before, here, after = (by_sigma[inner + k, rows] for k in (-1, 0, 1))
    bend = before - 2 * here + after
    offset = np.where(bend < -1e-9, np.clip(0.5 * (before - after) / np.where(bend == 0, 1, bend), -1, 1), 0)
    ratio = math.log(SIGMAS[1] / SIGMAS[0])
    sigma = (SIGMAS[inner] * np.exp(ratio * offset)).astype(np.float32)
    sigma = np.where((at == 0) | (at == len(SIGMAS) - 1), SIGMAS[at], sigma)
    height = product[shift_at, at, rows] * heights[shift_at, at]
    low, high = _extremes(across, ((windows > 0).sum(axis=1) // 2)[at])
    return sigma, SHIFTS[shift_at].astype(np.float32), by_sigma[at, rows], height, low, high


def _extremes(across: Floats, reach: NDArray[np.intp]) -> tuple[Floats, Floats]:
    """Lowest and highest value of each profile (2 REACH + 1, n) within a reach of its middle."""
    rows = np.arange(across.shape[1])
    low, high = np.empty_like(across[: REACH + 1]), np.empty_like(across[: REACH + 1])
    low[0] = high[0] = across[REACH]
    for k in range(1, REACH + 1):
        np.minimum(np.minimum(low[k - 1], across[REACH - k]), across[REACH + k], out=low[k])
        np.maximum(np.maximum(high[k - 1], across[REACH - k]), across[REACH + k], out=high[k])
    return low[reach, rows], high[reach, rows]
