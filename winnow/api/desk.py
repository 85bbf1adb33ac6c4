"""Everything a running Winnow has on its desk: the store, the engine, the plans that run."""

from __future__ import annotations

import os
from dataclasses import dataclass, field
from datetime import UTC, datetime
from pathlib import Path
from typing import Annotated

from fastapi import Depends, HTTPException, Request

from winnow.handoff.runner import Runner
from winnow.pipeline import relocation
from winnow.pipeline.cache import Cache
from winnow.pipeline.engine import Engine
from winnow.pipeline.events import Events
from winnow.pipeline.points import PointFinder
from winnow.pipeline.relocation import Match
from winnow.pipeline.scan import FolderUnreadableError
from winnow.store import filters, shoots
from winnow.store.database import DATABASE, Database, display
from winnow.store.filters import Tally
from winnow.store.shoots import Shoot


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
    """One data folder in use by one process. `roots`: folders that may be browsed and opened."""

    database: Database
    cache: Cache
    events: Events
    engine: Engine
    runner: Runner
    points: PointFinder
    roots: list[Path]
    tallies: dict[int, tuple[int, Tally]] = field(default_factory=dict)

    @classmethod
    def set_up(cls, data: Path, roots: list[Path]) -> Desk:
        database = Database(data / DATABASE)
        cache = Cache(data / "cache")
        events = Events()
        engine = Engine(database, cache, events)
        finder = PointFinder(database, cache)
        return cls(database, cache, events, engine, Runner(engine), finder, [r.resolve() for r in roots])

    def start(self) -> None:
        self.engine.start()
        self.runner.recover()

    def stop(self) -> None:
        self.runner.close()
        self.engine.stop()

    def tally(self, shoot: Shoot) -> Tally:
        """How many frames of a shoot are where and marked how; counted anew only when the shoot has changed."""
        revision, kept = self.tallies.get(shoot.id, (-1, None))
        if kept is None or revision != shoot.revision:
            kept = filters.tally(self.database.connection(), shoot.id)
            self.tallies[shoot.id] = (shoot.revision, kept)
        return kept

    def regroup(self, shoot_id: int) -> None:
        """What groups rest on was changed by the person: brings them up to date and tells who listens."""
        self.engine.regroup(shoot_id)
        shoot = shoots.get(self.database.connection(), shoot_id)
        self.events.publish("frames", shoot_id=shoot_id, revision=shoot.revision if shoot else 0)

    def allowed(self, path: str) -> Path:
        """The real path, if it lies within an allowed root. Raises FolderRefusedError."""
        found = Path(os.path.realpath(os.path.expanduser(path)))
        if not any(found == root or root in found.parents for root in self.roots):
            names = ", ".join(display(root) for root in self.roots)
            raise FolderRefusedError(
                f"{display(found)} is outside the folders Winnow may open ({names}). "
                "Start it with --root to allow another."
            )
        return found

    def folder(self, path: str) -> Path:
        """An allowed folder that is there. Raises FolderRefusedError."""
        found = self.allowed(path)
        if not found.is_dir():
            raise FolderRefusedError(f"{display(found)} is not a folder that can be reached.")
        return found

    def open_folder(self, path: str, *, as_new: bool = False) -> int:
        """The shoot made of a folder, listed and worked on from now. Raises FolderRefusedError; and MovedShootError
        if it is a known shoot that has moved, unless a new one is wanted all the same."""
        found = self.folder(path)
        if not as_new and shoots.of_folder(self.database.connection(), found) is None:
            try:
                moved = relocation.whose(self.database, str(found))
            except FolderUnreadableError:
                moved = None  # listing it says why
            if moved is not None:
                raise MovedShootError(*moved)
        with self.database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, found, now())
        self.engine.open(shoot_id)
        return shoot_id


def now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def get_desk(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


OnDesk = Annotated[Desk, Depends(get_desk)]


def get_shoot(desk: OnDesk, shoot_id: int) -> Shoot:
    found = shoots.get(desk.database.connection(), shoot_id)
    if found is None:
        raise HTTPException(404, "This shoot is not on the list any more: open its folder again.")
    return found


OfShoot = Annotated[Shoot, Depends(get_shoot)]
