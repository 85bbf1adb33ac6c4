"""Which exposure a file holds: recognised by its content, and by what the camera says, not by its path."""

from __future__ import annotations

import hashlib
from collections import defaultdict
from collections.abc import Callable, Hashable, Iterable, Sequence
from dataclasses import dataclass

LIKE_STRUCTURE = 0.93
LIKE_COLOUR = 9.0
"""Two pictures of one exposure, edited or turned: correlation of their sketches at least, distance of their
colours in CIELAB at most (see `similarity.compare`)."""


@dataclass(frozen=True, slots=True)
class Exposure:
    """What the camera says: ISO 8601 local time, sub-seconds where it wrote them; body serial number; name of the
    camera; ImageUniqueID or image number."""

    taken: str | None = None
    serial: str | None = None
    camera: str | None = None
    image_id: str | None = None


@dataclass(frozen=True, slots=True)
class Known:
    """A frame as it was last seen. `name`: path of its shown file below its folder; `content` and `picture`: see
    `formats.fingerprint`; `unread`: no picture was ever read of it."""

    frame_id: int
    name: str
    content: str | None
    picture: str | None
    exposure: Exposure
    unread: bool = False


@dataclass(frozen=True, slots=True)
class Found:
    """A shown file that is new or has changed. `at`: the frame that was last seen under this path. `alike`: whether
    its picture looks like the one of that frame; None if that was not asked or cannot be said."""

    path: str
    name: str
    content: str | None
    picture: str | None
    exposure: Exposure
    at: int | None = None
    alike: bool | None = None


def same_exposure(one: Exposure, other: Exposure) -> bool | None:
    """Whether two files can be of one exposure, by what the camera says; None where it does not say enough."""
    if _differ(one.serial, other.serial) or _differ(one.camera, other.camera):
        return False
    if one.image_id and other.image_id:
        return one.image_id == other.image_id
    if not one.taken or not other.taken:
        return None
    first, second = _clock(one.taken), _clock(other.taken)
    if first[0] != second[0] or _differ(first[1], second[1]):
        return False
    exact = first[1] is not None and second[1] is not None
    return True if exact or (one.serial and other.serial) else None


def _differ(one: str | None, other: str | None) -> bool:
    return one is not None and other is not None and one != other


def _clock(taken: str) -> tuple[str, str | None]:
    """(time to the second, sub-seconds); the offset is left out, as programs add and drop it."""
    second, dot, rest = taken[:19], taken[19:20], taken[20:]
    digits = rest.split("+")[0].split("-")[0].rstrip("0") if dot == "." else None
    return second, digits


def recognise(found: Sequence[Found], lost: Iterable[Known]) -> dict[str, int]:
    """Path → frame, for the files that hold the exposure of a known frame.

    lost: frames that were not seen unchanged where they were. Content decides first, then the picture in it, then
    what the camera says of the file under the frame's own path. Of a frame that could never be read (a copy that was
    cut off), that path is all that is known. A frame is given to one file only; of several with the same content, to
    the one under its path or with its name.
    """
    frames = {known.frame_id: known for known in lost}
    files = {file.path: file for file in found}
    given: dict[str, int] = {}

    def give(of_file: Callable[[Found], Hashable], of_frame: Callable[[Known], Hashable]) -> None:
        """Gives each file a frame of the same key; a key of None gives nothing."""
        waiting: dict[Hashable, list[int]] = defaultdict(list)
        for known in frames.values():
            waiting[of_frame(known)].append(known.frame_id)
        for path, file in list(files.items()):
            key = of_file(file)
            if key is not None and waiting[key]:
                given[path] = waiting[key].pop(0)
                del frames[given[path]], files[path]

    give(lambda f: f.content and (f.content, f.at), lambda k: (k.content, k.frame_id))
    give(lambda f: f.content and (f.content, f.name), lambda k: (k.content, k.name))
    give(lambda f: f.content and (f.content, _base(f.name)), lambda k: (k.content, _base(k.name)))
    give(lambda f: f.content, lambda k: k.content)
    give(lambda f: f.picture and (f.picture, f.at), lambda k: (k.picture, k.frame_id))
    give(
        lambda f: f.picture and f.exposure.taken and (f.picture, f.exposure),
        lambda k: (k.picture, k.exposure),
    )
    for path, file in files.items():
        at = frames.get(file.at) if file.at is not None else None
        if at is not None:
            said = same_exposure(at.exposure, file.exposure)
            if said or (said is None and (file.alike or at.unread)):
                given[path] = at.frame_id
    return given


def _base(name: str) -> str:
    return name.rpartition("/")[2]


def content_version(picture: str, orientation: int, exposure: Exposure, whole: str | None = None) -> str:
    """Names what is shown of a frame: addresses of pictures, previews and evidence go by it, wherever the file lies.

    orientation: Exif code. whole: digest of the whole file, for files that `picture` cannot tell apart.
    """
    said = "\0".join(part or "" for part in (exposure.taken, exposure.serial, exposure.image_id, whole))
    text = f"{picture}\0{orientation}\0{said}"
    return hashlib.blake2b(text.encode("utf-8", "replace"), digest_size=10).hexdigest()
