"""The cover set of a group: the fewest frames in which everybody is well shown."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from winnow.core.faces.eyes import EyeState
from winnow.core.focus.verdict import SHARP_PX


@dataclass(frozen=True, slots=True)
class Shown:
    """A face as the evidence has it. person: from 0 within the group; eyes: what can be told of both; sigma: blur at
    the eyes, px."""

    person: int
    facing: bool
    eyes: tuple[EyeState, ...]
    sigma: float | None

    @property
    def well(self) -> bool:
        """Eyes open as far as they can be seen, facing, and sharp."""
        seen = [eye for eye in self.eyes if eye is not EyeState.UNKNOWN]
        return (
            self.facing
            and bool(seen)
            and all(eye is EyeState.OPEN for eye in seen)
            and self.sigma is not None
            and self.sigma <= SHARP_PX
        )


@dataclass(frozen=True, slots=True)
class CoverSet:
    """frames: number of each frame → for whom it is there; nobody: people who are well shown in none."""

    frames: dict[int, tuple[int, ...]]
    nobody: tuple[int, ...]


MOST_PEOPLE = 16
"""More than these are not looked through: the number of subsets doubles with each."""


def cover_set(frames: Sequence[Sequence[Shown]], ranks: Sequence[int]) -> CoverSet:
    """The fewest frames that show everybody well who is well shown anywhere; of as few the ones that the evidence
    ranks first, taken together; of those the earliest. Exact: every subset of people is looked at (dynamic
    programming over subsets; the problem is set cover, Karp 1972, from memory). frames: faces of each frame, in
    order; ranks: from 0.
    """
    people = sorted({face.person for faces in frames for face in faces})[:MOST_PEOPLE]
    bit = {person: 1 << at for at, person in enumerate(people)}
    shows = [sum(bit[p] for p in {f.person for f in faces if f.well and f.person in bit}) for faces in frames]
    everybody = 0
    for shown in shows:
        everybody |= shown
    best: dict[int, tuple[int, int, tuple[int, ...]]] = {0: (0, 0, ())}
    for at, shown in enumerate(shows):
        for covered, (count, rank, chosen) in list(best.items()):
            made = (count + 1, rank + ranks[at], (*chosen, at))
            if covered | shown != covered and made < best.get(covered | shown, (len(frames) + 1, 0, ())):
                best[covered | shown] = made
    chosen = best[everybody][2]
    left, whose = everybody, {}
    for at in sorted(chosen, key=lambda one: (-shows[one].bit_count(), ranks[one], one)):
        whose[at] = tuple(person for person in people if bit[person] & shows[at] & left)
        left &= ~shows[at]
    return CoverSet(
        {at: whose[at] for at in sorted(whose)},
        tuple(person for person in people if not bit[person] & everybody),
    )
