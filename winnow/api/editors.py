"""Frames opened in another program on this machine.

A command that a request could set is a program that a request could run: both are done for the person at this machine
alone, and only where a secret tells them from others who use it.
"""

from __future__ import annotations

import os
from typing import Annotated

from fastapi import Depends, Query, Request

from winnow.api.addresses import is_loopback
from winnow.api.desk import SHOOT_PROBLEMS, OfShoot, OnDesk, demand_frames_of
from winnow.api.models.editors import Editor, Editors, OpeningAnswer, OpeningWish
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.pairing import Role
from winnow.handoff.editors import EditorError, check, chosen_files, open_in
from winnow.store import editors
from winnow.store.database import display

router = routes("/api", "editors")


async def _refusal(request: Request) -> str | None:
    """Why programs cannot be run for who asks."""
    if not request.app.state.is_private:
        return "Winnow runs without a secret: start it with one to open frames in other programs."
    local = request.client is not None and is_loopback(request.client.host)
    # Behind a proxy on this machine, every device looks local.
    if not local or request.scope.get("device") is not None:
        return "Programs are started at the machine that Winnow runs on, and only from there."
    return None


Refusal = Annotated[str | None, Depends(_refusal)]


@router.get("/editors", responses=answers())
def list_editors(desk: OnDesk, refusal: Refusal) -> Editors:
    """The programs that frames can be opened in, by name."""
    found = [
        Editor(name=name, command=command, problem=_problem(command))
        for name, command in editors.every(desk.database.connection()).items()
    ]
    return Editors(editors=found, refusal=refusal)


@router.put("/editors", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def keep_editor(desk: OnDesk, wish: Editor, refusal: Refusal) -> Editors:
    """Keeps a program under a name, in the place of another of that name."""
    _demand(refusal)
    name = wish.name.strip()
    if not name:
        raise ProblemError(Code.CANNOT_BE_DONE, "Say how the program is to be called.")
    try:
        check(wish.command)
    except EditorError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    with desk.database.transaction() as connection:
        editors.keep(connection, name, wish.command.strip())
    return list_editors(desk, refusal)


@router.delete("/editors", status_code=204, responses=answers(*CHANGING))
def forget_editor(desk: OnDesk, name: Annotated[str, Query(max_length=60)], refusal: Refusal) -> None:
    """Forgets a program."""
    _demand(refusal)
    with desk.database.transaction() as connection:
        editors.forget(connection, name)


@router.post(
    "/shoots/{shoot_id}/open-in-editor",
    responses=answers(*SHOOT_PROBLEMS, Code.FRAME_UNKNOWN, Code.NOT_OF_THIS_SHOOT, Code.CANNOT_BE_DONE),
)
def open_in_editor(desk: OnDesk, shoot: OfShoot, wish: OpeningWish, refusal: Refusal) -> OpeningAnswer:
    """Starts a program with the files of frames; what it writes beside them is noticed while the shoot is open."""
    _demand(refusal)
    demand_frames_of(desk, shoot, wish.frames)
    connection = desk.database.connection()
    command = editors.every(connection).get(wish.editor)
    if command is None:
        raise ProblemError(
            Code.CANNOT_BE_DONE, f"{wish.editor} is not known any more: choose another program."
        )
    there, missing = chosen_files(connection, wish.frames, Role(wish.prefer))
    names = [display(os.path.basename(path)) for path in missing]
    if not there:
        raise ProblemError(
            Code.CANNOT_BE_DONE, "None of the files is where it was: read the folder again first."
        )
    try:
        open_in(command, there, desk.database.path.parent)
    except EditorError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    return OpeningAnswer(files=len(there), missing=names)


def _problem(command: str) -> str | None:
    try:
        check(command)
    except EditorError as error:
        return str(error)
    return None


def _demand(refusal: str | None) -> None:
    if refusal is not None:
        raise ProblemError(Code.REFUSED, refusal)
