"""Settings of the program."""

from __future__ import annotations

from pydantic import StrictBool

from winnow.api.models.base import Model, shown
from winnow.core import settings
from winnow.core.settings import Backups, CacheGb, Port, Workers


class SettingsWish(Model):
    """What is not said stays. What each means is said in `Settings`."""

    model_config = shown({"cache_gb": 120, "backups_kept": 14})

    cache_gb: CacheGb | None = None
    takes_in: StrictBool | None = None
    full_sidecar_names: StrictBool | None = None
    watch: StrictBool | None = None
    workers: Workers | None = None
    open_browser: StrictBool | None = None
    port: Port | None = None
    backups_kept: Backups | None = None
    picture_names_in_log: StrictBool | None = None


class Settings(settings.Settings):
    """What is set. meanings: what each setting means, by its name; file: where that is kept, and may be changed as
    well; problem: why the file as it is now cannot be read, null if it can. cache_bytes: what derived pictures take;
    null while that is being counted: ask again."""

    meanings: dict[str, str]
    file: str
    problem: str | None
    cache_bytes: int | None
