"""Where a frame is sharp: σ on a grid of tiles, and the place that is sharpest."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from winnow.core.focus.edges import Edges, typical_sigma, typical_sigmas
from winnow.core.focus.profiles import Floats

TILES = 24
"""Tiles along the long edge."""
LEAST_EDGES = 3
OF_TILE = 0.45
"""Quantile of σ that tells of a tile: the few edges of one tile are luckier than those of a whole frame."""
SHARPEST_EDGES = 9
"""The sharpest place is one where at least this many edges, with those of the tiles around it, agree."""

LOOKED_AT = 8
"""So many of the likeliest places are measured."""
TILE_NOISE = 0.22
"""Standard deviation of log σ between tiles that are equally sharp, as blurred photographs show it."""
LUCK = 2.5
"""The best of some hundred tiles that are equally sharp lies about so many standard deviations off."""


@dataclass(frozen=True, slots=True)
class BlurMap:
    """σ by tiles, px of the full picture: (rows, columns), NaN where there is nothing to measure."""

    tile_px: float
    sigma: Floats

    def share_below(self, sigma_px: float) -> float:
        """Share of the tiles that are at least this sharp; tiles without edges count as not."""
        return float(np.mean(np.nan_to_num(self.sigma, nan=np.inf) <= sigma_px))


@dataclass(frozen=True, slots=True)
class Spot:
    """A place (px of the full picture) and its σ (px)."""

    x: float
    y: float
    sigma_px: float


def tile_size(width: int, height: int) -> float:
    """Side of a tile, px."""
    return max(width, height) / TILES


def blur_map(edges: Edges, width: int, height: int) -> BlurMap:
    """σ of the edges in every tile."""
    tile = tile_size(width, height)
    rows, columns = max(1, round(height / tile)), max(1, round(width / tile))
    number = _tiles(edges, tile, rows, columns)
    sigma = np.full(rows * columns, np.nan, np.float32)
    counts = np.bincount(number, minlength=rows * columns)
    told = counts >= LEAST_EDGES
    sigma[told] = typical_sigmas(edges, number, rows * columns, OF_TILE)[told]
    return BlurMap(tile, sigma.reshape(rows, columns))


def sharpest(edges: Edges, found: BlurMap) -> Spot | None:
    """The sharpest place of the frame; None where there is nothing to measure.

    Over squares of 2 × 2 tiles, so that it takes more than a few lucky edges. The luckiest of many places
    looks sharper than it is: its log σ is drawn to that of the whole frame, the more the less the tiles
    differ beyond the noise of measuring (shrinkage, James & Stein 1961).
    """
    rows, columns = found.sigma.shape
    row, column = np.divmod(_tiles(edges, found.tile_px, rows, columns), columns)
    best: Spot | None = None
    for top, left in _likeliest(found):
        inside = (row >= top) & (row <= top + 1) & (column >= left) & (column <= left + 1)
        here = edges.where(inside)
        sigma = typical_sigma(here, OF_TILE) if len(here) >= SHARPEST_EDGES else None
        if sigma is not None and (best is None or sigma < best.sigma_px):
            sharp = here.where(here.sigma <= sigma * 1.2)
            best = Spot(float(np.median(sharp.x)), float(np.median(sharp.y)), sigma)
    if best is None:
        # Few edges, far apart: together they still tell.
        sigma = typical_sigma(edges)
        return None if sigma is None else Spot(float(np.median(edges.x)), float(np.median(edges.y)), sigma)
    return Spot(best.x, best.y, _drawn_in(best.sigma_px, found))


def _drawn_in(sigma: float, found: BlurMap) -> float:
    measured = np.log(found.sigma[np.isfinite(found.sigma)])
    if len(measured) < 2:
        return sigma
    middle = float(np.median(measured))
    below = middle - math.log(sigma)
    if below <= 0:
        return sigma
    spread = 1.4826 * float(np.median(np.abs(measured - middle)))
    of_all = 1 - (TILE_NOISE / max(spread, 1e-6)) ** 2
    # A small sharp subject on a blurred ground hardly shows in the spread, but no luck reaches that far.
    of_one = 1 - (LUCK * TILE_NOISE / below) ** 2
    return math.exp(middle - max(0.0, of_all, of_one) * below)


def _likeliest(found: BlurMap) -> list[tuple[int, int]]:
    """(top, left) of the squares of 2 × 2 tiles whose tiles have the smallest σ in the mean."""
    padded = np.pad(found.sigma, ((0, 1), (0, 1)), constant_values=np.nan)
    squares = np.stack([padded[:-1, :-1], padded[1:, :-1], padded[:-1, 1:], padded[1:, 1:]])
    measured = np.isfinite(squares)
    count = measured.sum(axis=0)
    mean = np.where(measured, squares, 0).sum(axis=0) / np.maximum(count, 1)
    mean[count < 2] = np.inf
    order = np.argsort(mean, axis=None)[:LOOKED_AT]
    return [
        (int(top), int(left))
        for top, left in zip(*np.unravel_index(order, mean.shape), strict=True)
        if np.isfinite(mean[top, left])
    ]


def _tiles(edges: Edges, tile: float, rows: int, columns: int) -> np.ndarray:
    row = np.clip((edges.y / tile).astype(np.int64), 0, rows - 1)
    column = np.clip((edges.x / tile).astype(np.int64), 0, columns - 1)
    return np.asarray(row * columns + column)
