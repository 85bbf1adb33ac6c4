"""The engine: one thread that hands work on all open shoots to the worker processes.

For each shoot: list what is on disk, read the heads of new files, put the frames in order, make previews of
what the person is about to look at, then everything on every frame in one go: thumbnail, preview and evidence
out of one decode. Groups are brought up to date as evidence comes in. Everything done is in the database or
the cache at once, so a stop at any point loses at most the task at hand.
"""

from __future__ import annotations

import logging
import threading
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import asdict, dataclass
from typing import Any

from winnow.core.capture import Capture
from winnow.core.progress import Pace
from winnow.pipeline import outcomes, tasks
from winnow.pipeline.cache import Cache, Kind
from winnow.pipeline.events import Events
from winnow.pipeline.grouping import GroupingMemory, regroup
from winnow.pipeline.jobs import Job, Progress, distance
from winnow.pipeline.scan import FolderUnreadableError, Listing, list_folder
from winnow.pipeline.workers import Worker, WorkerCrashedError, worker_count
from winnow.store import evidence, frames, shoots
from winnow.store.database import Database
from winnow.store.evidence import Measured
from winnow.store.frames import Stage

log = logging.getLogger(__name__)

HEADS_A_TASK = 24
PUBLISH_EVERY_S = 0.25
STOP_PATIENCE_S = 5
NEAR = 40
"""Frames so far ahead of the person get their previews before anything is measured."""
REGROUP_EVERY_S = 1.5
REGROUP_SHARE = 4.0
"""Groups are brought up to date no more often than this many times as long as it takes."""
NOT_MEASURED = "Measuring it made the program crash; it is left out. The picture itself can be seen."


@dataclass(slots=True)
class _Running:
    worker: Worker
    future: Future[Any]
    finish: Callable[[Future[Any]], None]


