"""Draws faces and eyes of truth.json over four demo frames.

By hand: `python -m tests.draw_truth docs/demo-truth.png`.
"""

from __future__ import annotations

import sys
from pathlib import Path

from PIL import Image, ImageDraw, ImageFont

from tests import truth
from winnow.demo.layout import shipped_frames
from winnow.formats import images

SHOWN = (
    "101TARN/TRN_0429.JPG",  # stored turned, Orientation 8
    "101TARN/TRN_0431.JPG",  # Orientation 6
    "101TARN/TRN_0462.JPG",
    "101TARN/TRN_0530.JPG",
)
HEIGHT = 480
"""Of a row of two frames, px."""


def main(target: Path) -> None:
    drawn = [_drawn(path) for path in SHOWN]
    rows = [drawn[:2], drawn[2:]]
    width = max(sum(picture.width for picture in row) for row in rows)
    sheet = Image.new("RGB", (width, HEIGHT * len(rows)), (60, 60, 60))
    for down, row in enumerate(rows):
        across = (width - sum(picture.width for picture in row)) // 2
        for picture in row:
            sheet.paste(picture, (across, down * HEIGHT))
            across += picture.width
    sheet.quantize(192).save(target, optimize=True)


def _drawn(path: str) -> Image.Image:
    picture = Image.fromarray(images.decode(shipped_frames() / path).pixels)
    frame = truth.frames()[path]
    assert picture.size == (frame.width, frame.height)
    draw = ImageDraw.Draw(picture)
    for person in frame.people:
        x, y, width, height = person.box
        draw.rectangle((x, y, x + width, y + height), outline=(255, 210, 80), width=3)
        words = f"{person.name}, {person.eyes}, blur {max(person.sigma_px):.1f} px"
        font = ImageFont.load_default(26)
        start = min(x, frame.width - draw.textlength(words, font=font) - 8)
        draw.text((start, y - 30), words, fill=(255, 210, 80), font=font)
        for ex, ey in person.eyes_at:
            draw.line((ex - 12, ey, ex + 12, ey), fill=(80, 255, 255), width=2)
            draw.line((ex, ey - 12, ex, ey + 12), fill=(80, 255, 255), width=2)
    picture.thumbnail((picture.width, HEIGHT))
    return picture


if __name__ == "__main__":
    main(Path(sys.argv[1]))
