"""The commands that bring files in, name them anew and verify them, without a screen: by the same plans."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from enum import StrEnum
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from winnow.cli_shared import Data, data_folder, held_database, refuse
from winnow.core.file_names import Naming, Per
from winnow.core.sorting import Into

if TYPE_CHECKING:
    from winnow.handoff.draft import Wish
    from winnow.store.database import Database
    from winnow.store.plans import Plan

LINES = 20
"""So many steps of a plan are told; the rest is counted."""

DryRun = Annotated[bool, typer.Option("--dry-run", help="Say what would be done, and touch nothing.")]
Pattern = Annotated[str, typer.Option(help="Names by a pattern, as {subject}_{date:%Y%m%d}_{counter:4}.")]
Words = Annotated[
    list[str] | None, typer.Option("--word", help="A free word of it: subject=kiln (repeatable).")
]
Start = Annotated[int, typer.Option(help="Where the counter begins.")]
Restart = Annotated[Per, typer.Option("--per", help="Where the counter begins again.")]


class Folders(StrEnum):
    """Folders of what comes in: as on the card, for each day or camera, or none."""

    CARD = "card"
    DAY = "day"
    CAMERA = "camera"
    NONE = "none"


_INTO = {Folders.DAY: Into.DAY, Folders.CAMERA: Into.CAMERA}


def import_card(
    card: Annotated[
        Path,
        typer.Argument(help="Folder to copy from: DCIM of a card, or any other. Or an archive of a shoot."),
    ],
    to: Annotated[
        Path,
        typer.Option(
            help="Folder for the copies; it becomes a shoot. Of an archive: where its pictures lie."
        ),
    ],
    second: Annotated[
        Path | None, typer.Option(help="Folder for a second copy, best on another disk.")
    ] = None,
    folders: Annotated[Folders, typer.Option(help="Folders below it.")] = Folders.CARD,
    pattern: Pattern = "",
    word: Words = None,
    start: Start = 1,
    per: Restart = Per.ALL,
    theirs: Annotated[
        bool, typer.Option("--theirs", help="Of an archive: what it says wins where both say something.")
    ] = False,
    dry_run: DryRun = False,
    data: Data = None,
) -> None:
    """Copy what is new on a card, verified on both sides, with a manifest; or join an archive of a shoot to its
    pictures. Exits with 1 where files failed, or frames of the archive are not there."""
    from winnow.handoff.draft import Wish
    from winnow.store import shoots
    from winnow.store.plans import PlanKind

    if card.is_file():
        _join_archive(card, to, data, theirs=theirs, dry_run=dry_run)
        return
    if not card.is_dir():
        refuse(f"{card} is not a folder that can be reached.")
    with held_database(data) as database:
        target = to.resolve()
        with database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, target, _now(), hidden=True)
        wish = Wish(
            PlanKind.IMPORT,
            str(target),
            keep_folders=folders is Folders.CARD,
            into=_INTO.get(folders, Into.NOTHING),
            naming=_naming(pattern, word, start, per) if pattern else None,
            second=str(second.resolve()) if second else None,
            source=str(card.resolve()),
        )
        plan = _made(database, shoot_id, wish)
        if _nothing_to_do(plan) or dry_run:
            return
        with database.transaction() as connection:
            shoots.show(connection, shoot_id)
        _apply(database, plan)


def save_archive(folder: Path, archive: Path, data: Path | None) -> None:
    """Writes a whole shoot into one file."""
    from winnow.handoff.joining import save
    from winnow.store import shoots
    from winnow.store.reading import NothingThereError, reading

    try:
        with reading(data_folder(data)) as connection:
            shoot_id = shoots.of_folder(connection, folder.resolve())
            shoot = shoots.get(connection, shoot_id) if shoot_id else None
            content = save(connection, shoot, _now()) if shoot else None
    except NothingThereError as error:
        refuse(str(error))
    if content is None:
        refuse(f"{folder} is not an open shoot: open it with winnow serve first.")
    try:
        with archive.open("xb") as file:
            file.write(content)
    except FileExistsError:
        refuse(f"{archive} is there already: choose another name.")
    except OSError as error:
        refuse(f"{archive} cannot be written ({error.strerror}): choose another place for the archive.")


def _join_archive(archive: Path, folder: Path, data: Path | None, *, theirs: bool, dry_run: bool) -> None:
    from winnow.core.archive import ArchiveError
    from winnow.handoff.joining import join
    from winnow.pipeline.cache import Cache
    from winnow.pipeline.reading import read_now
    from winnow.pipeline.scan import FolderUnreadableError
    from winnow.store import shoots

    if not folder.is_dir():
        refuse(f"{folder} is not a folder that can be reached.")
    with held_database(data) as database:
        with database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, folder.resolve(), _now(), hidden=dry_run)
        shoot = shoots.get(database.connection(), shoot_id)
        assert shoot is not None
        try:
            read_now(database, Cache(database.path.parent / "cache"), shoot, _progress("read"))
            joined = join(database, shoot_id, archive.read_bytes(), _now(), theirs=theirs, dry_run=dry_run)
        except (ArchiveError, FolderUnreadableError, OSError) as error:
            typer.echo("", err=True)
            refuse(str(error))
    typer.echo("", err=True)
    for name in joined.missing:
        typer.echo(f"not here: {name}")
    would = "would be" if dry_run else "were"
    typer.echo(
        f"{joined.found} of {joined.frames} frames are here; marks of {joined.taken} {would} taken over, "
        f"{joined.differ} are marked otherwise here; {joined.actions} actions and {joined.walks} passes came along."
    )
    if joined.missing:
        raise typer.Exit(1)


def rename(
    folder: Annotated[Path, typer.Argument(help="Folder of a shoot that was opened before.")],
    pattern: Pattern,
    word: Words = None,
    start: Start = 1,
    per: Restart = Per.ALL,
    show: Annotated[str, typer.Option(help="Filter, as a sentence; empty: all frames.")] = "",
    dry_run: DryRun = False,
    data: Data = None,
) -> None:
    """Name a shoot's files anew where they are, in capture order. Exits with 1 where files were left."""
    from winnow.handoff.draft import Wish
    from winnow.store import frames, shoots
    from winnow.store.plans import PlanKind

    with held_database(data) as database:
        connection = database.connection()
        shoot_id = shoots.of_folder(connection, folder.resolve())
        if shoot_id is None:
            refuse(f"{folder} is no shoot that is known here: open it with winnow serve first.")
        named = tuple(frame_id for frame_id, _ in frames.placed(connection, shoot_id)) if not show else ()
        naming = _naming(pattern, word, start, per)
        plan = _made(database, shoot_id, Wish(PlanKind.RENAME, show=show, frames=named, naming=naming))
        if not _nothing_to_do(plan) and not dry_run:
            _apply(database, plan)


