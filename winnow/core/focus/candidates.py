"""The smears that spectra speak for.

Log spectra of patches (`spectra`) are compared with the stripes of smears of every length, direction and bow
(`smears`). Only maxima inside the grid count: what content has of a ridge grows towards its ends.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

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
LEAST_POWER = 1.2
"""What such power is, nepers above noise."""


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


def candidates(spectra: Sequence[Spectra]) -> list[Candidate]:
    """The likeliest smears of each level."""
    means = [of.residues.mean(axis=0) for of in spectra]
    means = [mean / (np.linalg.norm(mean) + 1e-9) for mean in means]
    found = []
    for at, of in enumerate(spectra):
        likeness = (stripes().left @ means[at]) / stripes().norm
        height = likeness / np.sqrt(stripes().depth)  # long smears have little to show, short ones much
        others = [(other.level, mean) for other, mean in zip(spectra, means, strict=True) if other is not of]
        for bow in range(len(BOWS)):
            for row, column in _maxima(height[bow])[:CANDIDATES]:
                length, angle = _between(height[bow], row, column)
                if SHORTEST <= length <= LONGEST and likeness[bow, row, column] >= LEAST_LIKENESS:
                    support = _support(others, bow, length * 2**of.level, angle)
                    found.append(_candidate(of, (bow, row, column), length, angle, means[at], support))
    return found


def _candidate(
    of: Spectra, at: tuple[int, int, int], length: float, angle: float, mean: Floats, support: float | None
) -> Candidate:
    stripe, along = stripes().left[at], stripes().along[at[1:]]
    beyond = along > MAIN_LOBE
    power = of.logs[:, beyond].mean(axis=1)
    honest = np.flatnonzero(of.honest)
    order = honest[np.argsort(-power[honest], kind="stable")][:FINEST]
    lobe = (along > FIRST_LOBE[0]) & (along < FIRST_LOBE[1])
    heard = of.logs[:, lobe].mean(axis=1) - of.noise if lobe.any() else np.zeros(len(power), np.float32)
    depths = of.residues @ stripe / stripes().norm[at] ** 2
    telling = heard > LEAST_POWER
    loudest = depths[telling] if telling.sum() >= 5 else depths[np.argsort(-heard)[:FINEST]]
    return Candidate(
        of.level, *at, length, angle,
        likeness=float(stripe @ mean / stripes().norm[at]),
        finest=_correlation(stripe, of.residues[order].mean(axis=0)),
        excess=float(power[order].mean() - np.median(power[honest])),
        side_lobes=_correlation(stripe[beyond], mean[beyond]),
        depth=float(np.median(loudest)),
        heard=int(telling.sum()),
        support=support,
    )  # fmt: skip


def _support(others: Sequence[tuple[int, Floats]], bow: int, length_px: float, angle: float) -> float | None:
    """Likeness of a smear on other levels."""
    found = []
    for level, mean in others:
        length = length_px / 2**level
        if SHORTEST <= length <= LONGEST:
            row = int(np.abs(np.log(LENGTHS / length)).argmin())
            rows = np.clip([row - 1, row, row + 1], 0, len(LENGTHS) - 1)
            column = round(angle / (DIRECTIONS[1] - DIRECTIONS[0]))
            columns = np.mod([column - 1, column, column + 1], len(DIRECTIONS))
            around = np.ix_(rows, columns)
            found.append(float((stripes().left[bow][around] @ mean / stripes().norm[bow][around]).max()))
    return max(found, default=None)


def depth_in(spectra: Spectra, found: Candidate) -> float:
    """How deep the stripes of a smear are in some patches, 1 for what it makes."""
    at = (found.bow, found.row, found.column)
    return float(np.median(spectra.residues @ stripes().left[at] / stripes().norm[at] ** 2))


def _correlation(one: Floats, other: Floats) -> float:
    one, other = one - one.mean(), other - other.mean()
    return float(one @ other / (np.linalg.norm(one) * np.linalg.norm(other) + 1e-9))


def _maxima(height: Floats) -> list[tuple[int, int]]:
    """(length, direction) of the maxima inside the grid, the highest first; directions go round."""
    around = np.pad(height, ((0, 0), (1, 1)), mode="wrap")
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
    return 0.0 if bend > -1e-9 else float(np.clip(0.5 * (before - after) / bend, -0.5, 0.5))
