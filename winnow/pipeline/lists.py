"""Lists of a shoot's frames, as files hold them; also without a server."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from sqlite3 import Connection

from winnow.core import lists as rules
from winnow.core.filters import FrameFilter
from winnow.core.labels import LabelSet
from winnow.core.sentence import parse
from winnow.formats.lists import Form, written
from winnow.store import labels, lists, shoots
from winnow.store.census import Census
from winnow.store.reading import NothingThereError, reading


class NotKnownError(ValueError):
    """A folder that is no known shoot; the message says what to do."""


def frame_list(data: Path, folder: Path, show: str, form: Form, columns: Sequence[str]) -> str:
    """The frames of a folder that pass a filter, in capture order, as a list. data: the data folder in which its
    shoot is kept. Raises NotKnownError, and ValueError for a filter or a column that is not understood."""
    try:
        with reading(data) as connection:
            shoot_id = shoots.of_folder(connection, folder.resolve())
            if shoot_id is None:
                raise NotKnownError(f"{folder} is not an open shoot: open it with winnow serve first.")
            named = labels.current(connection)
            return list_of(connection, Census(shoot_id), parse(show, named), named, form, columns)
    except NothingThereError as error:
        raise NotKnownError(str(error)) from error


def list_of(
    connection: Connection,
    census: Census,
    wanted: FrameFilter,
    named: LabelSet,
    form: Form,
    columns: Sequence[str],
) -> str:
    """The frames of a shoot that pass a filter as a list. Raises ValueError for a column that there is not."""
    chosen = rules.columns_of(["name"] if form is Form.NAMES else columns)
    ids, _, _ = census.look(connection, wanted, named)
    return written(form, chosen, rules.table(lists.known(connection, ids), chosen, named))
