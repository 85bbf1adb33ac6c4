"""A second start: the folders are opened in the Winnow that runs already."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from urllib.parse import urlencode

from winnow.client import NotReachedError, Winnow, WinnowError
from winnow.store.settings import SettingsError, SettingsFile


class NotTakenError(RuntimeError):
    """The one that runs cannot be asked, or refuses; the message says why, or is empty where that is not known."""


def open_there(
    data: Path, folders: Sequence[Path], say: Callable[[str], None], show: Callable[[str], None] | None
) -> None:
    """Opens folders in the server that runs on a data folder; one that it may not open is named in the settings
    first, as a first start allows what it is given. say: told where it is; show: given the address to open in the
    browser. Raises NotTakenError."""
    try:
        with Winnow.running(data) as winnow:
            opened = [_opened(winnow, folder, data, say) for folder in folders]
            code = winnow.entry_code()
            path = f"/shoots/{opened[0]}" if len(opened) == 1 else "/"
            say(f"Winnow runs already, at {winnow.address}{path}")
            if show is not None:
                show(winnow.address + path + (f"?{urlencode({'code': code})}" if code else ""))
    except NotReachedError as error:
        raise NotTakenError from error
    except WinnowError as error:
        raise NotTakenError(f"Winnow runs already, and did not open that: {error}") from error


def _opened(winnow: Winnow, folder: Path, data: Path, say: Callable[[str], None]) -> int:
    try:
        return winnow.open(folder).id
    except WinnowError as error:
        if error.code != "folder-refused" or not folder.is_dir():
            raise
    file = SettingsFile(data)
    try:
        known = file.check().roots
        file.change({"roots": [*known, str(folder.resolve())]})
    except (SettingsError, OSError) as error:
        raise NotTakenError(f"{folder} is outside the folders that Winnow may open: {error}") from error
    say(f"{folder} may be opened from now on: it is named under roots in {file.path}.")
    return winnow.open(folder).id
