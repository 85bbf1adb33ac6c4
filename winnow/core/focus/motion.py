"""What moved while the shutter was open: the camera, a subject before a still ground, or the camera with the subject.

1. The smear that most speaks for, in the whole frame: `spectra` → `candidates` → `weighing`.
2. A part of the frame whose edges across the smear are sharp and that shows no stripes was not smeared: then it was
   the subject that moved, or the camera followed it.
3. Where the whole frame shows none, the subject's own part may, and all that is around the sharpest place.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from enum import StrEnum

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.candidates import Candidate, candidates, depth_in
from winnow.core.focus.edges import EVENNESS, Edges, Square
from winnow.core.focus.profiles import Grey
from winnow.core.focus.smears import BOWS
from winnow.core.focus.spectra import LEAST_PATCHES, PATCH, Spectra, spectra_at, spectra_of
from winnow.core.focus.weighing import LEAST_EVIDENCE, chance_wrong, crossing, evidence, may_be

LARGE = 4_000_000
"""Pictures of more pixels are searched at full size and at a quarter, others also at half."""
CELLS = 10
"""Cells along the long edge in which edges that cross a smear are looked at together."""
CROSSING_THERE = 0.6
MOSTLY_SHARP, LEAST_SHARP, SHARP_TOGETHER, CELLS_TOGETHER = 0.6, 1.5, 5.0, 2
"""Share of a cell's crossing edges that are too sharp, how many edges (by weight) that must rest on, and how many
in cells that touch, and how many cells."""
NO_STRIPES = 0.2
"""Depth of the stripes below which a part of the frame does not share a smear."""
PAN_DOUBT = 0.1
"""A pan is no warning: where it is less sure than this, nothing is said."""
ABOUT_A_CELL = 12
"""So many patches at most are cut where edges are too sharp."""


class MotionKind(StrEnum):
    """What moved: the camera; the subject before a ground that is sharp; the camera with the subject."""

    SHAKE = "shake"
    SUBJECT = "subject"
    PAN = "pan"


@dataclass(frozen=True, slots=True)
class Motion:
    """A smear: the length from end to end (px of the full picture), its direction (degrees, 0 along the rows,
    growing clockwise, below 180), how far it bows (in its length), what moved, and the chance that nothing did."""

    length_px: float
    angle_deg: float
    bow: float = 0.0
    kind: MotionKind = MotionKind.SHAKE
    doubt: float = 0.0


def find_motion(
    levels: list[Grey],
    noise: float,
    edges: Edges,
    subject: Square | None = None,
    sharpest: Square | None = None,
) -> Motion | None:
    """What moved while the shutter was open, as far as it can be told; None: nothing, or it cannot be told.

    levels: `picture.pyramid` of the luma. noise: its standard deviation at full size, grey levels. edges: of the
    whole frame. subject: where it is, if it is known; then a subject that moved by itself is told too. sharpest:
    about the sharpest place; then it is told whether all around it is smeared.
    """
    whole = [found for number in _searched(levels) if (found := spectra_of(levels, number, noise))]
    if any(of.combed for of in whole):
        return None  # two moments in one frame look like a smear
    best = _best(whole, edges)
    if best is not None:
        return _of_whole(levels, noise, edges, *best)
    moved = _of_subject(levels, noise, edges, subject) if subject else None
    return moved or (_around(whole, edges, sharpest) if sharpest else None)


def _searched(levels: list[Grey]) -> Iterator[int]:
    for number in (0, 2) if levels[0].size > LARGE else (0, 1, 2):
        if number < len(levels) and min(levels[number].shape) >= 2 * PATCH:
            yield number


def _best(spectra: Sequence[Spectra], edges: Edges) -> tuple[Candidate, float] | None:
    """The smear that most speaks for, with the evidence, if that is enough."""
    found = candidates(spectra)
    likely = [one for one in found if may_be(one)]
    weighed = [(evidence(candidate, edges), candidate) for candidate in likely]
    most, best = max(weighed, key=lambda pair: pair[0], default=(-math.inf, None))
    if best is None or most < LEAST_EVIDENCE:
        return None
    # Of the same smear at another bow, the likeliest tells the length best.
    alike = [other for other in found if other.level == best.level and _same(other, best)]
    return max(alike, key=lambda other: other.likeness), most


def _same(one: Candidate, other: Candidate) -> bool:
    turned = abs((one.angle - other.angle + 90) % 180 - 90)
    return turned <= 12 and abs(math.log(one.length / other.length)) <= math.log(1.3)


def _of_whole(levels: list[Grey], noise: float, edges: Edges, found: Candidate, odds: float) -> Motion:
    """A smear that most of the frame shows, and what moved."""
    sharp, measured = _sharp_part(levels, noise, edges, found)
    if not sharp:
        return _motion(found, MotionKind.SHAKE, odds)
    return _motion(found, MotionKind.PAN if 2 * sharp < measured else MotionKind.SUBJECT, odds)


def _motion(found: Candidate, kind: MotionKind, odds: float) -> Motion:
    return Motion(found.length_px, found.angle, BOWS[found.bow], kind, chance_wrong(odds))


def _sharp_part(levels: list[Grey], noise: float, edges: Edges, found: Candidate) -> tuple[int, int]:
    """How many cells of the frame do not share a smear, and in how many there is anything to tell it by: cells that
    touch, whose edges across the smear are too sharp, and whose patches show no stripes. A smear leaves sharp
    flanks here and there, but its stripes with them."""
    rows, columns = levels[0].shape
    cell = max(rows, columns) / CELLS
    down, across = math.ceil(rows / cell), math.ceil(columns / cell)
    chosen, sharp = crossing(found, edges, CROSSING_THERE)
    there, sharp = edges.where(chosen), sharp[chosen]
    weight = there.weight * EVENNESS**2
    row = np.minimum(there.y / cell, down - 1).astype(int)
    column = np.minimum(there.x / cell, across - 1).astype(int)
    number = row * across + column
    count = np.bincount(number, weight, down * across)
    too_sharp = np.bincount(number, weight * sharp, down * across)
    measured = count > LEAST_SHARP
    cells = (measured & (too_sharp > MOSTLY_SHARP * count)).reshape(down, across)
    labels, parts = cv2.connectedComponents(cells.astype(np.uint8), connectivity=8)[::-1]
    of_edges = labels[row, column]
    unsmeared = 0
    for part in range(1, parts):
        here = np.flatnonzero(sharp & (of_edges == part))
        size = int((labels == part).sum())
        if weight[here].sum() >= SHARP_TOGETHER and size >= CELLS_TOGETHER:
            some = here[np.linspace(0, len(here) - 1, ABOUT_A_CELL).astype(int)]
            cut = spectra_at(levels, found.level, noise, there.x[some], there.y[some])
            if cut is not None and depth_in(cut, found) < NO_STRIPES:
                unsmeared += size
    return unsmeared, int(measured.sum())


def _of_subject(levels: list[Grey], noise: float, edges: Edges, subject: Square) -> Motion | None:
    """The smear of a subject that moved by itself, before a ground that is sharp."""
    inside = _inside(edges, subject)
    spectra = [
        found
        for number in _searched(levels)
        if (found := _within(levels, number, noise, subject)) is not None
    ]
    best = _best(spectra, edges.where(inside))
    if best is None or not _sharp_part(levels, noise, edges.where(~inside), best[0])[0]:
        return None
    return _motion(best[0], MotionKind.SUBJECT, best[1])


def _around(whole: Sequence[Spectra], edges: Edges, sharpest: Square) -> Motion | None:
    """The smear of a ground before which the camera followed something, which is sharp."""
    outside = [(of, _beyond(of, sharpest)) for of in whole]
    spectra = [of.only(far) for of, far in outside if far.sum() >= LEAST_PATCHES]
    best = _best(spectra, edges.where(~_inside(edges, sharpest)))
    if best is None or chance_wrong(best[1]) > PAN_DOUBT:
        return None
    found = best[0]
    (near,) = (of.only(~far) for of, far in outside if of.level == found.level)
    if not len(near.left) or depth_in(near, found) >= NO_STRIPES:
        return None
    return _motion(found, MotionKind.PAN, best[1])


def _beyond(of: Spectra, square: Square) -> NDArray[np.bool_]:
    """Which patches lie outside a square."""
    scale = 2.0**of.level
    x, y = ((at + PATCH / 2) * scale for at in (of.left, of.top))
    return np.asarray(np.maximum(np.abs(x - square.x), np.abs(y - square.y)) > square.radius)


def _inside(edges: Edges, square: Square) -> NDArray[np.bool_]:
    return np.asarray(np.maximum(np.abs(edges.x - square.x), np.abs(edges.y - square.y)) < square.radius)


def _within(levels: list[Grey], number: int, noise: float, square: Square) -> Spectra | None:
    """Spectra of patches inside a square."""
    room = square.radius - PATCH / 2 * 2**number
    if room <= 0:
        return None
    side = min(8, int(2 * room / (PATCH / 2 * 2**number)) + 1)
    x, y = np.meshgrid(
        *(np.linspace(at - room, at + room, side, dtype=np.float32) for at in (square.x, square.y))
    )
    return spectra_at(levels, number, noise, x.ravel(), y.ravel())
