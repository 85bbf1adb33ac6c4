"""What smears leave in a spectrum.

A straight smear of length L in direction φ multiplies the spectrum by sinc²(L·u), u the frequency along φ in
cycles/px: dark stripes across φ, 1/L apart (Cannon, *Blind deconvolution of spatially invariant image blurs with
phase*, IEEE Trans. ASSP 24(1), 1976; what Yitzhaky & Kopeika, *Identification of blur parameters from motion
blurred images*, CVGIP 59(5), 1997, find as a dip at lag L of the autocorrelation of the whitened derivative is the
same thing; from memory). Hands do not shake in straight lines: a path that bows to one side by a share of its
length has stripes that bend and fill, the squared Fourier transform of the path. To which side it bows cannot be
seen, and does not matter.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np

from winnow.core.focus.profiles import Floats
from winnow.core.focus.spectra import plane

LENGTHS = np.geomspace(3.2, 28, 26)
"""Lengths of the grid, px of the level; the first and the last are there to be no maximum: what content has of a
ridge grows towards the ends."""
SHORTEST, LONGEST = 4.2, 24.0
"""Other smears, px of the level, are not told."""
DIRECTIONS = np.arange(0.0, 180.0, 5.0)
BOWS = (0.0, 0.1, 0.2, 0.3)
"""How far the path bows, in its length (from end to end)."""
FLOOR = 10**-1.7
"""Depth of the stripes before noise fills them."""

_STEP, _STEPS = 0.05, 230
"""Grid of the table of transformed paths: frequency times length."""


@dataclass(frozen=True)
class Stripes:
    """All smears of the grid, [bow, length, direction]: what they leave in the plane, without what is alike along
    rings and rays (…, band), its length as a vector and its standard deviation, and the frequency along the smear
    times its length, [length, direction, band]."""

    left: Floats
    norm: Floats
    depth: Floats
    along: Floats


@lru_cache(maxsize=1)
def stripes() -> Stripes:
    x, y = plane().x, plane().y
    radians = np.radians(DIRECTIONS)[:, None]
    unit_along = np.abs(x * np.cos(radians) + y * np.sin(radians))
    unit_across = np.abs(y * np.cos(radians) - x * np.sin(radians))
    along, across = (LENGTHS[:, None, None] * unit for unit in (unit_along, unit_across))
    logs = np.stack([np.log(_transformed(bow, along, across) + FLOOR) for bow in BOWS])
    left = plane().residue(logs)
    return Stripes(left, np.linalg.norm(left, axis=-1), left.std(axis=-1), np.asarray(along, np.float32))


def _transformed(bow: float, along: np.ndarray, across: np.ndarray) -> Floats:
    """Squared Fourier transform of a path of length 1, at frequencies along and across it."""
    steps = np.arange(_STEPS) * _STEP
    t = (np.arange(256) + 0.5) / 256 - 0.5
    forward, sideways = (np.exp(-2j * math.pi * np.outer(steps, part)) for part in (t, bow * (1 - 4 * t * t)))
    table = (np.abs(forward @ sideways.T / len(t)) ** 2).astype(np.float32)
    x, y = (np.asarray(part / _STEP, np.float32).reshape(-1, along.shape[-1]) for part in (across, along))
    return np.asarray(cv2.remap(table, x, y, cv2.INTER_LINEAR).reshape(along.shape), np.float32)
