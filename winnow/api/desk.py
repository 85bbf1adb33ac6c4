"""Everything a running Winnow has on its desk: the store, the engine, the plans that run."""

from __future__ import annotations

import os
import secrets
import threading
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass, field
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import Annotated

from fastapi import Depends, Request

from winnow.api.models.base import Id
from winnow.api.present import Present
from winnow.api.problems import Code, ProblemError
from winnow.handoff.hooks import Hooks
from winnow.handoff.runner import Runner
from winnow.pipeline import relocation
from winnow.pipeline.cache import Cache
from winnow.pipeline.cards import Slots
from winnow.pipeline.daily import DailyBackup
from winnow.pipeline.disks import Disks, DiskSilentError
from winnow.pipeline.engine import Engine
from winnow.pipeline.events import Events
from winnow.pipeline.far import Far
from winnow.pipeline.indexing import Indexer
from winnow.pipeline.listing import is_gone
from winnow.pipeline.locks import contains
from winnow.pipeline.points import PointFinder
from winnow.pipeline.relocation import Match
from winnow.pipeline.scan import FolderUnreadableError
from winnow.pipeline.watching import AT_ONCE, Watcher
from winnow.store import frames, plans, settings, shoots
from winnow.store.census import Census
from winnow.store.database import DATABASE, Database, display
from winnow.store.plans import Plan
from winnow.store.shoots import Shoot

MOST_CENSUSES = 8
"""The columns of 50,000 frames take some 20 MB; they are read again within a second."""


CARD_LIMIT_S = 0.5
"""How long the list of shoots waits for the disk of one."""
OPEN_LIMIT_S = 10.0


class Reached(StrEnum):
    """Whether the disk of a shoot is there; SILENT: it does not answer."""

    THERE = "there"
    GONE = "gone"
    SILENT = "silent"


class MovedShootError(ValueError):
    """A folder holds the frames of a shoot whose own folder is gone: it is likely that shoot."""

    def __init__(self, shoot: Shoot, match: Match) -> None:
        super().__init__(
            f"These look like the frames of '{shoot.title}', which was at "
            f"{', '.join(display(path) for _, path in shoot.folders)}: {match.found} of its {match.frames} frames "
            "are here."
        )
        self.shoot = shoot
        self.match = match


class FolderRefusedError(ValueError):
    """A folder that may not or cannot be opened; the message says what to do."""


