"""Looking after a Winnow."""

from __future__ import annotations

from pydantic import AwareDatetime

from winnow.api.models.base import Model


class BackupFile(Model):
    """A backup in the data folder."""

    name: str
    made_at: AwareDatetime
    size: int


class Upkeep(Model):
    """Where Winnow keeps its own, and what there is to fall back on. backups: newest first; free: bytes on the disk
    of the data folder; may_end: whoever asks may end the server."""

    version: str
    data: str
    log: str
    free: int
    backups: list[BackupFile]
    may_end: bool
