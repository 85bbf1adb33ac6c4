"""Settings that a person may change."""

from __future__ import annotations

from winnow.api.desk import OnDesk
from winnow.api.models.settings import Settings, SettingsWish
from winnow.api.problems import CHANGING, Code, ProblemError, answers
from winnow.api.routes import routes
from winnow.core import settings
from winnow.store.database import display
from winnow.store.settings import SettingsError

router = routes("/api/settings", "settings")


@router.get("", responses=answers())
def get_settings(desk: OnDesk) -> Settings:
    """What is set, and how much room the derived pictures take now."""
    return _settings(desk)


@router.put("", responses=answers(*CHANGING, Code.CANNOT_BE_DONE))
def change_settings(desk: OnDesk, wish: SettingsWish) -> Settings:
    """Changes what is set, in the file; what is too much then is forgotten in the background."""
    try:
        desk.database.settings.change(wish.model_dump(exclude_none=True))
    except SettingsError as error:
        raise ProblemError(Code.CANNOT_BE_DONE, str(error)) from error
    except OSError as error:
        file = display(desk.database.settings.path)
        raise ProblemError(Code.CANNOT_BE_DONE, f"{file} cannot be written ({error.strerror}).") from error
    desk.engine.room.tidy()
    return _settings(desk)


def _settings(desk: OnDesk) -> Settings:
    file = desk.database.settings
    return Settings(
        **file.now().model_dump(),
        meanings={name: str(field.description) for name, field in settings.Settings.model_fields.items()},
        file=display(file.path),
        problem=file.problem,
        cache_bytes=desk.engine.room.taken(),
    )
