"""Settings of the program."""

from __future__ import annotations

from pydantic import Field, StrictBool

from winnow.api.models.base import Model


class SettingsWish(Model):
    """What is not said stays. cache_gb: room for derived pictures; the ones looked at longest ago give way; takes_in:
    marks that only other programs changed are taken over when a shoot is opened; full_sidecar_names: new sidecars
    are called NAME.EXT.xmp, and not NAME.xmp."""

    cache_gb: int | None = Field(None, ge=1, le=100_000, strict=True)
    takes_in: StrictBool | None = None
    full_sidecar_names: StrictBool | None = None


class Settings(Model):
    """See `SettingsWish`. cache_bytes: what derived pictures take; None while that is being counted: ask again."""

    cache_gb: int
    takes_in: bool
    full_sidecar_names: bool
    cache_bytes: int | None
