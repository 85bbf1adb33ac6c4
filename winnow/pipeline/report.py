"""`winnow analyse`: every frame of a folder measured, as one JSON document."""

from __future__ import annotations

import json
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from winnow.core.focus.verdict import SHARP_PX
from winnow.pipeline.cache import Cache
from winnow.pipeline.engine import Engine
from winnow.pipeline.events import Events
from winnow.pipeline.far import Far
from winnow.pipeline.progress import Progress, ProgressState
from winnow.store import evidence, frames, shoots
from winnow.store.database import DATABASE, Database

LOOK_EVERY_S = 0.25


def analyse(
    folder: Path, progress: Callable[[Progress], None], *, maps: bool = False, far: Far | None = None
) -> dict[str, Any]:
    """Measures every frame below a folder and reports it; nothing is left behind.

    progress: called a few times a second with counts. maps: adds the blur maps. far: other machines that measure too.
    Raises scan.FolderUnreadableError's words as RuntimeError if the folder cannot be listed.
    """
    with tempfile.TemporaryDirectory(prefix="winnow-") as name:
        database = Database(Path(name) / DATABASE)
        engine = Engine(database, Cache(Path(name) / "cache"), Events(), far)
        with database.transaction() as connection:
            shoot_id = shoots.open_folder(connection, folder.resolve(), "1970-01-01T00:00:00+00:00")
        engine.start()
        try:
            engine.open(shoot_id)
            while not engine.idle():
                now = engine.progress(shoot_id)
                if now.state == ProgressState.PAUSED:
                    raise RuntimeError(now.message)
                progress(now)
                time.sleep(LOOK_EVERY_S)
            last = engine.progress(shoot_id)
            progress(last)
            if last.state == ProgressState.UNREADABLE:
                raise RuntimeError(last.message)
            return report(database, shoot_id, maps=maps)
        finally:
            engine.stop()


def report(database: Database, shoot_id: int, *, maps: bool = False) -> dict[str, Any]:
    """What is known of a shoot's frames, in capture order."""
    connection = database.connection()
    listed = []
    groups: dict[int, dict[str, Any]] = {}
    for row in frames.summaries(connection, shoot_id):
        if row["place"] != "shoot":
            continue
        found = evidence.details(connection, row["id"])
        listed.append(_frame(row, found, maps))
        group = groups.setdefault(
            row["group"],
            {"id": row["group"], "scene": row["scene"], "frames": [], "bracket": bool(row["bracket"])},
        )
        group["frames"].append(row["name"])
    return {"frames": listed, "groups": list(groups.values())}


def _frame(row: Any, found: Any, maps: bool) -> dict[str, Any]:
    """One frame of the report; what is not measured is None."""
    content = json.loads(found["content"]) if found and found["content"] else None
    judged = json.loads(found["judgement"]) if found and found["judgement"] else None
    problem = row["problem"] or (found["problem"] if found else None)
    frame: dict[str, Any] = {
        "path": row["name"],
        "captured_at": row["captured_at"],
        "width": row["width"],
        "height": row["height"],
        "readable": row["problem"] is None,
        "error": problem or row["note"],
        "scene": row["scene"],
        "group": row["group"],
        "lead": bool(row["lead"]),
        "rank": judged["rank"] if judged else None,
        "reasons": [reason["text"] for reason in judged["reasons"]] if judged else [],
        "focus": None,
        "exposure": None,
        "faces": None,
    }
    if content is None or judged is None:
        return frame
    focus, exposure = content["focus"], content["exposure"]
    cells = [value for line in focus["sigma_px"] for value in line]
    motion = focus["motion"]
    subject = judged["subject"]
    sharpest = focus["sharpest"]
    frame["focus"] = {
        "verdict": judged["verdict"],
        "sigma_px": sharpest["sigma_px"] if sharpest else None,
        "sharp_share": sharp_share(focus["sigma_px"]),
        "subject": subject,
        "instead": judged["instead"],
        "motion": {name: motion[name] for name in ("length_px", "angle_deg", "kind", "doubt")} if motion
        else {"length_px": 0, "angle_deg": 0, "kind": None, "doubt": 0},
    }  # fmt: skip
    if maps:
        frame["focus"]["map"] = {
            "tile_px": focus["tile_px"],
            "rows": len(focus["sigma_px"]),
            "cols": len(focus["sigma_px"][0]),
            "sigma_px": cells,
        }
    frame["exposure"] = {
        "clipped_high": exposure["clipped_high"],
        "clipped_low": exposure["clipped_low"],
        "median_stops": exposure["median_stops"],
        "group_stops": judged["group_stops"],
        "verdict": judged["exposure"],
    }
    frame["faces"] = [
        {key: face[key] for key in ("box", "person", "facing", "eyes")} for face in judged["faces"]
    ]
    return frame


def sharp_share(sigma_px: list[list[float | None]]) -> float:
    """Share of the tiles that are sharp; tiles without edges count as not."""
    cells = [value for line in sigma_px for value in line]
    return round(sum(value is not None and value <= SHARP_PX for value in cells) / max(1, len(cells)), 4)
