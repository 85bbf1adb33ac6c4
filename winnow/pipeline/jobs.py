"""What is left to do on a shoot."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass, field
from typing import Any

from winnow.pipeline import tasks
from winnow.pipeline.grouping import GroupingMemory
from winnow.pipeline.progress import Progress, ProgressState, Reporter
from winnow.pipeline.waiting import Waiting

HEADS_RUNNING, PICTURES_RUNNING = "heads_running", "pictures_running"
RETRY_FIRST_S = 2.0
RETRY_LONGEST_S = 5.0


@dataclass(frozen=True, slots=True)
class Task:
    """A call for a worker. finish: takes the outcome. job: whose it is, if it is anybody's; counted: the job's count
    of running tasks that it belongs to."""

    function: Callable[..., Any]
    argument: Any
    finish: Callable[[Future[Any]], None]
    job: Job | None = None
    counted: str = ""

    def count(self, by: int) -> None:
        """Once as it starts, and once as it ends, whatever becomes of its outcome."""
        if self.job is not None:
            setattr(self.job, self.counted, getattr(self.job, self.counted) + by)


@dataclass(slots=True)
class Job:
    """Work left on one shoot."""

    reporter: Reporter
    listing: Future[None] | None = None
    asked: bool = False
    """A person wants what failed to be tried again."""
    noticed: bool = False
    """Only a change on disk was noticed since the last listing, no person asked for another."""
    once_more: bool = False
    """It is to be listed again as soon as the listing that runs has ended."""
    quiet: bool = False
    """The last listing came of a change that was noticed: marks are not taken over behind the person's back."""
    heads: deque[list[tasks.HeadTask]] = field(default_factory=deque)
    heads_running: int = 0
    pictures_running: int = 0
    pictures: Waiting = field(default_factory=Waiting)
    """Without thumbnail or preview."""
    unmeasured: Waiting = field(default_factory=Waiting)
    repointed: bool = False
    """A person moved what matters in some frames: what was measured of them is looked over."""
    unsorted: bool = False
    ungrouped: bool = False
    grouping: Future[float] | None = None
    """Gives how long it took, s."""
    grouped_at: float = 0.0
    grouping_took: float = 0.0
    memory: GroupingMemory = field(default_factory=GroupingMemory)
    focus: int = 0
    retry_at: float | None = None
    """When to list again what could not be listed or kept; None: nothing of the kind."""
    retries: int = 0

    @property
    def progress(self) -> Progress:
        return self.reporter.progress

    def list_once_more(self) -> None:
        """After the listing that runs, quietly, unless a person has asked for another already."""
        self.noticed = self.noticed or not self.once_more
        self.once_more = True

    def wait(self, state: ProgressState, message: str) -> None:
        """Drops what was planned, says why, and lists again in a while: what is missing then is done then."""
        self.heads.clear()
        self.pictures.clear()
        self.unmeasured.clear()
        self.unsorted = self.ungrouped = False
        self.retry_at = time.monotonic() + min(RETRY_LONGEST_S, RETRY_FIRST_S * 1.5**self.retries)
        self.retries += 1
        self.reporter.say(state, message)
