"""Ways in: codes that let a browser in once, within a short time.

The address that the system is told to open stands among the arguments of a process, where every account on the
machine can read it. So it holds such a code and not the secret.
"""

from __future__ import annotations

import secrets
import threading
import time

from fastapi import APIRouter, Request

from winnow.api.models.base import Model
from winnow.api.problems import answers

CODE = "code"
VALID_S = 120.0
MOST = 20

router = APIRouter(prefix="/api/entry", tags=["entry"])


class EntryCodes:
    """Codes that were given out. May be asked on any thread."""

    def __init__(self) -> None:
        self._until: dict[str, float] = {}
        self._lock = threading.Lock()

    def make(self) -> str:
        with self._lock:
            while len(self._until) >= MOST:
                del self._until[next(iter(self._until))]
            code = secrets.token_urlsafe(16)
            self._until[code] = time.monotonic() + VALID_S
            return code

    def take(self, code: str) -> bool:
        """Whether a code lets in; it does once."""
        with self._lock:
            return self._until.pop(code, 0.0) > time.monotonic()


class EntryCode(Model):
    """code: opens Winnow once, as `?code=` of any of its pages; empty where nobody needs one."""

    code: str


@router.post("", responses=answers())
async def make_entry_code(request: Request) -> EntryCode:
    """A code for another browser of whoever asks."""
    app = request.app
    return EntryCode(code=app.state.codes.make() if app.state.is_private else "")
