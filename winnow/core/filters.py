"""What part of the shoot is in view: a filter is a sentence of parts, and a frame passes that meets each of them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from winnow.core.columns import Mask
from winnow.core.facets.kinds import Alternative, Counted, Ground
from winnow.core.facets.registry import BY_NAME, FACETS


@dataclass(frozen=True, slots=True)
class Part:
    """Frames for which one of the alternatives of a facet holds; negated, all others, those of which it is not known
    included."""

    facet: str
    wanted: tuple[Alternative, ...]
    negated: bool = False

    def mask(self, ground: Ground) -> Mask:
        facet = BY_NAME[self.facet]
        found = facet.mask(self.wanted[0], ground)
        for other in self.wanted[1:]:
            found = found | facet.mask(other, ground)
        return ~found if self.negated else found


@dataclass(frozen=True, slots=True)
class FrameFilter:
    """Frames pass that are in the shoot's place and meet every part."""

    parts: tuple[Part, ...] = ()

    @property
    def shows_all(self) -> bool:
        return not self.parts

    def mask(self, ground: Ground) -> Mask:
        found = ground.here.copy()
        for part in self.parts:
            found &= part.mask(ground)
        return found


def counts(wanted: FrameFilter, ground: Ground) -> dict[str, list[Counted]]:
    """For each facet, how many frames each of its alternatives would show beside the parts of all other facets."""
    masks = [(part.facet, part.mask(ground)) for part in wanted.parts]
    passing = np.logical_and.reduce([ground.here, *(mask for _, mask in masks)])
    found = {}
    for facet in FACETS:
        among = passing
        if any(name == facet.name for name, _ in masks):
            others = [mask for name, mask in masks if name != facet.name]
            among = np.logical_and.reduce([ground.here, *others])
        found[facet.name] = facet.counts(ground, among)
    return found
