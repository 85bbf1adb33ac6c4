"""Plans made: which file goes where, with counts and conflicts, before anything is touched.

Reading the disk and working the plan out happens outside any transaction: marking goes on meanwhile. What the plan
rests on is kept with it, and held against the store and the disk again before it is applied (`recheck`).
"""

from __future__ import annotations

import os
import shutil
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from pathlib import Path
from sqlite3 import Connection

from winnow.core.marks import UNMARKED, Decision, Field, Marks
from winnow.core.naming import common_base, fold, free_names
from winnow.core.pairing import Role
from winnow.handoff import sidecars
from winnow.handoff.reach import anchor_of
from winnow.handoff.sidecars import NotBuiltError
from winnow.handoff.standing import Standing, UnreachableError, inside
from winnow.pipeline.locks import contains
from winnow.pipeline.scan import HOLDING_MARKER
from winnow.store import bases, frames, marks, plans, shoots
from winnow.store.bases import Base
from winnow.store.database import Database, display
from winnow.store.frames import ListedFile
from winnow.store.plans import Action, PlanKind, PlanState, Step
from winnow.store.shoots import Shoot

SPACE_MARGIN = 64 * 1024 * 1024
EXAMPLES = 200
"""As many renamed files and conflicts are listed in a plan; the rest is counted."""


