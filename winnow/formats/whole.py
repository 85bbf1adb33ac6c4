"""All of a picture, for measuring it: upright at full size, and the digest of its file, out of one read."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from winnow.core.orientation import upright_size
from winnow.core.picture import Picture, Rgb
from winnow.formats import images
from winnow.formats.fingerprint import digest_of_bytes, digest_of_file
from winnow.formats.planes import decode_planes


@dataclass(frozen=True, slots=True)
class Whole:
    """A picture in sRGB, the upright size of all of it (px), damage that did not keep it from being shown, the digest
    over all bytes of its file, and whether that holds colours beyond sRGB."""

    picture: Picture
    full_width: int
    full_height: int
    note: str | None
    digest: str
    wide: bool = False


def read_whole(path: Path, below: str | None = None) -> Whole:
    """below: see `opening`. Raises UnreadableError, also where it would take more memory than a worker has."""
    with images.opened(path, below) as file:
        found = images.content_of(file, path)
        try:
            # What was decoded, not what lies there by now.
            jpeg = found if isinstance(found, images.Jpeg) else None
            digest = digest_of_bytes(jpeg.data) if jpeg and jpeg.size is None else digest_of_file(file)
        except OSError as error:
            raise images.unreadable(path, error) from error
    if isinstance(found, images.Jpeg):
        head = images.head_of_jpeg(found.data, path, found.turn)
        images.demand_jpeg(head, len(found.data))
        planes = decode_planes(found.data, head)
        if planes is not None:
            size = found.size or upright_size(head.width, head.height, head.orientation)
            return Whole(planes, *size, None, digest)
        found = images.decode_content(found, path, head=head)
    return Whole(Rgb(found.pixels), found.full_width, found.full_height, found.note, digest, found.wide)
