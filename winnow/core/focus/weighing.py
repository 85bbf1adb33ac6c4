"""How much speaks for a smear.

Of each candidate is asked: are the stripes there in the very patches that have most power beyond the main lobe (where
a frame is sharp, that power is), and no more power than a smear leaves? Are the side lobes there by themselves? Are
the stripes as deep as a smear makes them, and no deeper? Are they there on the other pictures too? Are edges across
the smear wider than edges along it (σ² = σ₀² + (L·cos)²/12, second moment of a box), or is almost every one of them
too sharp to have been smeared? The answers are weighed together (logistic regression on photographs of known smears)
and held against one threshold. How often it errs there was counted on photographs that nobody shook.
"""

from __future__ import annotations

import math
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from winnow.core.focus.candidates import Candidate
from winnow.core.focus.edges import Edges, typical_sigma

ACROSS, ALONG = 0.8, 0.4
"""|cos| of the angle between the normal of an edge and the smear: edges across it and along it."""
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


class Answers(NamedTuple):
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


def evidence(found: Candidate, edges: Edges) -> float:
    """How much speaks for a smear: log of the odds, among candidates."""
    return float(np.dot(WEIGHTS, answers(found, edges)))


def may_be(found: Candidate) -> bool:
    """Whether enough may speak for a smear, by its spectrum alone: edges take longer to ask."""
    return float(np.dot(WEIGHTS, _of_spectrum(found))) + MOST_BY_EDGES >= LEAST_EVIDENCE


def answers(found: Candidate, edges: Edges) -> Answers:
    """What is asked of a candidate, in figures that are weighed."""
    ratio = _widening(found.angle, edges)
    upright = abs((found.angle + 45) % 90 - 45) <= UPRIGHT
    return _of_spectrum(found)._replace(
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


def chance_wrong(evidence: float) -> float:
    """The chance that a smear with so much evidence is none."""
    return 1 / (1 + math.exp(DOUBT_FALLS * evidence - DOUBT_FROM))


def _widening(angle: float, edges: Edges) -> float | None:
    """Log of σ of edges across a smear ÷ σ of edges along it; None if there are too few."""
    cosine = np.abs(np.cos(edges.angle - math.radians(angle)))
    across = typical_sigma(edges.where(cosine > ACROSS), QUANTILE)
    along = typical_sigma(edges.where(cosine < ALONG), QUANTILE)
    if across is None or along is None:
        return None
    return float(np.clip(math.log(across / along), NARROWEST, WIDEST))


def _too_sharp(found: Candidate, edges: Edges) -> float:
    """Share of the edges that cross a smear and are sharper than it could have left them."""
    across, sharp = crossing(found, edges, CROSSING)
    if across.sum() < 5:
        return 0.0
    return float(edges.weight[sharp].sum() / edges.weight[across].sum())


def crossing(found: Candidate, edges: Edges, least: float) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """Which edges cross a smear (|cos| of their angle to it above `least`), and which of them are too sharp."""
    cosine = np.abs(np.cos(edges.angle - math.radians(found.angle)))
    across = cosine > least
    return across, across & (edges.sigma < TOO_SHARP * cosine * found.length_px / math.sqrt(12))
