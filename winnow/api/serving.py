"""The running server: one process a data folder, one address."""

from __future__ import annotations

import logging
import signal
import socket
import sqlite3
import sys
import threading
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from pathlib import Path
from types import FrameType
from typing import Any
from urllib.parse import urlencode

import uvicorn
from uvicorn.protocols.http.httptools_impl import HttpToolsProtocol

from winnow import __version__
from winnow.api.addresses import ANYWHERE, LOOPBACK, is_loopback, on_the_network
from winnow.api.app import create_app
from winnow.api.desk import Desk, FolderRefusedError, MovedShootError
from winnow.api.entry_codes import EntryCodes
from winnow.api.events import CLOSING
from winnow.api.security import CODE, TOKEN
from winnow.pipeline import logs, shipped
from winnow.pipeline.far import Far
from winnow.store import shoots
from winnow.store.backups import BackupError
from winnow.store.data_folder import alone, announced, secret_of
from winnow.store.database import DatabaseTooNewError
from winnow.store.settings import SettingsError

log = logging.getLogger(__name__)


class CannotServeError(RuntimeError):
    """The server cannot start; the message says what to do."""


@dataclass(frozen=True, slots=True)
class Entrance:
    """Where the server is reached, and by whom. token: what a request must know; without one it is the secret of the
    data folder, or, with `secret` off, nothing. port: None is the one that is set. open: is given the whole address,
    to open it in the browser."""

    host: str
    port: int | None
    token: str | None = None
    secret: bool = True
    open: Callable[[str], None] | None = None


def serve_shoots(
    folders: list[Path],
    data: Path,
    roots: list[Path],
    volumes: list[Path],
    entrance: Entrance,
    say: Callable[[str], None],
    far: Far | None = None,
) -> None:
    """Opens folders as shoots and serves until interrupted. Raises CannotServeError, and DataFolderError (InUseError)
    where the data folder cannot be had.

    volumes, far: see `Desk.set_up`. say: called with the address once it can be opened.
    """
    demand_undamaged()
    with alone(data):
        try:
            desk = Desk.set_up(data, [*roots, *folders], volumes, far=far)
            logs.set_up(data, names=desk.database.settings.now().picture_names_in_log)
            log.info("Winnow %s on %s, Python %s", __version__, sys.platform, sys.version.split()[0])
            opened = []
            for folder in folders:
                try:
                    opened.append(desk.open_folder(str(folder)))
                except MovedShootError as moved:
                    say(f"{moved} Say in the list of shoots where it is now.")
        except (FolderRefusedError, DatabaseTooNewError, SettingsError, BackupError, OSError) as error:
            raise CannotServeError(str(error)) from error
        except sqlite3.Error as error:
            raise CannotServeError(
                f"The database in {data} cannot be used ({error}): check the disk and its free space, "
                "or choose another data folder with --data."
            ) from error
        try:
            _serve(desk, opened, data, entrance, say)
        finally:
            desk.stop()  # also where it never came to serving: a listing may wait for workers that are not there


def _serve(desk: Desk, opened: list[int], data: Path, entrance: Entrance, say: Callable[[str], None]) -> None:
    host, token = entrance.host, entrance.token
    settings = desk.database.settings.now()
    port = settings.port if entrance.port is None else entrance.port
    try:
        listener = listen(host, port)
    except OSError as error:
        raise CannotServeError(
            f"Port {port} cannot be used ({error.strerror}): choose another with --port."
        ) from error
    if entrance.secret and not token:
        try:
            token = secret_of(data)
        except OSError as error:
            raise CannotServeError(f"The secret in {data} cannot be used ({error.strerror}).") from error
    by_code = not entrance.token
    there = _there(listener, host, opened[0] if len(opened) == 1 else None, token, only_others=by_code)
    # Before anybody is told: whoever starts it a second time may have read the address by then.
    with announced(data, there.place, secret=entrance.secret and not entrance.token):
        _tell(desk, there, say)
        _run(desk, listener, there, entrance.open)


@dataclass(frozen=True, slots=True)
class _There:
    """Where the server is. place: scheme, host and port; anywhere: other machines may reach it, at `others`,
    only_others: by no other name;
    shoot_id: what is opened first."""

    place: str
    anywhere: bool
    others: list[str]
    only_others: bool
    shoot_id: int | None
    token: str | None

    def address(self, key: Mapping[str, str]) -> str:
        """The address to open in the browser. key: what lets in, where something must."""
        path = f"shoots/{self.shoot_id}" if self.shoot_id else ""
        return self.place + path + ("?" + urlencode(key) if self.token else "")


