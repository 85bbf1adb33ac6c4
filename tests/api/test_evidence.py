"""Evidence over HTTP: details, filters, points, groups and clocks."""

from __future__ import annotations

import json
from pathlib import Path
from urllib.parse import quote

import pytest
from PIL import Image, ImageFilter

from tests import photographs
from tests.server import Server
from winnow.api.models.filters import FacetView


@pytest.fixture
def shoot(server: Server, tmp_path: Path) -> int:
    """Two frames of the astronaut a second apart, two of the coffee, one of a cat out of focus, from two cameras."""
    folder = tmp_path / "shoot"
    for n, (number, second, body) in enumerate(
        [(0, 0, "A"), (0, 1, "A"), (2, 30, "A"), (2, 31, "A"), (1, 60, "B")]
    ):
        photographs.save(folder / f"WIN_{n + 1:04d}.JPG", number, second=second, BodySerialNumber=body)
    last = folder / "WIN_0005.JPG"
    with Image.open(last) as cat:
        cat.filter(ImageFilter.GaussianBlur(4)).save(last, quality=90, exif=cat.getexif())
    return server.open(folder)


def frames_of(server: Server, shoot: int) -> list[dict[str, object]]:
    found: list[dict[str, object]] = server.frames(shoot)
    return sorted(found, key=lambda frame: frame["position"])  # type: ignore[arg-type, return-value]


def test_details_of_a_frame(server: Server, shoot: int) -> None:
    first = frames_of(server, shoot)[0]
    assert (first["faces"], first["warnings"]) == (1, [])
    found = server.get(f"/api/frames/{first['id']}/evidence")
    assert found["state"] == "measured" and found["focus"]["subject"]["kind"] == "eyes"
    assert len(found["exposure"]["histogram"]) == 64
    assert [eye["state"] for eye in found["faces"][0]["eyes"]] == ["open", "open"]
    assert found["reasons"][0]["text"] == "eyes open"
    other = frames_of(server, shoot)[1]["id"]
    several = server.get(f"/api/evidence?frame={first['id']}&frame={other}")
    assert several == {str(first["id"]): found, str(other): server.get(f"/api/frames/{other}/evidence")}
    assert server.request("GET", "/api/frames/999/evidence")[0] == 404
    assert server.request("GET", f"/api/evidence?frame={first['id']}&frame=999")[0] == 404


def test_filters_of_the_evidence(server: Server, shoot: int) -> None:
    ids = [frame["id"] for frame in frames_of(server, shoot)]
    view = server.get(f"/api/shoots/{shoot}/view")
    assert (view["show"], view["parts"]) == ("", [])
    answer = server.get(f"/api/shoots/{shoot}/facets")
    assert [FacetView.model_validate(one).facet for one in answer][:3] == ["decision", "rating", "label"]
    facets = {one["facet"]: one for one in answer}
    counted = {value["phrase"]: value["count"] for one in facets.values() for value in one["values"]}
    assert (counted["with faces"], counted["no faces"], counted["has similar"], counted["single"]) == (
        2,
        3,
        4,
        1,
    )
    assert facets["sigma"]["figures"]["after"] == " px" and facets["warning"]["figures"] is None

    def passing(show: str) -> list[int]:
        found: list[int] = server.get(f"/api/shoots/{shoot}/view?show={quote(show)}")["ids"]
        return found

    assert passing("with faces") == ids[:2]
    assert passing("single") == ids[4:]
    assert passing("no faces, has similar") == ids[2:4]
    assert passing("focus missed or soft") == ids[4:], "any of them"
    assert passing("focus missed") != passing("soft"), "each by itself"
    for phrase, count in counted.items():
        assert len(passing(phrase)) == count, phrase
    assert passing("shaken") == []
    status, _, answer = server.request("GET", f"/api/shoots/{shoot}/view?show=ugly")
    assert status == 422 and "nothing that can be asked for" in json.loads(answer)["detail"]


def test_the_same_point(server: Server, shoot: int) -> None:
    one, other, coffee, *_ = (frame["id"] for frame in frames_of(server, shoot))
    found = server.get(f"/api/frames/{one}/same-point?x=225&y=118&among={other}&among={coffee}")
    by_frame = {point["frame_id"]: point for point in found}
    assert by_frame[other]["sure"]
    assert (by_frame[other]["x"], by_frame[other]["y"]) == pytest.approx((225, 118), abs=2)
    assert not by_frame[coffee]["sure"]
    assert server.request("GET", f"/api/frames/{one}/same-point?x=1&y=1&among=999")[0] == 404
    assert server.request("GET", f"/api/frames/999/same-point?x=1&y=1&among={one}")[0] == 404


