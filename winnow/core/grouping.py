"""Scenes, groups and brackets: what the photographer was doing, out of time, likeness and settings.

One pass in capture order: a frame joins the group at hand of its camera if it goes with one of that group's
last frames, else it starts a new one. So groups can be told while measuring goes on, a frame that comes late
only touches its neighbours, and a return to an earlier place is a new group.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from winnow.core.faces.people import Seen, other_people
from winnow.core.group_edits import Word
from winnow.core.order import GROUP_GAP_S, split_by_gaps
from winnow.core.similarity import Descriptor, Likeness, compare

LOOK_BACK = 3
"""So many last frames of a group a new frame is compared with: one may be a misfire."""

BURST_S, MOMENT_S, POSE_S = 1.5, 15.0, 60.0
"""Pauses up to which frames are a burst, one go, one pose at most (common practice, no source)."""
DCF_DIRECTORY = re.compile(r"\d{3}\w{5}")
SAME_ZOOM = 1.15
"""Focal lengths may differ by this factor in a group: zooming in is a new framing."""


@dataclass(frozen=True, slots=True)
class Shot:
    """A frame as grouping needs it; None where it is not known (yet).

    seconds: capture time, aligned between cameras. camera: the body (`body_of`). ev: exposure value, stops at ISO
    100. people: the faces. kept: whoever compares has its descriptor, though it is not here.
    """

    frame_id: int
    seconds: float | None
    camera: str | None = None
    lens: str | None = None
    focal_mm: float | None = None
    upright_format: bool = False
    ev: float | None = None
    descriptor: Descriptor | None = None
    people: tuple[Seen, ...] = ()
    kept: bool = False

    @property
    def described(self) -> bool:
        return self.kept or self.descriptor is not None


@dataclass(frozen=True, slots=True)
class Grouped:
    """The group of a frame: scene and group count from 0; bracket: the group is an exposure bracket."""

    frame_id: int
    scene: int
    group: int
    bracket: bool


def body_of(serial: str | None, camera: str | None, folder: int, name: str) -> str | None:
    """Which body took a frame, as far as it can be told: its serial number, or else its model, the folder and the
    first four letters of the file's name, which a person may set for each body. (DCF 2.0, JEITA CP-3461: directories
    are numbered, and a body goes on to the next.) name: path below the folder."""
    if serial or not camera:
        return serial or camera
    *directories, file = name.split("/")
    if directories and DCF_DIRECTORY.fullmatch(directories[-1]):
        directories[-1] = directories[-1][3:]
    return "/".join([camera, str(folder), *directories, file[:4]])


Compare = Callable[[Shot, Shot, bool], Likeness]


def compare_shots(one: Shot, other: Shot, match: bool) -> Likeness:
    """Likeness of two shots that have descriptors."""
    assert one.descriptor is not None and other.descriptor is not None
    return compare(one.descriptor, other.descriptor, match=match)


def group_shots(
    shots: Sequence[Shot],
    said: Mapping[int, Word] | None = None,
    compared: Compare = compare_shots,
) -> list[Grouped]:
    """Scene and group of every frame.

    shots: in capture order. said: a person's own words by frame; they always win. compared:
    gives the likeness of two shots, for callers that keep the answers.
    """
    said = said or {}
    placed: dict[int, int] = {}
    scenes = [scene for scene, _ in split_by_gaps([shot.seconds for shot in shots])]
    groups: list[list[int]] = []
    at_hand: dict[str | None, int] = {}
    before: dict[str | None, int] = {}
    for index, shot in enumerate(shots):
        word = said.get(shot.frame_id)
        group = at_hand.get(shot.camera)
        if word and word.goes_with in placed:
            group = placed[word.goes_with]
        elif word or group is None or not _joins(shots, groups[group], index, scenes, compared):
            earlier = before.get(shot.camera)
            stray = (
                group is not None
                and earlier is not None
                and len(groups[group]) == 1
                and _same_framing(shots[groups[group][0]], shot)
            )
            if word is None and stray and _joins(shots, groups[earlier], index, scenes, compared):  # type: ignore[index]
                # One frame of something else, a misfire perhaps, does not end what was being shot.
                group = earlier
            else:
                if group is not None:
                    before[shot.camera] = group
                groups.append([])
                group = len(groups) - 1
        assert group is not None
        groups[group].append(index)
        placed[shot.frame_id] = at_hand[shot.camera] = group
    brackets = [_is_bracket([shots[index] for index in members], compared) for members in groups]
    found: list[Grouped | None] = [None] * len(shots)
    for number, members in enumerate(groups):
        for index in members:
            found[index] = Grouped(shots[index].frame_id, scenes[members[0]], number, brackets[number])
    return [placed for placed in found if placed is not None]


def _joins(
    shots: Sequence[Shot], members: Sequence[int], index: int, scenes: Sequence[int], compared: Compare
) -> bool:
    shot = shots[index]
    if scenes[members[-1]] != scenes[index]:
        return False
    return any(_goes_with(shots[member], shot, compared) for member in reversed(members[-LOOK_BACK:]))


def _goes_with(before: Shot, after: Shot, compared: Compare) -> bool:
    """Whether two frames of one camera show the same idea."""
    if not _same_framing(before, after):
        return False
    pause = (
        max(0.0, after.seconds - before.seconds)
        if before.seconds is not None and after.seconds is not None
        else None
    )
    if pause is not None and pause > POSE_S:
        return False
    if not (before.described and after.described):
        return pause is None or pause <= GROUP_GAP_S
    like = compared(before, after, False)
    burst = pause is not None and pause <= BURST_S
    if burst:
        # The subject or the camera may move fast; only a wholly different picture is not the same idea.
        if like.structure >= 0.5 or like.colour <= 12:
            return True
        return (compared(before, after, True).matched or 0) >= 0.05
    if other_people(before.people, after.people):
        return False
    if _other_exposure(before, after) and _same_view(like, before, after, compared):
        return True  # light that is cut off changes colours
    if pause is None:
        # Nothing but looks: moving by a tenth of the frame changes colours everywhere, but hardly the structure.
        looks_like = like.structure >= 0.8 and like.colour <= 15
        return looks_like or _same_view(like, before, after, compared)
    if pause <= MOMENT_S:
        if like.colour > 22:
            return _same_view(like, before, after, compared)
        if like.structure >= 0.6 or like.colour <= 9:
            return True
        return (compared(before, after, True).matched or 0) >= 0.12
    if like.structure >= 0.8 and like.colour <= 12:
        return True
    return like.colour <= 15 and (compared(before, after, True).matched or 0) >= 0.25


def _same_view(like: Likeness, before: Shot, after: Shot, compared: Compare) -> bool:
    """Whether two frames show the same place from the same side, whatever the light."""
    if like.structure >= 0.9 and like.colour <= 35:
        return True
    return like.structure >= 0.7 and like.colour <= 40 and (compared(before, after, True).matched or 0) >= 0.3


def _other_exposure(before: Shot, after: Shot) -> bool:
    """Whether the camera was set otherwise, as in a bracket."""
    if before.ev is None or after.ev is None:
        return False
    return abs(after.ev - before.ev) >= BRACKET_STEP


def _same_framing(before: Shot, after: Shot) -> bool:
    """Whether the camera was held the same way, with the same lens at about the same zoom."""
    return before.upright_format == after.upright_format and not _other_lens(before, after)


def _other_lens(before: Shot, after: Shot) -> bool:
    if before.lens and after.lens and before.lens != after.lens:
        return True
    if not before.focal_mm or not after.focal_mm:
        return False
    return abs(math.log(after.focal_mm / before.focal_mm)) > math.log(SAME_ZOOM)


BRACKET_STEP = 0.6
"""Least step between frames of a bracket, stops."""
BRACKET_S = 20.0
"""Longest time that a bracket takes."""


def _is_bracket(members: Sequence[Shot], compared: Compare) -> bool:
    """Three frames or more of one framing, all with different exposures (Ev = Av + Tv, APEX)."""
    if len(members) < 3:
        return False
    exposures = [shot.ev for shot in members if shot.ev is not None]
    times = [shot.seconds for shot in members if shot.seconds is not None]
    if len(exposures) < len(members) or (times and times[-1] - times[0] > BRACKET_S):
        return False
    if float(np.diff(sorted(exposures)).min()) < BRACKET_STEP:
        return False
    described = [shot for shot in members if shot.described]
    return all(compared(one, other, False).structure >= 0.85 for one, other in pairwise(described))


def exposure_value(aperture: float | None, shutter_s: float | None, iso: int | None) -> float | None:
    """Ev at ISO 100, stops: log₂ N² − log₂ t − log₂ (ISO/100). Source: APEX, Exif annex."""
    if not aperture or not shutter_s:
        return None
    return math.log2(aperture**2 / shutter_s) - math.log2((iso or 100) / 100)
