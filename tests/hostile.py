"""A folder of things that nobody meant well with, beside frames that are as they should be."""

from __future__ import annotations

import os
import socket
import struct
import zlib
from pathlib import Path

import numpy as np
from PIL import Image, PngImagePlugin

from tests import photographs

GOOD = 6
BOMB_EDGE = 15_900
DEPTH = 40


def make(folder: Path) -> Path:
    """Six frames that are fine, among pipes, sockets, devices, loops, deep folders, odd names and bombs."""
    photographs.shoot(folder, GOOD, edge=photographs.WHOLE)
    pipes(folder)
    names(folder)
    links(folder)
    dates(folder)
    bombs(folder)
    deep = folder
    for level in range(DEPTH):
        deep = deep / f"{level:02d}"
    photographs.save(deep / "deep.jpg")
    return folder


def pipes(folder: Path) -> None:
    """As pictures and as sidecars."""
    os.mkfifo(folder / "a.jpg")
    os.mkfifo(folder / "a.nef")
    os.mkfifo(folder / "100WINNO" / "WIN_0001.xmp")
    with socket.socket(socket.AF_UNIX) as listener:
        place = Path.cwd()
        os.chdir(folder)  # the name of a socket may have 107 bytes
        try:
            listener.bind("socket.jpg")
        finally:
            os.chdir(place)
    if os.geteuid() == 0:
        os.mknod(folder / "zero.jpg", 0o020644, os.makedev(1, 5))
        os.mknod(folder / "zero.xmp", 0o020644, os.makedev(1, 5))


def names(folder: Path) -> None:
    """255 bytes, not UTF-8, and characters that end lines, shells and markup elsewhere."""
    good = photographs.jpeg_bytes(photographs.photograph(1))
    for name in (
        b"n" * 251 + b".jpg",
        b"caf\xe9.jpg",
        b"line\nbreak.jpg",
        b"<b>&amp;\"'.jpg",
        b"$(touch x);.jpg",
        "\u202egpj.exe.jpg".encode(),
        b" .jpg",
        b"-rf.jpg",
    ):
        Path(os.fsdecode(os.fsencode(folder) + b"/" + name)).write_bytes(good)


def links(folder: Path) -> None:
    """Loops, links out, links to nowhere and to devices."""
    (folder / "loop").symlink_to(folder)
    (folder / "round.jpg").symlink_to("round.jpg")
    (folder / "out.jpg").symlink_to("/etc/passwd")
    (folder / "nowhere.jpg").symlink_to("gone.jpg")
    (folder / "device.jpg").symlink_to("/dev/zero")
    (folder / "up").symlink_to("..")


def dates(folder: Path) -> None:
    """Beyond what calendars, databases and 64 bits of nanoseconds hold, as far as the disk takes them."""
    for number, seconds in enumerate((-1, -(10**9), 2**31, 10_413_795_600, 2**34 - 1)):
        path = photographs.save(folder / f"dated{number}.jpg", number)
        os.utime(path, (seconds, seconds))


def bombs(folder: Path) -> None:
    """Small files that want much memory: pictures, and the same as sidecars."""
    for name in BOMBS:
        bomb(folder / name)
    for name, content in (("xmp", entities() + b" " * (64 * 1024 * 1024)), ("lol", entities())):
        photographs.save(folder / f"{name}.jpg")
        (folder / f"{name}.xmp").write_bytes(content)


BOMBS = ("bomb.png", "rgb.png", "bomb.tif", "icc.png", "lies.tif")


def bomb(path: Path) -> Path:
    """One of the pictures, by its name."""
    match path.name:
        case "rgb.png":
            png_of(path, BOMB_EDGE)
        case "icc.png":
            profile = PngImagePlugin.PngInfo()
            profile.add(b"iCCP", b"bomb\0\0" + zlib.compress(bytes(200_000_000), 1))
            photographs.photograph(0).save(path, pnginfo=profile)
        case "lies.tif":
            path.write_bytes(lying_tiff())
        case "bomb.tif":
            Image.new("1", (BOMB_EDGE, BOMB_EDGE)).save(path, compression="group4")
        case _:
            Image.new("1", (BOMB_EDGE, BOMB_EDGE)).save(path)
    return path


def png_of(path: Path, edge: int) -> None:
    """A white RGB PNG of edge × edge px, written row by row: 3 MB of file, 0.7 GB of pixels."""
    squeeze = zlib.compressobj(1)
    row = bytes(1) + b"\xff" * (3 * edge)
    data = b"".join([*(squeeze.compress(row) for _ in range(edge)), squeeze.flush()])
    head = struct.pack(">IIBBBBB", edge, edge, 8, 2, 0, 0, 0)
    parts = [_chunk(b"IHDR", head), _chunk(b"IDAT", data), _chunk(b"IEND", b"")]
    path.write_bytes(b"\x89PNG\r\n\x1a\n" + b"".join(parts))


def _chunk(kind: bytes, data: bytes) -> bytes:
    return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))


def entities() -> bytes:
    """A billion laughs (entity expansion, CWE-776)."""
    lines = ["<?xml version='1.0'?><!DOCTYPE x [<!ENTITY a0 'ha'>"]
    lines += [f"<!ENTITY a{n} '{f'&a{n - 1};' * 10}'>" for n in range(1, 11)]
    return ("".join(lines) + "]><x>&a10;</x>").encode()


def lying_tiff() -> bytes:
    """16 bits of three colours, 60,000 px each way by its tags, and nothing behind them."""
    tags = [
        (256, 4, 1, 60_000), (257, 4, 1, 60_000), (259, 3, 1, 1), (262, 3, 1, 2),
        (273, 4, 1, 8), (277, 3, 1, 3), (278, 4, 1, 60_000), (279, 4, 1, 0x7FFFFFFF),
    ]  # fmt: skip
    entries = b"".join(struct.pack("<HHII", *tag) for tag in tags[:2])
    bits_at = 8 + 2 + 12 * (len(tags) + 1) + 4
    entries += struct.pack("<HHII", 258, 3, 3, bits_at)
    entries += b"".join(struct.pack("<HHII", *tag) for tag in tags[2:])
    count = struct.pack("<H", len(tags) + 1)
    return b"II*\0" + struct.pack("<I", 8) + count + entries + bytes(4) + np.full(3, 16, "<u2").tobytes()
