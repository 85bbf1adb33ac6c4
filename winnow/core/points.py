"""The point of a frame that matters, as the person says: there the verdict on its focus is read."""

from __future__ import annotations

import math
from dataclasses import dataclass

SAME = 0.015
"""A point put down this near to the one that is there, of the long edge, takes it back."""


@dataclass(frozen=True, slots=True)
class Point:
    """px of the upright full picture."""

    x: float
    y: float

    def __str__(self) -> str:
        return f"{self.x:.1f} {self.y:.1f}"

    @classmethod
    def parse(cls, text: str) -> Point:
        """The opposite of `str`. Raises ValueError for anything else."""
        x, y = text.split(" ")
        return cls(float(x), float(y))


def takes_back(there: Point | None, put: Point, long_edge: int) -> bool:
    """Whether a point means the one that is there already."""
    return there is not None and math.dist((there.x, there.y), (put.x, put.y)) <= SAME * long_edge
