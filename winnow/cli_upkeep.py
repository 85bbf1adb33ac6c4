"""The commands that look after a Winnow: what there is, backups, whether all is sound, its place on the desktop."""

from __future__ import annotations

from dataclasses import asdict
from datetime import UTC, datetime
from json import dumps
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from winnow.cli_shared import Data, data_folder, held, refuse

if TYPE_CHECKING:
    from winnow.upkeep.doctor import Finding

AsJson = Annotated[bool, typer.Option("--json", help="As one JSON document.")]


def status(data: Data = None, json: AsJson = False) -> None:
    """Say what there is: shoots, marks that no file has yet, held files, and the room that all takes."""
    from winnow.pipeline.scan import by_this_clock
    from winnow.store.reading import NothingThereError
    from winnow.upkeep.status import status as look

    try:
        found = look(data_folder(data))
    except NothingThereError as error:
        refuse(str(error))
    if json:
        typer.echo(dumps(asdict(found), indent=1))
        return
    running = found.running or ("in use by another command" if found.held else "not running")
    typer.echo(f"{found.data}: {running}")
    if found.problem:
        typer.echo(found.problem, err=True)
    for shoot in found.shoots:
        typer.echo(f"\n{shoot.title}" + ("" if shoot.reached else "  (its folder is not there)"))
        left = shoot.frames - shoot.keepers - shoot.rejects
        typer.echo(
            f"  {shoot.frames} frames: {shoot.keepers} kept, {left} undecided, {shoot.rejects} rejected"
        )
        for count, words in (
            (shoot.unwritten, "frames with marks that no file has yet"),
            (shoot.incoming, "frames marked by another program: see Sync"),
            (shoot.held, f"frames in holding folders, {_size(shoot.held_bytes)}"),
            (shoot.missing, "frames are not where they were"),
            (int(shoot.half_done), "plan half done: see Handoff"),
        ):
            if count:
                typer.echo(f"  {count} {words}")
    typer.echo("")
    for what, size in found.room.items():
        typer.echo(f"{_size(size):>10}  {what}")
    pictures = sum(size for what, size in found.room.items() if what.startswith("pictures"))
    typer.echo(
        f"Pictures take {_size(pictures)} of at most {_size(found.cache_limit)}; {_size(found.free)} are free."
    )
    last = by_this_clock(found.last_backup) if found.last_backup else "none yet"
    typer.echo(f"Last backup by itself: {last}.")


def backup(
    file: Annotated[Path, typer.Argument(help="File to write, best on another disk.")], data: Data = None
) -> None:
    """Write marks, history, plans and settings into one file, also while Winnow runs. Pictures are not in it."""
    from winnow.store import backups

    try:
        made = backups.make(data_folder(data), file.absolute())
    except backups.BackupError as error:
        refuse(str(error))
    typer.echo(
        f"{file}: {made.shoots} shoots, {made.frames} frames, {made.marked} of them marked, {made.actions} actions. "
        "Read again and found whole."
    )


def restore(
    file: Annotated[Path, typer.Argument(help="A backup.")],
    data: Data = None,
    dry_run: Annotated[bool, typer.Option("--dry-run", help="Say what is in it, and touch nothing.")] = False,
) -> None:
    """Put a backup in the place of what there is now, which is kept beside it."""
    from winnow.pipeline.scan import by_this_clock
    from winnow.store import backups

    folder = data_folder(data)
    try:
        if dry_run:
            made, aside = backups.look(file), None
        else:
            with held(folder):
                made, aside = backups.restore(file, folder, datetime.now(UTC))
    except backups.BackupError as error:
        refuse(str(error))
    typer.echo(
        f"Of {by_this_clock(made.made_at)}: {made.shoots} shoots, {made.frames} frames, "
        f"{made.marked} of them marked, {made.actions} actions."
    )
    if aside is not None:
        typer.echo(f"What was there before is in {aside}.")


def doctor(
    data: Data = None,
    mend: Annotated[
        bool, typer.Option("--mend", help="Mend what can be mended without losing anything.")
    ] = False,
) -> None:
    """Look whether everything is sound, and say what to do. Exits with 1 where something is not."""
    from winnow.store.data_folder import is_held
    from winnow.upkeep.doctor import examine

    folder = data_folder(data)
    if mend and folder.is_dir():
        with held(folder):
            left = _examined([*examine(folder, in_use=False)], mend=True)
    else:
        in_use = is_held(folder)
        left = _examined([*examine(folder, in_use=in_use)], mend=False)
        if in_use:
            typer.echo("Winnow runs: what may be under way just now was not looked at.")
    if left:
        raise typer.Exit(1)
    typer.echo("All is sound.")


def _examined(findings: list[Finding], *, mend: bool) -> int:
    """Tells findings, mends where that is wished for; how many are left."""
    left = 0
    for finding in findings:
        typer.echo(f"{finding.what}\n    {finding.advice}")
        if mend and finding.mend is not None:
            finding.mend()
            typer.echo("    Mended.")
        else:
            left += 1
    return left


def install_desktop(
    remove: Annotated[bool, typer.Option("--remove", help="Take all of it away again.")] = False,
) -> None:
    """Put Winnow among the applications of the desktop (Linux), and a unit beside it that can start it at login."""
    from winnow.upkeep import desktop

    try:
        done = desktop.remove() if remove else desktop.install()
    except desktop.NotHereError as error:
        refuse(str(error))
    except OSError as error:
        refuse(f"{error.filename} cannot be written ({error.strerror}).")
    for path in done:
        typer.echo(f"{'removed' if remove else 'written'}: {path}")
    if not remove:
        typer.echo("To start it at every login: systemctl --user enable --now winnow")


def _size(count: int) -> str:
    return f"{count / 1e9:.1f} GB" if count >= 1e9 else f"{count / 1e6:.1f} MB"
