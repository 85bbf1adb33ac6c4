"""The engine: one thread that hands work on all open shoots to the worker processes.

For each shoot: list what is on disk, read the heads of new files, put the frames in order, make previews of
what the person is about to look at, then everything on every frame in one go: thumbnail, preview and evidence
out of one decode. Groups are brought up to date as evidence comes in. Everything done is in the database or
the cache at once, so a stop at any point loses at most the task at hand.

A shoot whose disk is gone, or for which there is no room, waits and is listed again every few seconds: what is
missing then is done then.
"""

from __future__ import annotations

import logging
import threading
import time
from collections import deque
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from functools import partial
from typing import Any

from winnow.pipeline import outcomes, tasks
from winnow.pipeline.cache import Cache, Kind
from winnow.pipeline.events import Events
from winnow.pipeline.far import Far, FarWorker
from winnow.pipeline.grouping import GroupingMemory, regroup
from winnow.pipeline.intake import DiskGoneError, Intake
from winnow.pipeline.jobs import HEADS_RUNNING, PICTURES_RUNNING, Job, Task
from winnow.pipeline.listing import list_shoot
from winnow.pipeline.locks import FolderLocks
from winnow.pipeline.progress import PUBLISH_EVERY_S, Progress, ProgressState, Reporter
from winnow.pipeline.reading import head_tasks
from winnow.pipeline.room import Room
from winnow.pipeline.scan import FolderUnreadableError
from winnow.pipeline.waiting import Waiting, distance
from winnow.pipeline.workers import Worker, worker_count
from winnow.store import evidence, frames, shoots
from winnow.store.database import Database, NoRoomError
from winnow.store.frames import Stage

log = logging.getLogger(__name__)

STOP_PATIENCE_S = 5
LISTINGS_AT_ONCE = 8
NEAR = 40
"""Frames so far ahead of the person get their previews before anything is measured."""
STEPPING_S, HURRYING_S = 0.4, 0.2
"""So long after the person went on, one worker is kept free: for what they may want next, and its core for drawing.
Who goes on again within the second of these gets all of them: a key that is held, for a few seconds."""
MOST_GROUPINGS = 4
"""Shoots that are done and whose likenesses are kept in memory."""
REGROUP_EVERY_S = 1.5
REGROUP_SHARE = 4.0
"""Groups are brought up to date no more often than this many times as long as it takes."""


MAKERS = {
    Kind.FULL: tasks.develop_full,
    Kind.PLAIN: tasks.derive_plain,
    Kind.MEDIUM: tasks.derive_medium,
    Kind.TINY: tasks.derive_tiny,
}
"""What makes a picture that is asked for by itself; the others come together."""


class EngineStoppedError(RuntimeError):
    """The program ends: what was asked for is not done."""


