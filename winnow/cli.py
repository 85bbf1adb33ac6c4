"""The command line."""

from __future__ import annotations

import signal
import sys
from io import TextIOWrapper
from json import dumps as json_text
from pathlib import Path
from typing import TYPE_CHECKING, Annotated

import typer

from winnow import __version__, cli_files, cli_upkeep
from winnow.api.addresses import ANYWHERE, LOOPBACK, is_loopback
from winnow.cli_shared import Data, data_folder, held, refuse
from winnow.demo.layout import lay_out, lay_out_card, offer_editor, start_over
from winnow.formats.lists import Form

if TYPE_CHECKING:
    from winnow.pipeline.far import Far
    from winnow.pipeline.progress import Progress

app = typer.Typer(add_completion=False, no_args_is_help=True, help="Cull a shoot.")

Port = Annotated[
    int | None,
    typer.Option(
        help="Port to listen on; 0 takes a free one. Without: as it is set, 8420.", show_default=False
    ),
]

Browser = Annotated[
    bool | None,
    typer.Option("--browser/--no-browser", help="Open the browser, or do not. Without: as it is set."),
]

NoSecret = Annotated[
    bool, typer.Option("--no-secret", help="Let every account on this machine in, without a secret.")
]


Cluster = Annotated[
    str | None,
    typer.Option(
        help="Scheduler of dask.distributed whose workers measure too: tcp://HOST:8786.", show_default=False
    ),
]


def far_at(address: str | None) -> Far | None:
    """Other machines that measure. Raises ClusterError."""
    from winnow.pipeline.far import Far

    return Far(address) if address else None


def default_roots() -> list[Path]:
    """Folders that may be browsed unless others are named: home, and where disks are mounted."""
    return [Path.home(), *(p for p in map(Path, ("/media", "/run/media", "/mnt", "/Volumes")) if p.is_dir())]


@app.command()
def serve(
    folders: Annotated[list[Path] | None, typer.Argument(help="Folders to open as shoots.")] = None,
    port: Port = None,
    data: Data = None,
    root: Annotated[list[Path] | None, typer.Option(help="Folder that may be browsed (repeatable).")] = None,
    host: Annotated[str, typer.Option(help="Address to bind to.")] = LOOPBACK,
    token: Annotated[
        str | None,
        typer.Option(envvar="WINNOW_TOKEN", help="Access token, needed with another --host."),
    ] = None,
    no_secret: NoSecret = False,
    volumes: Annotated[
        list[Path] | None,
        typer.Option(help="Folder in which cards turn up, besides the system's (repeatable)."),
    ] = None,
    browser: Browser = None,
    cluster: Cluster = None,
    lan: Annotated[
        bool,
        typer.Option("--lan", help="Let other machines of the network in, each by a code from the settings."),
    ] = False,
) -> None:
    """Open shoots in the browser. Where Winnow runs already, it opens them there."""
    where = (data_folder(data), root or default_roots(), volumes or [])
    if lan and (no_secret or host != LOOPBACK):
        refuse(
            "--lan binds to the network by itself, and needs the secret: leave --host and --no-secret out."
        )
    host = ANYWHERE if lan else host
    run(folders or [], port, *where, host, token, not no_secret, browser=browser, cluster=cluster, lan=lan)


@app.command()
def demo(
    port: Port = None,
    data: Data = None,
    fresh: Annotated[
        bool, typer.Option("--fresh", help="Start over: drop the working copy and its marks.")
    ] = False,
    no_secret: NoSecret = False,
    browser: Browser = None,
) -> None:
    """Open the demo shoot, on a working copy of its own."""
    folder = data_folder(data)
    if fresh:
        with held(folder):
            start_over(folder)
    shoot, volumes = lay_out(folder), lay_out_card(folder)
    offer_editor(folder)
    run(
        [shoot],
        port,
        folder,
        [folder / "demo", *default_roots()],
        [volumes],
        secret=not no_secret,
        browser=browser,
    )


@app.command()
def analyse(
    folder: Annotated[Path, typer.Argument(help="Folder of frames, sub-folders included.")],
    json: Annotated[str, typer.Option(help="File for the JSON document; - for standard output.")] = "-",
    maps: Annotated[bool, typer.Option("--maps", help="Add the blur map of every frame.")] = False,
    cluster: Cluster = None,
) -> None:
    """Measure every frame of a folder and write what was found as JSON. Exits with 1 if some frames could
    not be read."""
    from winnow.pipeline.report import analyse as measure_all

    if not folder.is_dir():
        refuse(f"{folder} is not a folder that can be reached.")
    if json != "-" and not Path(json).resolve().parent.is_dir():
        refuse(f"{Path(json).parent} is not a folder: choose another place for the document.")
    try:
        far = far_at(cluster)
        found = measure_all(folder, _show, maps=maps, far=far)
        if far is not None:
            _tell_far(far)
    except RuntimeError as error:
        refuse(str(error))
    typer.echo("", err=True)
    text = json_text(found)
    if json == "-":
        typer.echo(text)
    else:
        Path(json).write_text(text + "\n", "utf-8")
    unread = [frame for frame in found["frames"] if not frame["readable"]]
    for frame in unread:
        typer.echo(f"{frame['path']}: {frame['error']}", err=True)
    if unread:
        raise typer.Exit(1)


