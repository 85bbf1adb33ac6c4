"""Plans made: which file goes where, with counts and conflicts, before anything is touched."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Iterable
from dataclasses import dataclass, field
from pathlib import Path

from winnow.core.filters import FrameFilter
from winnow.core.marks import UNMARKED, Decision, Marks
from winnow.core.naming import common_base, free_names
from winnow.core.pairing import FrameFiles, Role, sidecar_name
from winnow.core.xmp_marks import from_xmp, to_xmp
from winnow.formats import xmp
from winnow.handoff.files import same_disk
from winnow.pipeline.scan import HOLDING_MARKER
from winnow.store import filters, frames, marks, plans, shoots
from winnow.store.database import display
from winnow.store.frames import ListedFile
from winnow.store.plans import Action, PlanKind, Step

SPACE_MARGIN = 64 * 1024 * 1024
EXAMPLES = 200
"""As many renamed files are listed in a plan; the rest is counted."""


class PlanError(ValueError):
    """A plan that cannot be made; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Wish:
    """What the person asked for. `target`: folder for keepers. `with_marks`: sidecars with the marks
    go along. `keep_folders`: the shoot's sub-folders are made again in the target."""

    kind: PlanKind
    target: str | None = None
    with_marks: bool = True
    keep_folders: bool = False


@dataclass(slots=True)
class Draft:
    """A plan in the making."""

    target: str | None
    steps: list[Step] = field(default_factory=list)
    frames: int = 0
    renamed: list[tuple[str, str]] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)
    _taken: dict[str, set[str]] = field(default_factory=dict)

    def names_in(self, folder: str) -> set[str]:
        """Names taken in a folder, on disk or by this plan."""
        if folder not in self._taken:
            try:
                self._taken[folder] = set(os.listdir(folder))
            except FileNotFoundError:
                self._taken[folder] = set()
            except OSError as error:
                raise PlanError(
                    f"{display(folder)} cannot be read ({error.strerror}): choose another folder."
                ) from error
        return self._taken[folder]


def make_plan(connection: sqlite3.Connection, shoot_id: int, wish: Wish, now: str) -> int:
    """Stores the plan for a wish and returns its id. Raises PlanError with what to do."""
    shoot = shoots.get(connection, shoot_id)
    if shoot is None:
        raise PlanError("This shoot is not known any more.")
    open_plans = [p for p in plans.of_shoot(connection, shoot_id) if p.state in plans.STUCK]
    if open_plans:
        raise PlanError("A plan of this shoot is stopped half way: go on with it or roll it back.")
    roots = [path for _, path in shoot.folders]
    match wish.kind:
        case PlanKind.COPY_KEEPERS | PlanKind.MOVE_KEEPERS:
            draft = _keepers(connection, shoot_id, roots, wish)
        case PlanKind.HOLD_REJECTS:
            draft = _hold(connection, shoot_id, roots)
        case PlanKind.BRING_BACK:
            draft = _bring_back(connection, shoot_id)
        case PlanKind.WRITE_SIDECARS:
            draft = _sidecars(connection, shoot_id)
    summary = {
        "frames": draft.frames,
        "files": len(draft.steps),
        "bytes": sum(step.size for step in draft.steps),
        "renamed": [{"old": old, "new": new} for old, new in draft.renamed[:EXAMPLES]],
        "renamed_count": len(draft.renamed),
        "warnings": draft.warnings,
        "blocked": _blocked(draft),
    }
    return plans.make(connection, shoot_id, wish.kind, draft.target, summary, draft.steps, now)


