"""What the evidence warns of."""

from __future__ import annotations

from enum import StrEnum


class Warned(StrEnum):
    MISSED = "missed"
    SOFT = "soft"
    MOVED = "moved"
    SHAKE = "shake"
    EYES = "eyes"
    UNDER = "under"
    OVER = "over"
    BLACK = "black"


IN_WORDS = {
    Warned.MISSED: "focus missed",
    Warned.SOFT: "soft",
    Warned.MOVED: "subject moved",
    Warned.SHAKE: "shaken",
    Warned.EYES: "eyes closed",
    Warned.UNDER: "dark",
    Warned.OVER: "bright",
    Warned.BLACK: "black",
}