def test_groups_by_hand(server: Server, shoot: int) -> None:
    base = f"/api/shoots/{shoot}"
    ids = [frame["id"] for frame in frames_of(server, shoot)]

    def groups() -> list[object]:
        order = {frame["id"]: frame["group"] for frame in frames_of(server, shoot)}
        return [order[i] for i in ids]

    def edit(frame: object, action: str) -> int:
        return int(server.request("POST", f"{base}/groups", {"frame_id": frame, "action": action})[0])

    assert groups() == [0, 0, 1, 1, 2]
    assert edit(ids[1], "split") == 200 and groups() == [0, 1, 2, 2, 3]
    assert edit(ids[1], "join_next") == 200 and groups() == [0, 1, 1, 1, 2]
    assert edit(ids[3], "to_next") == 200 and groups() == [0, 1, 1, 2, 2]
    assert edit(ids[1], "to_previous") == 200 and groups() == [0, 0, 1, 2, 2]
    assert edit(ids[0], "split") == edit(ids[0], "to_previous") == edit(ids[4], "join_next") == 409
    assert edit(999, "split") == 404
    # Undone one by one with the key that undoes marks, and brought back.
    assert server.step(shoot, "undo")["title"] == "frame moved to the group before"
    assert groups() == [0, 1, 1, 2, 2]
    for expected in ([0, 1, 1, 1, 2], [0, 1, 2, 2, 3], [0, 0, 1, 1, 2]):
        server.step(shoot, "undo")
        assert groups() == expected
    server.step(shoot, "redo")
    assert groups() == [0, 1, 2, 2, 3]
    assert edit(ids[1], "as_measured") == 200 and groups() == [0, 0, 1, 1, 2]


def test_the_lead_is_kept_as_one_action(server: Server, shoot: int) -> None:
    base = f"/api/shoots/{shoot}"
    before = frames_of(server, shoot)
    lead, rest = before[0]["id"], before[1]["id"]
    if before[1]["lead"]:
        lead, rest = rest, lead

    def decisions() -> dict[object, object]:
        return {f["id"]: f["decision"] for f in frames_of(server, shoot) if f["id"] in (lead, rest)}

    server.post(f"{base}/keep-lead", {"frame_id": rest})
    assert decisions() == {lead: "keep", rest: "undecided"}
    status, _, _ = server.request("POST", f"{base}/keep-lead", {"frame_id": rest, "among": [rest]})
    assert status == 409, "the lead is not among what the person sees"
    said = server.post(f"{base}/keep-lead", {"frame_id": rest, "reject_rest": True})
    assert said["title"] == "frame WIN_0001: kept as the lead, the rest rejected"
    assert decisions() == {lead: "keep", rest: "reject"}
    server.step(shoot, "undo")
    assert decisions() == {lead: "keep", rest: "undecided"}
    server.step(shoot, "undo")
    assert decisions() == {lead: "undecided", rest: "undecided"}


def test_a_clock_that_is_ahead(server: Server, shoot: int) -> None:
    names = [frame["name"] for frame in frames_of(server, shoot)]
    server.post(f"/api/shoots/{shoot}/clocks", {"camera": "B", "ahead_s": 59.5})
    moved = [frame["name"] for frame in frames_of(server, shoot)]
    assert moved == [names[0], names[1], names[4], names[2], names[3]]
    assert server.request("DELETE", f"/api/shoots/{shoot}/clocks")[0] == 204
    assert [frame["name"] for frame in frames_of(server, shoot)] == names


def test_a_clock_set_by_two_frames_of_one_moment(server: Server, shoot: int) -> None:
    frames = frames_of(server, shoot)
    url = f"/api/shoots/{shoot}/same-moment"
    one, other = frames[1], frames[4]
    server.post(url, {"frame_id": one["id"], "other_id": other["id"]})
    moved = [frame["name"] for frame in frames_of(server, shoot)]
    assert moved.index(str(other["name"])) in (1, 2)
    code, _, said = server.request("POST", url, {"frame_id": one["id"], "other_id": frames[0]["id"]})
    assert code == 409 and "one camera" in str(said)
    server.request("DELETE", f"/api/shoots/{shoot}/clocks")


def test_the_file_itself_can_be_had(server: Server, shoot: int, tmp_path: Path) -> None:
    first = frames_of(server, shoot)[0]
    code, headers, body = server.request("GET", f"/api/frames/{first['id']}/file")
    assert code == 200 and str(first["name"]) in headers["content-disposition"]
    assert body == (tmp_path / "shoot" / str(first["name"])).read_bytes()
