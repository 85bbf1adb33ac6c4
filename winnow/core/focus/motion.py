"""Shake: the smear of a camera that moved while the shutter was open, told from missed focus, from panning, from a
subject that moved, and from content that repeats itself or runs in one direction.

1. Log spectra of patches where there is detail (`spectra`) are compared with the stripes of smears of every length,
   direction and bow (`smears`), on a large and on small pictures. Only maxima inside the grid count.
2. Of each of them is asked: are the stripes there in the very patches that have most power beyond the main lobe
   (where a frame is sharp, that power is), and no more power than a smear leaves? Are the side lobes there by
   themselves? Are the stripes as deep as a smear makes them, and no deeper? Are they there on the other pictures
   too? Are edges across the smear wider than edges along it (σ² = σ₀² + (L·cos)²/12, second moment of a box), or
   is almost every one of them too sharp to have been smeared?
3. The answers are weighed together (logistic regression on photographs of known smears), and held against one
   threshold. How often it errs there was counted on photographs that nobody shook.
4. A part of the frame whose edges across the smear are sharp and that shows no stripes was not smeared: then it was
   the subject that moved, or the camera followed it.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import astuple, dataclass, replace
from enum import StrEnum

import cv2
import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.edges import Edges, Square
from winnow.core.focus.profiles import Floats, Grey
from winnow.core.focus.smears import BOWS, DIRECTIONS, LENGTHS, LONGEST, SHORTEST, stripes
from winnow.core.focus.spectra import LEAST_PATCHES, PATCH, Spectra, spectra_at, spectra_of

LARGE = 4_000_000
"""Pictures of more pixels are searched at full size and at a quarter, others also at half."""
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
ACROSS, ALONG = 0.8, 0.4
"""|cos| of the angle between the normal of an edge and the smear: edges across it and along it."""
EVENNESS = 0.15
"""Added to the doubt of every edge before edges are weighed."""
QUANTILE = 0.2
"""Quantile of σ that is compared: edges soft by nature do not count."""
NARROWEST, WIDEST = -0.5, 0.5
"""Log ratios of σ across to σ along beyond these say no more."""
CROSSING, TOO_SHARP = 0.7, 0.5
"""An edge that crosses a smear (|cos|) is too sharp below this share of the σ that the smear alone would give it."""
ALL_SHARP = 0.8
"""If more than this share of the edges that cross it are too sharp, there was no such smear."""
UPRIGHT, UNWIDENED = 12.0, 0.05
"""Degrees to level or upright within which bricks, shelves and façades lie, whose lines of one width leave stripes as
smears do; but a smear makes edges wider, by at least this log ratio."""
TOO_DEEP = 1.45
"""Stripes this many times deeper than a smear makes them are content."""


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


@dataclass(frozen=True, slots=True)
class Answers:
    """Answers about a candidate (see `Candidate` for the first); yes is 1. `constant` is 1 throughout.

    widening: log of σ across to σ along, 0 with `no_edges` for too few. alone: no other level can show it. all_sharp:
    nearly all edges that cross it are too sharp. unheard: too few patches tell of the depth.
    """

    finest: float
    side_lobes: float
    excess: float
    widening: float
    no_edges: float
    upright_unwidened: float
    support: float
    alone: float
    length: float
    all_sharp: float
    depth: float
    too_deep: float
    unheard: float
    constant: float = 1.0


WEIGHTS = Answers(
    finest=10.8,
    side_lobes=2.85,
    excess=-1.6,
    widening=6.05,
    no_edges=-0.5,
    upright_unwidened=-2.0,
    support=7.45,
    alone=-0.65,
    length=0.3,
    all_sharp=-3.7,
    depth=0.7,
    too_deep=-2.8,
    unheard=0.7,
    constant=-9.7,
)
"""What the answers count: a logistic regression on candidates of photographs and made-up patterns, smeared and not
(docs/evidence.md), held against photographs left out."""
MOST_BY_EDGES = WEIGHTS.widening * WIDEST
"""What edges can add to the evidence of a spectrum."""
LEAST_EVIDENCE = 2.0
"""Where the chance of being wrong is a third."""
DOUBT_FALLS, DOUBT_FROM = 1.3, 1.95
"""How the odds of being wrong fall with the evidence, where one frame in ten is smeared: from the share of 1,083
unshaken photographs and of 560 smeared ones that have so much."""


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


def find_motion(
    levels: list[Grey],
    noise: float,
    edges: Edges,
    subject: Square | None = None,
    sharpest: Square | None = None,
) -> Motion | None:
    """What moved while the shutter was open, as far as it can be told; None: nothing, or it cannot be told.

    levels: `edges.pyramid` of the luma. noise: its standard deviation at full size, grey levels. edges: of the
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
    likely = [one for one in found if _by_spectrum(one) + MOST_BY_EDGES >= LEAST_EVIDENCE]
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


