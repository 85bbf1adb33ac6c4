"""How well the evidence agrees with the truth of the demo shoot, as figures.

By hand: `winnow analyse FRAMES --json report.json; python -m tests.demo.figures report.json`.
"""

from __future__ import annotations

import json
import math
import sys
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from scipy.stats import spearmanr
from sklearn.metrics import adjusted_rand_score

from tests import truth

Report = dict[str, Any]


@dataclass(frozen=True)
class Hits:
    """How many were found, what was found beside them, what was not found."""

    right: int
    false: list[str]
    missed: list[str]

    @property
    def precision(self) -> float:
        return self.right / max(1, self.right + len(self.false))

    @property
    def recall(self) -> float:
        return self.right / max(1, self.right + len(self.missed))


def frames_of(report: Report) -> dict[str, Any]:
    return {frame["path"]: frame for frame in report["frames"]}


def verdicts(report: Report, verdict: str, defect: str) -> Hits:
    """Frames of a focus verdict against frames of a defect."""
    found = frames_of(report)
    wanted = {path for path, frame in truth.frames().items() if defect in frame.defects}
    given = {path for path, frame in found.items() if frame["focus"] and frame["focus"]["verdict"] == verdict}
    return Hits(len(wanted & given), sorted(given - wanted), sorted(wanted - given))


def missed_focus(report: Report) -> Hits:
    """Frames said to have missed, or to be sharp nowhere, against frames that missed."""
    found = frames_of(report)
    wanted = {path for path, frame in truth.frames().items() if "missed_focus" in frame.defects}
    given = {
        path
        for path, frame in found.items()
        if frame["focus"]
        and (frame["focus"]["verdict"] == "missed" or "nothing in the frame is sharp" in frame["reasons"])
    }
    return Hits(len(wanted & given), sorted(given - wanted), sorted(wanted - given))


def exposures(report: Report) -> Hits:
    found = frames_of(report)
    wanted = {path for path, frame in truth.frames().items() if frame.defects & {"under", "over"}}
    given = {path for path, frame in found.items() if frame["exposure"]["verdict"] != "ok"}
    return Hits(len(wanted & given), sorted(given - wanted), sorted(wanted - given))


def matched_faces(report: Report) -> tuple[list[tuple[truth.Frame, truth.Person, dict[str, Any]]], Hits]:
    """Faces that were found, each with its person; and how many were found and not."""
    pairs, false, missed = [], [], []
    found = frames_of(report)
    for path, frame in truth.frames().items():
        free = list(found[path]["faces"])
        for person in frame.people:
            middle = [sum(axis) / 2 for axis in zip(*person.eyes_at, strict=True)]
            apart = math.dist(*person.eyes_at)
            near = [face for face in free if math.dist(middle, middle_of_eyes(face)) < apart]
            if near:
                best = min(near, key=lambda face: math.dist(middle, middle_of_eyes(face)))
                free.remove(best)
                pairs.append((frame, person, best))
            else:
                missed.append(f"{path} {person.name}")
        false += [path for _ in free]
    return pairs, Hits(len(pairs), false, missed)


def middle_of_eyes(face: dict[str, Any]) -> tuple[float, float]:
    one, two = face["eyes"]
    return (one["x"] + two["x"]) / 2, (one["y"] + two["y"]) / 2


def closed_eyes(report: Report) -> Hits:
    """Faces of 60 px and more, not far out of focus: eyes closed against open. Half closed ones count as
    neither, eyes that cannot be told as open."""
    right, false, missed = 0, [], []
    for frame, person, face in matched_faces(report)[0]:
        if person.box[2] < 60 or max(person.sigma_px) > 3 or person.eyes == "half":
            continue
        closed = any(eye["state"] == "closed" for eye in face["eyes"])
        if person.shut and closed:
            right += 1
        elif person.shut:
            missed.append(frame.path)
        elif closed:
            false.append(frame.path)
    return Hits(right, false, missed)


