"""A small shoot on real files, opened without worker processes, so that many rounds cost little."""

from __future__ import annotations

import hashlib
import random
from collections import Counter
from dataclasses import replace
from pathlib import Path

import numpy as np
from PIL import Image

from tests import photographs
from winnow.core.file_names import Naming
from winnow.core.history import BatchKind
from winnow.core.marks import Decision, Field
from winnow.core.xmp_marks import XmpMarks
from winnow.formats import xmp
from winnow.formats.sized import Metadata, Sized
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.pipeline.cache import Cache
from winnow.pipeline.reading import read_now
from winnow.store import frames, marks, plans, shoots
from winnow.store.database import DATABASE, Database
from winnow.store.plans import Plan, PlanKind
from winnow.store.shoots import Shoot

NOW = "2026-10-17T20:00:00.000+00:00"
OWN = (".winnow-holding",)
"""Files of Winnow's own among the photographer's."""


def contents(*folders: Path) -> dict[str, str]:
    """Every file below folders with its SHA-256; what is Winnow's own is left out."""
    return {
        str(path): hashlib.sha256(path.read_bytes()).hexdigest()
        for folder in folders
        for path in sorted(folder.rglob("*"))
        if path.is_file() and path.name not in OWN and path.name != "filler"
    }


class Scene:
    """A shoot in `root/shoot`, with a data folder anywhere."""

    def __init__(self, root: Path, data: Path, rng: random.Random, count: int = 16) -> None:
        self.root, self.rng = root, rng
        self.folder = root / "shoot"
        _make_files(self.folder, rng, count)
        self.database = Database(data / DATABASE)
        self.cache = Cache(data / "cache")
        with self.database.transaction() as connection:
            self.id = shoots.open_folder(connection, self.folder, NOW)
        self.list()
        self.before = contents(self.folder)
        self.pictures = Counter(v for k, v in self.before.items() if _is_original(k))

    @property
    def shoot(self) -> Shoot:
        found = shoots.get(self.database.connection(), self.id)
        assert found
        return found

    def list(self) -> None:
        """What the engine does, one thing after another."""
        read_now(self.database, self.cache, self.shoot)

    def mark_at_random(self) -> None:
        ids = [row["id"] for row in frames.summaries(self.database.connection(), self.id)]
        wanted = {
            i: {
                Field.DECISION: self.rng.choice(list(Decision)).value,
                Field.RATING: self.rng.randrange(6),
                Field.LABEL: self.rng.choice([None, "Print", "Élan"]),
            }
            for i in ids
        }
        # At least one of each, so that every kind of plan has something to do.
        wanted[ids[0]][Field.DECISION] = Decision.KEEP.value
        wanted[ids[1]][Field.DECISION] = Decision.REJECT.value
        with self.database.transaction() as connection:
            marks.set_marks(
                connection, self.id, wanted, kind=BatchKind.MARK, actor="person", title="all", now=NOW
            )

    def marks(self) -> dict[str, tuple[str, int, str | None]]:
        """Decision, stars and label of each frame by its name."""
        rows = frames.summaries(self.database.connection(), self.id)
        return {row["name"]: (row["decision"], row["rating"], row["label"]) for row in rows}

    def plan(self, kind: PlanKind, target: Path | None) -> int:
        needs = kind in (PlanKind.COPY_KEEPERS, PlanKind.MOVE_KEEPERS)
        wish = Wish(kind, str(target) if needs else None, keep_folders=self.rng.random() < 0.5)
        if kind is PlanKind.COPY_KEEPERS and self.rng.random() < 0.4:
            wish = replace(wish, sized=Sized(64, 80, True, Metadata.ALL))
        if kind is PlanKind.RENAME:
            # Names that the frames have already, handed round.
            ids = [row["id"] for row in frames.summaries(self.database.connection(), self.id)]
            self.rng.shuffle(ids)
            wish = Wish(kind, frames=tuple(ids), naming=Naming("FLT_{counter:4}", start=0))
        return make_plan(self.database, self.id, wish, NOW)

    def read(self, plan_id: int) -> Plan:
        found = plans.get(self.database.connection(), plan_id)
        assert found
        return found

    def lost(self, *elsewhere: Path) -> Counter[str]:
        """Originals whose bytes are nowhere any more."""
        there = contents(self.folder, self.holding, *elsewhere)
        return self.pictures - Counter(v for k, v in there.items() if not Path(k).is_symlink())

    def wrong_places(self) -> list[str]:
        """Frames that are not where all files are again: in the shoot."""
        rows = frames.summaries(self.database.connection(), self.id)
        return [f"{row['name']} is {row['place']}" for row in rows if row["place"] != "shoot"]

    @property
    def holding(self) -> Path:
        return self.folder.with_name("shoot (held back)")


def _is_original(path: str) -> bool:
    """Sidecars are written on purpose; a link holds nothing of its own."""
    return not path.endswith(".xmp") and not Path(path).is_symlink()


def _make_files(folder: Path, rng: random.Random, count: int) -> None:
    for n in range(count):
        base = folder / f"{100 + n % 3}CARD" / f"FLT_{n:04d}"
        base.parent.mkdir(parents=True, exist_ok=True)
        noise = np.random.default_rng(rng.randrange(2**32)).integers(0, 255, (48, 64, 3), np.uint8)
        taken = f"2026:10:17 16:{n // 60:02d}:{n % 60:02d}"
        Image.fromarray(noise).save(base.with_suffix(".JPG"), quality=90, exif=photographs.exif(taken))
        if n % 4 == 1:
            base.with_suffix(".NEF").write_bytes(rng.randbytes(rng.randrange(1, 60_000)))
        if n % 4 == 2:
            base.with_suffix(".xmp").write_bytes(xmp.write_marks(None, XmpMarks(rating=n % 6)))
    (folder / "EMPTY.JPG").write_bytes(b"")
    (folder / "linked.JPG").symlink_to("100CARD/FLT_0000.JPG")