@dataclass(slots=True)
class Desk:
    """One data folder in use by one process. `roots`: folders that may be browsed and opened; `library`: what tells
    the data folder from others."""

    database: Database
    cache: Cache
    events: Events
    engine: Engine
    runner: Runner
    points: PointFinder
    roots: list[Path]
    library: str
    slots: Slots
    watcher: Watcher
    backups: DailyBackup
    indexer: Indexer
    hooks: Hooks
    present: Present = field(default_factory=Present)
    disks: Disks = field(default_factory=Disks)
    strayed: set[int] = field(default_factory=set)
    """Shoots whose folders lead out of the allowed roots by now, though their paths do not say so."""
    _set_roots: tuple[tuple[str, ...], list[Path]] = ((), [])
    censuses: dict[int, Census] = field(default_factory=dict)
    """Of the shoots asked for last, the last one at the end."""
    _census_lock: threading.Lock = field(default_factory=threading.Lock)

    @classmethod
    def set_up(
        cls,
        data: Path,
        roots: list[Path],
        volumes: Sequence[Path] = (),
        *,
        watching: bool = True,
        far: Far | None = None,
    ) -> Desk:
        """volumes: folders whose sub-folders count as volumes that may be cards, besides what the system mounts.
        watching: what other programs write into open shoots is noticed by itself, unless it is set otherwise.
        far: other machines that measure too. Raises
        SettingsError and BackupError."""
        database = Database(data / DATABASE)
        watching = watching and database.settings.check().watch
        cache = Cache(data / "cache")
        events = Events()
        engine = Engine(database, cache, events, far)
        finder = PointFinder(database, cache)
        with database.transaction() as connection:
            library = settings.library(connection, secrets.token_hex(8))
        real_roots = [r.resolve() for r in roots]
        return cls(
            database,
            cache,
            events,
            engine,
            Runner(engine),
            finder,
            real_roots,
            library,
            Slots(volumes),
            Watcher(engine.notice, at_once=AT_ONCE if watching else 0),
            DailyBackup(engine),
            Indexer(database),
            Hooks(database, events),
        )

    def start(self) -> None:
        self.engine.start()
        self.runner.recover()
        self.backups.start()
        self.indexer.start()
        self.hooks.start()

    def stop(self) -> None:
        self.backups.stop()
        self.indexer.stop()
        self.hooks.stop()
        self.watcher.stop()
        self.runner.close()
        self.engine.stop()
        self.points.close()
        if self.engine.far is not None:
            self.engine.far.close()

    def census(self, shoot_id: int) -> Census:
        """What there is of a shoot, counted."""
        with self._census_lock:
            found = self.censuses.pop(shoot_id, None) or Census(shoot_id)
            self.censuses[shoot_id] = found
            while len(self.censuses) > MOST_CENSUSES:
                del self.censuses[next(iter(self.censuses))]
            return found

    def regroup(self, shoot_id: int) -> None:
        """What groups rest on was changed by the person: brings them up to date and tells who listens."""
        self.engine.regroup(shoot_id)
        shoot = shoots.get(self.database.connection(), shoot_id)
        self.events.publish("frames", shoot_id=shoot_id, revision=shoot.revision if shoot else 0)

    def allowed(self, path: str) -> Path:
        """The real path, if it lies within an allowed root. Raises FolderRefusedError."""
        try:
            found = Path(os.path.realpath(os.path.expanduser(path)))
            os.lstat(found)
        except FileNotFoundError:
            pass
        except (OSError, ValueError, RuntimeError) as error:
            reason = getattr(error, "strerror", None) or "it is no path"
            raise FolderRefusedError(f"This folder cannot be used ({reason}): choose another.") from error
        if not self.is_inside(str(found)):
            names = ", ".join(display(root) for root in self.all_roots())
            raise FolderRefusedError(
                f"{display(found)} is outside the folders Winnow may open ({names}). "
                "Start it with --root to allow another, or name it under roots in "
                f"{display(self.database.settings.path)}."
            )
        return found

    def source(self, path: str) -> Path:
        """A folder that files may come from: an allowed one, or one on a card. Raises FolderRefusedError."""
        real = os.path.realpath(os.path.expanduser(path))
        return Path(real) if self.slots.card_around(real) and os.path.isdir(real) else self.folder(path)

    def is_inside(self, path: str) -> bool:
        """Whether what a path leads to lies within an allowed root."""
        real = os.path.realpath(path)
        return any(contains(str(root), real) for root in self.all_roots())

    def all_roots(self) -> list[Path]:
        """The folders that may be opened: those that the server was started with, and those that are set."""
        set_too = tuple(self.database.settings.now().roots)
        if set_too != self._set_roots[0]:
            found = [Path(os.path.realpath(os.path.expanduser(root))) for root in set_too]
            self._set_roots = set_too, found
        return [*self.roots, *self._set_roots[1]]

    def serves(self, shoot: Shoot) -> bool:
        """Whether the folders of a shoot lie within the allowed roots. Asked for every mark and every picture, so no
        disk is asked: the paths were resolved when they were stored, and are again when the shoot is opened. (Files
        are opened where they were listed and nowhere else, see `formats.opening`.)"""
        roots = [str(root) for root in self.all_roots()]
        inside = all(any(contains(root, path) for root in roots) for _, path in shoot.folders)
        return inside and shoot.id not in self.strayed

    def _resolve(self, shoot: Shoot) -> None:
        """Note whether the folders of a shoot lead out of the allowed roots by now."""

        def resolve() -> None:
            if all(self.is_inside(path) for _, path in shoot.folders):
                self.strayed.discard(shoot.id)
            else:
                self.strayed.add(shoot.id)

        with suppress(DiskSilentError):  # it is noted when the disk answers
            self.disks.ask(shoot.folders[0][1] if shoot.folders else "", resolve)

    def reached(self, shoot: Shoot) -> Reached:
        """Whether the folders of a shoot are there."""
        try:
            gone = self.disks.ask(shoot.folders[0][1], lambda: is_gone(self.database, shoot), CARD_LIMIT_S)
        except DiskSilentError:
            return Reached.SILENT
        return Reached.GONE if gone else Reached.THERE

    def folder(self, path: str) -> Path:
        """An allowed folder that is there. Raises FolderRefusedError."""
        found = self.allowed(path)
        if not found.is_dir():
            raise FolderRefusedError(f"{display(found)} is not a folder that can be reached.")
        return found

    def open_folder(self, path: str, *, as_new: bool = False) -> int:
        """The shoot made of a folder, listed and worked on from now. Raises FolderRefusedError; and MovedShootError
        if it is a known shoot that has moved, unless a new one is wanted all the same."""
        found = self.disks.ask(path, lambda: self.folder(path), OPEN_LIMIT_S)
        if not as_new and shoots.of_folder(self.database.connection(), found) is None:
            try:
                moved = relocation.whose(self.database, str(found))
            except FolderUnreadableError:
                moved = None  # listing it says why
            if moved is not None:
                raise MovedShootError(*moved)
        with self.database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, found, now())
        self.work_on(shoot_id)
        return shoot_id

    def welcome(self, shoot_id: int) -> None:
        """Somebody has come into this shoot, perhaps by its address, or from before this start."""
        if not (self.engine.is_open(shoot_id) and self.watcher.watches(shoot_id)):
            self.work_on(shoot_id)

    def work_on(self, shoot_id: int) -> None:
        """The person is in this shoot: it is listed again, worked on, and watched."""
        self.engine.open(shoot_id)
        shoot = shoots.get(self.database.connection(), shoot_id)
        if shoot is not None:
            self._resolve(shoot)
            self.watcher.watch(shoot_id, [path for _, path in shoot.folders])


