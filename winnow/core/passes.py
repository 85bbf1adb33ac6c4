"""Passes: one walk through the shoot with one question. What a pass is is data: which frames it asks about, what they
start as, in which order and layout they come, which few keys are in force, and when one is done with.

Marks of a class that a pass does not ask for are not made in it (`Pass.fields`).
"""

from __future__ import annotations

import json
from collections.abc import Collection, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, fields
from enum import StrEnum
from typing import Any, TypeVar

from winnow.core.labels import LabelSet
from winnow.core.marks import WORD_FIELDS, Decision, Field
from winnow.core.pairing import fold
from winnow.core.sentence import SentenceError, parse

VERSION = 1
"""Of the form in which passes are written."""

LONGEST_NAME = 60
LONGEST_QUESTION = 200
MOST_KEYS = 30
MOST_BULK = 20


class Start(StrEnum):
    """What frames start as. KEPT: those that are undecided are kept (opting out). OPEN: those that are kept only
    because a pass started so are undecided again, where others of their group are asked about too (opting in)."""

    AS_IS = "as it is"
    KEPT = "all kept"
    OPEN = "open again"


class Order(StrEnum):
    """In which a pass goes. PAIRS: group by group, two by two."""

    FRAMES = "frame by frame"
    GROUPS = "group by group"
    PAIRS = "two by two"


class Layout(StrEnum):
    """What stands on the stage."""

    ONE = "one frame"
    TWO = "two frames"
    GROUP = "the whole group"


class Zoom(StrEnum):
    WHOLE = "whole picture"
    PIXELS = "100 %"


class Leaves(StrEnum):
    """What leaves when it is decided: in a pass by frames the view, when the person goes on; in one by groups the
    stage, at once."""

    NOTHING = "nothing"
    REJECTS = "rejects"
    KEEPERS = "keepers"
    DECIDED = "what is decided"


class Done(StrEnum):
    """When a frame is done with. SEEN: when the person has gone on from it."""

    SEEN = "seen"
    DECIDED = "decided"
    RATED = "rated"
    LABELLED = "labelled"


class Goes(StrEnum):
    """After which marks the next frame comes by itself."""

    KEEP = "keep"
    REJECT = "reject"
    RATING = "stars"
    LABEL = "labels"


class Does(StrEnum):
    """Commands that a pass can have in force beside moving, looking, undo and help, which always are. A name is that
    of a command or of a family of them."""

    KEEP = "keep"
    REJECT = "reject"
    LEAVE = "leave"
    KEEP_LEAD = "keep-lead"
    KEEP_LEAD_ONLY = "keep-lead-only"
    STARS = "stars"
    LABELS = "labels"
    WORDS = "words"
    TURN = "turn"
    POINT = "point"
    LAY_ASIDE = "lay-aside"
    PUT_BACK = "put-back"
    FLIP = "flip"
    TAKE_PLACE = "take-place"
    NEXT_GROUP = "next-group"
    NEXT_UNDECIDED = "next-undecided"
    EVIDENCE = "evidence"
    PEAKING = "peaking"


SETS: Mapping[Does, tuple[Field, ...]] = {
    **dict.fromkeys(
        (Does.KEEP, Does.REJECT, Does.LEAVE, Does.KEEP_LEAD, Does.KEEP_LEAD_ONLY), (Field.DECISION,)
    ),
    Does.STARS: (Field.RATING,),
    Does.LABELS: (Field.LABEL,),
    Does.WORDS: WORD_FIELDS,
    Does.TURN: (Field.TURN,),
    Does.POINT: (Field.POINT,),
}
"""What commands change; those that are not here change nothing."""


@dataclass(frozen=True, slots=True)
class Key:
    """A command in force, and what is said of it beside its key (empty: its own name)."""

    does: Does
    says: str = ""


