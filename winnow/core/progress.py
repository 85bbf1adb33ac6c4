"""How fast work goes and how long it will take."""

from __future__ import annotations

from collections import deque

WINDOW_S = 20.0


class Pace:
    """Rate over the last seconds of work. Times are passed in: any clock that only goes forward."""

    def __init__(self) -> None:
        self._marks: deque[tuple[float, int]] = deque()

    def note(self, now_s: float, done: int) -> None:
        """Record that `done` items were finished by `now_s`."""
        self._marks.append((now_s, done))
        while len(self._marks) > 2 and now_s - self._marks[0][0] > WINDOW_S:
            self._marks.popleft()

    def rate(self) -> float | None:
        """Items a second, or None before anything can be said."""
        if len(self._marks) < 2:
            return None
        (start, first), (end, last) = self._marks[0], self._marks[-1]
        return (last - first) / (end - start) if end > start and last > first else None

    def seconds_left(self, remaining: int) -> float | None:
        rate = self.rate()
        return remaining / rate if rate else None