def blur_at_eyes(report: Report, least_sigma: float = 0.0) -> tuple[float, int]:
    """Rank correlation (Spearman) of σ at the eyes with the blur expected there, and of how many eyes. Frames
    that moved are left out: the truth gives defocus alone."""
    expected, measured = [], []
    for frame, person, face in matched_faces(report)[0]:
        if frame.shake or frame.subject_motion:
            continue
        # The person's left eye is the second of the report, the first of the truth.
        for sigma, eye in zip(person.sigma_px, reversed(face["eyes"]), strict=True):
            if eye["sigma_px"] is not None and sigma >= least_sigma:
                expected.append(sigma)
                measured.append(eye["sigma_px"])
    return float(spearmanr(expected, measured).statistic), len(expected)


def told_apart(report: Report, soft: float, sharp: float = 0.3) -> float:
    """How surely eyes blurred by at least `soft` px measure softer than those blurred by at most `sharp` px:
    the share of pairs in the right order (area under the ROC curve)."""
    groups: tuple[list[float], list[float]] = ([], [])
    for frame, person, face in matched_faces(report)[0]:
        if frame.shake or frame.subject_motion:
            continue
        for sigma, eye in zip(person.sigma_px, reversed(face["eyes"]), strict=True):
            if eye["sigma_px"] is not None and (sigma <= sharp or sigma >= soft):
                groups[sigma >= soft].append(eye["sigma_px"])
    pairs = [(a < b) + (a == b) / 2 for a in groups[0] for b in groups[1]]
    return sum(pairs) / len(pairs)


def grouping(report: Report) -> tuple[float, float]:
    """Adjusted Rand index of groups and of scenes (Hubert & Arabie 1985)."""
    found = frames_of(report)
    paths = list(truth.frames())
    wanted = [(truth.frames()[path].group, truth.frames()[path].scene) for path in paths]
    given = [(found[path]["group"], found[path]["scene"]) for path in paths]
    return tuple(  # type: ignore[return-value]
        float(adjusted_rand_score([w[k] for w in wanted], [g[k] for g in given])) for k in (0, 1)
    )


def same_people(report: Report) -> tuple[int, int]:
    """Faces whose number in the group means one person, and all faces."""
    known: dict[tuple[str, int], str] = {}
    right = 0
    pairs = matched_faces(report)[0]
    for frame, person, face in pairs:
        right += known.setdefault((frame.group, face["person"]), person.name) == person.name
    return right, len(pairs)


def keepers_in_front(report: Report) -> tuple[int, int]:
    """How many keepers come first or second in their group, and how many keepers there are."""
    found = frames_of(report)
    ranks = [found[path]["rank"] for path, frame in truth.frames().items() if frame.keeper]
    return sum(rank is not None and rank < 2 for rank in ranks), len(ranks)


def faulty_leads(report: Report) -> list[str]:
    """Frames with a defect that lead a group in which there is a keeper."""
    kept = {frame.group for frame in truth.frames().values() if frame.keeper}
    leads = [frame["path"] for frame in report["frames"] if frame["lead"]]
    return [path for path in leads if truth.frames()[path].defects and truth.frames()[path].group in kept]


def main(path: Path) -> None:
    report = json.loads(path.read_text())
    print("faces", matched_faces(report)[1])
    print("closed eyes", closed_eyes(report))
    print("missed focus", missed_focus(report))
    print("shake", verdicts(report, "shake", "shake"))
    print("exposure", exposures(report))
    print("groups, scenes", grouping(report))
    print("same person", same_people(report))
    print("blur at the eyes: all", blur_at_eyes(report), "from 0.5 px", blur_at_eyes(report, 0.5))
    print("told apart from sharp ones: 1 px", told_apart(report, 1), "2 px", told_apart(report, 2))
    print("keepers among the first two of their group", keepers_in_front(report))
    print("faulty frames that lead a group with a keeper", faulty_leads(report))


if __name__ == "__main__":
    main(Path(sys.argv[1]))
