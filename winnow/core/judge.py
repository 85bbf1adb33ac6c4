"""What the evidence of a frame says beside the other frames of its group: verdicts, people, and the lead.

Nothing here is a mark. Every reason carries the figures it rests on and the place in the picture.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from statistics import median

import numpy as np

from winnow.core import exposure
from winnow.core.evidence import Evidence, Face, Subject, SubjectKind
from winnow.core.exposure import ExposureVerdict
from winnow.core.faces import eyes
from winnow.core.faces.eyes import EyeState
from winnow.core.faces.mouths import Mouth, mouth_of
from winnow.core.faces.people import same_people
from winnow.core.focus.blurmap import Spot
from winnow.core.focus.motion import Motion, MotionKind
from winnow.core.focus.verdict import SHARP_PX, SOFT_PX, FocusVerdict, Judged, in_words, judge_focus
from winnow.core.points import Point
from winnow.core.warned import Warned

EYES_CLOSED, EYES_NARROWED = 3.0, 1.0
"""What closed and narrowed eyes cost, shared among the people of the frame."""
ALIKE = 1.4
"""σ up to this many times the best of the group is as good, as far as measuring tells."""
SOFTNESS, BARELY_SOFTER = 1.2, 0.1
"""What every doubling of σ beyond that costs, and below it."""
MOST_SOFTNESS = 3.0
SHAKEN, MISSED, SOFT = 3.0, 2.0, 0.7
PERSON = (SubjectKind.EYES, SubjectKind.FACE, SubjectKind.BODY)
PLACES = {
    SubjectKind.POINT: "at your point",
    SubjectKind.EYES: "at the eye",
    SubjectKind.FACE: "at the face",
    SubjectKind.BODY: "at the body",
    SubjectKind.EXIF: "where the camera says",
    SubjectKind.AREA: "where the camera says",
    SubjectKind.SHARPEST: "at the sharpest place",
}
AWAY = 1.0
"""What a face turned away costs, where the same person faces the camera in another frame."""
UNSMILING, SPEAKING = 0.15, 0.15
"""What it costs if a face does not smile as it does in most frames of the group, and if it speaks: little, it only
decides between frames that are alike otherwise. Shared among the people of the frame."""
WRONG_EXPOSURE = 2.0
STOPS_OFF = 0.5
"""What each stop of difference to the group costs."""

LEAST_DOUBT = 0.01
"""A chance of being wrong from here on is said."""


@dataclass(frozen=True, slots=True)
class JudgedEye:
    x: float
    y: float
    state: EyeState
    ratio: float
    sigma_px: float | None


@dataclass(frozen=True, slots=True)
class JudgedFace:
    """A face in its group: person counts from 0 within the group; eyes are the person's right and left."""

    box: tuple[float, float, float, float]
    person: int
    facing: bool
    eyes: tuple[JudgedEye, JudgedEye]
    sigma_px: float | None
    mouth: Mouth

    @property
    def closed(self) -> bool:
        return any(eye.state is EyeState.CLOSED for eye in self.eyes)

    @property
    def told(self) -> bool:
        return any(eye.state is not EyeState.UNKNOWN for eye in self.eyes)


@dataclass(frozen=True, slots=True)
class Reason:
    """A reason for the place of a frame in its group: what it is about, for or against, in words, and where."""

    about: str
    good: bool
    text: str
    x: float | None = None
    y: float | None = None


@dataclass(frozen=True, slots=True)
class Judgement:
    """Of one frame in its group. rank counts from 0, the lead has 0."""

    focus: Judged
    subject: Subject | None
    exposure: ExposureVerdict
    group_stops: float | None
    faces: tuple[JudgedFace, ...]
    rank: int = 0
    reasons: tuple[Reason, ...] = ()
    warnings: tuple[Warned, ...] = ()
    cost: float = field(default=0.0, repr=False)

    @property
    def lead(self) -> bool:
        return self.rank == 0

    @property
    def looks(self) -> list[str]:
        """How its faces look, all together: `open` or `closed` (where eyes can be seen; one closed eye makes it
        closed), and `away`."""
        seen = [face for face in self.faces if any(eye.state is not EyeState.UNKNOWN for eye in face.eyes)]
        eyes = [] if not seen else ["closed" if any(face.closed for face in seen) else "open"]
        return eyes + ["away"] * any(not face.facing for face in self.faces)


