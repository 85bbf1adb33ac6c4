"""Who else is in a shoot."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from winnow.api.models.base import BodyId, Model, shown

Screen = Annotated[str, Field(pattern=r"^[a-z-]{1,20}$")]
"""As the interface calls it in its addresses."""

PageName = Annotated[str, Field(pattern=r"^[0-9a-f-]{8,64}$")]


class WhereWish(Model):
    """Where a page is. page: a name that it made up for itself. gone: it is closed, or in another shoot."""

    model_config = shown({"page": "5c1b-90aa-3f07-d2e4", "frame_id": 212, "screen": "bench"})

    page: PageName
    frame_id: BodyId | None = None
    screen: Screen
    gone: bool = Field(default=False, strict=True)


class CompanionView(Model):
    """Somebody else who has the shoot open. name: as their marks are signed."""

    page: str
    name: str
    frame_id: int | None
    screen: Screen


class Company(Model):
    """All others who have the shoot open. proposes: marks of whoever asks are proposals."""

    others: list[CompanionView]
    proposes: bool
