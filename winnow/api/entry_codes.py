"""Codes that let a browser in once, within a short time, and the devices that came in by one.

The address that the system is told to open stands among the arguments of a process, where every account on the
machine can read it. So it holds such a code and not the secret. A tablet gets a short one, to be typed, and a token
of its own.
"""

from __future__ import annotations

import logging
import secrets
import sqlite3
import threading
import time
from collections import OrderedDict
from dataclasses import dataclass

from winnow.store import devices
from winnow.store.database import Database
from winnow.store.devices import Device

log = logging.getLogger(__name__)

VALID_S = 120.0
TYPED_VALID_S = 300.0
MOST = 20
LETTERS = "ABCDEFGHJKLMNPQRSTUVWXYZ23456789"
"""Without those that are taken for others."""
TYPED = 8
GUESSES = 20
"""After this many wrong codes an address may try no more for a while: 8 of 32 letters are not found by 20 guesses."""
GUESSES_IN_ALL = 1000
"""After this many from all addresses together the codes given out are void: 32**8 / 1000 is still 10**9."""
LOCKED_S = 900.0
MOST_ADDRESSES = 1000
SEEN_EVERY_S = 60.0
TOKEN_BYTES = 32


@dataclass(frozen=True, slots=True)
class Entry:
    """Who a code is for: a device by its name; None: whoever runs Winnow. proposes: what it marks is a proposal."""

    device: str | None
    until: float
    proposes: bool = False


class EntryCodes:
    """Codes that were given out. May be asked on any thread."""

    def __init__(self) -> None:
        self._given: dict[str, Entry] = {}
        self._guesses: OrderedDict[str, tuple[int, float]] = OrderedDict()
        self._guessed = 0
        self._lock = threading.Lock()

    def make(self) -> str:
        """For another browser of whoever runs Winnow."""
        return self._give(secrets.token_urlsafe(16), Entry(None, time.monotonic() + VALID_S))

    def make_typed(self, device: str, *, proposes: bool = False) -> str:
        """For a device: to be read and typed, as ABCD-EFGH."""
        code = "".join(secrets.choice(LETTERS) for _ in range(TYPED))
        self._give(code, Entry(device, time.monotonic() + TYPED_VALID_S, proposes))
        return f"{code[:4]}-{code[4:]}"

    def _give(self, code: str, entry: Entry) -> str:
        with self._lock:
            while len(self._given) >= MOST:
                del self._given[next(iter(self._given))]
            self._given[code] = entry
            self._guessed = 0
            return code

    def take(self, code: str, address: str = "") -> Entry | None:
        """Return whom a code lets in; it does once. address: where it was typed; wrong codes are counted by it."""
        with self._lock:
            now = time.monotonic()
            guesses, since = self._guesses.get(address, (0, now))
            if now - since > LOCKED_S:
                guesses, since = 0, now
            if guesses >= GUESSES:
                return None
            entry = self._given.pop(code, None) or self._given.pop(_as_typed(code), None)
            if entry is not None and entry.until > now:
                return entry
            if code:
                self._guesses[address] = guesses + 1, since
                self._guesses.move_to_end(address)
                while len(self._guesses) > MOST_ADDRESSES:
                    self._guesses.popitem(last=False)
                self._guessed += 1
            if self._guessed >= GUESSES_IN_ALL:
                self._given.clear()
            return None


def _as_typed(code: str) -> str:
    return "".join(c for c in code.upper() if c in LETTERS)


class Devices:
    """Who is let in beside whoever runs Winnow. May be asked on any thread."""

    def __init__(self, database: Database) -> None:
        self._database = database
        self._lock = threading.Lock()
        self._by_digest = {one.digest: one for one in devices.every(database.connection())}
        self._seen: dict[int, float] = {}

    def let_in(self, name: str, now: str, *, proposes: bool) -> str:
        """A token for a device."""
        token = secrets.token_urlsafe(TOKEN_BYTES)
        with self._database.transaction() as connection:
            devices.let_in(connection, name, token, now, proposes=proposes)
        self._read()
        return token

    def set_proposes(self, device_id: int, proposes: bool) -> None:
        """From its next request on."""
        with self._database.transaction() as connection:
            devices.set_proposes(connection, device_id, proposes)
        self._read()

    def known(self, token: str) -> Device | None:
        """The device whose token this is; never waits."""
        return self._by_digest.get(devices.digest_of(token)) if token else None

    def is_due(self, device: Device) -> bool:
        """Whether it should be written down again that the device was here."""
        return time.monotonic() - self._seen.get(device.id, -SEEN_EVERY_S) >= SEEN_EVERY_S

    def note_seen(self, device: Device, now: str) -> None:
        """Store when a device was last seen. If that fails (a full disk), the request goes on without it."""
        self._seen[device.id] = time.monotonic()
        try:
            with self._database.transaction() as connection:
                devices.note_seen(connection, device.id, now)
        except (OSError, sqlite3.Error) as error:
            log.warning("could not store when a device was last seen: %s", type(error).__name__)

    def withdraw(self, device_id: int) -> None:
        with self._database.transaction() as connection:
            devices.withdraw(connection, device_id)
        self._read()

    def every(self) -> list[Device]:
        return devices.every(self._database.connection())

    def _read(self) -> None:
        with self._lock:
            self._by_digest = {one.digest: one for one in devices.every(self._database.connection())}
