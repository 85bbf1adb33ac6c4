"""Plans that cannot be made or gone on with, and what a person is told of it."""

from __future__ import annotations

import errno
import os
import re
from pathlib import Path
from typing import Any

import pytest

from tests import photographs
from tests.handoff.test_plans import NOW, Shoot, shoot, wait_for_listing
from winnow.api.desk import Desk
from winnow.core.marks import Field
from winnow.core.proof import Proof
from winnow.handoff import apply as applying
from winnow.handoff import copying, files
from winnow.handoff.draft import PlanError, Wish
from winnow.handoff.plan import make_plan
from winnow.store import plans
from winnow.store.plans import PlanKind

__all__ = ["shoot"]


@pytest.mark.parametrize(
    ("error", "told"),
    [
        (OSError(errno.ENOSPC, "no space", "/a/disk/b.jpg"), "The disk of /a/disk is full. Make room"),
        (OSError(errno.EDQUOT, "quota"), "The disk of /to is full."),
        (OSError(errno.EIO, "I/O error", "/a/disk/b.jpg"), "/a/disk/b.jpg cannot be reached: is its disk"),
        (OSError(errno.ENOENT, "not there"), "/of/x.jpg cannot be reached"),
        (OSError(errno.EACCES, "permission denied", "/a/disk/b.jpg"), "/a/disk/b.jpg: permission denied."),
        (OSError(errno.EROFS, "read-only"), "/of/x.jpg: read-only. Mend that and go on"),
        (files.TargetTakenError(errno.EEXIST, "taken", "/to/x.jpg"), "/to/x.jpg appeared after the plan"),
        (
            copying.VerificationError(errno.EIO, "reads differently"),
            "/of/x.jpg: reads differently. The original",
        ),
    ],
)
def test_what_the_system_says_becomes_what_a_person_can_do(
    shoot: Shoot, tmp_path: Path, error: OSError, told: str
) -> None:
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "keepers")
    step = plans.steps(shoot.desk.database.connection(), plan_id)[0]
    step.source, step.target = "/of/x.jpg", "/to/x.jpg"
    with (
        pytest.raises(applying.StoppedError, match=f"^{re.escape(told)}"),
        applying.explained(shoot.read(plan_id), step),
    ):
        raise error


def test_targets_that_cannot_work(shoot: Shoot, tmp_path: Path) -> None:
    with pytest.raises(PlanError, match="inside the shoot"):
        shoot.plan(PlanKind.COPY_KEEPERS, shoot.folder / "keepers")
    with pytest.raises(PlanError, match="Choose the folder"):
        shoot.plan(PlanKind.COPY_KEEPERS)
    photographs.save(tmp_path / "elsewhere" / "a.jpg")
    shoot.mark(Field.DECISION, "undecided", 0, 1, 2)
    empty = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "t")
    with pytest.raises(applying.StoppedError, match="nothing to do"):
        shoot.apply(empty)


def test_plans_that_cannot_be_made_say_why(shoot: Shoot, tmp_path: Path) -> None:
    def refused(kind: PlanKind, target: Path | None, told: str, **options: Any) -> None:
        with pytest.raises(PlanError, match=told):
            shoot.plan(kind, target, **options)

    full = tmp_path / "full"
    photographs.save(full / "a.jpg")
    refused(PlanKind.MOVE_KEEPERS, full, "copy to two instead", second=str(tmp_path / "b"))
    for target, told in ((shoot.folder / "proof", "inside the shoot"), (full, "is not empty")):
        refused(PlanKind.PROOF, target, told, proof=Proof("Kiln"))
    refused(PlanKind.PROOF, None, "give it a title", proof=Proof("Kiln"))
    refused(PlanKind.IMPORT, None, "Choose the folder")
    refused(PlanKind.IMPORT, full, "is not there|cannot be", source=str(tmp_path / "gone"))
    with pytest.raises(PlanError, match="not known any more"):
        make_plan(shoot.desk.database, 77, Wish(PlanKind.COPY_KEEPERS, str(full)), NOW)
    sidecar = shoot.folder / "100WINNO" / "WIN_0001.xmp"
    sidecar.rename(tmp_path / "elsewhere.xmp")
    sidecar.symlink_to(tmp_path / "elsewhere.xmp")
    wait_for_listing(shoot)
    warned = shoot.read(shoot.plan(PlanKind.WRITE_SIDECARS)).summary["warnings"]
    assert "is a link to another file and is left as it is" in warned[0]
    picture = shoot.folder / "100WINNO" / "WIN_0001.JPG"
    picture.rename(tmp_path / "picture.jpg")
    os.mkfifo(picture)  # which whoever opened it would wait at for ever
    warned = shoot.read(shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "t")).summary["warnings"]
    assert warned == ["WIN_0001.JPG is no longer there; WIN_0001.NEF is left out."]
    shoot.folder.rename(tmp_path / "away")
    refused(PlanKind.COPY_KEEPERS, full, "connect its disk first")
    (tmp_path / "away").rename(shoot.folder)


def test_a_sidecar_that_went_since_is_no_loss(shoot: Shoot, tmp_path: Path) -> None:
    (shoot.folder / "100WINNO" / "WIN_0001.xmp").unlink()
    plan_id = shoot.plan(PlanKind.COPY_KEEPERS, tmp_path / "keepers", with_marks=False)
    assert shoot.apply(plan_id) is plans.PlanState.APPLIED
    found = {path.name for path in (tmp_path / "keepers").rglob("*.*")}
    assert found == {"WIN_0001.JPG", "WIN_0001.NEF", "WIN_0002.JPG", "WIN_0003.JPG"}


def test_a_proof_set_without_a_picture_that_can_be_shown(
    desk: Desk, shoot_folder: Path, tmp_path: Path
) -> None:
    (shoot_folder / "100WINNO" / "WIN_0001.JPG").write_bytes(b"no picture")
    shoot = Shoot(desk, shoot_folder)
    with pytest.raises(PlanError, match="None of the frames can be shown"):
        shoot.plan(PlanKind.PROOF, tmp_path / "p", frames=(shoot.ids[0],), proof=Proof("Kiln"))