def verify(
    folder: Annotated[Path, typer.Argument(help="Folder that was copied from a card.")],
) -> None:
    """Hold a copy against the manifest beside it. Exits with 1 where files differ or are gone."""
    from winnow.formats.bag import BagError
    from winnow.handoff.verify import bag_around
    from winnow.handoff.verify import verify as read_again

    try:
        copied = bag_around(folder.resolve())
        found = read_again(copied, _progress("read"))
    except (BagError, OSError) as error:
        refuse(str(error))
    typer.echo("", err=True)
    for path in found.changed:
        typer.echo(f"changed: {path}")
    for path in found.missing:
        typer.echo(f"gone: {path}")
    for path, reason in found.unreadable:
        typer.echo(f"cannot be read: {path} ({reason})")
    for path in found.tags:
        typer.echo(f"changed: {path} (of the manifest itself)")
    typer.echo(
        f"{found.sound} of {found.sound + found.failed + len(found.sidecars)} files are as they were copied; "
        f"{len(found.sidecars)} sidecars were written since, {len(found.more)} files were not part of the copy."
    )
    if not found.whole:
        raise typer.Exit(1)


def _naming(pattern: str, word: list[str] | None, start: int, per: Per) -> Naming:
    words = dict(one.partition("=")[::2] for one in word or [])
    try:
        return Naming(pattern, words, start, per=per)
    except ValueError as error:
        refuse(str(error))


def _made(database: Database, shoot_id: int, wish: Wish) -> Plan:
    """The plan, told. Exits with 2 where it cannot be made."""
    from winnow.handoff.draft import PlanError
    from winnow.handoff.plan import make_plan
    from winnow.store import plans
    from winnow.store.database import display
    from winnow.store.plans import StepState

    try:
        plan_id = make_plan(database, shoot_id, wish, _now())
    except PlanError as error:
        refuse(str(error))
    connection = database.connection()
    plan = plans.get(connection, plan_id)
    assert plan is not None
    waiting = [step for step in plans.steps(connection, plan_id) if step.state is StepState.WAITING]
    for step in waiting[:LINES]:
        typer.echo(
            f"{step.action} {display(step.source) if step.source else 'new'} -> {display(step.target)}"
        )
    if len(waiting) > LINES:
        typer.echo(f"and {len(waiting) - LINES} more")
    for warning in plan.summary["warnings"]:
        typer.echo(warning, err=True)
    skipped = plans.count_states(connection, plan_id).get(StepState.SKIPPED, 0)
    here = f", {skipped} files here already" if skipped else ""
    typer.echo(f"{plan.summary['frames']} frames, {len(waiting)} files, {plan.summary['bytes']} bytes{here}")
    return plan


def _nothing_to_do(plan: Plan) -> bool:
    """Whether there is no step; exits with 2 where something else is in the way."""
    blocked = plan.summary.get("blocked")
    if blocked and plan.summary["files"]:
        refuse(blocked)
    return bool(blocked)


def _apply(database: Database, plan: Plan) -> None:
    from winnow.handoff import apply as applying
    from winnow.store import plans
    from winnow.store.plans import PlanState

    state = applying.apply(database, plan.id, report=_progress("file"))
    typer.echo("", err=True)
    now = plans.get(database.connection(), plan.id)
    left = plans.left_behind(database.connection(), plan.id)
    for _, reason in left:
        typer.echo(reason, err=True)
    if state is not PlanState.APPLIED:
        typer.echo((now and now.error) or f"The plan is {state}.", err=True)
    elif not left:
        typer.echo("Done.")
    if state is not PlanState.APPLIED or left:
        raise typer.Exit(1)


def _progress(word: str) -> Callable[[int, int], None]:
    def show(done: int, total: int) -> None:
        typer.echo(f"\r{f'{word} {done} of {total}':<40}", err=True, nl=False)

    return show


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")
