"""The spread of edges: at strong straight edges all over a frame, the σ of the Gaussian that would have
blurred a perfect step this much.

Sources: the edge as a blurred step, ISO 12233 (e-SFR: profiles across an edge, averaged along it);
σ of a step edge as local blur, Zhuo & Sim, *Defocus map estimation from a single image*, Pattern
Recognition 44(9), 2011; the scale at which an edge can be measured at all, Elder & Zucker, *Local scale
control for edge detection and blur estimation*, PAMI 20(7), 1998 (from memory). Instead of a ratio of two
gradients, which noise upsets, the whole averaged profile is compared with steps of known σ (normalised
cross-correlation): contrast and brightness drop out.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.profiles import ALONG, REACH, Floats, Grey, compare, directions, profiles

Indices = NDArray[np.intp]

SHARPEST, WIDEST = 0.40, 2.7
"""σ that can be told at one level, px; wider edges are measured on a smaller picture."""
FINER_BELOW = 1.2
"""An edge that is sharper than this, px of the level, is measured again on the picture of twice the size."""

CANDIDATE_PIXELS = 1_800_000
"""Edges are looked for in the largest level that has no more pixels than this."""
WIDEST_LOOK = 160
"""About a point edges are looked for in levels where the reach is no more than this, px."""
LEVELS = 3
"""Levels below that one that are searched, each half the size of the one before."""

MOST_MISFIT = 0.03
LEAST_CONTRAST = 9.0
LEAST_COHERENCE = 0.75
PROMISING = 0.5
"""Coherence from which a place that is no straight edge at one level may be one on the larger picture."""
EVENNESS = 0.15
"""What is added to the doubt of every edge before edges are weighed, so that one lone clear edge, soft by
nature, does not outvote many lashes."""
BLOCKED, BURNT = 4, 251
"""Grey levels at which a side of an edge may have been cut off."""

CROWDING_SIGMA = np.log([0.5, 0.65, 0.8, 1.0, 1.25])
CROWDING_MISFIT = np.array([0.0003, 0.00075, 0.00125, 0.002, 0.003, 0.005, 0.008, 0.0125, 0.018, 0.026])
CROWDING = np.array(
    [
        [-0.04, -0.06, -0.06, -0.07, -0.06, -0.02, 0.05, 0.08, 0.12, 0.14],
        [-0.02, -0.05, -0.06, -0.06, -0.05, 0.06, 0.08, 0.14, 0.17, 0.21],
        [-0.02, -0.02, -0.03, -0.02, 0.08, 0.16, 0.23, 0.35, 0.54, 0.55],
        [-0.02, -0.02, -0.02, 0.00, 0.13, 0.29, 0.36, 0.53, 0.69, 0.80],
        [0.00, 0.00, 0.06, 0.12, 0.19, 0.28, 0.42, 0.54, 0.67, 0.78],
    ]
)
"""What to add to log σ. Edges next to other edges look sharper than they are: a row of stripes keeps its
slope however much it is blurred. How much sharper shows in how badly a lone step fits: rows are the
measured σ (px of the level), columns the misfit 1 − r². Read off dead-leaves pictures (Lee, Mumford &
Huang, *Occlusion models for natural images*, IJCV 41, 2001) blurred by known σ; a test holds it on others."""
PHOTOGRAPHS = 1.3
"""Photographs crowd more than dead leaves do: so much more makes variances add, in the mean of scikit-image's
brick, grass, gravel, coins, camera, immunohistochemistry, motorcycle, retina and moon. (The six photographs
that the tests hold this to are others.)"""


@dataclass(frozen=True, slots=True)
class Edges:
    """Edges of one frame, one row each: place (px of the full picture), σ (px of the full picture), the
    direction of the normal (radians, 0 along the rows, growing clockwise, modulo π), the contrast (grey
    levels) and the uncertainty of log σ."""

    x: Floats
    y: Floats
    sigma: Floats
    angle: Floats
    contrast: Floats
    doubt: Floats

    def __len__(self) -> int:
        return len(self.x)

    @property
    def weight(self) -> NDArray[np.float64]:
        """How much each counts among others."""
        return np.asarray(1 / (self.doubt.astype(np.float64) ** 2 + EVENNESS**2))

    def where(self, chosen: NDArray[np.bool_] | NDArray[np.intp]) -> Edges:
        return Edges(*(getattr(self, name)[chosen] for name in self.__slots__))


def find_edges(levels: list[Grey], noise: float, tile_px: float, per_tile: int = 6) -> Edges:
    """The edges of a frame that can be measured.

    levels: `picture.pyramid` of the luma, (rows, columns) each. noise: its standard deviation at full size, grey
    levels (`noise_of`). tile_px: side of the square tiles, px of the
    full picture, over which edges are spread. per_tile: edges looked at in a tile, at each level.
    """
    first = next((n for n, level in enumerate(levels) if level.size <= CANDIDATE_PIXELS), len(levels) - 1)
    places = {
        number: _candidates(levels[number], tile_px / 2**number, max(3, per_tile - 2 * (number - first)))
        for number in range(first, min(len(levels), first + LEVELS))
    }
    return _measure_all(levels, noise, {number: np.stack(found) for number, found in places.items()})[0]


@dataclass(frozen=True, slots=True)
class Square:
    """± radius about a point, px of the full picture."""

    x: float
    y: float
    radius: float


def edges_in(levels: list[Grey], noise: float, squares: Sequence[Square], most: int = 60) -> list[Edges]:
    """The edges within each of some squares, from all levels that have enough pixels there. All at once: most
    of the time goes into the calls."""
    places: dict[int, list[Floats]] = {}
    for index, square in enumerate(squares):
        begun = False
        for number, level in enumerate(levels):
            scale = 2.0**number
            r = square.radius / scale
            if r > WIDEST_LOOK and number + 1 < len(levels):
                continue  # what is sharp there is found from the next smaller picture
            if begun and r < REACH / 2:
                break
            left, top = max(0, int(square.x / scale - r)), max(0, int(square.y / scale - r))
            right, bottom = int(square.x / scale + r) + 1, int(square.y / scale + r) + 1
            window = level[top:bottom, left:right]
            if min(window.shape) < 4:
                continue
            begun = True
            x, y = _candidates(window, 2 * r + 2, most)
            places.setdefault(number, []).append(np.stack([x + left, y + top, np.full_like(x, index)]))
    edges, of = _measure_all(levels, noise, {n: np.concatenate(found, axis=1) for n, found in places.items()})
    return [edges.where(of == index) for index in range(len(squares))]


def noise_of(grey: Grey) -> float:
    """Standard deviation of the noise, grey levels.

    Source: Immerkær, *Fast noise variance estimation*, CVIU 64(2), 1996, on a grid of patches, of
    which the quieter quarter counts, so that texture is not taken for noise.
    """
    side = 48
    rows, columns = grey.shape
    values = []
    for y in np.linspace(0, max(0, rows - side), 8).astype(int):
        for x in np.linspace(0, max(0, columns - side), 12).astype(int):
            patch = grey[y : y + side, x : x + side]
            if not BLOCKED * 2 <= cv2.mean(patch)[0] <= BURNT - 8:
                continue
            laplacian = cv2.filter2D(patch, cv2.CV_16S, _IMMERKAER)[1:-1, 1:-1]
            values.append(math.sqrt(math.pi / 2) / 6 * cv2.norm(laplacian, cv2.NORM_L1) / laplacian.size)
    return float(np.percentile(values, 25)) if values else 0.0


_IMMERKAER = np.array([[1, -2, 1], [-2, 4, -2], [1, -2, 1]], np.float32)


def _candidates(level: Grey, tile: float, per_tile: int) -> tuple[Floats, Floats]:
    """Places where brightness changes most, at most `per_tile` in a tile, none next to another."""
    dx = cv2.Sobel(level, cv2.CV_16S, 1, 0)
    dy = cv2.Sobel(level, cv2.CV_16S, 0, 1)
    strength = cv2.addWeighted(
        cv2.convertScaleAbs(dx, alpha=0.25), 1, cv2.convertScaleAbs(dy, alpha=0.25), 1, 0
    )
    peaks = (strength >= cv2.dilate(strength, np.ones((5, 5), np.uint8))) & (strength >= 4)
    flat = np.flatnonzero(peaks)
    if not len(flat):
        return np.zeros(0, np.float32), np.zeros(0, np.float32)
    weight = strength.reshape(-1)[flat]
    columns = int(level.shape[1] / tile) + 1
    column_of = (np.arange(level.shape[1]) / tile).astype(np.int64)
    row_of = (np.arange(level.shape[0]) / tile).astype(np.int64) * columns
    tiles = row_of[flat // level.shape[1]] + column_of[flat % level.shape[1]]
    # By tile, then the strongest first, then in order of place, all in one number: a plain sort is the fastest.
    keys = np.sort(((tiles << 8) | (255 - weight)) << 32 | flat)
    tiles = keys >> 40
    starts = np.flatnonzero(np.r_[True, tiles[1:] != tiles[:-1]])
    rank = np.arange(len(tiles)) - np.repeat(starts, np.diff(np.r_[starts, len(tiles)]))
    y, x = np.divmod(keys[rank < per_tile] & 0xFFFFFFFF, level.shape[1])
    return x.astype(np.float32), y.astype(np.float32)


def _measure_all(
    levels: list[Grey], noise: float, places: dict[int, Floats]
) -> tuple[Edges, NDArray[np.float32]]:
    """Measures edges at places of each level, from the smallest picture to the largest: what is too sharp for
    one is measured again on the next. places: (2 or 3, n) x, y and, if wanted, what the place belongs to, which
    is given back for every edge."""
    found, of = [], []
    sharper = np.zeros((len(next(iter(places.values()), [0, 0])), 0), np.float32)
    for number in range(max(places, default=-1), -1, -1):
        here = np.concatenate([sharper, places.get(number, sharper[:, :0])], axis=1)
        if not here.shape[1]:
            continue
        edges, good, narrow = _measure(levels[number], number, noise / 2**number, here[0], here[1])
        found.append(edges)
        of.append(here[-1, good])
        sharper = here[:, narrow]
        sharper[:2] = sharper[:2] * 2 + 0.5  # centre of the 2 × 2 pixels that became one
    return joined(found), np.concatenate(of) if of else np.zeros(0, np.float32)


def _measure(level: Grey, number: int, noise: float, x: Floats, y: Floats) -> tuple[Edges, Indices, Indices]:
    """σ of edges near places of one level, the numbers of the places where one could be measured, and of those
    that want a larger picture."""
    angle, coherence = directions(level, x, y)
    # At full size nothing can be passed on to a larger picture.
    promising = coherence > PROMISING if number else coherence >= LEAST_COHERENCE
    places = np.flatnonzero(promising)
    x, y, angle, coherence = x[promising], y[promising], angle[promising], coherence[promising]
    sigma, shift, likeness, contrast, low, high = compare(profiles(level, x, y, angle))
    misfit = 1 - likeness**2
    # Noise that averaging along the edge leaves; a step has about a fifth of its height² as variance.
    of_noise = noise**2 / (2 * ALONG + 1) / (0.2 * np.maximum(contrast, 1) ** 2)
    crowded = np.maximum(misfit - of_noise, 0)
    in_range = sigma < WIDEST
    sigma = np.maximum(sigma, SHARPEST)
    sigma = sigma * np.exp(_crowding(sigma, crowded))
    finer = (sigma < FINER_BELOW) & (number > 0)
    good = (
        in_range
        & (crowded <= MOST_MISFIT)
        & (of_noise <= MOST_MISFIT)
        & (contrast >= LEAST_CONTRAST)
        & (coherence >= LEAST_COHERENCE)
        & (low > BLOCKED)
        & (high < BURNT)
        & ~finer
    )
    scale = 2.0**number
    shrinking = 0.25 * (4.0**number - 1) / 3  # σ² that averaging 2 × 2 adds, level by level
    centre = (scale - 1) / 2
    edges = Edges(
        (x + shift * np.cos(angle)) * scale + centre,
        (y + shift * np.sin(angle)) * scale + centre,
        np.sqrt(np.maximum((sigma * scale) ** 2 - shrinking, 0.04)),
        np.mod(angle, np.float32(np.pi)),
        contrast,
        np.sqrt(0.04**2 + (15 * crowded) ** 2 + of_noise),
    )
    return edges.where(good), places[good], places[finer]


def _crowding(sigma: Floats, misfit: Floats) -> Floats:
    """`CROWDING` between its rows and columns."""
    row = np.clip(
        np.interp(np.log(sigma), CROWDING_SIGMA, np.arange(len(CROWDING_SIGMA))), 0, len(CROWDING_SIGMA) - 1
    )
    column = np.interp(misfit, CROWDING_MISFIT, np.arange(len(CROWDING_MISFIT)))
    r, c = (
        np.minimum(row.astype(int), len(CROWDING) - 2),
        np.minimum(column.astype(int), CROWDING.shape[1] - 2),
    )
    right, down = column - c, row - r
    above = CROWDING[r, c] * (1 - right) + CROWDING[r, c + 1] * right
    below = CROWDING[r + 1, c] * (1 - right) + CROWDING[r + 1, c + 1] * right
    return np.asarray(PHOTOGRAPHS * (above * (1 - down) + below * down), np.float32)


def joined(parts: list[Edges]) -> Edges:
    """Edges of several parts of a frame as one."""
    if not parts:
        return Edges(*(np.zeros(0, np.float32) for _ in Edges.__slots__))
    return Edges(*(np.concatenate([getattr(p, name) for p in parts]) for name in Edges.__slots__))


TYPICAL = 0.35
"""Quantile of σ that the edges of a frame agree on: below the middle because edges that are soft by nature
(shadows, round forms) can only be softer than the lens made them."""


def typical_sigma(edges: Edges, share: float = TYPICAL) -> float | None:
    """The σ that edges agree on, px: their weighted quantile. None for fewer than three."""
    if len(edges) < 3:
        return None
    return float(typical_sigmas(edges, np.zeros(len(edges), np.intp), 1, share)[0])


def typical_sigmas(edges: Edges, group: NDArray[np.intp], count: int, share: float = TYPICAL) -> Floats:
    """The same for each of `count` groups of edges, given the number of each edge's group; NaN for none."""
    order = np.lexsort((edges.sigma, group))
    sigma, group = edges.sigma[order], group[order]
    rising = np.cumsum(edges.weight[order])
    bounds = np.searchsorted(group, np.arange(count + 1))
    before = np.r_[0.0, rising][bounds]
    at = np.searchsorted(rising, before[:-1] + share * np.diff(before))
    found = np.full(count, np.nan, np.float32)
    filled = np.diff(bounds) > 0
    found[filled] = sigma[np.minimum(at, bounds[1:] - 1)[filled]]
    return found
