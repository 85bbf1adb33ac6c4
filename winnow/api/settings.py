"""Settings that a person may change."""

from __future__ import annotations

from fastapi import APIRouter

from winnow.api.desk import OnDesk
from winnow.api.models.settings import Settings, SettingsWish
from winnow.api.problems import CHANGING, answers
from winnow.store import settings

router = APIRouter(prefix="/api/settings", tags=["settings"])


@router.get("", responses=answers())
def get_settings(desk: OnDesk) -> Settings:
    """What is set, and how much room the derived pictures take now."""
    return _settings(desk)


@router.put("", responses=answers(*CHANGING))
def change_settings(desk: OnDesk, wish: SettingsWish) -> Settings:
    """Changes what is set; what is too much then is forgotten in the background."""
    with desk.database.transaction() as connection:
        if wish.cache_gb is not None:
            settings.set_cache_gb(connection, wish.cache_gb)
        if wish.takes_in is not None:
            settings.set_takes_in(connection, wish.takes_in)
        if wish.full_sidecar_names is not None:
            settings.set_full_sidecar_names(connection, wish.full_sidecar_names)
    desk.engine.room.tidy()
    return _settings(desk)


def _settings(desk: OnDesk) -> Settings:
    connection = desk.database.connection()
    return Settings(
        cache_gb=settings.cache_gb(connection),
        takes_in=settings.takes_in(connection),
        full_sidecar_names=settings.full_sidecar_names(connection),
        cache_bytes=desk.engine.room.taken(),
    )
