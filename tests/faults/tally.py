"""What a round of faults came to."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field


@dataclass(slots=True)
class Tally:
    """runs: rounds; faults: those that really struck; losses: all that was not as it had to be, in words."""

    name: str
    runs: int = 0
    faults: int = 0
    losses: list[str] = field(default_factory=list)

    def note(self, struck: bool) -> None:
        self.runs += 1
        self.faults += struck

    def lose(self, what: Iterable[object], when: str) -> None:
        self.losses += [f"{when}: {one}" for one in what]

    def __str__(self) -> str:
        return f"{self.name:32} {self.runs:5} runs {self.faults:5} faults {len(self.losses):3} losses"
