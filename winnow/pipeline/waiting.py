"""Frames that wait for something to be done, found by how soon they will be wanted."""

from __future__ import annotations

from bisect import bisect_left, insort
from collections.abc import Iterable, Iterator, Mapping, MutableMapping

from winnow.store.frames import Picture


class Waiting(MutableMapping[int, Picture]):
    """By frame id. The next one is found without a look at all of them: a shoot may have 50,000."""

    def __init__(self, pictures: Iterable[Picture] = ()) -> None:
        self._pictures = {picture.frame_id: picture for picture in pictures}
        self._order = sorted(_place(picture) for picture in self._pictures.values())

    def __getitem__(self, frame_id: int) -> Picture:
        return self._pictures[frame_id]

    def __setitem__(self, frame_id: int, picture: Picture) -> None:
        self.pop(frame_id, None)
        self._pictures[frame_id] = picture
        insort(self._order, _place(picture))

    def __delitem__(self, frame_id: int) -> None:
        place = _place(self._pictures.pop(frame_id))
        del self._order[bisect_left(self._order, place)]

    def __iter__(self) -> Iterator[int]:
        return iter(self._pictures)

    def __len__(self) -> int:
        return len(self._pictures)

    def clear(self) -> None:
        self._pictures.clear()
        self._order.clear()

    def as_now(self, known: Mapping[int, Picture]) -> Waiting:
        """The same frames, with what is known of them now."""
        return Waiting(known.get(frame_id, picture) for frame_id, picture in self._pictures.items())

    def nearest(self, focus: int) -> Picture | None:
        """The frame that will be wanted first by somebody at this place; None if none waits."""
        at = bisect_left(self._order, (focus, 0))
        beside = [self._pictures[frame_id] for _, frame_id in self._order[max(at - 1, 0) : at + 1]]
        return min(beside, key=lambda picture: distance(picture, focus), default=None)


def _place(picture: Picture) -> tuple[int, int]:
    return picture.position, picture.frame_id


def distance(picture: Picture, focus: int) -> float:
    """How soon a frame will be wanted: forward is likelier than back."""
    ahead = picture.position - focus
    return ahead if ahead >= 0 else -2.5 * ahead
