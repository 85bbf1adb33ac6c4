"""The smears that spectra speak for.

Log spectra of patches (`spectra`) are compared with the stripes of smears of every length, direction and bow
(`smears`). Only maxima inside the grid count: what content has of a ridge grows towards its ends.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.profiles import Floats
from winnow.core.focus.smears import BOWS, DIRECTIONS, LENGTHS, LONGEST, SHORTEST, stripes
from winnow.core.focus.spectra import Spectra

CANDIDATES = 4
"""So many maxima of each level and bow are looked at closely."""
LEAST_LIKENESS = 0.2
"""Of those that are less like a smear none was one."""
FINEST = 8
"""So many patches, those with most power beyond the main lobe, must show the stripes."""
MAIN_LOBE = 0.75
"""The side lobes are what lies beyond this frequency, in 1/L."""
FIRST_LOBE = (1.2, 1.8)
"""Where the first side lobe is, in 1/L: patches without power there tell nothing of the depth of the stripes."""
LEAST_POWER, LEAST_TELLING = 1.2, 5
"""What such power is, nepers above noise, and in how many patches it is enough."""


@dataclass(frozen=True, slots=True)
class Candidate:
    """A smear that the spectrum of one level speaks for. bow, row, column: its place in the grid. `likeness`:
    correlation with its stripes; `finest`: the same in the patches with most power beyond the main lobe; `excess`:
    that power over the one of the middle patch, nepers; `side_lobes`: correlation beyond the main lobe; `depth`: of
    the stripes, 1 for what the smear makes; `heard`: how many patches have power to tell; `support`: likeness on
    the other levels, None where they cannot show it."""

    level: int
    bow: int
    row: int
    column: int
    length: float
    angle: float
    likeness: float
    finest: float
    excess: float
    side_lobes: float
    depth: float
    heard: int
    support: float | None

    @property
    def length_px(self) -> float:
        return self.length * 2.0**self.level


@dataclass(frozen=True, slots=True)
class _Place:
    """A maximum of the grid, and the length (px of the level) and direction (degrees) between its places."""

    bow: int
    row: int
    column: int
    length: float
    angle: float


def candidates(spectra: Sequence[Spectra]) -> list[Candidate]:
    """The likeliest smears of each level."""
    if not spectra:
        return []
    means = np.stack([of.residues.mean(axis=0) for of in spectra])
    means /= np.linalg.norm(means, axis=1, keepdims=True) + 1e-9
    flat = stripes().left.reshape(-1, means.shape[1])
    likeness = (flat @ means.T).T.reshape(len(spectra), *stripes().norm.shape) / stripes().norm
    found = []
    for at, of in enumerate(spectra):
        places = _places(likeness[at])
        others = [(other.level, likeness[n]) for n, other in enumerate(spectra) if n != at]
        support = [_support(others, place, place.length * 2**of.level) for place in places]
        found += _looked_at(of, means[at], places, likeness[at], support)
    return found


def _places(likeness: Floats) -> list[_Place]:
    """The highest maxima of each bow. likeness: [bow, length, direction]."""
    height = likeness / np.sqrt(stripes().depth)  # long smears have little to show, short ones much
    found = []
    for bow in range(len(BOWS)):
        for row, column in _maxima(height[bow])[:CANDIDATES]:
            if likeness[bow, row, column] >= LEAST_LIKENESS:
                place = _Place(bow, row, column, *_between(height[bow], row, column))
                if SHORTEST <= place.length <= LONGEST:
                    found.append(place)
    return found


def _looked_at(
    of: Spectra, mean: Floats, places: Sequence[_Place], likeness: Floats, support: Sequence[float | None]
) -> list[Candidate]:
    """What the patches of a level say of some places of the grid, all at once: (patches, places) throughout."""
    if not places:
        return []
    at = tuple(np.array([(place.bow, place.row, place.column) for place in places]).T)
    stripe, along, norm = stripes().left[at], stripes().along[at[1:]], stripes().norm[at]
    beyond = along > MAIN_LOBE
    lobe = (along > FIRST_LOBE[0]) & (along < FIRST_LOBE[1])
    power = _mean_where(of.logs, beyond)
    heard = _mean_where(of.logs, lobe) - of.noise
    heard[:, ~lobe.any(axis=1)] = 0.0
    honest = np.flatnonzero(of.honest)
    order = honest[np.argsort(-power[honest], axis=0, kind="stable")[:FINEST]]
    excess = np.take_along_axis(power, order, axis=0).mean(axis=0) - np.median(power[honest], axis=0)
    finest = _correlations(stripe, of.residues[order].mean(axis=0), np.ones_like(stripe))
    side_lobes = _correlations(stripe, mean, beyond.astype(np.float32))
    telling = heard > LEAST_POWER
    told = telling.sum(axis=0)
    loud = np.argsort(np.argsort(-heard, axis=0), axis=0) < FINEST
    depth = _medians(of.residues @ stripe.T / norm**2, np.where(told >= LEAST_TELLING, telling, loud))
    return [
        Candidate(
            of.level,
            place.bow,
            place.row,
            place.column,
            place.length,
            place.angle,
            likeness=float(likeness[place.bow, place.row, place.column]),
            finest=float(finest[n]),
            excess=float(excess[n]),
            side_lobes=float(side_lobes[n]),
            depth=float(depth[n]),
            heard=int(told[n]),
            support=support[n],
        )
        for n, place in enumerate(places)
    ]


def _mean_where(logs: Floats, chosen: NDArray[np.bool_]) -> Floats:
    """The mean log power of each patch where a place has True. chosen: (places, band)."""
    weight = chosen.astype(np.float32)
    return np.asarray(logs @ weight.T / np.maximum(weight.sum(axis=1), 1), np.float32)


def _correlations(one: Floats, other: Floats, weight: Floats) -> Floats:
    """Of each row, where its weight is 1."""
    count = np.maximum(weight.sum(axis=1, keepdims=True), 1)
    one = weight * (one - (one * weight).sum(axis=1, keepdims=True) / count)
    other = weight * (other - (other * weight).sum(axis=1, keepdims=True) / count)
    lengths = np.linalg.norm(one, axis=1) * np.linalg.norm(other, axis=1)
    return np.asarray((one * other).sum(axis=1) / (lengths + 1e-9), np.float32)


def _medians(values: Floats, chosen: NDArray[np.bool_]) -> Floats:
    """Of each column, over the rows that are chosen there."""
    ordered = np.sort(np.where(chosen, values, np.inf), axis=0)
    count, columns = chosen.sum(axis=0), np.arange(values.shape[1])
    return np.asarray((ordered[(count - 1) // 2, columns] + ordered[count // 2, columns]) / 2, np.float32)


def _support(others: Sequence[tuple[int, Floats]], place: _Place, length_px: float) -> float | None:
    """Likeness of a smear on other levels."""
    found = []
    for level, likeness in others:
        length = length_px / 2**level
        if SHORTEST <= length <= LONGEST:
            row = int(np.abs(np.log(LENGTHS / length)).argmin())
            rows = np.clip([row - 1, row, row + 1], 0, len(LENGTHS) - 1)
            column = round(place.angle / (DIRECTIONS[1] - DIRECTIONS[0]))
            columns = np.mod([column - 1, column, column + 1], len(DIRECTIONS))
            found.append(float(likeness[place.bow][np.ix_(rows, columns)].max()))
    return max(found, default=None)


def depth_in(spectra: Spectra, found: Candidate) -> float:
    """How deep the stripes of a smear are in some patches, 1 for what it makes."""
    at = (found.bow, found.row, found.column)
    return float(np.median(spectra.residues @ stripes().left[at] / stripes().norm[at] ** 2))


def _maxima(height: Floats) -> list[tuple[int, int]]:
    """(length, direction) of the maxima inside the grid, the highest first; directions go round."""
    around = cv2.copyMakeBorder(height, 0, 0, 1, 1, cv2.BORDER_WRAP)
    highest = cv2.dilate(around, np.ones((3, 3), np.uint8))[:, 1:-1]
    peaks = height >= highest
    peaks[[0, -1]] = False
    rows, columns = np.nonzero(peaks)
    order = np.argsort(-height[rows, columns], kind="stable")
    return [(int(rows[n]), int(columns[n])) for n in order]


def _between(height: Floats, row: int, column: int) -> tuple[float, float]:
    """Length (px of the level) and direction (degrees) of a maximum, between the places of the grid."""
    length = LENGTHS[row] * (LENGTHS[1] / LENGTHS[0]) ** _offset(height[row - 1 : row + 2, column])
    beside = height[row, [column - 1, column, (column + 1) % len(DIRECTIONS)]]
    angle = (DIRECTIONS[column] + (DIRECTIONS[1] - DIRECTIONS[0]) * _offset(beside)) % 180
    return float(length), float(angle)


def _offset(three: Floats) -> float:
    """Place of the top of the parabola through three values, from the middle one, −0.5 to 0.5."""
    before, here, after = (float(value) for value in three)
    bend = before - 2 * here + after
    return 0.0 if bend > -1e-9 else min(0.5, max(-0.5, 0.5 * (before - after) / bend))
