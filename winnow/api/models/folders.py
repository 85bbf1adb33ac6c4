"""Folders, as the chooser shows them."""

from __future__ import annotations

from pydantic import StrictBool

from winnow.api.models.base import Model, PathText, shown


class FolderPath(Model):
    path: PathText


class FolderWish(FolderPath):
    """as_new: a new shoot is wanted, although the folder looks like a known one that has moved."""

    model_config = shown({"path": "/pictures/2026-10-17 kiln", "as_new": False})

    as_new: StrictBool = False


class FolderMatch(Model):
    """How much of a shoot lies in a folder: frames of the shoot, how many of them are there, and how many frames are
    there that the shoot does not have."""

    frames: int
    found: int
    others: int


class FolderEntry(Model):
    name: str
    path: str


class FolderListing(Model):
    """A folder for the chooser: `parent` is None at an allowed root, `path` None above them."""

    path: str | None
    parent: str | None
    folders: list[FolderEntry]
    pictures: int
    note: str | None
