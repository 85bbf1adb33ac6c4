"""A whole shoot saved as an archive, and joined to its pictures elsewhere."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path
from typing import Annotated
from urllib.parse import quote

from fastapi import Body, Response

from winnow.api.desk import SHOOT_PROBLEMS, OfShoot, OnDesk, now
from winnow.api.models.archives import JoinedView
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.archive import ArchiveError
from winnow.formats.archive import TOO_MUCH
from winnow.handoff.joining import JoinTask, join_apart, save
from winnow.pipeline.engine import EngineStoppedError
from winnow.pipeline.workers import WorkerCrashedError

router = routes("/api/shoots/{shoot_id}", "archives")

ZIP = "application/zip"
MISSING_NAMED = 20


@router.get(
    "/archive",
    responses={**answers(*SHOOT_PROBLEMS), 200: {"content": {ZIP: {}}}},
    response_class=Response,
)
def save_archive(desk: OnDesk, shoot: OfShoot) -> Response:
    """All that is known of the shoot but its evidence and plans, as one file: JSON lines in a ZIP."""
    name = quote(f"{shoot.title}.winnow.zip")
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{name}"}
    return Response(save(desk.database.connection(), shoot, now()), media_type=ZIP, headers=headers)


@router.post(
    "/archive", responses=answers(*SHOOT_PROBLEMS, *CHANGING, Code.CANNOT_BE_DONE, Code.BUSY, Code.ENDING)
)
def join_archive(
    desk: OnDesk,
    shoot: OfShoot,
    content: Annotated[bytes, Body(media_type=ZIP)],
    dry_run: bool = False,
    theirs: bool = False,
) -> JoinedView:
    """Joins an archive to this shoot by the content of its frames. dry_run: only says what that would do; theirs:
    what the archive says wins where both say something."""
    if desk.runner.busy(shoot.id):
        raise ProblemError(Code.BUSY, "A plan runs on this shoot: wait until it has ended.")
    with tempfile.NamedTemporaryFile(dir=desk.database.path.parent, suffix=".archive") as file:
        file.write(content)
        file.flush()
        task = JoinTask(desk.database.path, shoot.id, Path(file.name), now(), theirs, dry_run)
        try:
            joined = desk.engine.run_apart(join_apart, task).result()
        except ArchiveError as error:
            raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
        except WorkerCrashedError as error:
            raise ProblemError(Code.CANNOT_BE_DONE, TOO_MUCH) from error
        except EngineStoppedError as error:
            raise ProblemError(Code.ENDING, "Winnow is ending.") from error
    if not dry_run:
        desk.regroup(shoot.id)
    return JoinedView.model_validate(replace(joined, missing=joined.missing[:MISSING_NAMED]))
