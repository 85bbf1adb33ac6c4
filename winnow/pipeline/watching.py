"""The folders of the shoots that were opened last are watched: what another program writes there is noticed.

On network shares the system may tell of nothing that happened on another machine: there, reading the folder again
is left to the person.
"""

from __future__ import annotations

import logging
import os
import threading
from collections.abc import Callable, Mapping

import watchfiles

from winnow.core.pairing import role_of, split_name
from winnow.pipeline.locks import contains
from winnow.pipeline.logs import Private

log = logging.getLogger(__name__)

AT_ONCE = 4
"""So many shoots are watched; the one opened longest ago gives way."""
QUIET_MS, GATHER_MS = 400, 1600
"""What comes without a pause of the first is told together, at the latest after the second."""
LOOK_MS = 5_000
"""So often it is looked whether the folders are still the same: a disk may have been taken out and put back."""

Noticed = Callable[[int], None]
"""Told the id of a shoot in whose folders something changed; called on a thread of its own."""


class Watcher:
    """Watches from the first `watch` on, until `stop`; both may be called on any thread. at_once: so many shoots."""

    def __init__(self, noticed: Noticed, at_once: int = AT_ONCE) -> None:
        self._noticed = noticed
        self._at_once = at_once
        self._lock = threading.Lock()
        self._shoots: dict[int, list[str]] = {}
        self._ended: threading.Event | None = None

    def watch(self, shoot_id: int, folders: list[str]) -> None:
        """From now on these folders are watched for the shoot."""
        with self._lock:
            known = self._shoots.pop(shoot_id, None)
            self._shoots[shoot_id] = folders
            while len(self._shoots) > self._at_once:
                del self._shoots[next(iter(self._shoots))]
            if known == folders or not self._shoots:
                return
            self._end()
            self._ended = threading.Event()
            run = threading.Thread(
                target=self._run, args=(dict(self._shoots), self._ended), name="watching", daemon=True
            )
            run.start()

    def watches(self, shoot_id: int) -> bool:
        with self._lock:
            return shoot_id in self._shoots

    def stop(self) -> None:
        with self._lock:
            self._shoots.clear()
            self._end()

    def _end(self) -> None:
        if self._ended is not None:
            self._ended.set()

    def _run(self, shoots: Mapping[int, list[str]], ended: threading.Event) -> None:
        told = ""
        while not ended.is_set():
            there = {folder: _identity(folder) for folders in shoots.values() for folder in folders}
            try:
                self._follow(shoots, there, ended)
            except (OSError, RuntimeError) as error:  # of the system, and of what watches
                if str(error) != told:  # it may be so for hours
                    told = str(error)
                    log.warning("changes on disk are not noticed: %s", Private(told, "the system refuses"))
                ended.wait(LOOK_MS / 1000)

    def _follow(
        self, shoots: Mapping[int, list[str]], there: Mapping[str, object], ended: threading.Event
    ) -> None:
        """Until it is ended, or a folder is not the one any more that it was."""
        reached = [folder for folder, identity in there.items() if identity is not None]
        if not reached:
            ended.wait(LOOK_MS / 1000)
            return
        for changes in watchfiles.watch(
            *reached,
            watch_filter=_matters,
            debounce=GATHER_MS,
            step=QUIET_MS,
            stop_event=ended,
            rust_timeout=LOOK_MS,
            yield_on_timeout=True,
            raise_interrupt=False,
            ignore_permission_denied=True,
        ):
            paths = [path for _, path in changes]
            other = [folder for folder, identity in there.items() if _identity(folder) != identity]
            for shoot_id, folders in shoots.items():
                if any(
                    folder in other or any(contains(folder, path) for path in paths) for folder in folders
                ):
                    self._noticed(shoot_id)
            if other:
                return


def _matters(change: watchfiles.Change, path: str) -> bool:
    """A picture or sidecar; or what may be a folder of them. What programs write aside begins with a point."""
    name = os.path.basename(path)
    return not name.startswith(".") and (role_of(name) is not None or not split_name(name)[1])


def _identity(folder: str) -> object:
    try:
        stat = os.stat(folder)
    except OSError:
        return None
    return stat.st_dev, stat.st_ino
