"""Whether a fluent person who weeds gets all that they say: 500 frames at 4 keys a second in the pass *Weed*."""

from __future__ import annotations

import json
import time
import urllib.request
from collections.abc import Iterator
from typing import Any

from selenium import webdriver

from winnow.bench.figures import measures, percentile
from winnow.bench.stepping import PACE_MS, PRESS, Line

FRAMES = 500
PORTION = 99
"""Keys that are given at once: a driver does not wait for longer answers. A multiple of the pattern of keys."""
KEYS = ("d", "a", "a")
"""Every third frame is out. A fluent person marks 3 to 4 frames a second (common practice, no source)."""


def lines(driver: webdriver.Chrome, address: str, frame_ms: float) -> Iterator[Line]:
    """(name, value, unit, bound, baseline). Shoot 1 is prepared. frame_ms: one display frame of the browser."""
    walk = _ask(address, "POST", "/api/shoots/1/passes", {"name": "Weed"})
    ids = walk["frames"][:FRAMES]
    driver.get(f"{address}/shoots/1/bench?pass={walk['id']}")
    time.sleep(4)
    driver.set_script_timeout(120)
    shown: list[float] = []
    for start in range(0, len(ids), PORTION):
        driver.execute_async_script(PRESS, list(KEYS), min(PORTION, len(ids) - start), PACE_MS)
        shown += measures(driver, "winnow:show-frame")
    time.sleep(3)
    decisions = _decisions(address)
    wrong = sum(decisions[i] != ("reject" if n % 3 == 0 else "keep") for n, i in enumerate(ids))
    untouched = sum(decisions[i] != "keep" for i in walk["frames"][FRAMES:])
    seen = _ask(address, "GET", f"/api/shoots/1/passes/{walk['id']}")["seen"]
    asked = f"{len(ids)} frames, one key each, at 4 a second in Weed"
    yield "weeding: frames marked otherwise than said", wrong, "", 0, asked
    yield "weeding: frames marked that nobody was at", untouched, "", 0, asked
    yield "weeding: frames gone through and not counted, or twice", abs(seen - len(ids)), "", 0, asked
    baseline = f"one display frame of this browser: {frame_ms:.1f} ms"
    yield "weeding: show-frame, median", percentile(shown, 50), "ms", None, baseline
    yield "weeding: show-frame, 95th percentile", percentile(shown, 95), "ms", 17, baseline


def _ask(address: str, method: str, path: str, body: object = None) -> Any:
    data = None if body is None else json.dumps(body).encode()
    headers = {"Content-Type": "application/json"}
    request = urllib.request.Request(address + path, data, headers, method=method)
    with urllib.request.urlopen(request, timeout=60) as answer:
        return json.load(answer)


def _decisions(address: str) -> dict[int, str]:
    found: dict[int, str] = {}
    after, more = 0, True
    while more:
        page = _ask(address, "GET", f"/api/shoots/1/frames?after={after}")
        found |= {frame["id"]: frame["decision"] for frame in page["frames"]}
        after, more = max(found, default=0), page["more"]
    return found
