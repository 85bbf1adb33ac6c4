"""Proof sets laid out, answered by the stand-in client, and taken over; contact sheets read back."""

from __future__ import annotations

import json
import re
import subprocess
from pathlib import Path
from typing import Any

import pytest
from PIL import Image

from tests.server import Server, until
from winnow.demo.client import choose

Proofs = tuple[Server, int, list[dict[str, Any]]]


@pytest.fixture
def shoot(server: Server, measured_folder: Path) -> Proofs:
    shoot = server.open(measured_folder)
    return server, shoot, server.frames(shoot)


def lay_out(server: Server, shoot: int, target: Path, **more: object) -> str:
    made = server.post(
        f"/api/shoots/{shoot}/proofs", {"target": str(target), "title": "Kiln <evening>", **more}
    )
    plan = made["plan"]["id"]
    assert made["plan"]["blocked"] is None, made
    server.post(f"/api/plans/{plan}/apply")
    until(lambda: server.get(f"/api/plans/{plan}")["state"] == "applied")
    return str(made["proof"])


def test_a_set_is_laid_out_and_taken_back(shoot: Proofs, tmp_path: Path) -> None:
    """In the order that was asked for, without a name where only numbers are wanted, with nothing told of the camera
    (exiftool, Debian)."""
    server, number, frames = shoot
    target = tmp_path / "proofs"
    ids = [frame["id"] for frame in frames[::-1][:4]]
    proof = lay_out(
        server, number, target, frames=ids, names=False, watermark="proof", note="Choose ten.\nThanks!"
    )
    files = sorted(str(path.relative_to(target)) for path in target.rglob("*") if path.is_file())
    names = [f"{n:04d}.jpg" for n in range(1, 5)]
    assert files == [
        "index.html",
        *(f"pictures/{name}" for name in names),
        *(f"small/{name}" for name in names),
    ]
    assert max(Image.open(target / "small" / "0001.jpg").size) == 480
    page = (target / "index.html").read_text("utf-8")
    assert (
        "Kiln &lt;evening&gt;" in page
        and "Choose ten.<br>Thanks!" in page
        and "WIN_0" not in page
        and proof in page
    )
    assert not re.search(r"(src|href)=.https?:|//[a-z]+\.|@import|url\(", page), "nothing from elsewhere"
    told = subprocess.run(
        ["exiftool", "-s", "-DateTimeOriginal", "-Model", target / "pictures"], capture_output=True
    )
    assert b"Model" not in told.stdout and b"DateTimeOriginal" not in told.stdout
    plan = server.get(f"/api/shoots/{number}/plans")[0]
    server.post(f"/api/plans/{plan['id']}/reverse")
    until(lambda: server.get(f"/api/plans/{plan['id']}")["state"] == "reversed")
    assert not any(path.is_file() for path in target.rglob("*"))


def test_answers_become_marks_of_the_client_in_one_step(shoot: Proofs, tmp_path: Path) -> None:
    server, number, frames = shoot
    server.post(f"/api/shoots/{number}/marks", {"frame_ids": [f["id"] for f in frames], "decision": "keep"})
    proof = lay_out(server, number, tmp_path / "proofs")
    names = [Path(frame["name"]).name for frame in frames]
    choices = choose(names, seed=3)
    address = f"/api/shoots/{number}/answers/read"
    read = server.post(address, {"text": "\n".join(c.typed for c in choices), "proof": proof})
    by_name = {Path(frame["name"]).name: frame["id"] for frame in frames}
    assert {one["frame_id"] for one in read["named"]} == {by_name[c.meant] for c in choices if c.meant}
    # nothing is marked by reading
    assert {frame["label"] for frame in server.frames(number)} == {None}
    said = [{"frame_id": one["frame_id"], "verdict": "like", "comment": "darker"} for one in read["named"]]
    other = next(f["id"] for f in frames if f["id"] not in {one["frame_id"] for one in said})
    said.append({"frame_id": other, "verdict": "no", "comment": ""})
    server.post(
        f"/api/shoots/{number}/answers",
        {
            "client": "Íde", "said": said,
            "liked": {"field": "label", "value": "Retouch"}, "refused": {"field": "decision", "value": "reject"},
        },
    )  # fmt: skip
    undo = server.get(f"/api/shoots/{number}/actions")["undo"]
    assert undo["title"].startswith("answer of Íde: ")
    liked = {one["frame_id"] for one in read["named"]}
    assert {frame["id"] for frame in server.frames(number) if frame["label"] == "Retouch"} == liked
    entry = server.get(f"/api/shoots/{number}/history")["entries"][0]
    assert entry["actor"] == "client Íde"
    server.step(number, "undo")
    assert {frame["label"] for frame in server.frames(number)} == {None}
    # another client, by the file that the page saves
    answer = {
        "format": "winnow-answer", "version": 1, "set": proof, "client": "Bríd",
        "answers": [{"number": 1, "name": "WIN_0001", "verdict": "like"}, {"number": 77, "verdict": "like"}],
    }  # fmt: skip
    read = server.post(address, {"text": json.dumps(answer)})
    assert (read["client"], read["proof"]) == ("Bríd", proof)
    assert [one["frame_id"] for one in read["named"]] == [frames[0]["id"]] and len(read["doubts"]) == 1
    table = 'number,name,verdict,comment\r\n2,WIN_0002,no,"eyes, shut"\r\n'
    (one,) = server.post(address, {"text": table, "proof": proof})["named"]
    assert (one["frame_id"], one["verdict"], one["comment"]) == (frames[1]["id"], "no", "eyes, shut")
    server.post(f"/api/shoots/{number}/answers", {"client": "Bríd", "said": said[:1]})
    kept = server.get(f"/api/shoots/{number}/answers")
    assert [a["client"] for a in kept["answers"]] == ["Bríd", "Íde"] and kept["agreed"] == [
        said[0]["frame_id"]
    ]


def test_contact_sheets_are_read_back(shoot: Proofs, tmp_path: Path) -> None:
    """Text and pictures as Poppler (Debian) finds them."""
    server, number, frames = shoot
    server.post(
        f"/api/shoots/{number}/marks", {"frame_ids": [frames[2]["id"]], "decision": "keep", "rating": 3}
    )
    wish = {"frames": [frame["id"] for frame in frames], "columns": 2, "rows": 2, "title": "Kiln – Íde"}
    status, headers, body = server.request("POST", f"/api/shoots/{number}/contact-sheet", wish)
    assert status == 200 and headers["content-type"] == "application/pdf"
    sheet = tmp_path / "sheet.pdf"
    sheet.write_bytes(body)
    text = subprocess.run(
        ["pdftotext", "-layout", sheet, "-"], capture_output=True, text=True, check=True
    ).stdout
    pages = text.split("\f")
    assert (
        len(pages) == 3 and "Kiln – Íde" in pages[0] and "1/2" in pages[0].replace(" ", "")
    )  # the last is what follows the end
    assert "3 WIN_0003.JPG" in re.sub(" +", " ", pages[0]) and "kept · 3 stars" in pages[0]
    assert "6 WIN_0006.JPG" in re.sub(" +", " ", pages[1])
    listed = subprocess.run(["pdfimages", "-list", sheet], capture_output=True, text=True, check=True).stdout
    assert len(listed.splitlines()) == 2 + 6 and "jpeg" in listed
    status, _, body = server.request("POST", f"/api/shoots/{number}/contact-sheet", {"show": "5 stars"})
    assert status == 422 and b"no frame to print" in body