class Engine:
    """Starts with `start`, ends with `stop`; all other methods may be called from any thread."""

    def __init__(self, database: Database, cache: Cache, events: Events, far: Far | None = None) -> None:
        """far: other machines that measure too."""
        self.database = database
        self.cache = cache
        self.events = events
        self.folders = FolderLocks()
        self.workers = database.settings.now().workers or worker_count()
        self.room = Room(database, cache, self.run_apart)
        self._intake = Intake(database, self._job_of_frame)
        self._jobs: dict[int, Job] = {}
        self._first: int | None = None
        self._stepped_at = -STEPPING_S
        self._kept_free = 0
        self._urgent: deque[Task] = deque()
        self._promised: set[Future[Any]] = set()
        self._wanted: dict[tuple[str, str], Future[Any]] = {}
        self.far = far
        self._running: dict[Worker | FarWorker, Task] = {}
        self._ended: deque[tuple[Worker | FarWorker, Task, Future[Any]]] = deque()
        self._idle: list[Worker] = []
        self._changed = threading.Condition()
        self._closing = False
        self._lister = ThreadPoolExecutor(max_workers=LISTINGS_AT_ONCE, thread_name_prefix="listing")
        self._grouper = ThreadPoolExecutor(max_workers=1, thread_name_prefix="grouping")
        self._thread = threading.Thread(target=self._run, name="engine", daemon=True)

    def start(self) -> None:
        self._idle = [Worker() for _ in range(self.workers)]
        self._thread.start()

    def stop(self) -> None:
        with self._changed:
            self._closing = True
            self._changed.notify()
        if self._thread.is_alive():
            self._thread.join(timeout=10)
        with self._changed:
            promised, self._promised = self._promised, set()
        for promise in promised:
            promise.set_exception(EngineStoppedError())
        workers = [*self._idle, *self._running]
        ending = [threading.Thread(target=worker.stop, daemon=True) for worker in workers]
        for thread in ending:
            thread.start()
        for worker, thread in zip(workers, ending, strict=True):
            thread.join(timeout=STOP_PATIENCE_S)
            if thread.is_alive():
                worker.kill()  # its task is done again at the next start
        self._lister.shutdown(wait=False, cancel_futures=True)
        self._grouper.shutdown(wait=False, cancel_futures=True)

    def open(self, shoot_id: int, *, asked: bool = False, first: bool = True, quiet: bool = False) -> None:
        """Lists the shoot's folders again and works on whatever is new or missing. `asked`: a person wants what
        failed to be tried again, whatever it was. first: they are in this shoot, so it comes before the others.
        quiet: nobody asked for what other programs wrote on known frames; see `notice`."""
        with self._changed:
            job = self._jobs.get(shoot_id)
            if job is None:
                job = self._jobs[shoot_id] = Job(Reporter(Progress(shoot_id)))
                self._forget_groupings()
            job.asked = job.asked or asked
            job.retries = 0
            if job.listing is None:
                job.noticed = quiet
                job.progress.state = ProgressState.LISTING
                self._start_listing(job)
            elif quiet:
                job.list_once_more()
            elif job.quiet:
                job.once_more, job.noticed = True, False
            if first or self._first is None:
                self._first = shoot_id
            self._changed.notify()

    def _forget_groupings(self) -> None:
        """Of shoots that are done and were opened before others, groups are worked out from the database again."""
        done = [
            job
            for job in self._jobs.values()
            if job.progress.state is ProgressState.DONE and not job.grouping
        ]
        for job in done[:-MOST_GROUPINGS]:
            job.memory = GroupingMemory()

    def notice(self, shoot_id: int) -> None:
        """Something changed in the folders of a shoot: lists them again. Known frames keep their marks, whatever
        other programs wrote on them, until the person asks; see `outcomes.keep_heads`."""
        with self._changed:
            job = self._jobs.get(shoot_id)
            if job is None:
                return
            if job.listing is None and job.retry_at is None:
                job.noticed = True
                self._start_listing(job)
            elif job.listing is not None:
                job.list_once_more()
            self._changed.notify()

    def look_at(self, shoot_id: int, position: int) -> None:
        """Where the person is: frames near this position come first."""
        with self._changed:
            self._first = shoot_id
            if shoot_id in self._jobs:
                self._jobs[shoot_id].focus = position
                now = time.monotonic()
                self._kept_free = self.workers if now < self._stepped_at + HURRYING_S else 1
                self._stepped_at = now

    def is_open(self, shoot_id: int) -> bool:
        with self._changed:
            return shoot_id in self._jobs

    def progress(self, shoot_id: int) -> Progress:
        with self._changed:
            job = self._jobs.get(shoot_id)
            return job.progress if job else Progress(shoot_id)

    def idle(self) -> bool:
        """Nothing is running and nothing waits that could be done now."""
        with self._changed:
            return (
                not self._urgent
                and not self._running
                and all(
                    job.progress.state in (ProgressState.DONE, ProgressState.UNREADABLE)
                    and job.listing is None
                    and not job.once_more
                    and job.grouping is None
                    for job in self._jobs.values()
                )
            )

    def picture(self, picture: frames.Picture, kind: Kind) -> Future[Any]:
        """Makes a derived picture now, before all other work; the same wish twice is one task.

        The future gives a `tasks.DeriveResult`.
        """
        function = MAKERS.get(kind, tasks.derive)
        key = (function.__name__, picture.version)
        with self._changed:
            found = self._wanted.get(key)
            if found is None:

                def finish(done: Future[Any]) -> None:
                    with self._changed:
                        self._wanted.pop(key, None)
                    if function is tasks.derive:
                        self._intake.derived_at_once(done, picture)

                found = self._wanted[key] = self.run_apart(function, self._derive_task(picture), finish)
        return found

    def glimpse(self, picture: frames.Picture) -> Future[Any]:
        """Something to look at before the thumbnail is made; gives a `tasks.GlimpseResult`."""
        return self.run_apart(tasks.glimpse, self._derive_task(picture))

    def regroup(self, shoot_id: int) -> None:
        """A person changed what groups rest on: brings them up to date at once, on the caller's thread. What must be
        measured for it is measured then."""
        with self._changed:
            job = self._jobs.get(shoot_id)
        regroup(self.database, shoot_id, job.memory if job else GroupingMemory())
        if job is not None:
            with self._changed:
                job.repointed = True
                self._changed.notify()

    def run_apart(
        self,
        function: Callable[..., Any],
        argument: Any,
        finish: Callable[[Future[Any]], None] = lambda done: None,
    ) -> Future[Any]:
        """Runs a task in a worker process before all other work. finish: called with its outcome first, on the
        engine's thread; whatever becomes of that, the future gives the outcome."""
        promise: Future[Any] = Future()
        promise.set_running_or_notify_cancel()  # several may wait for it: none of them can take it from the others

        def keep(done: Future[Any]) -> None:
            try:
                finish(done)
            finally:
                self._fulfil(promise, done)

        with self._changed:
            if self._closing:
                promise.set_exception(EngineStoppedError())
                return promise
            self._promised.add(promise)
            self._urgent.append(Task(function, argument, keep))
            self._changed.notify()
        return promise

    def _fulfil(self, promise: Future[Any], done: Future[Any]) -> None:
        with self._changed:
            if promise not in self._promised:
                return  # the program ends, and it was told so
            self._promised.discard(promise)
        error = done.exception()
        if error is not None:
            promise.set_exception(error)
        else:
            promise.set_result(done.result())

    # The thread's own part: everything below runs on it alone.

    def _run(self) -> None:
        while True:
            with self._changed:
                if self._closing:
                    return
            try:
                self._turn()
            except Exception:
                # The thread must outlive a single bad turn: without it nothing is prepared.
                log.exception("engine")
                time.sleep(0.5)
            with self._changed:
                if not self._ended and not self._closing:
                    self._changed.wait(timeout=PUBLISH_EVERY_S)

    def _turn(self) -> None:
        while self._ended:
            worker, task, outcome = self._ended.popleft()
            try:
                self._keep(task, outcome)
            finally:
                # Only now does it count as done: nobody is told before that nothing is left to do.
                with self._changed:
                    del self._running[worker]
                    if not isinstance(worker, FarWorker):
                        self._idle.append(worker)
        for job in self._ordered():
            self._take_listing(job)
            self._take_points(job)
            self._take_groups(job)
        self._dispatch()
        self._dispatch_far()
        for job in self._ordered():
            job.reporter.publish(self.database, self.events)

    def _wake(self) -> None:
        with self._changed:
            self._changed.notify()

    def _ordered(self) -> list[Job]:
        with self._changed:
            jobs = list(self._jobs.values())
        return sorted(jobs, key=lambda job: job.progress.shoot_id != self._first)

    def _job_of_frame(self, frame_id: int) -> tuple[int, Job | None] | None:
        shoot_id = frames.owners(self.database.connection(), [frame_id]).get(frame_id)
        if shoot_id is None:
            return None
        with self._changed:
            return shoot_id, self._jobs.get(shoot_id)

    def _keep(self, task: Task, outcome: Future[Any]) -> None:
        """Takes what a worker came back with. What cannot be kept is done again later."""
        self.room.note(task.function)
        task.count(-1)
        try:
            task.finish(outcome)
        except DiskGoneError as error:
            self._wait(task, ProgressState.UNREADABLE, str(error))
        except OSError as error:
            self._wait(task, ProgressState.PAUSED, str(error))
        except Exception as error:
            log.exception("keeping what a worker did")
            self._wait(
                task, ProgressState.PAUSED, f"What was made could not be kept ({error}). It is tried again."
            )

    def _wait(self, task: Task, state: ProgressState, message: str) -> None:
        """Listing the shoot again finds all that is not done, this task's part included."""
        if task.job is not None:
            task.job.wait(state, message)

    def _start_listing(self, job: Job) -> None:
        asked, job.asked = job.asked, False
        unread = bool(job.heads or job.heads_running)  # what a person asked for is still theirs
        job.quiet, job.noticed = job.noticed and (job.quiet or not unread), False
        job.retry_at = None
        job.once_more = False
        job.listing = self._lister.submit(self._list, job.progress.shoot_id, asked, job.quiet)
        job.listing.add_done_callback(lambda _: self._wake())

    def _list(self, shoot_id: int, asked: bool, quiet: bool) -> None:
        shoot = shoots.get(self.database.connection(), shoot_id)
        assert shoot is not None
        with self.folders.holding([path for _, path in shoot.folders]):
            list_shoot(self.database, self.cache, self.run_apart, shoot, asked=asked, quiet=quiet)

    def _take_listing(self, job: Job) -> None:
        """Turns a finished listing into work; starts one that is due again."""
        if job.listing is None:
            due = job.retry_at is not None and time.monotonic() >= job.retry_at
            if job.asked or job.once_more or due:
                self._start_listing(job)
            return
        if not job.listing.done():
            return
        listing, job.listing = job.listing, None
        try:
            listing.result()
            self._plan(job)
            job.retries = 0
        except EngineStoppedError:
            return
        except FolderUnreadableError as error:
            job.wait(ProgressState.UNREADABLE, str(error))
        except OSError as error:
            job.wait(ProgressState.PAUSED, str(error))
        except Exception as error:
            log.exception("listing")
            job.wait(ProgressState.PAUSED, f"Listing failed ({error}). It is tried again.")

    def _plan(self, job: Job) -> None:
        """What is left to do on a shoot that was just listed."""
        progress = job.progress
        connection = self.database.connection()
        known = frames.pictures(connection, progress.shoot_id)
        previews = self.cache.versions(Kind.PREVIEW) & self.cache.versions(Kind.THUMB)
        outcomes.correct_stages(self.database, progress.shoot_id, known, previews)
        unread = [p for p in known if p.stage == Stage.LISTED]
        job.pictures = Waiting(
            p for p in known if p.version not in previews and not (p.problem and p.stage == Stage.PREVIEW)
        )
        measured = evidence.measured_frames(connection, progress.shoot_id)
        log.info("shoot %d listed: %d frames, %d to read", progress.shoot_id, len(known), len(unread))
        job.unmeasured = Waiting(p for p in known if p.frame_id not in measured and not p.problem)
        progress.listed = len(known)
        progress.measured = len(known) - len(job.unmeasured)
        progress.read = len(known) - len(unread)
        progress.thumbnailed = progress.previewed = len(known) - len(job.pictures)
        job.heads = deque(head_tasks(connection, unread))
        job.unsorted = True
        job.reporter.say(ProgressState.READING)
        job.reporter.start_over()

    def _take_points(self, job: Job) -> None:
        """Frames in which another point matters now are measured again."""
        with self._changed:
            if not job.repointed or job.listing is not None or job.retry_at is not None:
                return
            job.repointed = False
        connection = self.database.connection()
        for frame_id in evidence.points_unmeasured(connection, job.progress.shoot_id):
            picture = frames.picture(connection, frame_id)
            if picture is not None and frame_id not in job.unmeasured:
                job.unmeasured[frame_id] = picture
                job.progress.measured -= 1

    def _dispatch(self) -> None:
        while self._idle:
            task = self._next_task()
            if task is None:
                return
            task.count(1)
            with self._changed:
                worker = self._idle.pop()
                self._running[worker] = task
            outcome = worker.run(task.function, task.argument)
            outcome.add_done_callback(partial(self._note_end, worker, task))

    def _dispatch_far(self) -> None:
        """What is to be measured goes to other machines too, as far as they keep up."""
        while self.far is not None and self.far.free > 0:
            task = self._next_for_far()
            if task is None:
                return
            task.count(1)
            worker = self.far.worker()
            with self._changed:
                self._running[worker] = task
            worker.run(task.function, task.argument).add_done_callback(partial(self._note_end, worker, task))

    def _next_for_far(self) -> Task | None:
        for job in self._ordered():
            reading = job.heads or job.heads_running or job.listing is not None
            picture = job.unmeasured.nearest(job.focus)
            if picture and not reading and not job.unsorted and job.retry_at is None:
                return self._prepare(job, picture)
        return None

    def _note_end(self, worker: Worker | FarWorker, task: Task, outcome: Future[Any]) -> None:
        """Called once for every task, on whatever thread it ends on."""
        with self._changed:
            self._ended.append((worker, task, outcome))
            self._changed.notify()

    def _next_task(self) -> Task | None:
        with self._changed:
            if self._urgent:
                return self._urgent.popleft()
            stepping = time.monotonic() < self._stepped_at + STEPPING_S
            if stepping and len(self._idle) <= self._kept_free:
                return None
        for job in self._ordered():
            if job.retry_at is not None:
                continue
            if job.heads:
                return self._read(job)
            if job.heads_running or job.listing is not None:
                continue
            if job.unsorted:
                self._start_grouping(job)
                continue
            task = self._next_picture(job)
            if task is not None:
                return task
            busy = job.pictures_running or job.ungrouped or job.grouping is not None
            if (
                job.progress.state
                not in (
                    ProgressState.DONE,
                    ProgressState.UNREADABLE,
                    ProgressState.LISTING,
                )
                and not busy
            ):
                job.reporter.say(ProgressState.DONE)
        return None

    def _read(self, job: Job) -> Task:
        chunk = job.heads.popleft()
        job.progress.state = ProgressState.READING
        return Task(
            tasks.read_heads,
            chunk,
            lambda done: self._intake.heads(done, job, chunk),
            job,
            HEADS_RUNNING,
        )

    def _next_picture(self, job: Job) -> Task | None:
        """What the person is about to look at first, then everything on the frames nearest to them."""
        unseen, unmeasured = job.pictures.nearest(job.focus), job.unmeasured.nearest(job.focus)
        is_near = unseen is not None and distance(unseen, job.focus) <= NEAR
        if unmeasured is not None and not is_near:
            return self._prepare(job, unmeasured)
        picture = unseen
        if picture is None:
            return None
        job.pictures.pop(picture.frame_id, None)
        job.progress.state = ProgressState.DERIVING if job.pictures else ProgressState.MEASURING
        return Task(
            tasks.derive,
            self._derive_task(picture),
            lambda done: self._intake.picture(done, job, picture),
            job,
            PICTURES_RUNNING,
        )

    def _prepare(self, job: Job, picture: frames.Picture) -> Task:
        """Everything on one frame."""
        missing = job.pictures.pop(picture.frame_id, None) is not None
        job.progress.state = ProgressState.DERIVING if job.pictures else ProgressState.MEASURING
        del job.unmeasured[picture.frame_id]
        return Task(
            tasks.prepare,
            tasks.PrepareTask(self._derive_task(picture), picture.subject, picture.point),
            lambda done: self._intake.prepared(done, job, picture, missing),
            job,
            PICTURES_RUNNING,
        )

    def _derive_task(self, picture: frames.Picture) -> tasks.DeriveTask:
        return tasks.DeriveTask(
            picture.frame_id, picture.path, picture.below, picture.version, str(self.cache.folder)
        )

    def _start_grouping(self, job: Job) -> None:
        if job.grouping is None:
            job.ungrouped = False
            job.grouping = self._grouper.submit(self._group, job)
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
            except NoRoomError as error:
                job.wait(ProgressState.PAUSED, str(error))
                return
            except Exception:
                log.exception("grouping")
            job.grouped_at = now
            job.unsorted = False
            job.reporter.changed = True
            places = {
                p.frame_id: p for p in frames.pictures(self.database.connection(), job.progress.shoot_id)
            }
            job.pictures = job.pictures.as_now(places)
            job.unmeasured = job.unmeasured.as_now(places)
        if not job.ungrouped or job.heads or job.heads_running or job.retry_at is not None:
            return
        all_in = not job.unmeasured and not job.pictures_running
        if all_in or now - job.grouped_at >= max(REGROUP_EVERY_S, REGROUP_SHARE * job.grouping_took):
            self._start_grouping(job)


def wait_until_idle(engine: Engine, timeout_s: float = 600) -> None:
    """Blocks until all work is done. Raises TimeoutError."""
    end = time.monotonic() + timeout_s
    while not engine.idle():
        if time.monotonic() > end:
            raise TimeoutError("background work did not end")
        time.sleep(0.02)
