"""A whole shoot as an archive."""

from __future__ import annotations

from pydantic import ConfigDict

from winnow.api.models.base import Model


class JoinedView(Model):
    """What joining an archive did or would do. found: frames of it that are here; missing: names of the others, the
    first of them; whole: nobody did anything to the shoot yet, so history and passes come along; taken: frames that
    get marks; differ: frames that are marked otherwise here."""

    model_config = ConfigDict(extra="ignore", from_attributes=True)

    title: str
    made_at: str
    frames: int
    found: int
    missing: list[str]
    whole: bool
    taken: int
    differ: int
    actions: int
    walks: int
