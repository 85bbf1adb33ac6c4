"""What is left to do on a shoot, and how far it is."""

from __future__ import annotations

from collections import deque
from concurrent.futures import Future
from dataclasses import dataclass, field

from winnow.core.progress import Pace
from winnow.pipeline import tasks
from winnow.pipeline.scan import Listing
from winnow.store import frames


@dataclass(slots=True)
class Progress:
    """How far the background work on a shoot is. Counts are frames; rate is previews a second."""

    shoot_id: int
    state: str = "waiting"  # waiting, listing, reading, deriving, done, unreadable
    listed: int = 0
    read: int = 0
    thumbnailed: int = 0
    previewed: int = 0
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
    unsorted: bool = False
    pace: Pace = field(default_factory=Pace)
    focus: int = 0
    published: float = 0.0
    changed: bool = False


def distance(picture: frames.Picture, focus: int) -> float:
    """How soon a frame will be wanted: forward is likelier than back."""
    ahead = picture.position - focus
    return ahead if ahead >= 0 else -2.5 * ahead
