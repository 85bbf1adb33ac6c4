"""How far the background work on a shoot is, and telling it to whoever listens."""

from __future__ import annotations

import time
from dataclasses import asdict, dataclass, field
from enum import StrEnum

from winnow.core.progress import Pace
from winnow.pipeline.events import Events
from winnow.store import shoots
from winnow.store.database import Database

PUBLISH_EVERY_S = 0.25


class ProgressState(StrEnum):
    """What the background work is at; UNREADABLE and PAUSED: it waits for a disk, or for room."""

    WAITING = "waiting"
    LISTING = "listing"
    READING = "reading"
    DERIVING = "deriving"
    MEASURING = "measuring"
    DONE = "done"
    UNREADABLE = "unreadable"
    PAUSED = "paused"


@dataclass(slots=True)
class Progress:
    """How far the background work on a shoot is. Counts are frames; the rate is that of the slowest stage that
    is not done, frames a second, and `seconds_left` the time for all that is left. `message`: why it waits."""

    shoot_id: int
    state: ProgressState = ProgressState.WAITING
    listed: int = 0
    read: int = 0
    thumbnailed: int = 0
    previewed: int = 0
    measured: int = 0
    rate: float | None = None
    seconds_left: float | None = None
    message: str | None = None


@dataclass(slots=True)
class Reporter:
    """Publishes the progress of one shoot, not more often than it can be read."""

    progress: Progress
    pace: Pace = field(default_factory=Pace)
    changed: bool = False
    at_once: bool = False
    _published: float = 0.0

    def note_measured(self) -> None:
        self.progress.measured += 1
        self.pace.note(time.monotonic(), self.progress.measured)
        self.changed = True

    def start_over(self) -> None:
        self.pace = Pace()
        self.pace.note(time.monotonic(), self.progress.measured)
        self.changed = True

    def say(self, state: ProgressState, message: str | None = None) -> None:
        """A state that must be told without delay."""
        if (self.progress.state, self.progress.message) != (state, message):
            self.progress.state, self.progress.message = state, message
            self.at_once = True

    def publish(self, database: Database, events: Events) -> None:
        now = time.monotonic()
        if not self.at_once and (not self.changed or now - self._published < PUBLISH_EVERY_S):
            return
        progress = self.progress
        progress.rate = self.pace.rate()
        progress.seconds_left = self.pace.seconds_left(progress.listed - progress.measured)
        self._published, self.changed, self.at_once = now, False, False
        shoot = shoots.get(database.connection(), progress.shoot_id)
        events.publish("progress", **asdict(progress), revision=shoot.revision if shoot else 0)
