"""Taking in what the workers come back with: kept in the database, counted, and the rest of the work told.

Nothing is written on a frame that is not the frame's fault: where the disk went away or is full, an error says so
and the work is done again when it is back.
"""

from __future__ import annotations

import errno
from collections.abc import Callable
from concurrent.futures import Future

from winnow.core.identity import Exposure, content_version
from winnow.pipeline import outcomes
from winnow.pipeline.far import FarLostError
from winnow.pipeline.jobs import Job
from winnow.pipeline.listing import is_gone
from winnow.pipeline.reading import head_tasks
from winnow.pipeline.tasks import DeriveResult, HeadResult, HeadTask, Problem
from winnow.pipeline.workers import WorkerCrashedError
from winnow.store import evidence, frames, shoots
from winnow.store.database import Database, NoRoomError, display
from winnow.store.evidence import Measured
from winnow.store.frames import Picture, ProblemKind

CRASHED = "Reading it made the reader crash; it is left out. The file may be damaged."
NOT_MEASURED = "Measuring it made the program crash; it is left out. The picture itself can be seen."


class DiskGoneError(RuntimeError):
    """The folder of a shoot cannot be reached any more; the message is meant for a person."""


class Intake:
    """Called by the engine's thread alone."""

    def __init__(self, database: Database, job_of: Callable[[int], tuple[int, Job | None] | None]) -> None:
        self.database = database
        self.job_of = job_of

    def heads(self, done: Future[list[HeadResult]], job: Job, chunk: list[HeadTask]) -> None:
        try:
            results = done.result()
        except WorkerCrashedError:
            if len(chunk) > 1:
                # One of them is the culprit: each on its own tells which.
                job.heads.extend([task] for task in chunk)
                return
            results = [HeadResult(chunk[0].frame_id, problem=Problem(CRASHED, ProblemKind.CRASHED))]
        shoot_id = job.progress.shoot_id
        if any(result.problem for result in results):
            self._check_disk(shoot_id)
        read = list(zip(chunk, results, strict=True))
        old = outcomes.keep_heads(
            self.database, shoot_id, read, without_preview=job.pictures, quiet=job.quiet
        )
        results = [result for result in results if result.frame_id not in old]
        for frame_id in [result.frame_id for result in results if result.problem]:
            if job.pictures.pop(frame_id, None):
                job.progress.previewed += 1
                job.progress.thumbnailed += 1
            if job.unmeasured.pop(frame_id, None):
                job.progress.measured += 1
        self._know_versions(job, [result.frame_id for result in results])
        job.progress.read += len(results)
        if old:
            connection = self.database.connection()
            there = [p for p in frames.pictures(connection, shoot_id) if p.frame_id in old]
            job.heads.extend(head_tasks(connection, there))
            job.progress.read += len(old) - len(there)
        job.reporter.changed = True

    def _know_versions(self, job: Job, frame_ids: list[int]) -> None:
        """Heads give frames the version they go by: what waits for them must know it."""
        connection = self.database.connection()
        for frame_id in frame_ids:
            for waiting in (job.pictures, job.unmeasured):
                if frame_id in waiting:
                    now = frames.picture(connection, frame_id)
                    if now is not None:
                        waiting[frame_id] = now

    def picture(self, done: Future[DeriveResult], job: Job, picture: Picture) -> None:
        """Thumbnail and preview of a frame were made, or could not be."""
        self._derived(self._result(done, picture, job.progress.shoot_id), job, picture)

    def derived_at_once(self, done: Future[DeriveResult], picture: Picture) -> None:
        """The same, for a picture that somebody waits for."""
        found = self.job_of(picture.frame_id)
        if found is None:
            return
        shoot_id, job = found
        result = self._result(done, picture, shoot_id)
        if job and job.pictures.pop(picture.frame_id, None):
            self._derived(result, job, picture)
        else:
            outcomes.keep_derived(self.database, shoot_id, picture, result)

    def prepared(self, done: Future[DeriveResult], job: Job, picture: Picture, missing: bool) -> None:
        """A frame was prepared in one go, or made the worker crash on the way."""
        shoot_id = job.progress.shoot_id
        if isinstance(done.exception(), FarLostError):  # nothing is wrong with the frame: it is done here
            job.unmeasured[picture.frame_id] = picture
            if missing:
                job.pictures[picture.frame_id] = picture
            return
        if isinstance(done.exception(), WorkerCrashedError):
            self._keep_evidence(picture, Measured(None, None, NOT_MEASURED))
            if missing:
                # Perhaps it was the measuring alone: the picture gets another chance without it.
                job.pictures[picture.frame_id] = picture
        else:
            result = self._result(done, picture, shoot_id)
            if missing or result.problem:
                outcomes.keep_derived(self.database, shoot_id, picture, result)
            if missing:
                job.progress.thumbnailed += 1
                job.progress.previewed += 1
            if result.measured is not None:
                self._keep_evidence(picture, result.measured)
            if result.digest is not None:
                self._keep_digest(job, picture, result.digest)
        job.ungrouped = True
        job.reporter.note_measured()

    def _derived(self, result: DeriveResult, job: Job, picture: Picture) -> None:
        outcomes.keep_derived(self.database, job.progress.shoot_id, picture, result)
        if result.problem and job.unmeasured.pop(picture.frame_id, None):
            job.reporter.note_measured()  # what cannot be shown cannot be measured either
        job.progress.thumbnailed += 1
        job.progress.previewed += 1
        job.reporter.changed = True

    def _keep_evidence(self, picture: Picture, measured: Measured) -> None:
        with self.database.transaction() as connection:
            stored = evidence.store(connection, picture.frame_id, picture.version, measured)
            if stored and measured.problem and not measured.lasting:
                frames.count_crash(connection, picture.frame_id)

    def _keep_digest(self, job: Job, picture: Picture, digest: str) -> None:
        """Files with the same ends and different middles go by one version until two of them were decoded: then each
        gets a version of its own, and what was made under the shared one, of whichever it is, is made again."""
        with self.database.transaction() as connection:
            if frames.set_digest(connection, picture.frame_id, picture.version, digest):
                return
            revision = shoots.next_revision(connection, job.progress.shoot_id)
            alike = frames.of_version(connection, picture.version)
            for frame_id, known in alike:
                own = content_version(picture.version, 1, Exposure(), known or f"frame {frame_id}")
                frames.set_version(connection, frame_id, own, revision)
        present = {p.frame_id: p for p in frames.pictures(self.database.connection(), job.progress.shoot_id)}
        for frame_id in [frame_id for frame_id, _ in alike if frame_id in present]:
            if frame_id not in job.pictures:
                job.progress.previewed -= 1
                job.progress.thumbnailed -= 1
            if frame_id not in job.unmeasured:
                job.progress.measured -= 1
            job.pictures[frame_id] = job.unmeasured[frame_id] = present[frame_id]

    def _result(self, done: Future[DeriveResult], picture: Picture, shoot_id: int) -> DeriveResult:
        """What a worker says of a picture. Raises NoRoomError, DiskGoneError."""
        try:
            result = done.result()
        except WorkerCrashedError:
            return DeriveResult(picture.frame_id, problem=Problem(CRASHED, ProblemKind.CRASHED))
        except OSError as error:
            if error.errno in (errno.ENOSPC, errno.EDQUOT):
                raise NoRoomError(self.database.path.parent) from error
            text = f"Its preview could not be written ({error.strerror})."
            return DeriveResult(picture.frame_id, problem=Problem(text, ProblemKind.PASSING))
        if result.problem is not None:
            self._check_disk(shoot_id)
        return result

    def _check_disk(self, shoot_id: int) -> None:
        """Raises DiskGoneError where a file cannot be read because its whole shoot cannot."""
        shoot = shoots.get(self.database.connection(), shoot_id)
        if shoot is not None and is_gone(self.database, shoot):
            names = ", ".join(display(path) for _, path in shoot.folders)
            raise DiskGoneError(
                f"{names} cannot be reached any more. Connect its disk again: the work goes on by itself."
            )
