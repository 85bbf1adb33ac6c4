"""A plan in the making: what was wished for, the steps so far, and how files, links and marks become steps."""

from __future__ import annotations

import os
from collections.abc import Callable, Collection, Iterable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from sqlite3 import Connection

from winnow.core.file_names import Naming
from winnow.core.labels import LabelSet
from winnow.core.marks import UNMARKED, WORD_FIELDS, Field, Marks, Value, in_words
from winnow.core.naming import common_base
from winnow.core.pairing import Role, split_name
from winnow.core.proof import Proof
from winnow.core.sorting import Into
from winnow.core.words import spoken
from winnow.formats.sized import Sized
from winnow.handoff import sidecars
from winnow.handoff.recipe import Recipe
from winnow.handoff.sidecars import NotBuiltError
from winnow.handoff.standing import Standing
from winnow.store import frame_files, frames, labels, marks
from winnow.store.bases import Base
from winnow.store.database import Database, display
from winnow.store.frame_files import ListedFile
from winnow.store.plans import Action, PlanKind, Step
from winnow.store.shoots import Shoot

BYTES_A_SQUARE_PIXEL = 0.3
"""A JPEG takes less than this for each pixel of the square of its long edge: for the room that is needed."""


class PlanError(ValueError):
    """A plan that cannot be made; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Wish:
    """What the person asked for. `target`: folder for keepers; `second`: another that gets the same. `source`: of an
    import, the folder on the card. `with_marks`: sidecars with the marks go along. `keep_folders`: the shoot's
    sub-folders are made again in the target. `mine`: (frame, field) where another program changed a sidecar and the
    person wants their own mark written; `all_mine`: wherever it did. Of copies, moves and new names: `frames`, which,
    in their order; else `show`, a sentence (empty: the keepers); `into`, a folder for each of what; `only`, files of
    one kind; `naming`, other names; `sized`, copies made as JPEGs of a size. `proof`: what a
    proof set is to be."""

    kind: PlanKind
    target: str | None = None
    with_marks: bool = True
    keep_folders: bool = False
    mine: tuple[tuple[int, Field], ...] = ()
    all_mine: bool = False
    show: str = ""
    into: Into = Into.NOTHING
    only: Role | None = None
    naming: Naming | None = None
    second: str | None = None
    source: str | None = None
    frames: tuple[int, ...] = ()
    sized: Sized | None = None
    proof: Proof | None = None

    def fields_of(self, frame_id: int) -> frozenset[Field]:
        if self.all_mine:
            return frozenset(Field)
        return frozenset(name for frame, name in self.mine if frame == frame_id)


@dataclass(slots=True)
class Draft:
    """A plan in the making, and what it is made from."""

    shoot: Shoot
    wish: Wish
    database: Database
    chosen: Sequence[int] = ()
    """The frames that it is of, whether something can be done with each or not: see `handoff.chosen`."""
    target: str | None = None
    connection: Connection = field(init=False)
    disk: Standing = field(init=False)
    steps: list[Step] = field(default_factory=list)
    rests_on: dict[int, Marks] = field(init=False)
    labels: LabelSet = field(init=False)
    orientations: dict[int, int | None] = field(init=False)
    frames: int = 0
    renamed: list[tuple[str, str]] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)
    conflicts: list[dict[str, object]] = field(default_factory=list)
    beside: list[str] = field(default_factory=list)
    """Names of files that go along because they are called as a frame is."""

    def __post_init__(self) -> None:
        self.connection = self.database.connection()
        self.rests_on = marks.current(self.connection, self.chosen)
        self.labels = labels.current(self.connection)
        self.orientations = frames.orientations(self.connection, self.shoot.id)
        self.disk = Standing(full_names=self.database.settings.now().full_sidecar_names)

    @property
    def roots(self) -> list[str]:
        return [path for _, path in self.shoot.folders]

    @property
    def reached(self) -> list[str]:
        """The folders that must be there: of the shoot, or the card that it is to be made from."""
        return [self.wish.source] if self.wish.source else self.roots

    @property
    def targets(self) -> list[str]:
        """The folders that files go to."""
        return [target for target in (self.target, self.wish.second) if target]

    def files_of(self, chosen: Sequence[int]) -> Iterable[tuple[int, list[ListedFile]]]:
        """Frames with their files as they lie on disk now. A frame that is not as it was listed is left out: its
        marks may be those of another picture."""
        for frame_id, listed in frame_files.files_of(self.connection, chosen).items():
            if not listed:
                continue
            now = self.disk.frame(listed)
            name = display(os.path.basename(listed[0].path))
            if now.changed:
                self.warnings.append(
                    f"{name} has changed since it was listed and is left out: read the folder again first."
                )
            elif now.gone:
                missing = ", ".join(display(os.path.basename(path)) for path in now.gone)
                self.warnings.append(f"{missing} is no longer there; {name} is left out.")
            else:
                yield frame_id, now.files

    def with_beside(self, files: list[ListedFile]) -> list[ListedFile]:
        """The files of a frame, and those that are called as it is: where it goes they go along, under its name."""
        found = self.disk.beside(files)
        self.beside += [display(os.path.basename(file.path)) for file in found]
        return files + found


def travel(
    draft: Draft,
    frame_id: int | None,
    files: Sequence[ListedFile],
    folder: str,
    action: Action,
    written: Sequence[str] = (),
    wanted: dict[str, str] | None = None,
) -> dict[str, str]:
    """Steps that take all files of a frame to a folder under names that are free together.

    written: the sidecars that will hold the marks; their names must be free as well, and a copied one is written anew
    with the marks in it instead. Returns old path → new path.
    """
    paths = list(dict.fromkeys([*(file.path for file in files), *written]))
    names = [(wanted or {}).get(path, os.path.basename(path)) for path in paths]
    free = draft.disk.taken(folder).take(names, common_base(names))
    renames = {path: os.path.join(folder, name) for path, name in zip(paths, free, strict=True)}
    if free != names:
        draft.renamed += [
            (display(old), display(new)) for old, new in zip(names, free, strict=True) if old != new
        ]
    for file in files:
        if action is Action.COPY and file.path in written:
            continue
        target = renames[file.path]
        step = Step(frame_id, action, file.path, target, file.size, mtime_ns=file.mtime_ns)
        if action is Action.MOVE and os.path.islink(file.path):
            step.action, step.size = Action.LINK, 0
        draft.steps.append(step)
    return renames


def fit_links(draft: Draft) -> None:
    """The texts of links that move: they go on leading to the same file, wherever that goes."""
    links = [step for step in draft.steps if step.action is Action.LINK and step.content is None]
    if not links:
        return
    moves = [step for step in draft.steps if step.action is Action.MOVE]
    goes_to = {os.path.realpath(step.source): step.target for step in moves if step.source}
    for step in links:
        assert step.source is not None
        text = os.readlink(step.source)
        real = os.path.realpath(step.source)
        leads_to = goes_to.get(real, real)
        new = leads_to if os.path.isabs(text) else os.path.relpath(leads_to, os.path.dirname(step.target))
        step.previous, step.content = os.fsencode(text), os.fsencode(new)


def add_marks(
    draft: Draft,
    frame_id: int,
    files: list[ListedFile],
    sidecar: str,
    target: str,
    marked: Marks,
    action: Action,
    known: Mapping[int, Mapping[str, Base]],
    was: str | None = None,
) -> None:
    """The steps by which a frame's sidecar has the marks where the frame goes. was: the name that the frame had
    first, where it gets another."""
    file = next((file for file in files if file.path == sidecar), None)
    moves = file is not None and action is Action.MOVE
    before = len(draft.steps)
    write_step(draft, frame_id, sidecar if file else None, target, marked, moves, known)
    if len(draft.steps) == before and file is not None and action is Action.COPY:
        draft.steps.append(Step(frame_id, action, file.path, target, file.size, mtime_ns=file.mtime_ns))
    if was is None:
        return
    written = next((step for step in draft.steps[before:] if step.recipe), None)
    if written is not None and written.recipe:
        written.recipe = replace(Recipe.parse(written.recipe), first_name=was).text
    else:
        del draft.steps[before:]
        write_name(draft, frame_id, file.path if file else None, target, files, moves=moves)


def render_step(
    draft: Draft, frame_id: int, files: Sequence[ListedFile], folder: str, base: str | None
) -> None:
    """The step that makes a JPEG of a frame's picture, under a name that is free."""
    assert draft.wish.sized is not None
    shown = next((file for file in files if file.role == Role.PICTURE), files[0])
    name = f"{base or split_name(os.path.basename(shown.path))[0]}.jpg"
    free = draft.disk.taken(folder).take([name], split_name(name)[0])[0]
    if free != name:
        draft.renamed.append((display(name), display(free)))
    size = int(draft.wish.sized.long_edge**2 * BYTES_A_SQUARE_PIXEL)
    target = os.path.join(folder, free)
    draft.steps.append(Step(frame_id, Action.RENDER, shown.path, target, size, mtime_ns=shown.mtime_ns))