@dataclass(frozen=True, slots=True)
class Pass:
    """scope: which frames it asks about, as a sentence (empty: all); warned_first: frames with warnings come before
    the others, where it goes by frames; bulk: sentences for which frames are shown together, to be rejected at once
    if the person says so; beside_keeper: the keeper of its group stands beside each frame; full: pictures only, on
    the full screen. Raises ValueError for what cannot be."""

    name: str
    question: str
    scope: str = ""
    start: Start = Start.AS_IS
    order: Order = Order.FRAMES
    warned_first: bool = False
    layout: Layout = Layout.ONE
    zoom: Zoom = Zoom.WHOLE
    keys: tuple[Key, ...] = ()
    goes_on: tuple[Goes, ...] = ()
    leaves: Leaves = Leaves.NOTHING
    done: Done = Done.SEEN
    bulk: tuple[str, ...] = ()
    beside_keeper: bool = False
    full: bool = False

    def __post_init__(self) -> None:
        if not 0 < len(self.name.strip()) <= LONGEST_NAME:
            raise ValueError(f"The name of a pass has 1 to {LONGEST_NAME} characters.")
        if not 0 < len(self.question.strip()) <= LONGEST_QUESTION:
            raise ValueError(f"The question of a pass has 1 to {LONGEST_QUESTION} characters.")
        if not 0 < len(self.keys) <= MOST_KEYS or len(self.bulk) > MOST_BULK:
            raise ValueError(f"A pass has 1 to {MOST_KEYS} keys, and at most {MOST_BULK} steps at once.")
        if len({key.does for key in self.keys}) < len(self.keys):
            raise ValueError("A command is in it twice.")
        if self.bulk and Field.DECISION not in self.fields:
            raise ValueError("Frames can be rejected at once only in a pass that has a key to reject.")

    @property
    def fields(self) -> frozenset[Field]:
        """What may change in it."""
        return frozenset(field for key in self.keys for field in SETS.get(key.does, ()))


def checked(one: Pass, labels: LabelSet) -> Pass:
    """A pass whose sentences can be understood. Raises ValueError."""
    for said in (one.scope, *one.bulk):
        try:
            parse(said, labels)
        except SentenceError as error:
            raise ValueError(f"“{said}”: {error}") from error
    return one


@dataclass(frozen=True, slots=True)
class Asked:
    """A frame that a pass asks about, in capture order. by_start: it is kept only because a pass started so."""

    id: int
    group: int
    decision: Decision
    warned: bool = False
    by_start: bool = False


def queue(one: Pass, frames: Sequence[Asked]) -> list[int]:
    """The frames in the order in which the pass goes through them."""
    if one.warned_first and one.order is Order.FRAMES:
        frames = sorted(frames, key=lambda frame: not frame.warned)
    return [frame.id for frame in frames]


def starting(one: Pass, frames: Iterable[Asked]) -> dict[int, Decision]:
    """What is to be decided of frames before the first key."""
    frames = list(frames)
    if one.start is Start.KEPT:
        return {frame.id: Decision.KEEP for frame in frames if frame.decision is Decision.UNDECIDED}
    if one.start is Start.AS_IS:
        return {}
    sizes: dict[int, int] = {}
    for frame in frames:
        sizes[frame.group] = sizes.get(frame.group, 0) + 1
    return {
        frame.id: Decision.UNDECIDED
        for frame in frames
        if frame.by_start and frame.decision is Decision.KEEP and sizes[frame.group] > 1
    }


def as_json(one: Pass) -> dict[str, Any]:
    """A pass as it is written."""
    content: dict[str, Any] = json.loads(json.dumps(asdict(one)))
    return {"version": VERSION} | content


def from_json(content: Any) -> Pass:
    """A pass as it was written. Raises ValueError, which says what is wrong with it."""
    if not isinstance(content, Mapping):
        raise ValueError("It is no pass.")
    version = content.get("version")
    if version != VERSION:
        raise ValueError(f"It is written in version {version!r}; this Winnow reads version {VERSION}.")
    kinds = {field.name: field for field in fields(Pass)}
    unknown = sorted(set(content) - set(kinds) - {"version"})
    if unknown:
        raise ValueError(f"Winnow does not know what '{unknown[0]}' in it is.")
    if missing := next((name for name in ("name", "question", "keys") if name not in content), None):
        raise ValueError(f"It has no {missing}.")
    read: dict[str, Any] = {}
    for name, value in content.items():
        if name != "version":
            read[name] = _read(name, value)
    return Pass(**read)


_CHOICES: Mapping[str, type[StrEnum]] = {
    "start": Start,
    "order": Order,
    "layout": Layout,
    "zoom": Zoom,
    "leaves": Leaves,
    "done": Done,
}


def _read(name: str, value: Any) -> Any:
    if name in _CHOICES:
        return _choice(_CHOICES[name], value, name)
    if name == "goes_on":
        return tuple(dict.fromkeys(_choice(Goes, one, name) for one in _list(value, name)))
    if name == "bulk":
        return tuple(_of(str, one, name) for one in _list(value, name))
    if name == "keys":
        return tuple(_key(one) for one in _list(value, name))
    if name in ("warned_first", "beside_keeper", "full"):
        return _of(bool, value, name)
    return _of(str, value, name)


