"""Pictures that the person turned: places on them, from as they were measured to as they are shown, and back."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from winnow.core.orientation import turned_point, turned_size

Box = tuple[float, float, float, float]


@dataclass(frozen=True, slots=True)
class Turned:
    """A picture of width × height px that is shown turned by quarters, clockwise."""

    turn: int
    width: int
    height: int

    def point(self, x: float, y: float) -> tuple[float, float]:
        """A measured point, px, where it is shown."""
        return turned_point(x, y, self.width, self.height, self.turn)

    def back(self, x: float, y: float) -> tuple[float, float]:
        """A point, px, of the picture as it is shown, where it was measured."""
        return turned_point(x, y, *turned_size(self.width, self.height, self.turn), -self.turn % 4)

    def box(self, box: Sequence[float]) -> Box:
        """(left, top, right, bottom)."""
        (a, b), (c, d) = self.point(box[0], box[1]), self.point(box[2], box[3])
        return min(a, c), min(b, d), max(a, c), max(b, d)

    def share(self, at: Sequence[float]) -> tuple[float, float]:
        """A place in shares of width and height."""
        x, y = at
        return {1: (1 - y, x), 2: (1 - x, 1 - y), 3: (y, 1 - x)}.get(self.turn, (x, y))

    def angle(self, degrees: float) -> float:
        """A direction without an arrow, 0 to 180 degrees."""
        return (degrees + 90 * self.turn) % 180 if self.turn else degrees

    def tiles(self, rows: list[list[float | None]]) -> list[list[float | None]]:
        """Values by tiles, row by row."""
        if not self.turn or not rows:
            return rows
        found: list[list[float | None]] = np.rot90(np.array(rows, object), -self.turn).tolist()
        return found


AS_TAKEN = Turned(0, 0, 0)
