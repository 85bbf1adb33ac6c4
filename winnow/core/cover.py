"""Which frame stands for a shoot in the list of shoots."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from winnow.core.columns import DECISIONS, WARNINGS, Columns
from winnow.core.marks import MAX_RATING, Decision
from winnow.core.warned import Warned

MISFIRED = sum(1 << WARNINGS.index(warning) for warning in (Warned.BLACK, Warned.UNDER, Warned.OVER))


def cover_worth(columns: Columns) -> NDArray[np.int64]:
    """How well each frame stands for its shoot, the more the better: a keeper, the one of most stars; else the lead
    of a group of which nothing warns. −1: not at all, as a frame that cannot be read, a reject or a misfire."""
    kept = columns.decision == DECISIONS.index(Decision.KEEP)
    misfired = (columns.warnings & MISFIRED) != 0
    out = (
        columns.flags["unreadable"]
        | (columns.decision == DECISIONS.index(Decision.REJECT))
        | (misfired & ~kept)
    )
    stars = np.where(kept, columns.rating, 0).astype(np.int64)
    worth = kept * 4 * (MAX_RATING + 1) + stars * 4 + (columns.warnings == 0) * 2 + columns.flags["lead"]
    return np.where(out, -1, worth)