class PlanError(ValueError):
    """A plan that cannot be made; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Wish:
    """What the person asked for. `target`: folder for keepers. `with_marks`: sidecars with the marks
    go along. `keep_folders`: the shoot's sub-folders are made again in the target. `mine`: (frame, field) where
    another program changed a sidecar and the person wants their own mark written; `all_mine`: wherever it did."""

    kind: PlanKind
    target: str | None = None
    with_marks: bool = True
    keep_folders: bool = False
    mine: tuple[tuple[int, Field], ...] = ()
    all_mine: bool = False

    def fields_of(self, frame_id: int) -> frozenset[Field]:
        if self.all_mine:
            return frozenset(Field)
        return frozenset(name for frame, name in self.mine if frame == frame_id)


@dataclass(slots=True)
class Draft:
    """A plan in the making, and what it is made from."""

    shoot: Shoot
    wish: Wish
    connection: Connection
    target: str | None = None
    disk: Standing = field(default_factory=Standing)
    steps: list[Step] = field(default_factory=list)
    rests_on: dict[int, Marks] = field(default_factory=dict)
    frames: int = 0
    renamed: list[tuple[str, str]] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)
    conflicts: list[dict[str, object]] = field(default_factory=list)
    moved: dict[str, str] = field(default_factory=dict)
    """Real path of every file that moves → where it goes: links to it are made to fit."""

    @property
    def roots(self) -> list[str]:
        return [path for _, path in self.shoot.folders]

    def files_of(self, chosen: Sequence[int]) -> Iterable[tuple[int, list[ListedFile]]]:
        """Frames with their files as they lie on disk now. A frame that is not as it was listed is left out: its
        marks may be those of another picture."""
        for frame_id, listed in frames.files_of(self.connection, chosen).items():
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


def make_plan(database: Database, shoot_id: int, wish: Wish, now: str) -> int:
    """Stores the plan for a wish and returns its id. Raises PlanError with what to do."""
    connection = database.connection()
    shoot = shoots.get(connection, shoot_id)
    if shoot is None:
        raise PlanError("This shoot is not known any more.")
    _refuse_second(connection, shoot_id)
    for _, root in shoot.folders:
        if not os.path.isdir(root):
            raise PlanError(f"{display(root)} cannot be reached: connect its disk first.")
    draft = Draft(shoot, wish, connection)
    try:
        _MAKERS[wish.kind](draft)
    except UnreachableError as error:
        raise PlanError(str(error)) from error
    _fit_links(draft)
    summary = {
        "frames": draft.frames,
        "files": len(draft.steps),
        "bytes": sum(step.size for step in draft.steps),
        "renamed": [{"old": old, "new": new} for old, new in draft.renamed[:EXAMPLES]],
        "renamed_count": len(draft.renamed),
        "warnings": draft.warnings[:EXAMPLES],
        "conflicts": draft.conflicts[:EXAMPLES],
        "conflict_count": len(draft.conflicts),
        "blocked": _blocked(draft),
    }
    places = [*draft.roots, *([draft.target] if draft.target else [])]
    anchors = [(anchor.path, anchor.mount) for anchor in map(anchor_of, places)]
    with database.transaction() as connection:
        _refuse_second(connection, shoot_id)
        return plans.make(
            connection,
            shoot_id,
            wish.kind,
            draft.target,
            summary,
            draft.steps,
            draft.rests_on,
            anchors,
            asdict(wish),
            now,
        )


@dataclass(frozen=True, slots=True)
class Order:
    """A plan to be made in a process of its own, where it keeps nobody waiting: database file, shoot, wish, time."""

    database: Path
    shoot_id: int
    wish: Wish
    now: str


def make_plan_apart(order: Order) -> int:
    """`make_plan` as a task of a worker process."""
    return make_plan(Database(order.database), order.shoot_id, order.wish, order.now)


def _refuse_second(connection: Connection, shoot_id: int) -> None:
    """One plan at a time: what is half done must end before more is planned on top of it."""
    for plan in plans.of_shoot(connection, shoot_id):
        if plan.state in plans.UNFINISHED:
            raise PlanError("A plan of this shoot is under way: wait until it has ended, or stop it.")
        if plan.state is PlanState.STOPPED:
            raise PlanError("A plan of this shoot is stopped half way: go on with it or roll it back.")


def _keepers(draft: Draft) -> None:
    wish = draft.wish
    if not wish.target:
        raise PlanError("Choose the folder that the keepers go to.")
    target = draft.target = os.path.abspath(wish.target)
    for root in draft.roots:
        if inside(target, root):
            raise PlanError(
                f"{display(target)} lies inside the shoot, where the copies would come up as frames "
                "again: choose a folder outside."
            )
    action = Action.COPY if wish.kind is PlanKind.COPY_KEEPERS else Action.MOVE
    chosen = frames.ids_of(draft.connection, draft.shoot.id, "shoot", Decision.PICK)
    marked = marks.current(draft.connection, chosen)
    draft.rests_on = marked
    known = bases.of_shoot(draft.connection, draft.shoot.id) if wish.with_marks else {}
    for frame_id, files in draft.files_of(chosen):
        root = _root_of(files[0].path, draft.roots)
        below = os.path.relpath(os.path.dirname(files[0].path), root) if wish.keep_folders else "."
        folder = os.path.normpath(os.path.join(target, below))
        extra = draft.disk.sidecar_for(files) if wish.with_marks else None
        renames = _travel(draft, frame_id, files, folder, action, extra)
        if extra:
            _add_marks(draft, frame_id, files, extra, renames[extra], marked[frame_id], action, known)


def _hold(draft: Draft) -> None:
    chosen = frames.ids_of(draft.connection, draft.shoot.id, "shoot", Decision.REJECT)
    draft.rests_on = marks.current(draft.connection, chosen)
    holding = {root: holding_folder(root) for root in draft.roots}
    draft.target = holding[draft.roots[0]]
    for frame_id, files in draft.files_of(chosen):
        root = _root_of(files[0].path, draft.roots)
        draft.target = holding[root]
        below = os.path.relpath(os.path.dirname(files[0].path), root)
        folder = os.path.normpath(os.path.join(holding[root], below))
        _travel(draft, frame_id, files, folder, Action.MOVE)
    parent = anchor_of(draft.target).path
    if not os.access(parent, os.W_OK):
        raise PlanError(
            f"The holding folder {display(draft.target)} cannot be made: {display(parent)} does not let you "
            "write. Change that first."
        )


def holding_folder(root: str) -> str:
    """The folder in which the rejects of a shoot's folder wait: beside it; or inside, where it is the root of a drive
    or nothing can be written beside it. A folder of that name that is not ours is left alone."""
    beside = os.path.dirname(root)
    is_drive = os.path.ismount(root) or beside == root
    base = os.path.join(root, "held back") if is_drive or not os.access(beside, os.W_OK) else ""
    number = 1
    while True:
        suffix = "" if number == 1 else f" {number}"
        candidate = f"{base}{suffix}" if base else f"{root} (held back{suffix})"
        if not os.path.lexists(candidate) or os.path.exists(os.path.join(candidate, HOLDING_MARKER)):
            return candidate
        number += 1


def _bring_back(draft: Draft) -> None:
    held = [
        frame_id
        for decision in Decision
        for frame_id in frames.ids_of(draft.connection, draft.shoot.id, "held", decision)
    ]
    draft.rests_on = marks.current(draft.connection, held)
    for frame_id, files in draft.files_of(held):
        origins = {f.path: plans.origin_of(draft.connection, frame_id, f.path) for f in files}
        first = next((origin for origin in origins.values() if origin), None)
        if first is None:
            name = display(os.path.basename(files[0].path))
            draft.warnings.append(f"Where {name} came from is not recorded: carry it back by hand.")
            continue
        wanted = {path: os.path.basename(origin or path) for path, origin in origins.items()}
        _travel(draft, frame_id, files, os.path.dirname(first), Action.MOVE, wanted=wanted)


def _sidecars(draft: Draft) -> None:
    """Sidecars in place for every frame that was ever marked here and whose sidecar says otherwise."""
    connection, shoot_id = draft.connection, draft.shoot.id
    marked_here = marks.marked_here(connection, shoot_id)
    chosen = [i for i, _ in frames.placed(connection, shoot_id) if i in marked_here]
    marked = draft.rests_on = marks.current(connection, chosen)
    known = bases.of_shoot(connection, shoot_id)
    for frame_id, files in draft.files_of(chosen):
        exists = any(file.role == Role.SIDECAR for file in files)
        if marked[frame_id] == UNMARKED and not exists:
            continue
        path = draft.disk.sidecar_for(files)
        before = len(draft.steps)
        _write_step(draft, frame_id, path if exists else None, path, marked[frame_id], exists, known)
        draft.frames += len(draft.steps) > before


_MAKERS = {
    PlanKind.COPY_KEEPERS: _keepers,
    PlanKind.MOVE_KEEPERS: _keepers,
    PlanKind.HOLD_REJECTS: _hold,
    PlanKind.BRING_BACK: _bring_back,
    PlanKind.WRITE_SIDECARS: _sidecars,
}


def _travel(
    draft: Draft,
    frame_id: int,
    files: list[ListedFile],
    folder: str,
    action: Action,
    extra: str | None = None,
    wanted: dict[str, str] | None = None,
) -> dict[str, str]:
    """Steps that take all files of a frame to a folder under names that are free together.

    `extra` is the sidecar that will hold the marks; its name must be free as well, and a copied one is written anew
    with the marks in it instead. Returns old path → new path.
    """
    paths = [file.path for file in files]
    if extra and extra not in paths:
        paths.append(extra)
    names = [(wanted or {}).get(path, os.path.basename(path)) for path in paths]
    taken = draft.disk.taken(folder)
    free = free_names(names, common_base(names), taken)
    taken.update(map(fold, free))
    renames = {path: os.path.join(folder, name) for path, name in zip(paths, free, strict=True)}
    if free != names:
        draft.renamed += [
            (display(old), display(new)) for old, new in zip(names, free, strict=True) if old != new
        ]
    for file in files:
        if extra and action is Action.COPY and file.path == extra:
            continue
        target = renames[file.path]
        step = Step(frame_id, action, file.path, target, file.size, mtime_ns=file.mtime_ns)
        if action is Action.MOVE:
            if os.path.islink(file.path):
                step.action, step.size = Action.LINK, 0
            else:
                draft.moved[os.path.realpath(file.path)] = target
        draft.steps.append(step)
    draft.frames += 1
    return renames


def _fit_links(draft: Draft) -> None:
    """The texts of links that move: they go on leading to the same file, wherever that goes."""
    for step in draft.steps:
        if step.action is not Action.LINK:
            continue
        assert step.source is not None
        text = os.readlink(step.source)
        real = os.path.realpath(step.source)
        leads_to = draft.moved.get(real, real)
        new = leads_to if os.path.isabs(text) else os.path.relpath(leads_to, os.path.dirname(step.target))
        step.previous, step.content = os.fsencode(text), os.fsencode(new)


def _add_marks(
    draft: Draft,
    frame_id: int,
    files: list[ListedFile],
    sidecar: str,
    target: str,
    marked: Marks,
    action: Action,
    known: Mapping[int, Mapping[str, Base]],
) -> None:
    file = next((file for file in files if file.path == sidecar), None)
    moves = file is not None and action is Action.MOVE
    before = len(draft.steps)
    _write_step(draft, frame_id, sidecar if file else None, target, marked, moves, known)
    if len(draft.steps) == before and file is not None and action is Action.COPY:
        draft.steps.append(Step(frame_id, action, file.path, target, file.size, mtime_ns=file.mtime_ns))


def _write_step(
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
    try:
        built = sidecars.build(source, marked, agreed, frozenset(Field), mine)
        if built.differences:
            # Only now does it matter on which of them a mark of the person stands.
            standing = marks.standing(draft.connection, frame_id)
            built = sidecars.build(source, marked, agreed, standing, mine)
    except NotBuiltError as error:
        draft.warnings.append(str(error))
        return
    for difference in built.differences:
        draft.conflicts.append(
            {
                "frame_id": frame_id,
                "name": display(os.path.basename(source or target)),
                "field": difference.field,
                "ours": difference.ours,
                "ours_at": marks.last_marked_at(draft.connection, frame_id, difference.field),
                "theirs": difference.theirs,
                "theirs_at": difference.there_at,
                "mine": difference.field in mine,
            }
        )
    if built.content is None:
        return
    previous = built.previous if replaces else None
    draft.steps.append(
        Step(
            frame_id,
            Action.WRITE,
            source,
            target,
            len(built.content),
            content=built.content,
            previous=previous,
            mtime_ns=built.mtime_ns,
        )
    )


def _root_of(path: str, roots: Iterable[str]) -> str:
    for root in roots:
        if contains(root, path):
            return root
    raise PlanError(f"{display(path)} lies outside the shoot: read the folder again first.")


def _blocked(draft: Draft) -> str | None:
    """Why the plan cannot be applied as things are, or None."""
    if not draft.steps:
        return "There is nothing to do."
    if draft.target is None:
        return None
    parent = Path(anchor_of(draft.target).path)
    if not os.access(parent, os.W_OK):
        return f"{display(parent)} does not let you write: choose another folder."
    device = os.stat(parent).st_dev
    needed = sum(step.size for step in draft.steps if not _is_rename(step, device))
    free = shutil.disk_usage(parent).free
    if needed and needed + SPACE_MARGIN > free:
        return (
            f"{needed / 1e9:.1f} GB are needed and {free / 1e9:.1f} GB are free on that disk: "
            "make room or choose another."
        )
    return None


def _is_rename(step: Step, device: int) -> bool:
    """Whether a step moves a file by its name alone and so needs no room."""
    if step.action is Action.LINK:
        return True
    return step.action is Action.MOVE and step.source is not None and os.stat(step.source).st_dev == device
