"""A command of the person's, run when a plan or a pass ended. It gets what happened as JSON on its standard input.

The command stands in the file of settings and can be changed there alone: who may ask the server for something must
not be able to have a program run.
"""

from __future__ import annotations

import contextlib
import json
import logging
import os
import shlex
import signal
import subprocess
import sys
import threading
from concurrent.futures import ThreadPoolExecutor
from datetime import UTC, datetime
from typing import Any

from winnow.pipeline.events import Event, Events
from winnow.pipeline.logs import Private
from winnow.store import plans, shoots, walks
from winnow.store.database import Database, display

log = logging.getLogger(__name__)

TOLD = ("plan-ended", "pass-ended")
PATIENCE_S = 300.0
AT_EXIT_S = 2.0
"""How long a command may still run when Winnow exits."""


class Hooks:
    """Listens from `start` until `stop`; one command runs after the other."""

    def __init__(self, database: Database, events: Events) -> None:
        self._database = database
        self._events = events
        self._runner = ThreadPoolExecutor(max_workers=1, thread_name_prefix="hooks")
        self._listening = contextlib.ExitStack()
        self._stopped = threading.Event()
        self._lock = threading.Lock()
        self._command: subprocess.Popen[str] | None = None

    def start(self) -> None:
        self._listening.enter_context(self._events.listening(self._hear))

    def stop(self) -> None:
        self._stopped.set()
        self._listening.close()
        self._runner.shutdown(wait=False, cancel_futures=True)
        with self._lock:
            command = self._command
        if command is not None:
            try:
                command.wait(AT_EXIT_S)
            except subprocess.TimeoutExpired:
                log.warning("on_event: ended, because Winnow exits")
                _kill(command)

    def _hear(self, event: Event) -> None:
        command = self._database.settings.now().on_event
        if event["kind"] in TOLD and command and not self._stopped.is_set():
            self._runner.submit(self._run, command, event)

    def _run(self, command: str, event: Event) -> None:
        try:
            words = shlex.split(command, posix=sys.platform != "win32")
            said = json.dumps(self._told(event))
            returncode, errors = self._execute(words, said)
        except (OSError, ValueError, subprocess.TimeoutExpired) as error:
            log.warning("on_event: %s", Private(str(error), type(error).__name__))
        else:
            if returncode:
                last = (errors.strip().splitlines() or [""])[-1]
                log.warning("on_event ended with %d: %s", returncode, Private(last, "see the command"))

    def _execute(self, words: list[str], said: str) -> tuple[int, str]:
        """Run a command; its exit code, and what it wrote on standard error. Raises OSError, TimeoutExpired."""
        with self._lock:
            if self._stopped.is_set():
                return 0, ""
            command = self._command = subprocess.Popen(
                words,
                stdin=subprocess.PIPE,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.PIPE,
                text=True,
                start_new_session=True,
            )
        try:
            errors = command.communicate(said, timeout=PATIENCE_S)[1]
        except subprocess.TimeoutExpired:
            _kill(command)
            raise
        finally:
            with self._lock:
                self._command = None
        return command.returncode, errors

    def _told(self, event: Event) -> dict[str, Any]:
        """What happened, with what a program would ask for next."""
        connection = self._database.connection()
        told: dict[str, Any] = {"event": event["kind"], "at": datetime.now(UTC).isoformat(timespec="seconds")}
        shoot = shoots.get(connection, event["shoot_id"])
        if shoot is not None:
            folders = [display(path) for _, path in shoot.folders]
            told["shoot"] = {"id": shoot.id, "title": shoot.title, "folders": folders}
        if event["kind"] == "plan-ended":
            plan = plans.get(connection, event["plan_id"])
            if plan is not None:
                target = display(plan.target) if plan.target else None
                told["plan"] = {"id": plan.id, "kind": plan.kind, "state": event["state"], "target": target}
        else:
            did = walks.outcome(connection, event["walk_id"])
            decisions = {str(decision): count for decision, count in did.decisions.items()}
            told["pass"] = {"name": event["name"], "decisions": decisions, "changed": did.changed}
        return told


def _kill(command: subprocess.Popen[str]) -> None:
    """End a command and the processes that it has started, which hold its pipes open."""
    if sys.platform == "win32":
        command.kill()
    else:
        with contextlib.suppress(ProcessLookupError):
            os.killpg(command.pid, signal.SIGKILL)
    command.wait()