def _tell_far(far: Far) -> None:
    """What other machines did, and what that moved."""
    done = far.tally
    typer.echo(
        f"\non the cluster: {done.frames} frames, {done.sent / 1e6:.1f} MB of files sent, "
        f"{done.received / 1e6:.1f} MB of pictures received",
        err=True,
        nl=False,
    )
    far.close()


def _show(progress: Progress) -> None:
    """One line on standard error, written over and over."""
    left = f", {progress.seconds_left:.0f} s left" if progress.seconds_left else ""
    words = f"read {progress.read}, measured {progress.measured} of {progress.listed} frames{left}"
    typer.echo(f"\r{words:<70}", err=True, nl=False)


@app.command()
def export(
    folder: Annotated[Path, typer.Argument(help="Folder of a shoot that was opened before.")],
    show: Annotated[str, typer.Option(help="Filter, as a sentence; empty: all frames.")] = "",
    form: Annotated[Form, typer.Option("--as", help="What the list is written as.")] = Form.CSV,
    column: Annotated[
        list[str] | None, typer.Option(help="Column by its id (repeatable); without: the usual ones.")
    ] = None,
    to: Annotated[str, typer.Option(help="File for the list; - for standard output.")] = "-",
    archive: Annotated[
        Path | None, typer.Option(help="File for the whole shoot instead: marks, history, groups, passes.")
    ] = None,
    data: Data = None,
) -> None:
    """Write a list of a shoot's frames: names, marks, capture data. Or the whole shoot, as an archive that joins its
    pictures on another machine."""
    if archive is not None:
        cli_files.save_archive(folder, archive, data)
        return
    from winnow.pipeline.lists import NotKnownError, frame_list

    try:
        text = frame_list(data_folder(data), folder, show, form, column or [])
    except (NotKnownError, ValueError) as error:
        refuse(str(error))
    if to == "-":
        # As in a file, whatever the terminal is set to.
        typer.echo(text.encode("utf-8"), nl=False)
        return
    try:
        Path(to).write_text(text, "utf-8", newline="")
    except OSError as error:
        refuse(f"{to} cannot be written ({error.strerror}): choose another place for the list.")


app.command("import")(cli_files.import_card)
app.command()(cli_files.rename)
app.command()(cli_files.verify)
app.command()(cli_upkeep.status)
app.command()(cli_upkeep.backup)
app.command()(cli_upkeep.restore)
app.command()(cli_upkeep.doctor)
app.command("install-desktop")(cli_upkeep.install_desktop)


@app.command()
def bench(
    json: Annotated[Path | None, typer.Option(help="Write the figures as JSON too.")] = None,
    frames: Annotated[int, typer.Option(help="Frames of 24 megapixels to make.")] = 2000,
) -> None:
    """Measure every figure of docs/performance.md on this machine."""
    try:
        from winnow.bench.run import run_all
    except ModuleNotFoundError as error:
        typer.echo(f"The benchmark needs {error.name}: install winnow[bench].", err=True)
        raise typer.Exit(2) from error
    run_all(json, frames)


def _version(wanted: bool) -> None:
    if wanted:
        typer.echo(f"winnow {__version__}")
        raise typer.Exit


@app.callback()
def main(
    version: Annotated[bool, typer.Option("--version", callback=_version, is_eager=True)] = False,
) -> None:
    """Cull a shoot: see every frame, compare, decide, hand on the keepers."""
    # A name that a terminal cannot show must not keep a command from its end.
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")


def run(
    folders: list[Path],
    port: int | None,
    data: Path,
    roots: list[Path],
    volumes: list[Path],
    host: str = LOOPBACK,
    token: str | None = None,
    secret: bool = True,
    browser: bool | None = None,
    cluster: str | None = None,
    lan: bool = False,
) -> None:
    """Serves until interrupted; where a server runs on the data folder already, opens the folders there. Exits with 2
    where it cannot start."""
    # Imported here: worker processes import this module again and need none of it.
    from winnow.api.serving import CannotServeError, Entrance, serve_shoots
    from winnow.pipeline.far import ClusterError
    from winnow.store.data_folder import DataFolderError, InUseError
    from winnow.store.settings import SettingsFile
    from winnow.upkeep.browser import open_browser

    if not is_loopback(host) and not token and not lan:
        refuse(
            f"Bound to {host}, Winnow can be reached from other machines. "
            "Give an access token with --token or WINNOW_TOKEN."
        )
    # Whoever starts it in the background may have told it to take no notice: then it could not be ended before it
    # serves.
    signal.signal(signal.SIGINT, signal.default_int_handler)
    wants_browser = SettingsFile(data).now().open_browser if browser is None else browser
    show = open_browser if wants_browser else None
    try:
        entrance = Entrance(host, port, token, secret, show)
        serve_shoots(folders, data, roots, volumes, entrance, typer.echo, far=far_at(cluster))
    except InUseError as error:
        # What asks another server takes long to load: a first start does without.
        from winnow.upkeep.second_start import NotTakenError, open_there

        try:
            open_there(data, folders, typer.echo, show)
        except NotTakenError as refused:
            refuse(str(refused) or str(error))
    except (CannotServeError, ClusterError, DataFolderError) as error:
        refuse(str(error))