def first_name(files: Sequence[ListedFile]) -> str:
    """The name that a frame goes by until it gets another: that of its picture."""
    shown = next((file for file in files if file.role == Role.PICTURE), files[0])
    return display(os.path.basename(shown.path))


def write_name(
    draft: Draft,
    frame_id: int | None,
    source: str | None,
    target: str,
    files: Sequence[ListedFile],
    *,
    moves: bool,
) -> None:
    """A step that writes `target` as the packet at `source` with the first name of the frame in it; a copy of it, or
    nothing where it moves, if it says one already. A packet that cannot be read goes along as it is."""
    try:
        built = sidecars.build_named(source, first_name(files))
    except NotBuiltError as error:
        draft.warnings.append(str(error))
        built = sidecars.Built(None)
    if built.recipe is not None:
        draft.steps.append(_write(frame_id, source, target, built, built.recipe, replaces=moves))
    elif source is not None and not moves:
        file = next(file for file in files if file.path == source)
        draft.steps.append(Step(frame_id, Action.COPY, source, target, file.size, mtime_ns=file.mtime_ns))


def write_step(
    draft: Draft,
    frame_id: int,
    source: str | None,
    target: str,
    marked: Marks,
    replaces: bool,
    known: Mapping[int, Mapping[str, Base]],
) -> None:
    """A step that writes `target` as the packet at `source` with the marks in it; none where that
    changes nothing or where the packet cannot be read."""
    base = known.get(frame_id, {}).get(source or "")
    agreed, mine = base.marks if base else UNMARKED, draft.wish.fields_of(frame_id)
    named, upright = draft.labels, draft.orientations.get(frame_id)
    built = built_for(
        draft,
        frame_id,
        source or target,
        lambda standing: sidecars.build(source, marked, agreed, standing, named, upright, mine),
    )
    if built is not None and built.recipe is not None:
        draft.steps.append(_write(frame_id, source, target, built, built.recipe, replaces=replaces))


