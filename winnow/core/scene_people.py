"""The people of a scene: the same person through all of its groups, by appearance (hair, skin, clothes)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from winnow.core.faces.people import BRIGHTNESS_WEIGHT, Seen, same_people

LEAST_WIDTH = 0.025
"""Smaller faces, as a share of the frame's long edge, are of people in the background."""
SAME_LOOK = 10.0
"""Mean distance in CIELAB up to which people of two groups are taken for one. Between groups light and pose differ:
on the demo shoot 1 to 26 lie between groups of one person, 12 and more between people. It rather counts somebody
twice than two people as one: who is missing must not go unsaid."""
LEAST_FRAMES = 2
"""Who is in one frame alone came by chance, or is a face that was found where none is."""


def people_of_scene(groups: Sequence[Mapping[int, Sequence[Seen]]]) -> dict[int, tuple[int, ...]]:
    """The people in each frame of a scene, counted from 0. groups: of each, its frames in order with their faces.

    Within a group people are told apart by where they stand too (`same_people`); between groups by their look alone,
    each group's people one to one with those known so far, the most alike first.
    """
    known: list[NDArray[np.float32]] = []
    found: dict[int, list[int]] = {}
    for group in groups:
        faces = {i: [one for one in seen if one.width >= LEAST_WIDTH] for i, seen in group.items()}
        numbers = same_people(list(faces.values()))
        looks: dict[int, list[NDArray[np.float32]]] = {}
        for seen, given in zip(faces.values(), numbers, strict=True):
            for one, number in zip(seen, given, strict=True):
                looks.setdefault(number, []).append(one.look)
        own = {number: _middle(some) for number, some in looks.items()}
        meant = _meant(own, known)
        for number in sorted(own):
            if number not in meant:
                meant[number] = len(known)
                known.append(own[number])
        for frame_id, given in zip(faces, numbers, strict=True):
            found[frame_id] = sorted({meant[number] for number in given})
    counts = np.bincount([n for some in found.values() for n in some], minlength=len(known))
    return {i: tuple(n for n in some if counts[n] >= LEAST_FRAMES) for i, some in found.items()}


def _middle(looks: Sequence[NDArray[np.float32]]) -> NDArray[np.float32]:
    """(patches, 3), NaN where no frame shows the patch."""
    stacked = np.stack(looks)
    seen = np.isfinite(stacked)
    counts = seen.sum(axis=0)
    sums = np.where(seen, stacked, 0).sum(axis=0)
    return np.where(counts > 0, sums / np.maximum(counts, 1), np.nan).astype(np.float32)


def _meant(own: Mapping[int, NDArray[np.float32]], known: Sequence[NDArray[np.float32]]) -> dict[int, int]:
    """Which of the people known so far those of a group are."""
    if not known or not own:
        return {}
    apart = np.stack(list(known))[None] - np.stack(list(own.values()))[:, None]
    apart[..., 0] *= BRIGHTNESS_WEIGHT
    distances = np.sqrt((apart**2).sum(axis=-1))
    there = np.isfinite(distances)
    mean = np.where(there, distances, 0).sum(axis=-1) / np.maximum(there.sum(axis=-1), 1)
    mean[there.sum(axis=-1) == 0] = np.inf
    numbers = list(own)
    meant: dict[int, int] = {}
    for row, column in zip(*np.unravel_index(np.argsort(mean, axis=None), mean.shape), strict=True):
        if mean[row, column] > SAME_LOOK:
            break
        if numbers[row] not in meant and int(column) not in meant.values():
            meant[numbers[row]] = int(column)
    return meant
