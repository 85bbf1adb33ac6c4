"""Opens the person's browser."""

from __future__ import annotations

import os
import sys
import threading
import webbrowser

PATIENCE_S = 3.0
"""Whoever ends sooner would take the browser along."""


def open_browser(address: str) -> None:
    """Shows an address, where there is a screen to show it on. Some browsers are started through a program that stays
    until they are closed: that is not waited for."""
    if has_screen():
        opening = threading.Thread(target=webbrowser.open, args=(address,), daemon=True)
        opening.start()
        opening.join(PATIENCE_S)


def has_screen() -> bool:
    """Whether this is a session with windows. Elsewhere a browser for text would take the terminal."""
    if sys.platform in ("win32", "darwin"):
        return True
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "BROWSER"))