def now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")


async def get_desk(request: Request) -> Desk:  # async: anything else would be sent to a thread for it
    desk: Desk = request.app.state.desk
    return desk


OnDesk = Annotated[Desk, Depends(get_desk)]


def get_shoot(desk: OnDesk, shoot_id: Id) -> Shoot:
    return demand_shoot(desk, shoot_id)


def demand_shoot(desk: Desk, shoot_id: int) -> Shoot:
    """A known shoot that may be served. Raises ProblemError."""
    found = shoots.get(desk.database.connection(), shoot_id)
    if found is None:
        raise ProblemError(
            Code.SHOOT_UNKNOWN, "This shoot is not on the list any more: open its folder again."
        )
    if not desk.serves(found):
        raise ProblemError(
            Code.OUTSIDE_ROOTS,
            f"'{found.title}' lies outside the folders Winnow may open: start it with --root to allow another.",
        )
    return found


def demand_frames(desk: Desk, frame_ids: list[int]) -> None:
    """Known frames of one shoot that may be served. Raises ProblemError."""
    owners = _owners(desk, frame_ids)
    if len(owners) > 1:
        raise ProblemError(Code.NOT_OF_THIS_SHOOT, "These frames are not of one shoot.")
    demand_shoot(desk, owners.pop())


def demand_frames_of(desk: Desk, shoot: Shoot, frame_ids: list[int]) -> None:
    """Known frames of this shoot, which may be served. Raises ProblemError."""
    if _owners(desk, frame_ids) != {shoot.id}:
        raise ProblemError(Code.NOT_OF_THIS_SHOOT, "These frames belong to another shoot.")


def _owners(desk: Desk, frame_ids: list[int]) -> set[int]:
    """The shoots of frames. Raises ProblemError if one of them is not known."""
    owners = frames.owners(desk.database.connection(), frame_ids)
    if len(owners) < len(set(frame_ids)):
        raise ProblemError(Code.FRAME_UNKNOWN, "A frame is not known any more: load the page again.")
    return set(owners.values())


def get_frame_id(desk: OnDesk, frame_id: Id) -> int:
    demand_frames(desk, [frame_id])
    return frame_id


def get_plan(desk: OnDesk, plan_id: Id) -> Plan:
    plan = plans.get(desk.database.connection(), plan_id)
    if plan is None:
        raise ProblemError(Code.PLAN_UNKNOWN, "This plan is not known any more: make it again.")
    demand_shoot(desk, plan.shoot_id)
    return plan


OfShoot = Annotated[Shoot, Depends(get_shoot)]
OfFrame = Annotated[int, Depends(get_frame_id)]
"""The id of a frame that may be served."""
OfPlan = Annotated[Plan, Depends(get_plan)]

SHOOT_PROBLEMS = (Code.SHOOT_UNKNOWN, Code.OUTSIDE_ROOTS)
FRAME_PROBLEMS = (*SHOOT_PROBLEMS, Code.FRAME_UNKNOWN)
PLAN_PROBLEMS = (*SHOOT_PROBLEMS, Code.PLAN_UNKNOWN)
"""With what these may end a request."""