def _there(
    listener: socket.socket, host: str, shoot_id: int | None, token: str | None, *, only_others: bool
) -> _There:
    port = listener.getsockname()[1]
    name = LOOPBACK if host == ANYWHERE else f"[{host}]" if ":" in host else host
    others = [] if is_loopback(host) else [f"http://{one}:{port}/" for one in on_the_network(host)]
    return _There(f"http://{name}:{port}/", not is_loopback(host), others, only_others, shoot_id, token)


def _tell(desk: Desk, there: _There, say: Callable[[str], None]) -> None:
    say(f"Winnow is at {there.address({TOKEN: there.token or ''})}")
    if there.others:
        say(f"Other machines reach it at {', '.join(there.others)}, by a code from its settings.")
        say("The first address holds the secret of this Winnow: keep it to yourself. Devices get codes.")
    for plan in desk.runner.recover():
        shoot = shoots.get(desk.database.connection(), plan.shoot_id)
        title = shoot.title if shoot else "a shoot"
        say(f"A plan of '{title}' is half done ({plan.kind}): go on with it or roll it back under Handoff.")
    say("Press Ctrl+C to end.")


def _run(
    desk: Desk, listener: socket.socket, there: _There, open_browser: Callable[[str], None] | None
) -> None:
    codes = EntryCodes()
    config = uvicorn.Config(
        lambda: create_app(
            desk,
            codes=codes,
            token=there.token,
            anywhere=there.anywhere,
            addresses=there.others,
            only_addresses=there.only_others,
            end=lambda: server.end(),
        ),
        factory=True,  # made while the server listens to signals
        http=Patient,
        ws="none",  # news go as server-sent events
        log_config=None,
        log_level="warning",
        access_log=False,
        timeout_graceful_shutdown=2,
    )

    def show() -> None:
        if open_browser is not None:
            open_browser(there.address({CODE: codes.make()}))

    server = _Server(config, desk, show)
    # From here on Ctrl+C is noted, not raised: what is raised in a callback of a weak reference goes nowhere, and the
    # server would never hear of it.
    before = signal.signal(signal.SIGINT, server.handle_exit)
    try:
        server.run(sockets=[listener])
    finally:
        signal.signal(signal.SIGINT, before)
    if server.interrupted:
        raise KeyboardInterrupt


def demand_undamaged() -> None:
    """Raises CannotServeError where files of the program are not as they were built."""
    damaged = shipped.damaged()
    if damaged:
        raise CannotServeError(
            f"{len(damaged)} files of Winnow are damaged ({damaged[0]}): install it again. Your marks are safe."
        )


def listen(host: str, port: int) -> socket.socket:
    """A socket to serve on. Raises OSError.

    Small answers leave at once (TCP_NODELAY, which accepted sockets inherit): asyncio sets that itself on its own
    sockets alone, and without it a line that is kept open waits 40 ms for every acknowledgement (RFC 1122, 4.2.3.2).
    """
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    listener = socket.create_server((host, port), family=family)
    listener.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    return listener


class Patient(HttpToolsProtocol):
    """HTTP that takes whatever other applications of this host left among the cookies, control characters included.
    No proxy stands before this server that could read such a request otherwise."""

    def __init__(self, *arguments: Any, **more: Any) -> None:
        super().__init__(*arguments, **more)
        self.parser.set_dangerous_leniencies(lenient_headers=True)


class _Server(uvicorn.Server):
    """Ends the open event streams before it waits for connections to close. served: called once it answers."""

    def __init__(self, config: uvicorn.Config, desk: Desk, served: Callable[[], None]) -> None:
        super().__init__(config)
        self.desk = desk
        self.served = served
        self.interrupted = False

    def handle_exit(self, sig: int, frame: FrameType | None) -> None:
        self.interrupted |= sig == signal.SIGINT
        super().handle_exit(sig, frame)

    def end(self) -> None:
        self.should_exit = True

    async def startup(self, sockets: list[socket.socket] | None = None) -> None:
        await super().startup(sockets)
        threading.Thread(target=self.served, daemon=True).start()

    async def shutdown(self, sockets: list[socket.socket] | None = None) -> None:
        self.desk.events.publish(CLOSING)
        await super().shutdown(sockets)