def _write(
    frame_id: int | None,
    source: str | None,
    target: str,
    built: sidecars.Built,
    recipe: Recipe,
    *,
    replaces: bool,
) -> Step:
    """The step that writes a packet. replaces: the packet that it is made of lies at the target by then."""
    return Step(
        frame_id,
        Action.WRITE,
        source,
        target,
        built.size,
        mtime_ns=built.mtime_ns,
        recipe=recipe.text,
        previous_digest=recipe.of if replaces else None,
    )


def built_for(
    draft: Draft, frame_id: int, path: str, build: Callable[[Collection[Field]], sidecars.Built]
) -> sidecars.Built | None:
    """What `build` makes, told which properties a mark of the person stands on, and with what another program changed
    told as conflicts; None, with a warning, where it cannot be made."""
    named, mine = draft.labels, draft.wish.fields_of(frame_id)
    try:
        built = build(frozenset(Field))
        if built.differences:
            # Only now does it matter on which of them a mark of the person stands.
            built = build(marks.standing(draft.connection, frame_id))
    except NotBuiltError as error:
        draft.warnings.append(str(error))
        return None
    for difference in built.differences:
        draft.conflicts.append(
            {
                "frame_id": frame_id,
                "name": display(os.path.basename(path)),
                "field": difference.field,
                "ours": _shown(difference.field, difference.ours, named),
                "ours_at": marks.last_marked_at(draft.connection, frame_id, difference.field),
                "theirs": _shown(difference.field, difference.theirs, named),
                "theirs_at": difference.there_at,
                "mine": difference.field in mine,
            }
        )
    return built


def _shown(field: Field, value: Value, named: LabelSet) -> Value:
    """A mark as a person is shown it: a label by its name, a turn in words, words on one line."""
    if field is Field.TURN:
        return in_words(field, value)
    if field in WORD_FIELDS and value:
        return spoken(field, str(value))
    return named.name_of(str(value)) if field is Field.LABEL and value else value
