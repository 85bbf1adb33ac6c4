"""Exposure: what is burnt, what is blocked, how bright the frame is.

Sources: sRGB transfer curve, IEC 61966-2-1; luminance weights of Rec. 709.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np
from numpy.typing import NDArray

BURNT, BLOCKED = 254, 2
"""From here on, up to here, a channel (0 to 255) holds no detail."""
SAMPLES = 250_000
"""About so many pixels are looked at, on a regular grid: clipping is counted in true pixels, not in averages,
and so many tell shares to a fifth of a per cent."""
GRID = 12
"""Cells along the long edge that tell where pixels are clipped."""
BINS = 64
DARKEST = -12.0
"""Stops; black has no logarithm."""

BLACK_STOPS = -4.5
"""A frame whose brightest hundredth is darker than this, stops below white, shows nothing: a lens cap, a
flash that did not fire."""
UNDER_STOPS, OVER_STOPS = -6.0, -0.7
"""Medians beyond these are called under- and overexposed without looking at other frames."""
GROUP_STOPS = 1.0
"""Difference to the group from which a frame is called under- or overexposed."""


class ExposureVerdict(StrEnum):
    """In a word."""

    OK = "ok"
    UNDER = "under"
    OVER = "over"
    BLACK = "black"


@dataclass(frozen=True, slots=True)
class Exposure:
    """Exposure of a frame. Shares 0 to 1; stops are log₂ of linear luminance, white 0.

    clipped_high, clipped_low: share of pixels with a burnt channel, with all channels blocked. by_channel:
    burnt share of red, green, blue. high_at, low_at: middle of the cell with most of it, in shares of width
    and height, None where there is none. median_stops, p99_stops: of the luminance. spread_stops: between its
    10th and 90th percentile. histogram: share of pixels by brightness (sRGB luma), 64 bins.
    """

    clipped_high: float
    clipped_low: float
    by_channel: tuple[float, float, float]
    high_at: tuple[float, float] | None
    low_at: tuple[float, float] | None
    median_stops: float
    p99_stops: float
    spread_stops: float
    histogram: tuple[float, ...]


def step_of(rows: int, columns: int) -> int:
    """Of a picture of this size, every so many-th pixel of every so many-th row is looked at."""
    return max(1, round(math.sqrt(rows * columns / SAMPLES)))


def measure_exposure(sample: NDArray[np.uint8]) -> Exposure:
    """Exposure of an upright sRGB picture, from pixels of it on a regular grid (rows, columns, 3): see `step_of`."""
    luminance = np.asarray(cv2.transform(cv2.LUT(sample, _LINEAR), _WEIGHTS[None]), np.float32)
    stops = np.log2(np.maximum(_percentiles(luminance, (10, 50, 90, 99)), 2.0**DARKEST))
    channels = cv2.split(sample)
    brightest = cv2.max(cv2.max(channels[0], channels[1]), channels[2])
    high, low = brightest >= BURNT, brightest <= BLOCKED
    luma = cv2.transform(sample, _WEIGHTS[None])
    counts = np.bincount(luma.ravel(), minlength=256).reshape(BINS, -1).sum(axis=1)
    return Exposure(
        clipped_high=float(high.mean()),
        clipped_low=float(low.mean()),
        by_channel=tuple(np.count_nonzero(channel >= BURNT) / luma.size for channel in channels),  # type: ignore[arg-type]
        high_at=_most(high),
        low_at=_most(low),
        median_stops=float(stops[1]),
        p99_stops=float(stops[3]),
        spread_stops=float(stops[2] - stops[0]),
        histogram=tuple(round(float(count), 5) for count in counts / luma.size),
    )


def _percentiles(values: NDArray[np.float32], wanted: tuple[int, ...]) -> NDArray[np.float32]:
    """As numpy's, which takes four times as long: it picks where sorting all is done with vector instructions."""
    ordered = np.sort(values, axis=None)
    places = np.array(wanted) / 100 * (len(ordered) - 1)
    below = places.astype(np.intp)
    above = np.minimum(below + 1, len(ordered) - 1)
    return np.asarray(ordered[below] + (ordered[above] - ordered[below]) * (places - below), np.float32)


def verdict(exposure: Exposure, group_stops: float | None = None) -> ExposureVerdict:
    """In a word; `group_stops` is the difference to the frames of its group, None where it stands alone."""
    if exposure.p99_stops < BLACK_STOPS:
        return ExposureVerdict.BLACK
    difference = group_stops or 0.0
    if exposure.median_stops < UNDER_STOPS or difference <= -GROUP_STOPS:
        return ExposureVerdict.UNDER
    if exposure.median_stops > OVER_STOPS or difference >= GROUP_STOPS:
        return ExposureVerdict.OVER
    return ExposureVerdict.OK


def _most(clipped: NDArray[np.bool_]) -> tuple[float, float] | None:
    if not clipped.any():
        return None
    rows, columns = clipped.shape
    cell = max(1, max(rows, columns) // GRID)
    high, wide = max(1, rows // cell), max(1, columns // cell)
    whole = clipped[: high * (rows // high), : wide * (columns // wide)]
    counts = whole.reshape(high, rows // high, wide, columns // wide).sum(axis=(1, 3))
    row, column = np.unravel_index(int(counts.argmax()), counts.shape)
    return (float(column + 0.5) / wide, float(row + 0.5) / high)


def _curve() -> NDArray[np.float32]:
    value = np.arange(256) / 255
    linear = np.where(value <= 0.04045, value / 12.92, ((value + 0.055) / 1.055) ** 2.4)
    return linear.astype(np.float32)


_LINEAR = _curve()
_WEIGHTS = np.array([0.2126, 0.7152, 0.0722], np.float32)