def judge_group(
    group: Sequence[Evidence],
    bracket: bool = False,
    points: Mapping[int, Point] | None = None,
) -> list[Judgement]:
    """Judges the frames of one group, in capture order. points: what matters in some of them, as the person says, by
    number in the group."""
    faces = _judge_faces(group)
    stops = _group_stops(group)
    subjects = _subjects(group)
    for index, point in (points or {}).items():
        subjects[index] = _at_point(group[index], point)
    best = min((s.sigma_px for s in subjects if s and s.sigma_px is not None), default=None)
    alone = len(group) == 1
    judged = []
    for evidence, found, subject, off in zip(group, faces, subjects, stops, strict=True):
        focus = judge_focus(
            subject.sigma_px if subject else None,
            evidence.focus.sharpest,
            evidence.focus.motion,
            None if alone else best,
        )
        light = exposure.verdict(evidence.exposure, None if bracket else off)
        judged.append(Judgement(focus, subject, light, off, tuple(found)))
    return _ranked(group, judged, best, bracket)


def _judge_faces(group: Sequence[Evidence]) -> list[list[JudgedFace]]:
    people = same_people([[face.seen for face in evidence.faces] for evidence in group])
    told = [[eyes.readable(face.points, face.eye_sigma) for face in evidence.faces] for evidence in group]
    steadied = [
        [eyes.steadied(face.points.eyes, can) for face, can in zip(evidence.faces, cans, strict=True)]
        for evidence, cans in zip(group, told, strict=True)
    ]
    ratios: dict[int, list[tuple[int, float]]] = {}
    for index, numbers in enumerate(people):
        for person, pair, can in zip(numbers, steadied[index], told[index], strict=True):
            if any(can):
                ratios.setdefault(person, []).append((index, sum(pair) / 2))
    grins: dict[int, list[float]] = {}
    for evidence, numbers in zip(group, people, strict=True):
        for face, person in zip(evidence.faces, numbers, strict=True):
            grins.setdefault(person, []).append(face.points.grin)
    found = []
    for index, evidence in enumerate(group):
        row = []
        for face, person, pair, can in zip(
            evidence.faces, people[index], steadied[index], told[index], strict=True
        ):
            others = [ratio for at, ratio in ratios.get(person, ()) if at != index]
            mouth = mouth_of(face.points, grins[person])
            row.append(_judged_face(face, person, pair, can, others, mouth))
        found.append(row)
    return found


def _judged_face(
    face: Face,
    person: int,
    ratios: tuple[float, float],
    told: tuple[bool, bool],
    others: Sequence[float],
    mouth: Mouth,
) -> JudgedFace:
    judged = tuple(
        JudgedEye(eye.x, eye.y, eyes.state_of(ratio, can, others), ratio, sigma)
        for eye, ratio, can, sigma in zip(face.points.eyes, ratios, told, face.eye_sigma, strict=True)
    )
    return JudgedFace(face.points.box, person, eyes.is_facing(face.points), judged, face.sigma, mouth)  # type: ignore[arg-type]


def _group_stops(group: Sequence[Evidence]) -> list[float | None]:
    """Brightness of each frame against the median of the group, stops; None for a frame alone."""
    if len(group) < 2:
        return [None] * len(group)
    usual = median(evidence.exposure.median_stops for evidence in group)
    return [evidence.exposure.median_stops - usual for evidence in group]


def _at_point(evidence: Evidence, point: Point) -> Subject:
    """The person's own point; until it is measured, what the map of the frame says there."""
    measured = evidence.focus.point
    if measured is not None and math.dist((measured.x, measured.y), (point.x, point.y)) < 1:
        return measured
    return Subject(point.x, point.y, _sigma_at(evidence, point.x, point.y), SubjectKind.POINT)


def _subjects(group: Sequence[Evidence]) -> list[Subject | None]:
    """The subject of each frame. Where the eyes are soft in all frames of the group and one other place is
    sharp in them all, that place was meant. Where there are no eyes, the place that most frames are sharp at
    is looked up in the blur maps of the others."""
    own = [evidence.focus.subject for evidence in group]
    spots = [evidence.focus.sharpest for evidence in group]
    with_eyes = [subject for subject in own if subject and subject.kind in PERSON]
    if len(with_eyes) * 2 > len(group):
        sigmas = [s.sigma_px for s in with_eyes if s.sigma_px is not None]
        meant = _common_spot(group, spots)
        if len(group) < 2 or not sigmas or min(sigmas) <= SHARP_PX or meant is None:
            return own
        return [_at_spot(evidence, meant) for evidence in group]
    if len(group) < 3 or any(
        subject and subject.kind in (SubjectKind.EXIF, SubjectKind.AREA) for subject in own
    ):
        return own
    meant = _common_spot(group, spots)
    if meant is None:
        return own
    return [
        subject if subject and subject.kind in PERSON else _at_spot(evidence, meant)
        for evidence, subject in zip(group, own, strict=True)
    ]


