"""Who is in a shoot just now, and where: known in memory alone, and only for as long as they say so."""

from __future__ import annotations

import time
from dataclasses import dataclass, field
from threading import Lock

LASTS_S = 50.0
"""A page that has not said for so long that it is there is not shown any more: it says so twice in that time."""
STAYS_S = 3600.0
"""For so long it may be silent and need not come in anew: browsers let a page in the background say something once a
minute or more seldom."""


@dataclass(frozen=True, slots=True)
class Companion:
    """An open page. page: its own name for itself; name: of the person."""

    page: str
    name: str
    frame_id: int | None
    screen: str


@dataclass(slots=True)
class Present:
    """By shoot; may be asked on any thread."""

    _said: dict[tuple[int, str], tuple[Companion, float]] = field(default_factory=dict)
    _lock: Lock = field(default_factory=Lock)

    def say(self, shoot_id: int, one: Companion) -> list[Companion]:
        """Notes where somebody is; the others in the same shoot."""
        at = time.monotonic()
        with self._lock:
            self._said = {key: kept for key, kept in self._said.items() if kept[1] > at - STAYS_S}
            self._said[shoot_id, one.page] = (one, at)
            return [
                other
                for (shoot, page), (other, said_at) in self._said.items()
                if shoot == shoot_id and page != one.page and said_at > at - LASTS_S
            ]

    def is_here(self, shoot_id: int, page: str) -> bool:
        with self._lock:
            known = self._said.get((shoot_id, page))
        return known is not None and known[1] > time.monotonic() - STAYS_S

    def leave(self, shoot_id: int, page: str) -> None:
        with self._lock:
            self._said.pop((shoot_id, page), None)
