"""What is left to do on a shoot, and how far it is."""

from __future__ import annotations

from collections import deque
from concurrent.futures import Future
from dataclasses import dataclass, field

from winnow.core.progress import Pace
from winnow.pipeline import tasks
from winnow.pipeline.grouping import GroupingMemory
from winnow.pipeline.scan import Listing
from winnow.store import frames


@dataclass(slots=True)
class Progress:
    """How far the background work on a shoot is. Counts are frames; the rate is that of the slowest stage that
    is not done, frames a second, and `seconds_left` the time for all that is left."""

    shoot_id: int
    state: str = "waiting"  # waiting, listing, reading, deriving, measuring, done, unreadable
    listed: int = 0
    read: int = 0
    thumbnailed: int = 0
    previewed: int = 0
    measured: int = 0
    rate: float | None = None
    seconds_left: float | None = None
    message: str | None = None


@dataclass(slots=True)
class Job:
    """Work left on one shoot."""

    progress: Progress
    listing: Future[list[tuple[int, Listing]]] | None = None
    heads: deque[list[tasks.HeadTask]] = field(default_factory=deque)
    heads_running: int = 0
    pictures_running: int = 0
    pictures: dict[int, frames.Picture] = field(default_factory=dict)
    """Without thumbnail or preview."""
    unmeasured: dict[int, frames.Picture] = field(default_factory=dict)
    unsorted: bool = False
    ungrouped: bool = False
    grouping: Future[float] | None = None
    """Gives how long it took, s."""
    grouped_at: float = 0.0
    grouping_took: float = 0.0
    memory: GroupingMemory = field(default_factory=GroupingMemory)
    pace: Pace = field(default_factory=Pace)
    focus: int = 0
    published: float = 0.0
    changed: bool = False


def distance(picture: frames.Picture, focus: int) -> float:
    """How soon a frame will be wanted: forward is likelier than back."""
    ahead = picture.position - focus
    return ahead if ahead >= 0 else -2.5 * ahead
