"""Cards, and what comes from them."""

from __future__ import annotations

from pydantic import AwareDatetime, Field

from winnow.api.models.base import Model, PathText
from winnow.api.models.plans import NamingWish
from winnow.core.sorting import Into


class CardView(Model):
    """A card that is in, or any folder that files may come from. new: frames that are not here yet, as far as size
    and time tell; the plan says it by content. proposed: a folder for them."""

    name: str
    path: str
    frames: int
    files: int
    bytes: int
    new: int
    latest: AwareDatetime | None
    proposed: str


class ArrivingNames(Model):
    """source: folder on the card; target: where they go."""

    source: PathText
    target: PathText
    into: Into = Into.NOTHING
    naming: NamingWish


class CopiedLine(Model):
    source: str
    target: str
    size: int
    digest: str
    remark: str | None


class SkippedLine(Model):
    source: str
    target: str


class FailedLine(Model):
    source: str
    reason: str


class ImportReport(Model):
    """What became of the files of an import, the first of each kind; `*_count`: how many there are."""

    copied: list[CopiedLine]
    copied_count: int
    skipped: list[SkippedLine]
    skipped_count: int
    failed: list[FailedLine]
    failed_count: int
    waiting: int = Field(description="Files that are still to be copied.")
