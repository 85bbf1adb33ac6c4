"""What part of the shoot is in view."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum

from winnow.core.marks import MAX_RATING, Decision


class RatingRule(StrEnum):
    """How the stars of a frame are compared with those of the filter."""

    AT_LEAST = "at_least"
    EXACTLY = "exactly"
    AT_MOST = "at_most"
    UNRATED = "unrated"


class Warned(StrEnum):
    """What the evidence warns of."""

    MISSED = "missed"
    SOFT = "soft"
    MOVED = "moved"
    SHAKE = "shake"
    EYES = "eyes"
    UNDER = "under"
    OVER = "over"
    BLACK = "black"


@dataclass(frozen=True, slots=True)
class FrameKind:
    """All of a frame that filters ask for; few frames of a shoot differ in it. unreadable: it has a problem;
    problem: it has a problem or a note; faces: None before it is measured; again: its problem may have passed."""

    decision: Decision
    rating: int
    unreadable: bool
    problem: bool
    warnings: frozenset[Warned]
    faces: bool | None
    copies: bool
    again: bool
    lead: bool


def as_cover(kind: FrameKind) -> tuple[int, ...] | None:
    """How well a frame of this kind stands for its shoot, the more the better: a keeper, the one of most stars; else
    the lead of a group of which nothing warns. None: not at all, as a frame that cannot be read or a misfire."""
    misfired = kind.warnings & {Warned.BLACK, Warned.UNDER, Warned.OVER}
    if (
        kind.unreadable
        or kind.decision is Decision.REJECT
        or (misfired and kind.decision is not Decision.KEEP)
    ):
        return None
    kept = kind.decision is Decision.KEEP
    return (kept, kind.rating if kept else 0, not kind.warnings, kind.lead)


@dataclass(frozen=True, slots=True)
class FrameFilter:
    """Frames pass that meet every part; an empty part lets all pass.

    `at most N` means rated frames: an unrated frame is not a frame of few stars. warnings: frames with any of
    these pass. faces: with (True) or without (False). similar: with (True) or without (False) other frames
    in their group. copies: only frames whose content is in the shoot more than once.
    """

    decisions: frozenset[Decision] = frozenset()
    rating_rule: RatingRule | None = None
    stars: int = 0
    problems_only: bool = False
    warnings: frozenset[Warned] = frozenset()
    faces: bool | None = None
    similar: bool | None = None
    copies: bool = False

    def __post_init__(self) -> None:
        if self.rating_rule not in (None, RatingRule.UNRATED) and not 1 <= self.stars <= MAX_RATING:
            raise ValueError(f"A rating filter asks for 1 to {MAX_RATING} stars.")

    @property
    def shows_all(self) -> bool:
        return self == FrameFilter()

    def passes(self, kind: FrameKind) -> bool:
        """Whether frames of a kind pass, as far as their groups do not matter (`similar`)."""
        low, high = self.star_range()
        return (
            (not self.decisions or kind.decision in self.decisions)
            and low <= kind.rating <= high
            and (not self.problems_only or kind.problem)
            and (not self.warnings or not self.warnings.isdisjoint(kind.warnings))
            and (self.faces is None or kind.faces is self.faces)
            and (not self.copies or kind.copies)
        )

    def star_range(self) -> tuple[int, int]:
        """Lowest and highest rating that pass, both included."""
        match self.rating_rule:
            case None:
                return (0, MAX_RATING)
            case RatingRule.AT_LEAST:
                return (self.stars, MAX_RATING)
            case RatingRule.EXACTLY:
                return (self.stars, self.stars)
            case RatingRule.AT_MOST:
                return (1, self.stars)
            case RatingRule.UNRATED:
                return (0, 0)
