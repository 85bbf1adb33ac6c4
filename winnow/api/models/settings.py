"""Settings of the program."""

from __future__ import annotations

from pydantic import Field

from winnow.api.models.base import Model


class SettingsWish(Model):
    """cache_gb: room for derived pictures; the ones looked at longest ago give way."""

    cache_gb: int = Field(ge=1, le=100_000, strict=True)


class Settings(SettingsWish):
    """cache_bytes: what they take; None while that is being counted: ask again."""

    cache_bytes: int | None
