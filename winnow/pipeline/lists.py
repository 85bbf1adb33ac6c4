"""Lists of a shoot's frames without a server."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from winnow.core import lists as rules
from winnow.core.sentence import parse
from winnow.formats.lists import Form, written
from winnow.store import labels, lists, shoots
from winnow.store.census import Census
from winnow.store.database import DATABASE, Database


class NotKnownError(ValueError):
    """A folder that is no known shoot; the message says what to do."""


def frame_list(data: Path, folder: Path, show: str, form: Form, columns: Sequence[str]) -> str:
    """The frames of a folder that pass a filter, in capture order, as a list. data: the data folder in which its
    shoot is kept. Raises NotKnownError, and ValueError for a filter or a column that is not understood."""
    connection = Database(data / DATABASE).connection() if (data / DATABASE).is_file() else None
    shoot_id = shoots.of_folder(connection, folder.resolve()) if connection else None
    if connection is None or shoot_id is None:
        raise NotKnownError(f"{folder} is no shoot that is known here: open it with winnow serve first.")
    named = labels.current(connection)
    chosen = rules.columns_of(["name"] if form is Form.NAMES else columns)
    ids, _, _ = Census(shoot_id).look(connection, parse(show, named), named)
    return written(form, chosen, rules.table(lists.known(connection, ids), chosen, named))
