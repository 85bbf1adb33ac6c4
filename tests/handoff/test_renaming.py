"""Files named anew where they are: together, in turn, and back again."""

from __future__ import annotations

import json
import os
import subprocess
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.faults.scene import contents
from tests.handoff.test_plans import FOREIGN, Shoot
from winnow.api.desk import Desk
from winnow.api.models.plans import NamesWish, NamingWish
from winnow.api.plans import preview_names
from winnow.core.file_names import Naming
from winnow.core.marks import Field
from winnow.core.pairing import fold
from winnow.handoff import apply as applying
from winnow.handoff.draft import PlanError
from winnow.handoff.forward import independent
from winnow.handoff.renaming import in_turn
from winnow.pipeline.engine import wait_until_idle
from winnow.store import shoots
from winnow.store.plans import Action, PlanKind, PlanState, Step


@pytest.fixture
def shoot(desk: Desk, shoot_folder: Path) -> Shoot:
    return Shoot(desk, shoot_folder)


def rename(shoot: Shoot, pattern: str, frames: list[int], **more: object) -> int:
    return shoot.plan(PlanKind.RENAME, frames=tuple(frames), naming=Naming(pattern, **more))  # type: ignore[arg-type]


def listed(shoot: Shoot) -> list[str]:
    return sorted(path.name for path in (shoot.folder / "100WINNO").iterdir())


def first_name(path: Path) -> str:
    read = subprocess.run(["exiftool", "-j", "-XMP-xmpMM:PreservedFileName", path], capture_output=True)
    return str(json.loads(read.stdout)[0]["PreservedFileName"])


def test_edited_files_go_along_under_the_name_of_their_frame(shoot: Shoot) -> None:
    """Whether they were chosen too or not: under other names nobody would know whose they are."""
    first = shoot.folder / "100WINNO" / "WIN_0002.JPG"
    (first.parent / "WIN_0002-edit soft.tif").write_bytes(first.read_bytes() + b"edited")
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    rows = {row["name"].split("/")[-1]: row for row in shoot.rows()}
    edited, original = rows["WIN_0002-edit soft.tif"], rows["WIN_0002.JPG"]
    assert edited["original"] == original["id"] and original["edited"]
    assert edited["position"] == original["position"] + 1 and edited["group"] == original["group"]
    for chosen in ([original["id"]], [edited["id"], original["id"]]):
        plan_id = rename(shoot, "kiln_{counter:4}", chosen)
        assert shoot.apply(plan_id) is PlanState.APPLIED
        assert {"kiln_0001.JPG", "kiln_0001-edit soft.tif"} <= set(listed(shoot))
        assert shoot.reverse(plan_id) is PlanState.REVERSED


def test_an_edited_file_with_its_accents_composed_otherwise_goes_along(shoot: Shoot) -> None:
    card = shoot.folder / "100WINNO"
    for written, name in enumerate(("K\u00fcste_0001.JPG", "Ku\u0308ste_0001-edit.tif")):
        (card / name).write_bytes((card / "WIN_0002.JPG").read_bytes() + name.encode())
        os.utime(card / name, (written, written))
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    original = next(row["id"] for row in shoot.rows() if str(row["name"]).endswith("ste_0001.JPG"))
    assert shoot.apply(rename(shoot, "kiln_{counter:4}", [int(str(original))])) is PlanState.APPLIED
    assert {"kiln_0001.JPG", "kiln_0001-edit.tif"} <= set(listed(shoot))


def test_all_files_of_a_frame_get_one_name_and_keep_their_first(shoot: Shoot) -> None:
    """The first name as exiftool (Debian) reads it; what others wrote in the sidecar stays."""
    before = contents(shoot.folder)
    plan_id = rename(shoot, "kiln_{counter:4}", shoot.ids[::-1], start=7)
    assert shoot.apply(plan_id) is PlanState.APPLIED
    assert listed(shoot) == sorted(
        [f"kiln_{n:04d}.{ending}" for n in range(7, 13) for ending in ("JPG", "xmp")] + ["kiln_0012.NEF"]
    )
    sidecar = shoot.folder / "100WINNO" / "kiln_0012.xmp"
    assert first_name(sidecar) == "WIN_0001.JPG"
    assert b"urn:example:dev/" in sidecar.read_bytes()
    assert next(row["name"] for row in shoot.rows()) == "100WINNO/kiln_0012.JPG"
    # named once more, the first name stays the first
    again = rename(shoot, "{subject}_{counter:2}", shoot.ids, words={"subject": "fire"})
    assert shoot.apply(again) is PlanState.APPLIED
    assert first_name(shoot.folder / "100WINNO" / "fire_01.xmp") == "WIN_0001.JPG"
    for plan in (again, plan_id):
        assert shoot.reverse(plan) is PlanState.REVERSED
    assert contents(shoot.folder) == before
    assert next(row["name"] for row in shoot.rows()) == "100WINNO/WIN_0001.JPG"


def test_names_that_go_round_in_a_circle(shoot: Shoot) -> None:
    before = contents(shoot.folder)
    pictures = {path.name: path.read_bytes() for path in shoot.folder.rglob("*.JPG")}
    turned = [*shoot.ids[1:], shoot.ids[0]]
    assert shoot.apply(plan_id := rename(shoot, "WIN_{counter:4}", turned)) is PlanState.APPLIED
    there = {path.name: path.read_bytes() for path in shoot.folder.rglob("*.JPG")}
    assert there == {f"WIN_{n:04d}.JPG": pictures[f"WIN_{n % 6 + 1:04d}.JPG"] for n in range(1, 7)}
    assert (shoot.folder / "100WINNO" / "WIN_0006.NEF").read_bytes() == b"raw" * 1000
    assert FOREIGN not in (shoot.folder / "100WINNO" / "WIN_0001.xmp").read_bytes()
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert contents(shoot.folder) == before


