"""Pictures for walls of hundreds: small enough that a thousand of them are decoded at once."""

from __future__ import annotations

from io import BytesIO

from PIL import Image

EDGE = 128
QUALITY = 78


def tiny(jpeg: bytes) -> bytes:
    """A JPEG of at most `EDGE` px a side, decoded at a fraction of its size (libjpeg's scaled DCT)."""
    with Image.open(BytesIO(jpeg)) as picture:
        picture.draft("RGB", (EDGE, EDGE))
        small = picture.convert("RGB")
    small.thumbnail((EDGE, EDGE), Image.Resampling.BOX)
    made = BytesIO()
    small.save(made, "JPEG", quality=QUALITY)
    return made.getvalue()