class Engine:
    """Starts with `start`, ends with `stop`; all other methods may be called from any thread."""

    def __init__(self, database: Database, cache: Cache, events: Events) -> None:
        self.database = database
        self.cache = cache
        self.events = events
        self.files_lock = threading.Lock()
        """Held while files are listed or moved: a listing must not see half a plan."""
        self._jobs: dict[int, Job] = {}
        self._first: int | None = None
        self._urgent: deque[tuple[Callable[..., Any], frames.Picture, Future[Any]]] = deque()
        self._wanted: dict[tuple[str, str], Future[Any]] = {}
        self._running: list[_Running] = []
        self._idle: list[Worker] = []
        self._changed = threading.Condition()
        self._closing = False
        self._lister = ThreadPoolExecutor(max_workers=1, thread_name_prefix="listing")
        self._thread = threading.Thread(target=self._run, name="engine", daemon=True)

    def start(self) -> None:
        self._idle = [Worker() for _ in range(worker_count())]
        self._thread.start()

    def stop(self) -> None:
        with self._changed:
            self._closing = True
            self._changed.notify()
        if self._thread.is_alive():
            self._thread.join(timeout=10)
        workers = self._idle + [running.worker for running in self._running]
        ending = [threading.Thread(target=worker.stop, daemon=True) for worker in workers]
        for thread in ending:
            thread.start()
        for thread in ending:
            # A stuck task is left to its own limit: it must not keep the program from ending.
            thread.join(timeout=STOP_PATIENCE_S)
        self._lister.shutdown(wait=False, cancel_futures=True)

    def open(self, shoot_id: int) -> None:
        """Lists the shoot's folders again and works on whatever is new or missing."""
        with self._changed:
            job = self._jobs.get(shoot_id)
            if job is None:
                job = self._jobs[shoot_id] = Job(Progress(shoot_id))
            if job.listing is None:
                job.progress.state = "listing"
                job.listing = self._lister.submit(self._list, shoot_id)
                job.listing.add_done_callback(lambda _: self._wake())
            self._first = shoot_id
            self._changed.notify()

    def look_at(self, shoot_id: int, position: int) -> None:
        """Where the person is: frames near this position come first."""
        with self._changed:
            self._first = shoot_id
            if shoot_id in self._jobs:
                self._jobs[shoot_id].focus = position

    def progress(self, shoot_id: int) -> Progress:
        with self._changed:
            job = self._jobs.get(shoot_id)
            return job.progress if job else Progress(shoot_id)

    def idle(self) -> bool:
        """Nothing is running and nothing waits."""
        with self._changed:
            return (
                not self._urgent
                and not self._running
                and all(
                    job.progress.state in ("done", "unreadable")
                    and job.listing is None
                    and job.grouping is None
                    for job in self._jobs.values()
                )
            )

    def picture(self, picture: frames.Picture, kind: Kind) -> Future[Any]:
        """Makes a derived picture now, before all other work; the same wish twice is one task.

        The future gives a `tasks.DeriveResult`.
        """
        function = tasks.develop_full if kind is Kind.FULL else tasks.derive
        key = (function.__name__, picture.version)
        with self._changed:
            found = self._wanted.get(key)
            if found is None:
                found = self._wanted[key] = Future()
                self._urgent.append((function, picture, found))
                self._changed.notify()
        return found

    # The thread's own part: everything below runs on it alone.

    def _run(self) -> None:
        while True:
            with self._changed:
                if self._closing:
                    return
                finished = [running for running in self._running if running.future.done()]
                self._running = [r for r in self._running if not r.future.done()]
                self._idle += [running.worker for running in finished]
            try:
                for running in finished:
                    running.finish(running.future)
                for job in self._ordered():
                    self._take_listing(job)
                    self._take_groups(job)
                self._dispatch()
                self._publish()
            except Exception:
                # The thread must outlive a single bad turn: without it nothing is prepared.
                log.exception("engine")
                time.sleep(0.5)
            with self._changed:
                busy = any(r.future.done() for r in self._running) or self._closing
                if not busy:
                    self._changed.wait(timeout=PUBLISH_EVERY_S)

    def _wake(self) -> None:
        with self._changed:
            self._changed.notify()

    def _ordered(self) -> list[Job]:
        with self._changed:
            jobs = list(self._jobs.values())
        return sorted(jobs, key=lambda job: job.progress.shoot_id != self._first)

    def _list(self, shoot_id: int) -> list[tuple[int, Listing]]:
        shoot = shoots.get(self.database.connection(), shoot_id)
        assert shoot is not None
        with self.files_lock:
            found = [(folder_id, list_folder(path)) for folder_id, path in shoot.folders]
            with self.database.transaction() as connection:
                revision = shoots.next_revision(connection, shoot_id)
                for folder_id, listing in found:
                    frames.reconcile(connection, shoot_id, folder_id, listing.frames, revision)
                notes = [note for _, listing in found for note in listing.notes]
                shoots.set_scan_note(connection, shoot_id, "\n".join(notes) or None)
        return found

    def _take_listing(self, job: Job) -> None:
        """Turns a finished listing into work."""
        if job.listing is None or not job.listing.done():
            return
        listing, job.listing = job.listing, None
        progress = job.progress
        try:
            listing.result()
        except FolderUnreadableError as error:
            progress.state, progress.message = "unreadable", str(error)
            job.published = 0.0
            return
        connection = self.database.connection()
        known = frames.pictures(connection, progress.shoot_id)
        previews = self.cache.versions(Kind.PREVIEW) & self.cache.versions(Kind.THUMB)
        unread = [p for p in known if p.stage == Stage.LISTED]
        job.pictures = {
            p.frame_id: p
            for p in known
            if p.version not in previews and not (p.problem and p.stage == Stage.PREVIEW)
        }
        measured = evidence.measured_frames(connection, progress.shoot_id)
        job.unmeasured = {p.frame_id: p for p in known if p.frame_id not in measured and not p.problem}
        progress.listed = len(known)
        progress.measured = len(known) - len(job.unmeasured)
        progress.read = len(known) - len(unread)
        progress.thumbnailed = progress.previewed = len(known) - len(job.pictures)
        progress.message = None
        outcomes.correct_stages(self.database, progress.shoot_id, known, previews)
        files = frames.files_of(connection, [p.frame_id for p in unread])
        heads = [
            tasks.HeadTask(
                p.frame_id,
                p.path,
                tuple(f.path for f in files[p.frame_id] if f.role == "sidecar"),
            )
            for p in unread
        ]
        job.heads = deque(heads[i : i + HEADS_A_TASK] for i in range(0, len(heads), HEADS_A_TASK))
        job.unsorted = True
        job.changed = True
        job.pace = Pace()
        job.pace.note(time.monotonic(), progress.measured)

    def _dispatch(self) -> None:
        while self._idle:
            task = self._next_task()
            if task is None:
                return
            function, argument, finish = task
            worker = self._idle.pop()
            future = worker.run(function, argument)
            with self._changed:
                self._running.append(_Running(worker, future, finish))
            future.add_done_callback(lambda _: self._wake())

    def _next_task(
        self,
    ) -> tuple[Callable[..., Any], Any, Callable[[Future[Any]], None]] | None:
        with self._changed:
            if self._urgent:
                function, picture, promised = self._urgent.popleft()
                return (
                    function,
                    self._derive_task(picture),
                    lambda done: self._urgent_done(done, function.__name__, picture, promised),
                )
        for job in self._ordered():
            if job.heads:
                chunk = job.heads.popleft()
                job.heads_running += 1
                job.progress.state = "reading"
                return (
                    tasks.read_heads,
                    chunk,
                    lambda done, job=job, chunk=chunk: self._heads_done(done, job, chunk),
                )
            if job.heads_running or job.listing is not None:
                continue
            if job.unsorted:
                self._start_grouping(job)
                continue
            task = self._next_picture(job)
            if task is not None:
                return task
            busy = job.pictures_running or job.ungrouped or job.grouping is not None
            if job.progress.state not in ("done", "unreadable") and not busy:
                job.progress.state = "done"
                job.published = 0.0
        return None

    def _next_picture(self, job: Job) -> tuple[Callable[..., Any], Any, Callable[[Future[Any]], None]] | None:
        """What the person is about to look at first, then everything on the frames nearest to them."""
        near = [p for p in job.pictures.values() if distance(p, job.focus) <= NEAR]
        waiting = near or job.unmeasured.values() or job.pictures.values()
        if not waiting:
            return None
        picture = min(waiting, key=lambda p: distance(p, job.focus))
        missing = job.pictures.pop(picture.frame_id, None) is not None
        job.pictures_running += 1
        job.progress.state = "deriving" if job.pictures else "measuring"
        task = self._derive_task(picture)
        if near or picture.frame_id not in job.unmeasured:
            return tasks.derive, task, lambda done: self._picture_done(done, job, picture)
        del job.unmeasured[picture.frame_id]
        return (
            tasks.prepare,
            tasks.PrepareTask(task, picture.subject),
            lambda done: self._prepared(done, job, picture, missing),
        )

    def _derive_task(self, picture: frames.Picture) -> tasks.DeriveTask:
        return tasks.DeriveTask(picture.frame_id, picture.path, picture.version, str(self.cache.folder))

    def _heads_done(
        self, done: Future[list[tasks.HeadResult]], job: Job, chunk: list[tasks.HeadTask]
    ) -> None:
        job.heads_running -= 1
        shoot_id = job.progress.shoot_id
        try:
            results = done.result()
        except WorkerCrashedError:
            if len(chunk) > 1:
                # One of them is the culprit: each on its own tells which.
                job.heads.extend([task] for task in chunk)
                return
            results = [tasks.HeadResult(chunk[0].frame_id, Capture(), problem=outcomes.CRASHED)]
        outcomes.keep_heads(self.database, shoot_id, results, without_preview=set(job.pictures))
        for frame_id in [result.frame_id for result in results if result.problem]:
            if job.pictures.pop(frame_id, None):
                job.progress.previewed += 1
                job.progress.thumbnailed += 1
            if job.unmeasured.pop(frame_id, None):
                job.progress.measured += 1
        job.progress.read += len(results)
        job.changed = True

    def _start_grouping(self, job: Job) -> None:
        if job.grouping is None:
            job.ungrouped = False
            job.grouping = self._lister.submit(self._group, job)
            job.grouping.add_done_callback(lambda _: self._wake())

    def _group(self, job: Job) -> float:
        start = time.monotonic()
        regroup(self.database, job.progress.shoot_id, job.memory)
        return time.monotonic() - start

    def _take_groups(self, job: Job) -> None:
        """Takes the outcome of grouping, and starts it again when evidence came in meanwhile."""
        now = time.monotonic()
        if job.grouping is not None and job.grouping.done():
            grouping, job.grouping = job.grouping, None
            try:
                job.grouping_took = grouping.result()
            except Exception:
                log.exception("grouping")
            job.grouped_at = now
            job.unsorted = False
            job.changed = True
            places = {
                p.frame_id: p for p in frames.pictures(self.database.connection(), job.progress.shoot_id)
            }
            for waiting in (job.pictures, job.unmeasured):
                for frame_id in waiting:
                    waiting[frame_id] = places.get(frame_id, waiting[frame_id])
        if not job.ungrouped or job.heads or job.heads_running:
            return
        all_in = not job.unmeasured and not job.pictures_running
        if all_in or now - job.grouped_at >= max(REGROUP_EVERY_S, REGROUP_SHARE * job.grouping_took):
            self._start_grouping(job)

    def regroup(self, shoot_id: int) -> None:
        """A person changed what groups rest on: brings them up to date at once, on the caller's thread."""
        with self._changed:
            job = self._jobs.get(shoot_id)
        regroup(self.database, shoot_id, job.memory if job else GroupingMemory())

    def _prepared(
        self, done: Future[tasks.DeriveResult], job: Job, picture: frames.Picture, missing: bool
    ) -> None:
        """A frame was prepared in one go, or made the worker crash on the way."""
        job.pictures_running -= 1
        shoot_id = job.progress.shoot_id
        measured: Measured | None = None
        if isinstance(done.exception(), WorkerCrashedError):
            measured = Measured(None, None, NOT_MEASURED)
            if missing:
                # Perhaps it was the measuring alone: the picture gets another chance without it.
                job.pictures[picture.frame_id] = picture
        else:
            failed = done.exception() is not None
            measured = None if failed else done.result().measured
            if missing or failed or done.result().problem:
                outcomes.keep_derived(self.database, shoot_id, picture, done)
            if missing:
                job.progress.thumbnailed += 1
                job.progress.previewed += 1
        if measured is not None:
            with self.database.transaction() as connection:
                evidence.store(connection, picture.frame_id, picture.version, measured)
            job.ungrouped = True
        job.progress.measured += 1
        job.pace.note(time.monotonic(), job.progress.measured)
        job.changed = True

    def _picture_done(self, done: Future[tasks.DeriveResult], job: Job, picture: frames.Picture) -> None:
        job.pictures_running -= 1
        self._derived(done, job, picture)

    def _derived(self, done: Future[tasks.DeriveResult], job: Job, picture: frames.Picture) -> None:
        outcomes.keep_derived(self.database, job.progress.shoot_id, picture, done)
        job.progress.thumbnailed += 1
        job.progress.previewed += 1
        job.changed = True

    def _urgent_done(
        self,
        done: Future[tasks.DeriveResult],
        name: str,
        picture: frames.Picture,
        promised: Future[Any],
    ) -> None:
        with self._changed:
            self._wanted.pop((name, picture.version), None)
        if name == tasks.derive.__name__:
            shoot_id = next(iter(frames.shoots_of(self.database.connection(), [picture.frame_id])), None)
            job = self._jobs.get(shoot_id) if shoot_id is not None else None
            if job and job.pictures.pop(picture.frame_id, None):
                self._derived(done, job, picture)
            elif shoot_id is not None:
                outcomes.keep_derived(self.database, shoot_id, picture, done)
        try:
            promised.set_result(done.result())
        except WorkerCrashedError:
            promised.set_result(tasks.DeriveResult(picture.frame_id, problem=outcomes.CRASHED))
        except Exception as error:  # noqa: BLE001 - passed on to whoever asked
            promised.set_exception(error)

    def _publish(self) -> None:
        now = time.monotonic()
        for job in self._ordered():
            progress = job.progress
            if now - job.published < PUBLISH_EVERY_S or not (job.changed or job.published == 0.0):
                continue
            progress.rate = job.pace.rate()
            progress.seconds_left = job.pace.seconds_left(progress.listed - progress.measured)
            job.published, job.changed = now, False
            shoot = shoots.get(self.database.connection(), progress.shoot_id)
            self.events.publish("progress", **asdict(progress), revision=shoot.revision if shoot else 0)


def wait_until_idle(engine: Engine, timeout_s: float = 600) -> None:
    """Blocks until all work is done. Raises TimeoutError."""
    end = time.monotonic() + timeout_s
    while not engine.idle():
        if time.monotonic() > end:
            raise TimeoutError("background work did not end")
        time.sleep(0.02)