def evidence(found: Candidate, edges: Edges) -> float:
    """How much speaks for a smear: log of the odds, among candidates."""
    return float(np.dot(astuple(WEIGHTS), astuple(answers(found, edges))))


def _by_spectrum(found: Candidate) -> float:
    """The evidence without what edges say."""
    return float(np.dot(astuple(WEIGHTS), astuple(_of_spectrum(found))))


def answers(found: Candidate, edges: Edges) -> Answers:
    """What is asked of a candidate, in figures that are weighed."""
    ratio = _widening(found.angle, edges)
    upright = abs((found.angle + 45) % 90 - 45) <= UPRIGHT
    return replace(
        _of_spectrum(found),
        widening=ratio or 0.0,
        no_edges=ratio is None,
        upright_unwidened=upright and (ratio is None or ratio < UNWIDENED),
        all_sharp=_too_sharp(found, edges) > ALL_SHARP,
    )


def _of_spectrum(found: Candidate) -> Answers:
    return Answers(
        finest=found.finest,
        side_lobes=found.side_lobes,
        excess=max(0.0, found.excess - 1),
        widening=0.0,
        no_edges=False,
        upright_unwidened=False,
        support=0.3 if found.support is None else found.support,
        alone=found.support is None,
        length=math.log(found.length),
        all_sharp=False,
        depth=min(found.depth, 1.2),
        too_deep=max(0.0, found.depth - TOO_DEEP),
        unheard=found.heard < 5,
    )


def _widening(angle: float, edges: Edges) -> float | None:
    """Log of σ of edges across a smear ÷ σ of edges along it; None if there are too few."""
    cosine = np.abs(np.cos(edges.angle - math.radians(angle)))
    across, along = cosine > ACROSS, cosine < ALONG
    if min(int(across.sum()), int(along.sum())) < 3:
        return None
    weight = _weight(edges)
    ratio = _quantile(edges.sigma[across], weight[across]) / _quantile(edges.sigma[along], weight[along])
    return float(np.clip(math.log(ratio), NARROWEST, WIDEST))


def _too_sharp(found: Candidate, edges: Edges) -> float:
    """Share of the edges that cross a smear and are sharper than it could have left them."""
    crossing, sharp = _crossing(found, edges)
    if crossing.sum() < 5:
        return 0.0
    weight = _weight(edges)
    return float(weight[sharp].sum() / weight[crossing].sum())


def _crossing(found: Candidate, edges: Edges) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which edges cross a smear, and which of them are too sharp."""
    cosine = np.abs(np.cos(edges.angle - math.radians(found.angle)))
    crossing = cosine > CROSSING
    return crossing, crossing & (edges.sigma < TOO_SHARP * cosine * found.length_px / math.sqrt(12))


def _weight(edges: Edges) -> NDArray[np.float64]:
    return np.asarray(1 / (edges.doubt.astype(np.float64) ** 2 + EVENNESS**2))


def _quantile(values: Floats, weight: NDArray[np.float64]) -> float:
    order = np.argsort(values)
    rising = np.cumsum(weight[order])
    return float(values[order[min(int(np.searchsorted(rising, QUANTILE * rising[-1])), len(values) - 1)]])


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
    cosine = np.abs(np.cos(edges.angle - math.radians(found.angle)))
    crossing = edges.where(cosine > CROSSING_THERE)
    cosine = cosine[cosine > CROSSING_THERE]
    sharp = crossing.sigma < TOO_SHARP * cosine * found.length_px / math.sqrt(12)
    weight = _weight(crossing) * EVENNESS**2
    row = np.minimum(crossing.y / cell, down - 1).astype(int)
    column = np.minimum(crossing.x / cell, across - 1).astype(int)
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
            there = spectra_at(levels, found.level, noise, crossing.x[some], crossing.y[some])
            if there is not None and _depth_in(there, found) < NO_STRIPES:
                unsmeared += size
    return unsmeared, int(measured.sum())


def _depth_in(spectra: Spectra, found: Candidate) -> float:
    """How deep the stripes of a smear are in some patches, 1 for what it makes."""
    at = (found.bow, found.row, found.column)
    return float(np.median(spectra.residues @ stripes().left[at] / stripes().norm[at] ** 2))


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
    if not len(near.left) or _depth_in(near, found) >= NO_STRIPES:
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


def chance_wrong(evidence: float) -> float:
    """The chance that a smear with so much evidence is none."""
    return 1 / (1 + math.exp(DOUBT_FALLS * evidence - DOUBT_FROM))
