"""truth.json of the demo shoot in the application's own terms: upright pixels, paths below the shoot.

For tests and docs; the application never reads it.
"""

from __future__ import annotations

import json
from dataclasses import dataclass
from functools import cache

from winnow.demo.layout import shipped_frames

Point = tuple[float, float]
Affine = tuple[tuple[float, float, float], tuple[float, float, float]]
STILL: Affine = ((1, 0, 0), (0, 1, 0))


@dataclass(frozen=True)
class Person:
    """A person in a frame. Eyes: (the person's left, right), px; `sigma_px` the blur expected there,
    from defocus alone. `eyes`: open, half or closed, the worse of the two; `lids_lowered`: open, but
    looking down. `yaw`: turn of the head against the body, degrees."""

    name: str
    box: tuple[float, float, float, float]
    eyes_at: tuple[Point, Point]
    eyes: str
    lids_lowered: bool
    yaw: float
    sigma_px: tuple[float, float]

    @property
    def shut(self) -> bool:
        return self.eyes == "closed"


@dataclass(frozen=True)
class Frame:
    """What is really in a frame. `drift` takes a background point of the group's first frame to this
    one; `parallax` is the further shift of the people. `shake`: the camera's path, px."""

    path: str
    scene: str
    group: str
    true_time: str
    width: int
    height: int
    people: tuple[Person, ...]
    defects: frozenset[str]
    shake: Point | None
    subject_motion: Point | None
    ev_offset: float
    focus_on: str
    drift: Affine
    parallax: Point
    bracket: bool
    keeper: bool


def sigma_of_disc(diameter_px: float) -> float:
    """Standard deviation per axis of a uniform disc: c²/16 is the variance of one coordinate."""
    return diameter_px / 4


@cache
def frames() -> dict[str, Frame]:
    """All 163 frames by path, in true order of time."""
    document = json.loads((shipped_frames().parent / "truth.json").read_text())
    found = [_frame(entry) for entry in document["frames"]]
    return {frame.path: frame for frame in sorted(found, key=lambda frame: frame.true_time)}


def groups() -> dict[str, list[Frame]]:
    """Group id → its frames in order of time."""
    found: dict[str, list[Frame]] = {}
    for frame in frames().values():
        found.setdefault(frame.group, []).append(frame)
    return found


def clock_offsets() -> dict[str, float]:
    """Camera serial → its clock minus true time, seconds."""
    document = json.loads((shipped_frames().parent / "truth.json").read_text())
    return {c["serial"]: c["clock_offset_s"] for c in document["shoot"]["cameras"]}


def _frame(entry: dict) -> Frame:  # type: ignore[type-arg]
    return Frame(
        path=entry["file"].removeprefix("frames/"),
        scene=entry["scene"],
        group=entry["group"],
        true_time=entry["true_time"],
        width=entry["width"],
        height=entry["height"],
        people=tuple(_person(person) for person in entry["people"]),
        defects=frozenset(entry["defects"]),
        shake=_vector(entry["shake"]),
        subject_motion=_vector(entry["subject_motion"]),
        ev_offset=entry["ev_offset"],
        focus_on=entry["focus_target"],
        drift=tuple(tuple(row) for row in entry["drift_from_group_first"] or STILL),  # type: ignore[arg-type]
        parallax=tuple(entry["people_parallax_px"] or (0, 0)),  # type: ignore[arg-type]
        bracket=entry["bracket"],
        keeper=entry["keeper"],
    )


def _person(entry: dict) -> Person:  # type: ignore[type-arg]
    left, right = entry["blur_px_eyes"]
    return Person(
        name=entry["id"],
        box=tuple(entry["face_box"]),  # type: ignore[arg-type]
        eyes_at=(tuple(entry["eye_left"]), tuple(entry["eye_right"])),  # type: ignore[arg-type]
        eyes=entry["eyes"],
        lids_lowered=entry["lids_lowered"],
        yaw=entry["head_turn_deg"][0],
        sigma_px=(sigma_of_disc(left), sigma_of_disc(right)),
    )


def _vector(entry: dict | None) -> Point | None:  # type: ignore[type-arg]
    return (entry["dx"], entry["dy"]) if entry else None
