"""Workers that die, tasks that cannot be kept, promises: nothing is dropped, and every promise ends."""

from __future__ import annotations

import os
import signal
import time
from concurrent.futures import wait
from pathlib import Path

import psutil
import pytest

from tests import photographs
from tests.server import until
from winnow.api.desk import Desk
from winnow.pipeline import tasks
from winnow.pipeline.engine import EngineStoppedError, wait_until_idle
from winnow.pipeline.intake import Intake
from winnow.pipeline.workers import Worker, WorkerCrashedError
from winnow.store import frames


def process_of(worker: Worker) -> int:
    worker.run(tasks.warm_up).result(60)
    executor = worker._executor
    assert executor is not None
    (process,) = executor._processes.values()
    assert process.pid is not None
    return process.pid


def test_a_worker_comes_back_wherever_it_dies() -> None:
    """Idle, on a task, and in the moment in which it is given one."""
    worker = Worker()
    try:
        os.kill(process_of(worker), signal.SIGKILL)  # idle
        time.sleep(0.5)
        assert worker.run(os.getpid).result(60) != os.getpid()
        dying = worker.run(time.sleep, 60)
        os.kill(next(iter(worker._executor._processes)), signal.SIGKILL)  # type: ignore[union-attr]
        with pytest.raises(WorkerCrashedError):
            dying.result(60)
        ends = []
        for _ in range(5):
            process = process_of(worker)
            os.kill(process, signal.SIGKILL)
            ends.append(worker.run(os.getpid))  # whether it has noticed by now or not
            wait(ends, 60)
        assert all(end.done() for end in ends)
        for end in ends:
            error = end.exception()
            assert error is None or isinstance(error, WorkerCrashedError)
        assert worker.run(os.getpid).result(60)
    finally:
        worker.stop()


def test_the_process_that_workers_are_forks_of_may_be_ended() -> None:
    """No frame is to blame for that: what was under way is done again, by one process and not by two."""
    worker = Worker()
    try:
        before = process_of(worker)
        under_way = worker.run(time.sleep, 2)
        os.kill(psutil.Process(before).ppid(), signal.SIGKILL)
        assert under_way.result(60) is None
        until(lambda: not psutil.pid_exists(before))
        assert process_of(worker) != before
    finally:
        worker.stop()


def test_no_process_to_be_had_is_told_and_tried_again(monkeypatch: pytest.MonkeyPatch) -> None:
    worker = Worker()
    process = psutil.Process(process_of(worker))
    for one in (process.parent(), process):
        os.kill(one.pid, signal.SIGKILL)
    time.sleep(0.5)
    with monkeypatch.context() as patch:

        def none_left(*_: object) -> None:
            raise BlockingIOError(11, "Resource temporarily unavailable")

        patch.setattr("multiprocessing.util.spawnv_passfds", none_left)
        with pytest.raises(OSError, match="unavailable"):
            worker.run(os.getpid).result(60)
    assert worker.run(os.getpid).result(60) != os.getpid()
    worker.stop()


def test_what_cannot_be_kept_is_done_again(
    desk: Desk, measured_folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """An exception that nobody thought of, in taking in what a worker did: the rest goes on, and in the end all of
    it is there."""
    real, raised = Intake.prepared, []

    def fail_thrice(self: Intake, *arguments: object) -> None:
        if len(raised) < 3:
            raised.append(arguments)
            raise RuntimeError("not thought of")
        real(self, *arguments)  # type: ignore[arg-type]

    monkeypatch.setattr(Intake, "prepared", fail_thrice)
    shoot_id = desk.open_folder(str(measured_folder))
    wait_until_idle(desk.engine)
    rows = frames.summaries(desk.database.connection(), shoot_id)
    assert len(raised) == 3 and len(rows) == 6
    assert all(row["faces"] is not None and not row["problem"] for row in rows)


def test_promises_end_whatever_becomes_of_the_rest(desk: Desk) -> None:
    def fail(_: object) -> None:
        raise RuntimeError("not thought of")

    engine = desk.engine
    kept = engine.run_apart(os.getpgid, 0, fail)
    assert kept.result(60)  # the outcome, although taking it in failed
    assert not kept.cancel()
    with pytest.raises(ProcessLookupError):
        engine.run_apart(os.getpgid, 2**22 + 1, fail).result(60)
    many = [engine.run_apart(os.getpgid, 0) for _ in range(50)]
    assert {promise.result(60) for promise in many} == {kept.result()}
    until(engine.idle)


def test_one_who_no_longer_waits_does_not_take_it_from_others(desk: Desk, measured_folder: Path) -> None:
    """The same picture wished for twice is one task; a browser that goes away gives up its wish alone."""
    from winnow.pipeline.cache import Kind

    shoot_id = desk.open_folder(str(measured_folder))
    wait_until_idle(desk.engine)
    picture = frames.pictures(desk.database.connection(), shoot_id)[0]
    one, other = (desk.engine.picture(picture, Kind.PREVIEW) for _ in range(2))
    one.cancel()
    assert other.result(60).problem is None


def test_promises_end_with_the_program(desk: Desk) -> None:
    waiting = [desk.engine.run_apart(time.sleep, 0.2) for _ in range(40)]
    desk.engine.stop()
    for promise in waiting:
        try:
            promise.result(20)
        except EngineStoppedError:
            continue
    with pytest.raises(EngineStoppedError):
        desk.engine.run_apart(time.sleep, 0).result(1)


def test_one_odd_file_among_a_thousand(desk: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Frames beside one whose reading ends in an exception that nobody thought of are all there."""
    folder = photographs.shoot(tmp_path / "s", 30, edge=photographs.WHOLE)
    odd = folder / "100WINNO" / "WIN_0007.JPG"
    odd.write_bytes(b"\xff\xd8\xff\xe1\xff\xffExif\0\0II*\0" + b"\xff" * 70_000)
    rows = desk.open_folder(str(folder))
    wait_until_idle(desk.engine)
    found = frames.summaries(desk.database.connection(), rows)
    assert len(found) == 30
    assert [row["name"] for row in found if row["problem"]] == ["100WINNO/WIN_0007.JPG"]
    assert sum(row["faces"] is not None for row in found) == 29


def test_a_disk_that_goes_between_decoding_and_reading_on_is_no_fault_of_the_cache(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    """Of a picture that is too large to be measured the rest is read for its digest, after it was shown."""
    path = tmp_path / "a.jpg"
    photographs.photograph(2).resize((3000, 2000)).save(path)
    monkeypatch.setattr(tasks.budget, "PICTURE_BYTES", 16_000_000)  # all of it takes 18, 2,560 px of it 14
    real = tasks.images.decode

    def pulled(*arguments: object, **more: object) -> object:
        found = real(*arguments, **more)  # type: ignore[arg-type]
        path.unlink()
        return found

    monkeypatch.setattr(tasks.images, "decode", pulled)
    task = tasks.DeriveTask(1, str(path), str(tmp_path), "ab", str(tmp_path / "cache"))
    problem = tasks.prepare(tasks.PrepareTask(task, None)).problem
    assert problem is not None and problem.kind == frames.ProblemKind.PASSING
    assert "no longer there" in problem.text
