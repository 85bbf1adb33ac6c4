"""The settings of a data folder, in a file that a person may edit, and what tells the folder from others."""

from __future__ import annotations

import sqlite3
import textwrap
from collections.abc import Mapping
from pathlib import Path
from threading import Lock

import tomlkit
from pydantic import ValidationError
from tomlkit.exceptions import TOMLKitError

from winnow.core.settings import Settings

FILE = "settings.toml"
"""Name of the file in the data folder."""
HEAD = (
    "Settings of this Winnow. They can be changed here or on its settings screen; this file is read again when it "
    "changes, and what is not said in it is as it comes."
)
WIDTH = 100

LIBRARY = "library"


class SettingsError(ValueError):
    """The file cannot be read as settings; the message says where and what to do."""


class SettingsFile:
    """Read anew whenever it changed; may be asked on any thread. While it cannot be read, what it said last is in
    force."""

    def __init__(self, folder: Path) -> None:
        self.path = folder / FILE
        self.problem: str | None = None
        """Why the file as it is now cannot be read."""
        self._lock = Lock()
        self._read: tuple[int, int] | None = None
        self._good = Settings.model_validate({})

    def check(self) -> Settings:
        """What is set now. Raises SettingsError."""
        now = self.now()
        if self.problem:
            raise SettingsError(self.problem)
        return now

    def now(self) -> Settings:
        """What is set now, or was when the file could last be read."""
        with self._lock:
            return self._look()

    def change(self, values: Mapping[str, object]) -> Settings:
        """Sets some of it; what else is in the file stays, comments as well. Raises SettingsError, and OSError."""
        with self._lock:
            now = self._look()
            if self.problem:
                raise SettingsError(self.problem)
            wanted = _checked(self.path, {**now.model_dump(), **values})
            document = tomlkit.parse(self._text() or _as_file(now))
            for name, value in values.items():
                if name not in document:
                    document.add(tomlkit.nl())
                    for line in _comment(name):
                        document.add(tomlkit.comment(line))
                document[name] = value
            self._write(tomlkit.dumps(document))
            self._good, self._read = wanted, self._stamp()
            return wanted

    def begin(self, old: Mapping[str, str]) -> None:
        """Writes the file where there is none. old: as the database kept them once."""
        with self._lock:
            if self.path.exists():
                return
            names = {
                "cache-gb": "cache_gb",
                "takes-in": "takes_in",
                "full-sidecar-names": "full_sidecar_names",
            }
            values = {names[name]: value for name, value in old.items() if name in names}
            parsed = {
                name: int(value) if name == "cache_gb" else value == "1" for name, value in values.items()
            }
            self._write(_as_file(_checked(self.path, parsed)))

    def _look(self) -> Settings:
        stamp = self._stamp()
        if stamp != self._read:
            self._read = stamp
            try:
                self._good = _parsed(self.path, self._text())
                self.problem = None
            except SettingsError as error:
                self.problem = str(error)
        return self._good

    def _stamp(self) -> tuple[int, int] | None:
        try:
            stat = self.path.stat()
        except FileNotFoundError:
            return None
        return stat.st_mtime_ns, stat.st_size

    def _text(self) -> str:
        try:
            return self.path.read_text("utf-8")
        except FileNotFoundError:
            return ""
        except UnicodeDecodeError as error:
            raise SettingsError(f"{self.path} is not UTF-8 text: save it as such.") from error
        except OSError as error:
            raise SettingsError(f"{self.path} cannot be read ({error.strerror}).") from error

    def _write(self, text: str) -> None:
        target = self.path.resolve()  # a link to a file that is kept elsewhere stays one
        part = target.with_suffix(".part")
        part.write_text(text, "utf-8")
        part.replace(target)


def _parsed(path: Path, text: str) -> Settings:
    try:
        values = tomlkit.parse(text).unwrap()
    except TOMLKitError as error:
        raise SettingsError(f"{path} is no TOML: {error}. Mend that line, or remove the file.") from error
    return _checked(path, values)


def _checked(path: Path, values: Mapping[str, object]) -> Settings:
    try:
        return Settings.model_validate(values)
    except ValidationError as error:
        told = []
        for one in error.errors():
            name = ".".join(map(str, one["loc"]))
            unknown = one["type"] == "extra_forbidden"
            told.append(f"{name}: {'there is no such setting' if unknown else one['msg']}")
        raise SettingsError(f"{path}: {'; '.join(told)}. Mend that, or remove the line.") from error


def _as_file(settings: Settings) -> str:
    """All settings with what each means."""
    parts = ["\n".join(f"# {line}" for line in textwrap.wrap(HEAD, WIDTH))]
    for name, value in settings.model_dump().items():
        lines = [f"# {line}" for line in _comment(name)]
        parts.append("\n".join([*lines, f"{name} = {tomlkit.item(value).as_string()}"]))
    return "\n\n".join(parts) + "\n"


def _comment(name: str) -> list[str]:
    return textwrap.wrap(str(Settings.model_fields[name].description), WIDTH)


def library(connection: sqlite3.Connection, new: str) -> str:
    """What tells this data folder from others, for good; `new` if it has nothing yet. Within a transaction."""
    connection.execute("INSERT OR IGNORE INTO setting VALUES (?, ?)", (LIBRARY, new))
    return str(connection.execute("SELECT value FROM setting WHERE name = ?", (LIBRARY,)).fetchone()[0])


def kept_before(connection: sqlite3.Connection) -> dict[str, str]:
    """Settings that the database of an earlier version holds, by name."""
    rows = connection.execute("SELECT name, value FROM setting WHERE name != ?", (LIBRARY,))
    return {row["name"]: row["value"] for row in rows}