def _key(value: Any) -> Key:
    if isinstance(value, str):
        return Key(_choice(Does, value, "keys"))
    if not isinstance(value, Mapping) or set(value) - {"does", "says"}:
        raise ValueError("A key says what it 'does', and may have what it 'says'.")
    return Key(_choice(Does, value.get("does"), "keys"), _of(str, value.get("says", ""), "keys"))


Choice = TypeVar("Choice", bound=StrEnum)
Kind = TypeVar("Kind", bool, str)


def _choice(kind: type[Choice], value: Any, name: str) -> Choice:
    if not isinstance(value, str) or value not in set(kind):
        offered = ", ".join(f"'{one}'" for one in kind)
        raise ValueError(f"'{name}' can be {offered}, not {value!r}.")
    return kind(value)


def _list(value: Any, name: str) -> list[Any]:
    if not isinstance(value, list):
        raise ValueError(f"'{name}' is a list.")
    return value


def _of(kind: type[Kind], value: Any, name: str) -> Kind:
    if not isinstance(value, kind):
        raise ValueError(f"'{name}' is {'yes or no' if kind is bool else 'a text'}, not {value!r}.")
    return value


def written(some: Iterable[Pass]) -> str:
    """Passes as a file that others can read in."""
    return json.dumps({"passes": [as_json(one) for one in some]}, ensure_ascii=False, indent=2) + "\n"


def read(text: str, labels: LabelSet, taken: Collection[str] = ()) -> tuple[list[Pass], list[str]]:
    """Passes out of a file, and in words what in it did not fit. taken: names that none may have. Raises ValueError
    for what holds no passes at all."""
    try:
        content = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise ValueError("It is no JSON.") from error
    listed = content.get("passes") if isinstance(content, Mapping) else None
    if not isinstance(listed, list):
        raise ValueError("There are no passes in it.")
    found: dict[str, Pass] = {}
    misfits = []
    for place, one in enumerate(listed, 1):
        named = one.get("name") if isinstance(one, Mapping) else None
        try:
            known = checked(from_json(one), labels)
            if fold(known.name) in {fold(name) for name in taken}:
                raise ValueError("This name is one of Winnow's own.")
            found[fold(known.name)] = known
        except ValueError as error:
            misfits.append(f"{named if isinstance(named, str) else f'pass {place}'}: {error}")
    return list(found.values()), misfits


WEED = Pass(
    "Weed",
    "Is it usable?",
    scope="not rejects",
    start=Start.KEPT,
    keys=(Key(Does.REJECT, "out"), Key(Does.KEEP, "stays")),
    goes_on=(Goes.REJECT, Goes.KEEP),
    leaves=Leaves.REJECTS,
    bulk=("warned", "no faces", "single"),
)
CHOOSE = Pass(
    "Choose",
    "Which one or two of this group?",
    scope="not rejects",
    start=Start.OPEN,
    order=Order.GROUPS,
    layout=Layout.GROUP,
    keys=(
        Key(Does.KEEP, "keep"),
        Key(Does.REJECT, "reject"),
        Key(Does.LAY_ASIDE, "out, undecided"),
        Key(Does.PUT_BACK, "back"),
        Key(Does.KEEP_LEAD, "keep the lead"),
        Key(Does.NEXT_GROUP, "next group"),
    ),
    goes_on=(Goes.REJECT,),
    leaves=Leaves.REJECTS,
)
RATE = Pass(
    "Rate",
    "How good is it?",
    scope="keepers",
    keys=(Key(Does.STARS, "stars"),),
    goes_on=(Goes.RATING,),
)
SORT = Pass(
    "Sort",
    "What happens to it next?",
    scope="keepers",
    keys=(Key(Does.LABELS, "labels"),),
)
RESCUE = Pass(
    "Rescue",
    "Was it thrown out too soon?",
    scope="rejects or undecided",
    keys=(Key(Does.KEEP, "keep after all"), Key(Does.LEAVE, "leave open"), Key(Does.REJECT, "reject")),
    goes_on=(Goes.KEEP, Goes.REJECT),
    layout=Layout.TWO,
    leaves=Leaves.KEEPERS,
    beside_keeper=True,
)
CHECK = Pass(
    "Check",
    "Is everything there?",
    scope="keepers",
    keys=(Key(Does.REJECT, "not this one"), Key(Does.LEAVE, "open again")),
    full=True,
)
OURS = (WEED, CHOOSE, RATE, SORT, RESCUE, CHECK)
"""The passes that are there before the person makes any, in their order."""