def _keepers(connection: sqlite3.Connection, shoot_id: int, roots: list[str], wish: Wish) -> Draft:
    if not wish.target:
        raise PlanError("Choose the folder that the keepers go to.")
    target = os.path.abspath(wish.target)
    for root in roots:
        if target == root or target.startswith(root + os.sep):
            raise PlanError(
                f"{display(target)} lies inside the shoot, where the copies would come up as frames "
                "again: choose a folder outside."
            )
    draft = Draft(target)
    action = Action.COPY if wish.kind is PlanKind.COPY_KEEPERS else Action.MOVE
    chosen = frames.ids_of(connection, shoot_id, "shoot", Decision.PICK)
    marked = marks.current(connection, chosen)
    for frame_id, files in frames.files_of(connection, chosen).items():
        if not files:
            continue
        root = _root_of(files[0].path, roots)
        below = os.path.relpath(os.path.dirname(files[0].path), root) if wish.keep_folders else "."
        folder = os.path.normpath(os.path.join(target, below))
        extra = _own_sidecar(files) if wish.with_marks else None
        renames = _travel(draft, frame_id, files, folder, action, extra, wish.with_marks)
        if extra:
            _add_marks(draft, frame_id, files, extra, renames[extra], marked[frame_id], action)
    return draft


def _hold(connection: sqlite3.Connection, shoot_id: int, roots: list[str]) -> Draft:
    draft = Draft(None)
    chosen = frames.ids_of(connection, shoot_id, "shoot", Decision.REJECT)
    for frame_id, files in frames.files_of(connection, chosen).items():
        if not files:
            continue
        root = _root_of(files[0].path, roots)
        holding = holding_folder(root)
        draft.target = holding
        below = os.path.relpath(os.path.dirname(files[0].path), root)
        _travel(draft, frame_id, files, os.path.normpath(os.path.join(holding, below)), Action.MOVE)
    if draft.target is None:
        draft.target = holding_folder(roots[0])
    if not os.access(os.path.dirname(draft.target), os.W_OK):
        raise PlanError(
            f"The holding folder {display(draft.target)} cannot be made: "
            f"{display(os.path.dirname(draft.target))} does not let you write. Change that first."
        )
    return draft


def holding_folder(root: str) -> str:
    """The folder beside a shoot's folder in which its rejects wait. A folder of that name that
    is not ours is left alone."""
    number = 1
    while True:
        candidate = f"{root} (held back{'' if number == 1 else f' {number}'})"
        if not os.path.lexists(candidate) or os.path.exists(os.path.join(candidate, HOLDING_MARKER)):
            return candidate
        number += 1


def _bring_back(connection: sqlite3.Connection, shoot_id: int) -> Draft:
    draft = Draft(None)
    held = [
        frame_id
        for decision in Decision
        for frame_id in frames.ids_of(connection, shoot_id, "held", decision)
    ]
    for frame_id, files in frames.files_of(connection, held).items():
        origins = {file.path: plans.origin_of(connection, frame_id, file.path) for file in files}
        first = next((origin for origin in origins.values() if origin), None)
        if first is None:
            draft.warnings.append(f"Where frame {frame_id} came from is not recorded.")
            continue
        folder = os.path.dirname(first)
        named = [
            ListedFile(file.path, file.role, file.size, file.mtime_ns)
            for file in files
            if os.path.exists(file.path)
        ]
        if len(named) < len(files):
            draft.warnings.append(
                f"{len(files) - len(named)} file(s) of {display(os.path.basename(first))} are no "
                "longer in the holding folder."
            )
        wanted = {file.path: os.path.basename(origins[file.path] or file.path) for file in named}
        _travel(draft, frame_id, named, folder, Action.MOVE, wanted=wanted)
    return draft


def _sidecars(connection: sqlite3.Connection, shoot_id: int) -> Draft:
    """Sidecars in place for every frame whose marks differ from what its sidecar says."""
    draft = Draft(None)
    chosen = filters.passing(connection, shoot_id, FrameFilter())
    marked = marks.current(connection, chosen)
    for frame_id, files in frames.files_of(connection, chosen).items():
        existing = [file for file in files if file.role == Role.SIDECAR]
        if not files or (marked[frame_id] == UNMARKED and not existing):
            continue
        path = existing[-1].path if existing else _own_sidecar(files)
        assert path is not None
        before = len(draft.steps)
        _write_step(draft, frame_id, path, path, marked[frame_id], bool(existing))
        draft.frames += len(draft.steps) > before
    return draft


