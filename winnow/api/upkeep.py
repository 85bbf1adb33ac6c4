"""What the settings screen says of the data folder: backups, the log, and the end of the server."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from datetime import UTC, datetime

from fastapi import Request

from winnow import __version__
from winnow.api.addresses import is_loopback
from winnow.api.desk import Desk, OnDesk
from winnow.api.models.upkeep import BackupFile, Upkeep
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.pipeline import logs
from winnow.store import backups
from winnow.store.database import display

router = routes("/api/upkeep", "upkeep")


@router.get("", responses=answers())
def get_upkeep(desk: OnDesk, request: Request) -> Upkeep:
    """Where Winnow keeps its own, and which backups there are."""
    return _upkeep(desk, request)


@router.post("/backup", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def make_backup(desk: OnDesk, request: Request) -> Upkeep:
    """Makes a backup now, beside those that are made by themselves."""
    data = desk.database.path.parent
    try:
        backups.make(data, backups.place(data, datetime.now(UTC)))
    except backups.BackupError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    return _upkeep(desk, request)


@router.post("/end", status_code=204, responses=answers(Code.NOT_NOW))
def end_server(request: Request) -> None:
    """Ends the server, from this machine alone. What is under way is stopped as at any end, and goes on next time."""
    end = _ending(request)
    if end is None:
        raise ProblemError(Code.NOT_NOW, "Winnow can be ended on the machine alone on which it runs.")
    end()


def _upkeep(desk: Desk, request: Request) -> Upkeep:
    data = desk.database.path.parent
    made = [
        BackupFile(name=path.name, made_at=datetime.fromtimestamp(stat.st_mtime, UTC), size=stat.st_size)
        for path in reversed(backups.by_itself(data))
        for stat in [path.stat()]
    ]
    return Upkeep(
        version=__version__,
        data=display(data),
        log=display(data / logs.FOLDER / logs.FILE),
        free=shutil.disk_usage(data).free,
        backups=made,
        may_end=_ending(request) is not None,
    )


def _ending(request: Request) -> Callable[[], None] | None:
    """What ends the server, for whoever may."""
    here = request.client is not None and is_loopback(request.client.host)
    end: Callable[[], None] | None = request.app.state.end
    return end if here and request.app.state.is_private else None
