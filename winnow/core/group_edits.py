"""What a person says of groups: a frame begins one, or goes with another frame. Groups that are split, joined or
given a frame are told by such words on frames, so that they hold however the rest is measured and grouped."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum


@dataclass(frozen=True, slots=True)
class Word:
    """Of one frame: it goes with the group of another frame, or, with None, begins a group."""

    goes_with: int | None

    def __str__(self) -> str:
        return "begins" if self.goes_with is None else f"with {self.goes_with}"

    @classmethod
    def parse(cls, text: str) -> Word:
        """The opposite of `str`. Raises ValueError for anything else."""
        return cls(None if text == "begins" else int(text.removeprefix("with ")))


class Regrouping(StrEnum):
    """What can be done to the group of a frame."""

    SPLIT = "split"
    JOIN_NEXT = "join_next"
    TO_PREVIOUS = "to_previous"
    TO_NEXT = "to_next"
    AS_MEASURED = "as_measured"


TITLES = {
    Regrouping.SPLIT: "group split",
    Regrouping.JOIN_NEXT: "groups joined",
    Regrouping.TO_PREVIOUS: "frame moved to the group before",
    Regrouping.TO_NEXT: "frame moved to the next group",
    Regrouping.AS_MEASURED: "group as measured",
}


def words_for(
    action: Regrouping, frame_id: int, placed: Sequence[tuple[int, int]], said: Mapping[int, Word]
) -> Mapping[int, Word | None]:
    """The words that bring an action about; None takes back what was said of a frame.

    placed: (frame, group) of every frame in the order of the shoot. said: the words so far. Raises ValueError,
    in words for a person, where the action would change nothing.
    """
    group = dict(placed)[frame_id]
    members = [frame for frame, of in placed if of == group]
    if action is Regrouping.SPLIT:
        if frame_id == members[0]:
            raise ValueError(
                "This frame begins its group already: go to the one that should begin a new one."
            )
        later = members[members.index(frame_id) + 1 :]
        return {frame_id: Word(None)} | {frame: Word(frame_id) for frame in later}
    if action is Regrouping.AS_MEASURED:
        changed = [frame for frame in members if frame in said]
        if not changed:
            raise ValueError("Nothing was changed in this group.")
        return dict.fromkeys(changed)
    neighbour = _neighbour(placed, group, -1 if action is Regrouping.TO_PREVIOUS else 1)
    if neighbour is None:
        raise ValueError("There is no group on that side.")
    if action is Regrouping.JOIN_NEXT:
        return {frame: Word(members[0]) for frame in neighbour}
    # Words lead to earlier frames, so what goes to the next group becomes the first of it.
    moved: dict[int, Word | None] = {frame_id: Word(neighbour[0])}
    if action is Regrouping.TO_NEXT:
        moved = {frame_id: Word(None), **{frame: Word(frame_id) for frame in neighbour}}
    at = members.index(frame_id)
    left = members[:at] + members[at + 1 :]
    if at == 0 and left:
        moved[left[0]] = Word(None)
    return moved | {frame: Word(left[0]) for frame in left[max(at, 1) :]}


def _neighbour(placed: Sequence[tuple[int, int]], group: int, by: int) -> list[int] | None:
    """Frames of the group before or after, in order."""
    order = list(dict.fromkeys(of for _, of in placed))
    at = order.index(group) + by
    if not 0 <= at < len(order):
        return None
    return [frame for frame, of in placed if of == order[at]]
