"""Photos of a piece: read from whatever a camera writes, made smaller, stripped of place and time, kept as JPEG."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from long_ember.errors import FileProblem, PieceFileError
from long_ember.plain import one_line
from long_ember.storage.book import Photo, new_id

if TYPE_CHECKING:
    from PIL.Image import Image

__all__ = ["LARGEST_KEPT", "photo_from_bytes", "read_photo"]

_LARGEST = 40_000_000  # bytes of a file
_MOST_PIXELS = 30_000_000  # of a picture that must be unpacked whole; a JPEG is read at half or quarter size at once
_MOST_JPEG = 120_000_000
_SIDE, _THUMB = 1600, 240  # px
LARGEST_KEPT = 4_000_000  # bytes of a photo in the book
_QUALITIES = (85, 70, 50)  # of JPEG, until it is small enough
_FORMATS = ("JPEG", "PNG", "WEBP", "BMP", "TIFF", "GIF", "MPO")


def read_photo(path: Path, piece_id: str) -> Photo:
    """Copy a picture in.

    Raises:
        PieceFileError: when it is no picture, or far too large a one.
    """
    try:
        with path.open("rb") as file:
            content = file.read(_LARGEST + 1)
    except OSError as error:
        raise _fault(path.name, error.strerror or str(error)) from error
    return photo_from_bytes(content, path.name, piece_id)


def photo_from_bytes(content: bytes, name: str, piece_id: str) -> Photo:
    """A photo, at most 1600 px either way, from the bytes of a picture file.

    Raises:
        PieceFileError: when they are no picture, or far too large a one.
    """
    if len(content) > _LARGEST:
        raise _fault(name, f"is larger than {_LARGEST // 1_000_000} MB")
    from PIL import Image, ImageOps  # loaded with the first photo

    try:
        with Image.open(io.BytesIO(content), formats=_FORMATS) as opened:
            most = _MOST_JPEG if opened.format in ("JPEG", "MPO") else _MOST_PIXELS
            if opened.width * opened.height > most:
                raise _fault(name, f"has more than {most // 1_000_000} million pixels")
            bare = _bare(content) if opened.format == "JPEG" and max(opened.size) <= _SIDE and not opened.getexif() else b""
            size = opened.size
            opened.draft("RGB", (_THUMB * 2, _THUMB * 2) if bare else (_SIDE * 2, _SIDE * 2))
            opened.thumbnail((_SIDE * 2, _SIDE * 2))
            picture = ImageOps.exif_transpose(opened).convert("RGB")
    except PieceFileError:
        raise
    except Image.DecompressionBombError as error:
        raise _fault(name, "has far too many pixels") from error
    except Exception as error:  # a damaged picture raises whatever its format's reader does
        raise _fault(name, "is no picture that can be read (JPEG, PNG, WebP, TIFF, BMP or GIF)") from error
    if bare and len(bare) <= LARGEST_KEPT:  # small enough: another round would only cost sharpness
        data, (width, height) = bare, size
    else:
        if bare:  # it was read at the size of a thumbnail
            with Image.open(io.BytesIO(bare)) as opened:
                picture = opened.convert("RGB")
        picture.thumbnail((_SIDE, _SIDE))
        data, (width, height) = _small(picture), picture.size
    picture.thumbnail((_THUMB, _THUMB))
    return Photo(new_id(), piece_id, one_line(name)[:200], width, height, data, _jpeg(picture, 80))


_PICTURE = frozenset(
    (0xC4, 0xDB, 0xDD, 0xDA, *range(0xC0, 0xC4), *range(0xC5, 0xC8), *range(0xC9, 0xCC), *range(0xCD, 0xD0))
)  # tables, frames, scans
_COLOUR = 0xEE  # how an older program says which colours it means


def _bare(content: bytes) -> bytes:
    """A JPEG with its picture alone: no place, time, comment, profile, second picture or anything behind its end; b"" where that can't be told."""
    kept, at = bytearray(b"\xff\xd8"), 2
    while at + 4 <= len(content) and content[at] == 0xFF:
        marker = content[at + 1]
        if marker == 0xFF:  # filling
            at += 1
            continue
        end = at + 2 + int.from_bytes(content[at + 2 : at + 4], "big")
        if marker == 0xE0:  # JFIF: size of its dots; a small picture behind that is left out
            kept += b"\xff\xe0\x00\x10" + content[at + 4 : at + 16] + b"\x00\x00" if content[at + 4 : at + 9] == b"JFIF\0" else b""
        elif marker in _PICTURE or (marker == _COLOUR and content[at + 4 : at + 9] == b"Adobe"):
            kept += content[at:end]
        at = end
        if marker == 0xDA:
            at = _after_scan(content, at)
            kept += content[end:at]
            if content[at : at + 2] == b"\xff\xd9":
                return bytes(kept + b"\xff\xd9")
    return b""


def _after_scan(content: bytes, at: int) -> int:
    """Where the next marker after a scan stands."""
    while (at := content.find(b"\xff", at)) >= 0 and at + 1 < len(content):
        if content[at + 1] not in (0x00, 0xFF, *range(0xD0, 0xD8)):
            return at
        at += 1 if content[at + 1] == 0xFF else 2
    return len(content)


def _small(picture: Image) -> bytes:
    """The picture as JPEG, no larger than the book takes."""
    for quality in _QUALITIES:
        data = _jpeg(picture, quality)
        if len(data) <= LARGEST_KEPT:
            break
    return data


def _jpeg(picture: Image, quality: int) -> bytes:
    target = io.BytesIO()
    picture.save(target, "JPEG", quality=quality)
    return target.getvalue()


def _fault(name: str, message: str) -> PieceFileError:
    return PieceFileError(name, (FileProblem("$", message),))
