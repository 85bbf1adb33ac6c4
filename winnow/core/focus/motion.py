"""Shake: the blur of a camera that moved while the shutter was open, told from missed focus.

A straight smear of length L in direction θ multiplies the spectrum by sinc²(L·u), u the frequency along θ:
dark stripes across the spectrum, 1/L apart, that missed focus (rings, the same in all directions) does not
make. Source: stripes of the log spectrum, Cannon, *Blind deconvolution of spatially invariant image blurs
with phase*, IEEE Trans. ASSP 24(1), 1976 (from memory). Log spectra of patches are averaged, what is alike
along rings (missed focus, content) and along rays (shelves, horizons) is taken out, and the rest is
compared with the stripes of every length and direction. The quarters of the frame must agree, which a
subject that moved by itself does not bring about, and no edge across the smear may be sharp.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.edges import Edges, Grey, typical_sigma

Doubles = NDArray[np.float64]

PATCH = 64
"""Side of the patches, px of the level."""
PATCHES = 12
"""At most this many, the ones with most contrast, in a quarter of the frame."""
LEAST_PATCHES = 3
LEAST_DEVIATION = 4.0
"""Patches of less contrast (standard deviation, grey levels) say nothing."""
LEAST_STRENGTH, LEAST_AGREEMENT = 0.08, 0.035
"""Likeness times depth of the stripes: of the frame, and of its second weakest quarter."""
UPRIGHT = 12.0
UPRIGHT_STRENGTH, UPRIGHT_AGREEMENT = 0.18, 0.1
"""The same for directions within that many degrees of level or upright: buildings and shelves leave
stripes of their own there."""

PLAIN_STRENGTH, PLAIN_AGREEMENT = 0.4, 0.2
"""From here on the stripes alone decide: a smeared thin line has flanks that look like sharp edges."""

LENGTHS = np.geomspace(4.0, 26, 21)
"""px of the level"""
SHORTEST_REDUCED = 4.5
"""Stripes of shorter smears, px of the level, are trusted at full size only."""
DIRECTIONS = np.arange(0, 180, 5.0)
FLOOR = 10**-1.7
"""Depth of the stripes before noise fills them."""

CROSSING = math.radians(35)
CROSSING_SHARE = 0.2
SHARP_PX = 1.3
"""A frame is not shaken if this share of the edges that the smear would cross are sharper than this (σ, px),
or than a seventh of the smear."""


@dataclass(frozen=True, slots=True)
class Motion:
    """A smear: its length (px of the full picture) and its direction (degrees, 0 along the rows, growing
    clockwise, below 180)."""

    length_px: float
    angle_deg: float


def find_motion(levels: list[Grey], noise: float, edges: Edges) -> Motion | None:
    """The smear of a shaken frame, or None.

    levels: `edges.pyramid` of the luma. noise: grey levels at full size. edges: of the whole frame.
    """
    best: tuple[float, Motion] | None = None
    for number, level in _searched(levels):
        quarters = _quarters(level, noise / 2**number)
        if len(quarters) < 2:
            continue
        stripes, kinds = _stripes(number > 0)
        count = sum(weight for _, weight in quarters)
        whole = _residue(np.sum([spectrum * weight for spectrum, weight in quarters], axis=0) / count)
        at = int((stripes @ whole).argmax())
        strength = _strength(whole, stripes[at], kinds[at][2])
        agreement = sorted(_strength(_residue(s), stripes[at], kinds[at][2]) for s, _ in quarters)[1]
        motion = Motion(kinds[at][0] * 2**number, kinds[at][1])
        upright = abs((motion.angle_deg + 45) % 90 - 45) <= UPRIGHT
        if strength < (UPRIGHT_STRENGTH if upright else LEAST_STRENGTH):
            continue
        if agreement < (UPRIGHT_AGREEMENT if upright else LEAST_AGREEMENT):
            continue
        plain = strength >= PLAIN_STRENGTH and agreement >= PLAIN_AGREEMENT
        if (best is None or strength > best[0]) and (plain or not _crossed_by_sharp_edges(motion, edges)):
            best = (strength, motion)
    return best[1] if best else None


def _searched(levels: list[Grey]) -> Iterator[tuple[int, Grey]]:
    """Full size for short smears, a half and a quarter for long ones; of large pictures the quarter only."""
    numbers = (0, 1, 2) if levels[0].size <= 4_000_000 else (0, 2)
    for number in numbers:
        if number < len(levels) and min(levels[number].shape) >= 2 * PATCH:
            yield number, levels[number]


def _quarters(level: Grey, noise: float) -> list[tuple[Doubles, int]]:
    """Mean log spectra of the patches of each quarter of the frame, and how many patches they are."""
    rows, columns = level.shape
    found = []
    for top in (0, rows // 2):
        for left in (0, columns // 2):
            quarter = level[top : top + rows // 2, left : left + columns // 2]
            patches = _patches(quarter)
            if len(patches) >= LEAST_PATCHES:
                centred = (patches - patches.mean(axis=(1, 2), keepdims=True)) * _plane().window
                power = np.abs(np.fft.rfft2(centred)) ** 2
                floor = (noise**2 + 0.1) * float((_plane().window ** 2).sum())
                found.append((np.log(power + floor).mean(axis=0)[_plane().band], len(patches)))
    return found


def _patches(quarter: Grey) -> NDArray[np.float32]:
    starts = [
        np.unique(np.linspace(0, side - PATCH, max(1, min(8, int(side / PATCH * 1.6)))).astype(int))
        for side in quarter.shape
    ]
    cut = [quarter[y : y + PATCH, x : x + PATCH] for y in starts[0] for x in starts[1]]
    deviation = np.array([cv2.meanStdDev(patch)[1].item() for patch in cut])
    order = np.argsort(-deviation)[:PATCHES]
    return np.array([cut[index] for index in order[deviation[order] > LEAST_DEVIATION]], np.float32)


@dataclass(frozen=True)
class _Plane:
    """The part of the frequency plane that is looked at: half of it (the other is its mirror), without the axes
    (frame borders, shelves) and the finest detail (noise); for each point of it its ring and its ray."""

    window: NDArray[np.float32]
    band: NDArray[np.bool_]
    x: Doubles
    y: Doubles
    ring: NDArray[np.intp]
    ray: NDArray[np.intp]


@lru_cache(maxsize=1)
def _plane() -> _Plane:
    x, y = np.meshgrid(np.fft.rfftfreq(PATCH), np.fft.fftfreq(PATCH))
    radius = np.hypot(x, y)
    off_axis = (np.abs(x) > 1.2 / PATCH) & (np.abs(y) > 1.2 / PATCH)
    band = (radius > 0.03) & (radius < 0.33) & off_axis
    ray = (np.degrees(np.arctan2(y, x)) % 180 / 7.5).astype(int)
    window = np.outer(np.hanning(PATCH), np.hanning(PATCH)).astype(np.float32)
    return _Plane(window, band, x[band], y[band], np.rint(radius * PATCH).astype(int)[band], ray[band])


def _residue(spectrum: Doubles) -> Doubles:
    """What is left of a log spectrum without the means of rings and rays."""
    left = spectrum
    for _ in range(3):
        for group in (_plane().ring, _plane().ray):
            means = np.bincount(group, left) / np.maximum(np.bincount(group), 1)
            left = left - means[group]
    return left


@lru_cache(maxsize=2)
def _stripes(reduced: bool) -> tuple[Doubles, list[tuple[float, float, float]]]:
    """Residues of the stripes, each of length 1, and (smear length, direction, depth) of each."""
    stripes, kinds = [], []
    for length in LENGTHS:
        if reduced and length < SHORTEST_REDUCED:
            continue
        for direction in DIRECTIONS:
            radians = math.radians(direction)
            along = _plane().x * math.cos(radians) + _plane().y * math.sin(radians)
            residue = _residue(np.log(np.sinc(length * along) ** 2 + FLOOR))
            stripes.append(residue / np.linalg.norm(residue))
            kinds.append((float(length), float(direction), float(residue.std())))
    return np.array(stripes), kinds


def _strength(residue: Doubles, stripe: Doubles, depth: float) -> float:
    """Likeness (correlation) times depth, both relative to stripes without noise."""
    along = float(stripe @ residue)
    return max(along, 0.0) / (float(np.linalg.norm(residue)) + 1e-9) * along / depth / math.sqrt(len(residue))


def _crossed_by_sharp_edges(motion: Motion, edges: Edges) -> bool:
    crossing = np.abs(np.cos(edges.angle - math.radians(motion.angle_deg))) > math.cos(CROSSING)
    sigma = typical_sigma(edges.where(crossing), CROSSING_SHARE)
    return sigma is not None and sigma < min(SHARP_PX, motion.length_px / 7)
