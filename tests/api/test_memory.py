"""What requests and files may take of the server's memory."""

from __future__ import annotations

import io
import struct
from pathlib import Path

from PIL import Image

from tests import photographs
from tests.server import Server, until

FILES = 300


def peak_mb(server: Server) -> float:
    """The most memory that the server's process ever had (Linux, proc(5), VmHWM)."""
    status = Path(f"/proc/{server.process.pid}/status").read_text()
    (line,) = (line for line in status.splitlines() if line.startswith("VmHWM"))
    return int(line.split()[1]) / 1024


def with_huge_thumbnail() -> bytes:
    """A JPEG of a few kB whose Exif thumbnail claims to be a progressive picture of 20,000 x 20,000 px
    (ISO/IEC 10918-1, B.2.2: SOF2 holds the size)."""
    small = io.BytesIO()
    Image.new("RGB", (16, 16), "grey").save(small, "JPEG", progressive=True)
    at = small.getvalue().index(b"\xff\xc2")
    claims = small.getvalue()[: at + 5] + struct.pack(">HH", 20_000, 20_000) + small.getvalue()[at + 9 :]
    # A TIFF with an empty first directory and the thumbnail in the second (CIPA DC-008, 4.6.9).
    entries = [(0x0103, 3, 6), (0x0201, 4, 56), (0x0202, 4, len(claims))]
    directory = struct.pack("<H", 3) + b"".join(struct.pack("<HHII", t, k, 1, v) for t, k, v in entries)
    tiff = b"II*\0" + struct.pack("<I", 8) + struct.pack("<HI", 0, 14) + directory
    tiff = (tiff + bytes(4)).ljust(56, b"\0") + claims
    whole = io.BytesIO()
    photographs.photograph(0).resize((64, 64)).save(whole, "JPEG", exif=b"Exif\0\0" + tiff)
    return whole.getvalue()


def test_thumbnails_that_claim_to_be_huge_cost_the_server_nothing(
    lone_server: Server, tmp_path: Path
) -> None:
    folder = tmp_path / "shoot"
    folder.mkdir()
    jpeg = with_huge_thumbnail()
    assert len(jpeg) < 7000
    for n in range(FILES):
        (folder / f"WIN_{n:04d}.JPG").write_bytes(jpeg + n.to_bytes(2, "big"))
    shoot = lone_server.post("/api/shoots", {"path": str(folder)})["id"]
    until(lambda: len(lone_server.frames(shoot)) == FILES)
    frames = lone_server.frames(shoot)
    before = peak_mb(lone_server)
    for frame in frames:
        for kind in ("glimpse", "first", "tiny"):
            lone_server.request("GET", f"/api/pictures/{frame['id']}/{frame['version']}/{kind}")
    assert peak_mb(lone_server) - before < 20
