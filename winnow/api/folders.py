"""The folder chooser: what lies on the server's disk, within the allowed roots."""

from __future__ import annotations

import os

from winnow.api.desk import FolderRefusedError, OnDesk
from winnow.api.models.base import PathText
from winnow.api.models.folders import FolderEntry, FolderListing
from winnow.api.problems import Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core.order import natural_key
from winnow.core.pairing import Role, role_of
from winnow.store.database import display

router = routes("/api/folders", "folders")


@router.get("", responses=answers(Code.FOLDER_REFUSED))
def list_folder(desk: OnDesk, path: PathText | None = None) -> FolderListing:
    """The sub-folders of a folder, or the allowed roots."""
    if path is None:
        there = [root for root in desk.all_roots() if root.is_dir()]
        roots = [FolderEntry(name=display(root), path=str(root)) for root in dict.fromkeys(there)]
        return FolderListing(path=None, parent=None, folders=roots, pictures=0, note=None)
    try:
        found = desk.allowed(path)
        entries = list(os.scandir(found))
    except FolderRefusedError as error:
        raise ProblemError(Code.FOLDER_REFUSED, str(error)) from error
    except OSError as error:
        raise ProblemError(
            Code.FOLDER_REFUSED, f"{display(found)} cannot be read ({error.strerror}): choose another folder."
        ) from error
    folders = [entry for entry in entries if _is_folder(entry)]
    # A name that is not valid UTF-8 cannot travel in JSON and back.
    speakable = [entry for entry in folders if _speakable(entry.name)]
    hidden = len(folders) - len(speakable)
    return FolderListing(
        path=display(found),
        parent=None if found in desk.all_roots() else display(found.parent),
        folders=[
            FolderEntry(name=entry.name, path=entry.path)
            for entry in sorted(speakable, key=lambda e: natural_key(e.name))
        ],
        pictures=sum(role_of(entry.name) in (Role.PICTURE, Role.RAW) for entry in entries),
        note=f"{hidden} folder(s) with a name that is not valid UTF-8: rename to open them."
        if hidden
        else None,
    )


def _is_folder(entry: os.DirEntry[str]) -> bool:
    try:
        return not entry.name.startswith(".") and entry.is_dir()
    except OSError:
        return False


def _speakable(name: str) -> bool:
    return display(name) == name
