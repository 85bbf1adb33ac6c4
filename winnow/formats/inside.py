"""Marks written into pictures, for programs that read nothing else: by splices that leave the picture data alone."""

from __future__ import annotations

from winnow.core.marks import Marks
from winnow.core.pairing import split_name
from winnow.formats import inside_heif, inside_jpeg, inside_tiff
from winnow.formats.splices import InsideError, Rewriting, sha256, spliced

JPEGS, TIFFS = frozenset({"jpg", "jpeg", "jpe"}), frozenset({"tif", "tiff", "dng"})
HEIFS = frozenset({"heic", "heif", "hif"})


def can_hold(name: str) -> bool:
    """Whether marks can be written into a file, by its name."""
    return split_name(name)[1] in JPEGS | TIFFS | HEIFS


def rewriting(name: str, data: bytes, packet: bytes, words: Marks) -> Rewriting:
    """What makes a file hold a packet. words: whose words go into IPTC-IIM too, where it is there. Raises
    InsideError. The picture data of the new file are proven to be those of the old."""
    ending = split_name(name)[1]
    if ending in JPEGS:
        splices, picture_of = inside_jpeg.splices_for(data, packet, words), inside_jpeg.picture_of
    elif ending in TIFFS:
        splices, picture_of = inside_tiff.splices_for(data, packet), inside_tiff.picture_of
    elif ending in HEIFS:
        splices, picture_of = inside_heif.splices_for(data, packet), inside_heif.picture_of
    else:
        raise InsideError("Marks cannot be written into files of this kind: write sidecars.")
    new = spliced(data, splices)
    if picture_of(new) != picture_of(data):
        raise InsideError("Its picture data would not stay what they are: it is left alone.")
    return Rewriting(sha256(data), sha256(new), tuple(splices))
