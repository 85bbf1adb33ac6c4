"""Capture order, and the splits that time alone shows."""

from __future__ import annotations

import math
import re
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta, timezone
from itertools import pairwise
from unicodedata import normalize

GROUP_GAP_S = 12.0
"""A pause longer than this between two frames starts a new group (common practice, no source)."""

SCENE_GAP_MIN_S = 420.0
"""No pause shorter than this starts a scene, however dense the shooting around it."""

_WINDOW = 10
_K = math.log(17)


def natural_key(name: str) -> tuple[tuple[int, int, str], ...]:
    """Sorts names the way people count: `DSC_2` before `DSC_10`, capitals ignored; a letter with an accent after
    the one without, however composed (Unicode 15, 3.11: canonical decomposition)."""
    parts = re.split(r"(\d+)", normalize("NFD", name.casefold()))
    return tuple((0, int(part), part) if part.isdecimal() else (1, 0, part) for part in parts if part)


@dataclass(frozen=True, slots=True)
class Stamp:
    """When a frame was taken: `captured_at` as ISO 8601 or None, its path, and its camera."""

    frame_id: int
    captured_at: str | None
    name: str
    camera: str | None = None


@dataclass(frozen=True, slots=True)
class Timed:
    """A frame in capture order, with its time in seconds, None where it has none."""

    frame_id: int
    seconds: float | None


def arrange(frames: Sequence[Stamp], ahead_s: Mapping[str, float] | None = None) -> list[Timed]:
    """Puts frames in capture order.

    ahead_s: seconds by which the clocks of cameras are ahead; taken off their times. Equal times fall back
    to the natural order of their paths. A frame without a time stands where its name puts it: right after the
    last timed frame of the names before it.
    """
    zone = _usual_offset([frame.captured_at for frame in frames])
    ahead = ahead_s or {}
    rows: list[tuple[float, int, int, float | None]] = []
    last = -math.inf
    for rank, frame in enumerate(sorted(frames, key=lambda frame: natural_key(frame.name))):
        seconds = _seconds(frame.captured_at, zone)
        if seconds is not None:
            seconds -= ahead.get(frame.camera or "", 0.0)
            last = seconds
        rows.append((last, rank, frame.frame_id, seconds))
    return [Timed(frame_id, seconds) for _, _, frame_id, seconds in sorted(rows, key=lambda row: row[:2])]


def same_moment(
    frames: Sequence[Stamp], ahead_s: Mapping[str, float], one: int, other: int
) -> tuple[str, float]:
    """The camera of the frame `other`, and how far its clock is ahead (seconds) if both frames show the same
    moment. Raises ValueError, in words for a person, where that cannot be told."""
    by_id = {frame.frame_id: frame for frame in frames}
    first, second = by_id[one], by_id[other]
    if second.camera is None or second.camera == first.camera:
        raise ValueError("Both frames are of one camera: its clock cannot be ahead of itself.")
    zone = _usual_offset([frame.captured_at for frame in frames])
    times = [_seconds(frame.captured_at, zone) for frame in (first, second)]
    if times[0] is None or times[1] is None:
        raise ValueError("One of the frames has no time in its file.")
    return second.camera, times[1] - times[0] + ahead_s.get(first.camera or "", 0.0)


def split_by_gaps(times: Sequence[float | None]) -> list[tuple[int, int]]:
    """(scene, group) of each frame from capture times in seconds, in order; None: no time.

    A scene starts where the gap stands out from the gaps around it:
    log g ≥ log 17 + mean of log g over the 10 gaps on either side.
    Source: Platt, Czerwinski & Field, *PhotoTOC: automatic clustering for browsing personal
    photographs*, 2003 (K = log 17 and d = 10 from memory).
    """
    known = [time for time in times if time is not None]
    gaps = [max(after - before, 1.0) for before, after in pairwise(known)]
    logs = [math.log(gap) for gap in gaps]
    splits: list[tuple[int, int]] = []
    scene = group = 0
    index = -1
    for time in times:
        if time is not None:
            index += 1
            if index > 0:
                near = logs[max(0, index - 1 - _WINDOW) : index + _WINDOW]
                gap = gaps[index - 1]
                stands_out = math.log(gap) >= _K + sum(near) / len(near)
                if gap >= SCENE_GAP_MIN_S and stands_out:
                    scene, group = scene + 1, group + 1
                elif gap > GROUP_GAP_S:
                    group += 1
        splits.append((scene, group))
    return splits


def _usual_offset(stamps: Sequence[str | None]) -> timezone:
    """The offset that most stamps carry, for the ones that carry none."""
    offsets = Counter(
        moment.utcoffset()
        for moment in (_parse(stamp) for stamp in stamps)
        if moment is not None and moment.tzinfo is not None
    )
    if not offsets:
        return UTC
    return timezone(offsets.most_common(1)[0][0] or timedelta(0))


def _seconds(stamp: str | None, zone: timezone) -> float | None:
    moment = _parse(stamp)
    if moment is None:
        return None
    return (moment if moment.tzinfo else moment.replace(tzinfo=zone)).timestamp()


def _parse(stamp: str | None) -> datetime | None:
    return datetime.fromisoformat(stamp) if stamp else None