def _common_spot(group: Sequence[Evidence], spots: Sequence[Spot | None]) -> Spot | None:
    """The place at which most frames, and more than half of them, are about as sharp as anywhere."""
    best: tuple[int, float, Spot] | None = None
    for spot in spots:
        if spot is None:
            continue
        sigmas = [_sigma_at(evidence, spot.x, spot.y) for evidence in group]
        agreeing = [
            sigma
            for sigma, own in zip(sigmas, spots, strict=True)
            if sigma is not None and own is not None and sigma <= max(1.4 * own.sigma_px, own.sigma_px + 0.15)
        ]
        key = (len(agreeing), -sum(agreeing) / max(1, len(agreeing)))
        if best is None or key > best[:2]:
            best = (*key, spot)
    return best[2] if best and best[0] * 2 > len(group) else None


def _sigma_at(evidence: Evidence, x: float, y: float) -> float | None:
    """The smallest σ of the tiles about a place: the frames of a group drift by a tile or so."""
    found = evidence.focus.map
    row, column = int(y / found.tile_px), int(x / found.tile_px)
    near = found.sigma[max(0, row - 1) : row + 2, max(0, column - 1) : column + 2]
    return float(np.nanmin(near)) if near.size and np.isfinite(near).any() else None


def _at_spot(evidence: Evidence, spot: Spot) -> Subject:
    return Subject(spot.x, spot.y, _sigma_at(evidence, spot.x, spot.y), SubjectKind.SHARPEST)


def _ranked(
    group: Sequence[Evidence], judged: list[Judgement], best: float | None, bracket: bool
) -> list[Judgement]:
    facing = {face.person for frame in judged for face in frame.faces if face.facing}
    costs, reasons = [], []
    for evidence, frame in zip(group, judged, strict=True):
        cost, said = _cost(evidence, frame, best, facing, bracket, len(group))
        costs.append(cost)
        reasons.append(said)
    order = sorted(range(len(group)), key=lambda index: (costs[index], index))
    ranks = {index: rank for rank, index in enumerate(order)}
    return [
        Judgement(
            frame.focus, frame.subject, frame.exposure, frame.group_stops, frame.faces,
            ranks[index], tuple(reasons[index]), tuple(_warnings(frame)), costs[index],
        )
        for index, frame in enumerate(judged)
    ]  # fmt: skip


