"""Commands that start at once: a process that has loaded Winnow waits, and each server, command or script is a fork
of it. Loading takes longer than most tests of a command.

As `python -m tests.forking FD` it is that process. What it is told comes with the standard output and error of the
command to be; it says which process that became, and how each ended.
"""

from __future__ import annotations

import atexit
import gc
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import traceback
from collections.abc import Callable, Mapping, Sequence
from contextlib import suppress
from functools import cache, partial
from importlib import import_module
from multiprocessing import forkserver, util
from tempfile import TemporaryFile
from typing import Any, NoReturn, TextIO

MOST = 1 << 20


class Forked:
    """A command as `subprocess.Popen` has it."""

    def __init__(self, pid: int, stdout: TextIO | None) -> None:
        self.pid = pid
        self.stdout = stdout
        self.returncode: int | None = None
        self.ended = threading.Event()

    def poll(self) -> int | None:
        return self.returncode

    def wait(self, timeout: float | None = None) -> int:
        if not self.ended.wait(timeout):
            raise subprocess.TimeoutExpired(str(self.pid), timeout or 0)
        assert self.returncode is not None
        return self.returncode

    def send_signal(self, number: int) -> None:
        # It may be over, and its end not told yet.
        if self.returncode is None:
            with suppress(ProcessLookupError):
                os.kill(self.pid, number)

    def terminate(self) -> None:
        self.send_signal(signal.SIGTERM)

    def kill(self) -> None:
        self.send_signal(signal.SIGKILL)


def _read_early(environment: Mapping[str, str]) -> dict[str, str]:
    """What of the environment modules read as they are loaded."""
    return {
        name: said
        for name, said in environment.items()
        if name in ("HOME", "LD_PRELOAD") or name.startswith("XDG_")
    }


class Loaded:
    """The process that waits, seen from the tests."""

    def __init__(self) -> None:
        self._early = _read_early(os.environ)
        self._line, other = socket.socketpair()
        command = [sys.executable, "-m", "tests.forking", str(other.fileno())]
        self._process = subprocess.Popen(command, pass_fds=[other.fileno()])
        other.close()
        self._started: dict[str, Any] = {}
        self._known: dict[int, Forked] = {}
        self._changed = threading.Condition()
        threading.Thread(target=self._listen, daemon=True).start()

    def fits(self, environment: Mapping[str, str]) -> bool:
        """Whether a fork is as what starts in this environment: what was read as it was loaded holds."""
        return _read_early(environment) == self._early

    def start(
        self, arguments: Sequence[str], environment: Mapping[str, str], code: str | None = None
    ) -> Forked:
        """winnow with these arguments, or a script that has them; what it says is piped."""
        read, write = os.pipe()
        try:
            started = self._start(arguments, environment, code, [write, 2])
        finally:
            os.close(write)
        started.stdout = os.fdopen(read, encoding="utf-8")
        return started

    def run(
        self, arguments: Sequence[str], environment: Mapping[str, str]
    ) -> subprocess.CompletedProcess[str]:
        """winnow with these arguments, from its beginning to its end."""
        with TemporaryFile("w+", encoding="utf-8") as out, TemporaryFile("w+", encoding="utf-8") as err:
            started = self._start(arguments, environment, None, [out.fileno(), err.fileno()])
            status = started.wait(120)
            # The position in a file is shared with who wrote there.
            out.seek(0)
            err.seek(0)
            return subprocess.CompletedProcess(arguments, status, out.read(), err.read())

    def _start(
        self, arguments: Sequence[str], environment: Mapping[str, str], code: str | None, fds: Sequence[int]
    ) -> Forked:
        told = {
            "arguments": list(arguments),
            "code": code,
            "environment": dict(environment),
            "cwd": os.getcwd(),
        }
        with self._changed:
            socket.send_fds(self._line, [json.dumps(told).encode()], fds)
            assert self._changed.wait_for(lambda: "pid" in self._started, 60)
            started = Forked(self._started.pop("pid"), None)
            self._known[started.pid] = started
            self._changed.notify_all()
            return started

    def _listen(self) -> None:
        for line in self._line.makefile(encoding="utf-8"):
            said = json.loads(line)
            with self._changed:
                if "started" in said:
                    self._started["pid"] = said["started"]
                    self._changed.notify_all()
                    self._changed.wait_for(lambda of=said["started"]: of in self._known, 60)
                else:
                    ended = self._known.pop(said["ended"])
                    ended.returncode = said["status"]
                    ended.ended.set()


