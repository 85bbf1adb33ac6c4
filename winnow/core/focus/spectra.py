"""Log spectra of patches from all over a frame, where there is detail.

Source: averaged over many patches, Welch 1967. What is alike along rings (missed focus, the fall-off of every
photograph) and along rays (grass, façades) is projected out: what is left shows what runs across the plane in
stripes, as a smear does (`smears`).
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.profiles import Floats, Grey

Indices = NDArray[np.intp]

PATCH = 64
"""Side of the patches, px of the level."""
PATCHES = 64
"""At most this many patches of a level, those with most change."""
LEAST_PATCHES = 6
LEAST_DEVIATION = 4.0
"""Patches of less contrast (standard deviation, grey levels) say nothing."""
CHOSEN_ON = 600_000
"""Patches are chosen on the largest level that has no more pixels than this."""
BURNT, MUCH_BURNT = 250, 0.015
"""Patches of which this share is at least so bright lie: where light is cut off, it makes edges of its own."""


@dataclass(frozen=True)
class Plane:
    """The part of the frequency plane that is looked at: half of it (the other is its mirror), without the axes
    (frame borders, shelves) and the finest detail (noise). x, y: cycles/px; `packed`: where that part lies in a plane
    of columns 1 to PATCH / 2 − 1; `alike`: orthonormal, whatever is constant along rings or along rays."""

    window: Floats
    packed: Indices
    x: Floats
    y: Floats
    alike: Floats

    def residue(self, logs: Floats) -> Floats:
        """What is left of log spectra (…, band) without what is alike along rings and rays."""
        return np.asarray(logs - (logs @ self.alike) @ self.alike.T, np.float32)


@lru_cache(maxsize=1)
def plane() -> Plane:
    x, y = np.meshgrid(np.fft.rfftfreq(PATCH), np.fft.fftfreq(PATCH))
    radius = np.hypot(x, y)
    band = (radius > 0.03) & (radius < 0.33) & (np.abs(x) > 1.2 / PATCH) & (np.abs(y) > 1.2 / PATCH)
    row, column = np.nonzero(band)
    x, y, radius = x[band], y[band], radius[band]
    ring = np.rint(radius * PATCH).astype(int)
    ray = (np.degrees(np.arctan2(y, x)) % 180 / 7.5).astype(int)
    groups = np.hstack([np.eye(of.max() + 1)[of] for of in (ring, ray)])
    vectors, sizes, _ = np.linalg.svd(groups, full_matrices=False)
    window = np.outer(np.hanning(PATCH), np.hanning(PATCH)).astype(np.float32)
    return Plane(
        window,
        row * (PATCH // 2 - 1) + column - 1,
        x.astype(np.float32),
        y.astype(np.float32),
        vectors[:, sizes > 1e-8].astype(np.float32),
    )


@dataclass(frozen=True, slots=True)
class Spectra:
    """Patches of one level: left and top (px of the level), log power (n, band), the same without what is alike,
    the log power that noise has, which of them may be trusted in fine detail, and whether every other row is of
    another moment, as in interlaced video."""

    level: int
    left: Indices
    top: Indices
    logs: Floats
    residues: Floats
    noise: float
    honest: NDArray[np.bool_]
    combed: bool

    def only(self, chosen: NDArray[np.bool_]) -> Spectra:
        """Of some of the patches."""
        return Spectra(
            self.level,
            self.left[chosen],
            self.top[chosen],
            self.logs[chosen],
            self.residues[chosen],
            self.noise,
            self.honest[chosen],
            self.combed,
        )


def spectra_of(levels: list[Grey], number: int, noise: float) -> Spectra | None:
    """Of the patches of a level where most changes; None where there is too little. noise: standard deviation at
    full size, grey levels."""
    return _spectra(levels[number], number, noise, *_busiest(levels, number))


def spectra_at(levels: list[Grey], number: int, noise: float, x: Floats, y: Floats) -> Spectra | None:
    """Of patches about places, px of the full picture."""
    rows, columns = levels[number].shape
    left = np.clip(x / 2**number - PATCH / 2, 0, columns - PATCH).astype(np.intp)
    top = np.clip(y / 2**number - PATCH / 2, 0, rows - PATCH).astype(np.intp)
    return _spectra(levels[number], number, noise, left, top)


def _spectra(level: Grey, number: int, noise: float, left: Indices, top: Indices) -> Spectra | None:
    noise /= 2**number
    patches = np.stack([level[y : y + PATCH, x : x + PATCH] for x, y in zip(left, top, strict=True)])
    deviation = np.array([cv2.meanStdDev(patch)[1].item() for patch in patches])
    told = deviation > max(LEAST_DEVIATION, 2 * noise)
    if told.sum() < LEAST_PATCHES:
        return None
    patches, left, top = patches[told], left[told], top[told]
    floor = np.log((noise**2 + 0.1) * float((plane().window ** 2).sum()))
    logs = _log_power(patches, float(np.exp(floor)))
    honest = (patches >= BURNT).mean(axis=(1, 2)) <= MUCH_BURNT
    if honest.sum() < LEAST_PATCHES:
        honest[:] = True
    return Spectra(number, left, top, logs, plane().residue(logs), float(floor), honest, _combed(patches))


def _combed(patches: Grey) -> bool:
    """Whether rows are more like the next but one than like the next."""
    rows = patches.astype(np.int16)
    return bool(np.abs(rows[:, 2:] - rows[:, :-2]).mean() < np.abs(rows[:, 1:] - rows[:, :-1]).mean())


def _log_power(patches: Grey, floor: float) -> Floats:
    pixels = patches.astype(np.float32, order="C")
    pixels -= pixels.mean(axis=(1, 2), keepdims=True)
    pixels *= plane().window
    for patch in pixels:
        cv2.dft(patch, patch)
    # OpenCV packs half of the plane: after column 0, the real and the imaginary part of each in turn.
    power = np.square(pixels[..., 1:-1:2])
    power += np.square(pixels[..., 2::2])
    in_band = power.reshape(len(power), -1).take(plane().packed, axis=1)
    return np.asarray(cv2.log(in_band + np.float32(floor)), np.float32)


def _busiest(levels: list[Grey], number: int) -> tuple[Indices, Indices]:
    """Left and top of the patches of a level where most changes."""
    rows, columns = levels[number].shape
    last = len(levels) - 1
    coarse = levels[max(number, next((n for n, level in enumerate(levels) if level.size <= CHOSEN_ON), last))]
    across = cv2.absdiff(coarse[:-1, 1:], coarse[:-1, :-1])
    down = cv2.absdiff(coarse[1:, :-1], coarse[:-1, :-1])
    change = cv2.add(across, down)
    many = (rows // PATCH) * (columns // PATCH) >= 2 * PATCHES
    step = PATCH if many else PATCH // 2
    down_by, across_by = (rows - PATCH) // step + 1, (columns - PATCH) // step + 1
    top = np.linspace(0, rows - PATCH, down_by).astype(np.intp)
    left = np.linspace(0, columns - PATCH, across_by).astype(np.intp)
    total = cv2.integral(change)
    scale_y, scale_x = change.shape[0] / rows, change.shape[1] / columns
    y0, y1 = (top * scale_y).astype(int), np.ceil((top + PATCH) * scale_y).astype(int)
    x0, x1 = (left * scale_x).astype(int), np.ceil((left + PATCH) * scale_x).astype(int)
    sums = total[y1][:, x1] - total[y0][:, x1] - total[y1][:, x0] + total[y0][:, x0]
    row, column = np.divmod(np.argsort(-sums, axis=None, kind="stable")[:PATCHES], across_by)
    return left[column], top[row]