def _cost(
    evidence: Evidence,
    frame: Judgement,
    best: float | None,
    facing: set[int],
    bracket: bool,
    count: int,
) -> tuple[float, list[Reason]]:
    """What speaks against a frame, summed with the weights above, and why, in words."""
    cost, said = 0.0, []
    told = [face for face in frame.faces if face.told]
    if told:
        closed = [face for face in told if face.closed]
        narrowed = [
            face for face in told
            if not face.closed and any(eye.state is EyeState.NARROWED for eye in face.eyes)
        ]  # fmt: skip
        weights = [face.box[2] - face.box[0] for face in told]
        share = [weight / sum(weights) * (1 + (len(told) - 1) / 2) for weight in weights]
        for face, weight in zip(told, share, strict=True):
            cost += weight * (EYES_CLOSED if face in closed else EYES_NARROWED if face in narrowed else 0)
        shut = next(iter(closed or narrowed), None)
        said.append(
            Reason(
                "eyes",
                not closed and not narrowed,
                _eyes_words(len(told), len(closed), len(narrowed)),
                shut.eyes[0].x if shut else None,
                shut.eyes[0].y if shut else None,
            )
        )
        away = [face for face in frame.faces if not face.facing and face.person in facing]
        if away:
            cost += AWAY * len(away) / len(frame.faces)
            box = away[0].box
            said.append(
                Reason(
                    "facing", False, f"{_count(len(away), 'face')} turned away", (box[0] + box[2]) / 2, box[1]
                )
            )
        for mouth, weight, words in (
            (Mouth.UNSMILING, UNSMILING, "not smiling as in the other frames"),
            (Mouth.SPEAKING, SPEAKING, "mouth open as in speech"),
        ):
            such = [face for face in frame.faces if face.mouth is mouth]
            if such:
                cost += weight * len(such) / len(frame.faces)
                box = such[0].box
                text = words if len(frame.faces) == 1 else f"{_count(len(such), 'face')} {words}"
                said.append(Reason("mouth", False, text, (box[0] + box[2]) / 2, box[3]))
    subject = frame.subject
    if evidence.focus.motion is not None:
        cost += SHAKEN * (frame.focus.verdict in (FocusVerdict.SHAKE, FocusVerdict.MOVED))
        said.append(_motion_reason(evidence.focus.motion))
    if subject and subject.sigma_px is not None:
        place = PLACES[subject.kind]
        if best is not None and count > 1:
            softness = max(0.0, math.log2(max(subject.sigma_px, 0.5) / max(best, 0.5)))
            beyond = max(0.0, softness - math.log2(ALIKE))
            cost += min(MOST_SOFTNESS, SOFTNESS * beyond + BARELY_SOFTER * softness)
            words = f"σ {in_words(subject.sigma_px)} {place}, best {in_words(best)}"
            good = beyond == 0
        else:
            words, good = f"σ {in_words(subject.sigma_px)} {place}", subject.sigma_px <= SHARP_PX
        said.append(Reason("focus", good, words, subject.x, subject.y))
    if frame.focus.verdict is FocusVerdict.MISSED:
        cost += MISSED
        spot = frame.focus.instead
        if spot:
            words = f"focus fell elsewhere: σ {in_words(spot.sigma_px)} there"
            said.append(Reason("focus", False, words, spot.x, spot.y))
    elif frame.focus.verdict is FocusVerdict.SOFT:
        cost += SOFT
        spot = evidence.focus.sharpest
        if spot is None or spot.sigma_px > SOFT_PX:
            said.append(Reason("nowhere", False, "nothing in the frame is sharp"))
    if frame.exposure is not ExposureVerdict.OK and not bracket:
        cost += WRONG_EXPOSURE
    if frame.group_stops is not None:
        cost += STOPS_OFF * abs(frame.group_stops)
        if abs(frame.group_stops) >= 0.3:
            side = "brighter" if frame.group_stops > 0 else "darker"
            words = f"{abs(frame.group_stops):.1f} stops {side} than the group"
            said.append(Reason("exposure", False, words))
    if evidence.exposure.clipped_high >= 0.02 and evidence.exposure.high_at:
        x, y = evidence.exposure.high_at
        words = f"{100 * evidence.exposure.clipped_high:.0f} % burnt"
        said.append(Reason("exposure", False, words, x * evidence.width, y * evidence.height))
    return cost, said


def _motion_reason(motion: Motion) -> Reason:
    """What moved, by how much, and how sure that is."""
    what = {
        MotionKind.SHAKE: "shaken by",
        MotionKind.SUBJECT: "the subject moved by",
        MotionKind.PAN: "panned: the ground is smeared by",
    }[motion.kind]
    words = f"{what} {motion.length_px:.0f} px at {motion.angle_deg:.0f}°"
    if motion.doubt >= LEAST_DOUBT:
        words += f" (wrong in {motion.doubt:.0%} of such cases)"
    return Reason("motion", motion.kind is MotionKind.PAN, words)


def _eyes_words(count: int, closed: int, narrowed: int) -> str:
    if not closed and not narrowed:
        return "eyes open" if count == 1 else f"eyes of all {count} open"
    if count == 1:
        return "eyes closed or lowered" if closed else "eyes narrowed"
    if closed:
        return f"eyes of {count - closed} of {count} open"
    return f"eyes of {narrowed} of {count} narrowed"


def _count(number: int, word: str) -> str:
    return f"1 {word}" if number == 1 else f"{number} {word}s"


def _warnings(frame: Judgement) -> list[Warned]:
    """What the frame should be looked at for."""
    found = []
    if frame.focus.verdict in (
        FocusVerdict.SOFT,
        FocusVerdict.MISSED,
        FocusVerdict.MOVED,
        FocusVerdict.SHAKE,
    ):
        found.append(Warned(frame.focus.verdict))
    if any(face.closed for face in frame.faces):
        found.append(Warned.EYES)
    if frame.exposure is not ExposureVerdict.OK:
        found.append(Warned(frame.exposure))
    return found
