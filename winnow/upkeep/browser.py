"""Opens the person's browser."""

from __future__ import annotations

import os
import sys
import threading
import webbrowser


def open_browser(address: str) -> None:
    """Shows an address, where there is a screen to show it on; never waits for the browser."""
    if has_screen():
        threading.Thread(target=webbrowser.open, args=(address,), daemon=True).start()


def has_screen() -> bool:
    """Whether this is a session with windows. Elsewhere a browser for text would take the terminal."""
    if sys.platform in ("win32", "darwin"):
        return True
    return any(os.environ.get(name) for name in ("DISPLAY", "WAYLAND_DISPLAY", "BROWSER"))