@cache
def loaded() -> Loaded:
    """The one of this process of tests."""
    return Loaded()


def wait_for_orders(line: socket.socket) -> None:
    """Forks for every order, and runs what was ordered in the child."""
    import winnow.cli

    # And what is loaded on the way to serving.
    for module in (
        "winnow.api.serving",
        "winnow.pipeline.loaded",
        "anyio._backends._asyncio",
        "concurrent_log_handler",
        "uvicorn.lifespan.on",
        "uvicorn.loops.auto",
    ):
        import_module(module)

    def say(**said: int) -> None:
        line.sendall(json.dumps(said).encode() + b"\n")

    def note_ends(*_: object) -> None:
        while True:
            try:
                pid, status = os.waitpid(-1, os.WNOHANG)
            except ChildProcessError:
                return
            if not pid:
                return
            say(ended=pid, status=os.waitstatus_to_exitcode(status))

    signal.signal(signal.SIGINT, signal.SIG_IGN)
    gc.freeze()  # what forks share stays shared
    while True:
        signal.signal(signal.SIGCHLD, note_ends)
        note_ends()
        order, fds, *_ = socket.recv_fds(line, MOST, 2)
        if not order:
            return
        # A child that ends at once is told of only after it was told of.
        signal.signal(signal.SIGCHLD, signal.SIG_DFL)
        pid = os.fork()
        if pid:
            for fd in fds:
                os.close(fd)
            say(started=pid)
            continue
        line.close()
        told = json.loads(order)
        _become(told, fds)
        if told["code"] is not None:
            _to_the_end(partial(exec, told["code"], {"__name__": "__main__"}))
        _load_for_workers()
        _to_the_end(winnow.cli.app)


def _to_the_end(run: Callable[[], object]) -> NoReturn:
    """Runs it and ends the process as the interpreter would, but for taking every module apart: that takes as long as
    a server takes to start."""
    code = 0
    try:
        run()
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else int(end.code is not None)
    finally:
        if sys.exc_info()[0]:
            traceback.print_exc()
            code = 1
        threading._shutdown()  # type: ignore[attr-defined]
        atexit._run_exitfuncs()
        for stream in (sys.stdout, sys.stderr):
            with suppress(OSError):
                stream.flush()
        os._exit(code)


def _become(told: dict[str, Any], fds: Sequence[int]) -> None:
    signal.signal(signal.SIGINT, signal.default_int_handler)
    for number, fd in enumerate(fds, 1):
        os.dup2(fd, number)
        os.close(fd)
    # Those that were there know of the files before: whether one can go back in them, for one.
    sys.stdout, sys.stderr = (os.fdopen(number, "w", buffering=1, closefd=False) for number in (1, 2))
    os.environ.clear()
    os.environ.update(told["environment"])
    os.chdir(told["cwd"])
    sys.argv = ["winnow", *told["arguments"]]


def _load_for_workers() -> None:
    """The process that workers are forks of, which loads what they need, is a fork of this one, which has."""
    from winnow.pipeline.workers import no_interrupt

    def spawn_as_fork(_: object, arguments: Sequence[str], passed: Sequence[int]) -> int:
        pid = os.fork()
        if pid:
            return pid
        code = 1
        try:
            for fd in map(int, os.listdir("/proc/self/fd")):
                if fd > 2 and fd not in passed:
                    with suppress(OSError):
                        os.close(fd)
            exec(arguments[-1])
        except SystemExit:
            code = 0
        finally:
            os._exit(code)

    spawn, util.spawnv_passfds = util.spawnv_passfds, spawn_as_fork
    with no_interrupt():
        forkserver.ensure_running()
    util.spawnv_passfds = spawn


if __name__ == "__main__":
    wait_for_orders(socket.socket(fileno=int(sys.argv[1])))
