"""Sidecars that would take far more memory than their size says."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests import photographs
from winnow.api.desk import Desk
from winnow.formats import xmp
from winnow.handoff.draft import Wish
from winnow.handoff.plan import make_plan
from winnow.pipeline.engine import wait_until_idle
from winnow.store import frames
from winnow.store.plans import PlanKind

WHOLE = (
    '<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">'
    '<rdf:Description rdf:about="" xmlns:d="urn:d/"%s>%s</rdf:Description></rdf:RDF></x:xmpmeta>'
)
ATTRIBUTES = (WHOLE % ("".join(f' d:a{n}="{n}"' for n in range(500_000)), "")).encode()
ELEMENTS = (WHOLE % ("", "<d:e/>" * 500_000)).encode()
DEEP = (WHOLE % ("", "<d:e>" * 2000 + "</d:e>" * 2000)).encode()


@pytest.mark.parametrize("packet", [ATTRIBUTES, ELEMENTS, DEEP], ids=["attributes", "elements", "depth"])
def test_a_packet_with_too_many_parts_is_refused(packet: bytes) -> None:
    assert len(packet) < xmp.MAX_PACKET
    with pytest.raises(xmp.XmpError):
        xmp.Packet(packet)


def test_a_large_packet_of_text_is_read() -> None:
    xmp.Packet((WHOLE % ("", "<d:e>" + "a &lt; b = c " * 500_000 + "</d:e>")).encode())


def test_one_bad_sidecar_costs_a_note_on_its_frame_and_nothing_else(desk: Desk, tmp_path: Path) -> None:
    folder = photographs.shoot(tmp_path / "Six")
    (bad, *_) = sorted(folder.rglob("*.JPG"))
    bad.with_suffix(".xmp").write_bytes(ATTRIBUTES)
    shoot = desk.open_folder(str(folder))
    wait_until_idle(desk.engine)
    rows = frames.summaries(desk.database.connection(), shoot)
    details = [frames.details(desk.database.connection(), row["id"]) for row in rows]
    assert [row["problem"] for row in details if row] == [None] * 6
    assert ["properties" in (row["marks_note"] or "") for row in details if row] == [True] + [False] * 5
    make_plan(desk.database, shoot, Wish(PlanKind.WRITE_SIDECARS), "2026-10-17T20:00:00.000+00:00")