def _travel(
    draft: Draft,
    frame_id: int,
    files: list[ListedFile],
    folder: str,
    action: Action,
    extra: str | None = None,
    marks_follow: bool = False,
    wanted: dict[str, str] | None = None,
) -> dict[str, str]:
    """Steps that take all files of a frame to a folder under names that are free together.

    `extra` is a sidecar that does not exist yet; its name must be free as well. With `marks_follow`
    a copied sidecar is written anew with the marks in it instead. Returns old path → new path.
    """
    paths = [file.path for file in files]
    if extra and extra not in paths:
        paths.append(extra)
    names = [(wanted or {}).get(path, os.path.basename(path)) for path in paths]
    if not names:
        return {}
    taken = draft.names_in(folder)
    free = free_names(names, common_base(names), taken)
    taken.update(free)
    renames = {path: os.path.join(folder, name) for path, name in zip(paths, free, strict=True)}
    if free != names:
        draft.renamed += [
            (display(old), display(new)) for old, new in zip(names, free, strict=True) if old != new
        ]
    for file in files:
        if marks_follow and action is Action.COPY and file.path == extra:
            continue
        draft.steps.append(Step(frame_id, action, file.path, renames[file.path], file.size))
    draft.frames += 1
    return renames


def _own_sidecar(files: list[ListedFile]) -> str | None:
    """The path of the sidecar that a frame has or would get."""
    by_role = FrameFiles()
    folder = os.path.dirname(files[0].path)
    for file in files:
        name = os.path.basename(file.path)
        match file.role:
            case Role.RAW:
                by_role.raw = name
            case Role.PICTURE:
                by_role.picture = name
            case _:
                by_role.sidecars.append(name)
    try:
        neighbours = os.listdir(folder)
    except OSError:
        neighbours = []
    return os.path.join(folder, sidecar_name(by_role, neighbours))


def _add_marks(
    draft: Draft,
    frame_id: int,
    files: list[ListedFile],
    sidecar: str,
    target: str,
    marked: Marks,
    action: Action,
) -> None:
    exists = any(file.path == sidecar for file in files)
    moved = exists and action is Action.MOVE
    before = len(draft.steps)
    _write_step(draft, frame_id, sidecar if exists else None, target, marked, moved)
    if len(draft.steps) == before and exists and action is Action.COPY:
        file = next(file for file in files if file.path == sidecar)
        draft.steps.append(Step(frame_id, action, file.path, target, file.size))


def _write_step(
    draft: Draft, frame_id: int, source: str | None, target: str, marked: Marks, replaces: bool
) -> None:
    """A step that writes `target` as the packet at `source` with the marks in it; none where that
    changes nothing or where the packet cannot be read."""
    previous = None
    if source is not None and os.path.exists(source):
        try:
            previous = Path(source).read_bytes()
        except OSError as error:
            draft.warnings.append(f"{display(source)} cannot be read ({error.strerror}).")
            return
    try:
        if previous and from_xmp(xmp.read_marks(previous)) == marked:
            return
        content = xmp.write_marks(previous, to_xmp(marked))
    except xmp.XmpError as error:
        draft.warnings.append(f"{display(source or target)} is left as it is: {error}")
        return
    draft.steps.append(
        Step(
            frame_id,
            Action.WRITE,
            source,
            target,
            len(content),
            content=content,
            previous=previous if replaces else None,
        )
    )


def _root_of(path: str, roots: Iterable[str]) -> str:
    return next(root for root in roots if path.startswith(root + os.sep))


def _blocked(draft: Draft) -> str | None:
    """Why the plan cannot be applied as things are, or None."""
    if not draft.steps:
        return "There is nothing to do."
    if draft.target is None:
        return None
    parent = Path(draft.target)
    while not parent.exists():
        parent = parent.parent
    if not os.access(parent, os.W_OK):
        return f"{display(parent)} does not let you write: choose another folder."
    needed = sum(
        step.size
        for step in draft.steps
        if step.action is not Action.MOVE
        or not (step.source and os.path.exists(step.source) and same_disk(step.source, str(parent)))
    )
    free = shutil.disk_usage(parent).free
    if needed and needed + SPACE_MARGIN > free:
        return (
            f"{needed / 1e9:.1f} GB are needed and {free / 1e9:.1f} GB are free on that disk: "
            "make room or choose another."
        )
    return None
