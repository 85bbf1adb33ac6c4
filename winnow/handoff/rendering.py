"""JPEGs of a size made for plans: here, or by whoever has workers for it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from dataclasses import dataclass
from pathlib import Path

from winnow.core.marks import Marks
from winnow.formats.sized import Sized, render


@dataclass(frozen=True, slots=True)
class RenderTask:
    """A picture, the folder that it must lie in (see `formats.opening`), and how it is wanted."""

    path: str
    below: str | None
    wanted: Sized
    marks: Marks


def render_one(task: RenderTask) -> bytes:
    """The JPEG. A task of a worker process. Raises UnreadableError."""
    return render(Path(task.path), task.wanted, task.marks, task.below)


@dataclass(frozen=True, slots=True)
class Renderer:
    """run: has a task done somewhere; at_once: so many of them run beside each other."""

    run: Callable[[RenderTask], Future[bytes]]
    at_once: int = 1

    def __call__(self, task: RenderTask) -> Future[bytes]:
        return self.run(task)


def _here(task: RenderTask) -> Future[bytes]:
    done: Future[bytes] = Future()
    try:
        done.set_result(render_one(task))
    except ValueError as error:
        done.set_exception(error)
    return done


HERE = Renderer(_here)
"""In this process, one after the other."""