def test_a_link_leads_to_its_file_whatever_that_is_called(shoot: Shoot) -> None:
    card = shoot.folder / "100WINNO"
    (card / "WIN_0007.JPG").symlink_to("WIN_0002.JPG")
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    shoot.ids = [int(str(row["id"])) for row in shoot.rows()]
    second = (card / "WIN_0002.JPG").read_bytes()
    turned = [*shoot.ids[1:], shoot.ids[0]]
    assert shoot.apply(plan_id := rename(shoot, "WIN_{counter:4}", turned)) is PlanState.APPLIED
    links = [path for path in card.iterdir() if path.is_symlink()]
    assert len(links) == 1 and links[0].read_bytes() == second
    assert shoot.reverse(plan_id) is PlanState.REVERSED
    assert (card / "WIN_0007.JPG").readlink() == Path("WIN_0002.JPG")


def test_a_name_that_is_taken_gets_a_suffix_and_nothing_is_renamed_without_a_pattern(shoot: Shoot) -> None:
    assert shoot.apply(rename(shoot, "WIN_0003", shoot.ids[:2])) is PlanState.APPLIED
    assert {"WIN_0003.JPG", "WIN_0003-2.JPG", "WIN_0003-2.NEF", "WIN_0003-3.JPG"} <= set(listed(shoot))
    with pytest.raises(PlanError, match="how the files are to be called"):
        shoot.plan(PlanKind.RENAME, frames=tuple(shoot.ids))
    assert "nothing to do" in shoot.read(rename(shoot, "{name}", shoot.ids)).summary["blocked"]


def test_files_of_a_frame_keep_their_names_together(shoot: Shoot) -> None:
    """One of them is changed just as the plan begins."""
    raw = shoot.folder / "100WINNO" / "WIN_0001.NEF"
    plan_id = rename(shoot, "kiln_{counter}", shoot.ids)

    def change(done: int, total: int) -> None:
        if done == 0:
            raw.write_bytes(b"another")

    assert applying.apply(shoot.desk.database, plan_id, report=change) is PlanState.APPLIED
    assert {"WIN_0001.JPG", "WIN_0001.NEF", "WIN_0001.xmp"} < set(listed(shoot))
    assert not [name for name in listed(shoot) if name.startswith("kiln_1.")]
    assert len([name for name in listed(shoot) if name.startswith("kiln_")]) == 10


def test_names_are_shown_beforehand_as_the_plan_gives_them(shoot: Shoot) -> None:
    """Files that stay where they are are renamed with those that somebody only proposes something of, and with what
    was made of them; of what leaves, proposals stay out."""
    first = shoot.folder / "100WINNO" / "WIN_0003.JPG"
    (first.parent / "WIN_0003-edit.tif").write_bytes(first.read_bytes() + b"edited")
    shoot.desk.engine.open(shoot.id)
    wait_until_idle(shoot.desk.engine)
    database = shoot.desk.database
    shoot.mark(Field.DECISION, "keep", 5, proposes=True)
    opened = shoots.get(database.connection(), shoot.id)
    assert opened is not None
    wish = NamesWish(frames=shoot.ids, naming=NamingWish(pattern="kiln_{counter:2}"), in_place=True)
    shown = {name.before.split("/")[-1]: name.after for name in preview_names(shoot.desk, opened, wish).names}
    assert shown["WIN_0006.JPG"] == "kiln_06" and shown["WIN_0003-edit.tif"] == "kiln_03-edit"
    leaving = preview_names(shoot.desk, opened, wish.model_copy(update={"in_place": False}))
    assert leaving.frames == 5
    shoot.apply(rename(shoot, "kiln_{counter:2}", shoot.ids))
    assert {name.rpartition(".")[0] for name in listed(shoot)} == set(shown.values())


@given(st.permutations(["a.JPG", "b.JPG", "B2.JPG", "c.NEF", "d.JPG", "e.JPG"]), st.integers(0, 6))
def test_no_turn_overwrites_on_a_disk_that_ignores_case(names: list[str], same: int) -> None:
    """Against a disk in memory: every file arrives, and no step goes to a name that is taken."""
    sources = sorted(names)
    targets = [name.swapcase() if place < same else name for place, name in enumerate(names)]
    moves = [
        Step(place, Action.MOVE, f"/x/{old}", f"/x/{new}", 1)
        for place, (old, new) in enumerate(zip(sources, targets, strict=True))
        if old != new
    ]
    disk = {fold(f"/x/{name}"): name for name in sources}
    ordered = in_turn(moves)
    for step in ordered:
        assert fold(step.target) not in disk
        disk[fold(step.target)] = disk.pop(fold(step.source or ""))
    assert disk == {fold(f"/x/{new}"): old for old, new in zip(sources, targets, strict=True)}
    portions = independent(ordered)
    assert [step for portion in portions for step in portion] == ordered
    for portion in portions:
        used = [fold(name) for step in portion for name in (step.source or "", step.target)]
        assert len(used) == len(set(used))
