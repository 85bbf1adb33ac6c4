"""Frames of two cameras that show the same moment, and what that says of their clocks.

Two bodies at one event show the same people in front of the same things at the same time now and then. Groups of
both that look alike (colours, matched features under one similarity transform, the people in them) give pairs of
frames; each pair says how far one clock would be ahead. Pairs of one moment agree on that, others scatter: the shift
that most pairs agree on is the answer (a vote, as in Hough, US patent 3,069,654, 1962, from memory). How well the
people stand in the same places under the transform weighs a pair.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from statistics import median

import numpy as np
from numpy.typing import NDArray

from winnow.core.faces.people import OTHER_LOOK, Seen, difference
from winnow.core.similarity import Descriptor, Registration, matched_points

AGREE_S = 1.0
"""Pairs that differ by no more than this say the same: two people do not press at the same instant."""
LEAST_PAIRS = 2
CLEARLY = 1.25
"""By this factor the best shift must outdo any other."""
NEAREST = 8
"""So many groups of the other camera are looked at closely for each group."""
LEAST_KEPT = 20
"""Features that must agree on one transform."""
STILL = 0.25
"""People who stand apart by this share of a face, under the transform, have moved."""


@dataclass(frozen=True, slots=True)
class Glance:
    """What is looked at of a frame: time by its camera's clock (seconds), its group, and how it looks."""

    frame_id: int
    camera: str
    seconds: float
    group: int
    descriptor: Descriptor
    people: tuple[Seen, ...]


@dataclass(frozen=True, slots=True)
class Pair:
    """Two frames that look like one moment. ahead_s: what that says of the second one's clock; likeness 0 to 1."""

    one: int
    other: int
    ahead_s: float
    likeness: float


@dataclass(frozen=True, slots=True)
class Suggestion:
    """How far the clock of a camera seems ahead of another's, the pairs that say so, and how many frames of it had
    a counterpart at all."""

    camera: str
    beside: str
    ahead_s: float
    pairs: tuple[Pair, ...]
    considered: int


def suggest(glances: Sequence[Glance]) -> list[Suggestion]:
    """Shifts of cameras beside the one of most frames; nothing of a camera where the pairs do not agree."""
    by_camera: dict[str, list[Glance]] = {}
    for glance in glances:
        if glance.people:  # what stands still shows no moment
            by_camera.setdefault(glance.camera, []).append(glance)
    if len(by_camera) < 2:
        return []
    first, *others = sorted(by_camera, key=lambda camera: (-len(by_camera[camera]), camera))
    found = (_beside(by_camera[first], by_camera[camera]) for camera in others)
    return [one for one in found if one is not None]


def _beside(these: Sequence[Glance], those: Sequence[Glance]) -> Suggestion | None:
    pairs = list(_pairs(these, those))
    best = _vote(pairs)
    if len(best) < LEAST_PAIRS:
        return None
    ahead = median(pair.ahead_s for pair in best)
    rest = _vote([pair for pair in pairs if abs(pair.ahead_s - ahead) > 2 * AGREE_S])
    if _weight(best) < CLEARLY * _weight(rest):
        return None
    considered = len({pair.other for pair in pairs})
    ordered = tuple(sorted(best, key=lambda pair: -pair.likeness))
    return Suggestion(those[0].camera, these[0].camera, round(ahead, 1), ordered, considered)


def _pairs(these: Sequence[Glance], those: Sequence[Glance]) -> Iterable[Pair]:
    groups, others = _by_group(these), _by_group(those)
    heads = [group[0] for group in groups]
    layouts = np.stack([_layout(head) for head in heads])
    for other in others:
        apart = np.abs(layouts - _layout(other[0])).mean(axis=(1, 2, 3))
        for place in np.argsort(apart)[:NEAREST].tolist():
            if matched_points(heads[place].descriptor, other[0].descriptor) is None:
                continue
            for one in groups[place]:
                for two in other:
                    alike = _likeness(one, two)
                    if alike > 0:
                        yield Pair(one.frame_id, two.frame_id, two.seconds - one.seconds, alike)


def _by_group(glances: Sequence[Glance]) -> list[list[Glance]]:
    groups: dict[int, list[Glance]] = {}
    for glance in glances:
        groups.setdefault(glance.group, []).append(glance)
    return list(groups.values())


def _layout(glance: Glance) -> NDArray[np.float32]:
    colours = glance.descriptor.colours.astype(np.float32)
    colours[..., 0] -= colours[..., 0].mean()
    return colours


def _likeness(one: Glance, other: Glance) -> float:
    """0: not the same place or people; near 1: they stand as they stood."""
    laid = matched_points(one.descriptor, other.descriptor)
    if laid is None or laid.kept < LEAST_KEPT:
        return 0.0
    moved = [gap for seen in other.people if (gap := _nearest(seen, other, one, laid)) is not None]
    if not moved or len(moved) < min(len(one.people), len(other.people)):
        return 0.0
    return float(np.exp(-np.mean(np.square(np.array(moved) / STILL))))


def _nearest(seen: Seen, other: Glance, one: Glance, laid: Registration) -> float | None:
    """How far a person stands from where they stand in the other frame, in widths of a face; None: they are not in
    it."""
    scale = float(np.hypot(laid.affine[0, 0], laid.affine[1, 0]))
    edge, edge_one = max(other.descriptor.size), max(one.descriptor.size)
    gaps = []
    for before in one.people:
        if difference(before, seen) > OTHER_LOOK:
            continue
        at = laid.affine @ np.array([before.x * edge_one, before.y * edge_one, 1.0])
        width = max(before.width * edge_one * scale, seen.width * edge, 1e-6)
        gaps.append(float(np.hypot(at[0] - seen.x * edge, at[1] - seen.y * edge)) / width)
    return min(gaps, default=None)


def _vote(pairs: Sequence[Pair]) -> list[Pair]:
    """The pairs that agree on one shift, the best there is: each frame in one of them."""
    ordered = sorted(pairs, key=lambda pair: pair.ahead_s)
    best: list[Pair] = []
    start = 0
    for end in range(len(ordered)):
        while ordered[end].ahead_s - ordered[start].ahead_s > AGREE_S:
            start += 1
        chosen = _one_to_one(ordered[start : end + 1])
        if _weight(chosen) > _weight(best):
            best = chosen
    return best


def _one_to_one(pairs: Sequence[Pair]) -> list[Pair]:
    kept: list[Pair] = []
    taken: set[int] = set()
    for pair in sorted(pairs, key=lambda pair: -pair.likeness):
        if not taken & {pair.one, pair.other}:
            kept.append(pair)
            taken |= {pair.one, pair.other}
    return kept


def _weight(pairs: Iterable[Pair]) -> float:
    return sum(pair.likeness for pair in pairs)
