"""Photos of a piece: read from whatever a camera writes, made smaller, stripped of place and time, kept as JPEG."""

from __future__ import annotations

import io
from pathlib import Path
from typing import TYPE_CHECKING

from long_ember.errors import FileProblem, PieceFileError
from long_ember.storage.book import Photo, new_id

if TYPE_CHECKING:
    from PIL.Image import Image

__all__ = ["photo_from_bytes", "read_photo"]

_LARGEST = 40_000_000  # bytes of a file
_MOST_PIXELS = 30_000_000  # of a picture that must be unpacked whole; a JPEG is read at half or quarter size at once
_MOST_JPEG = 120_000_000
_SIDE, _THUMB = 1600, 240  # px
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
            ours = opened.format == "JPEG" and max(opened.size) <= _SIDE and not opened.getexif()
            size = opened.size
            opened.draft("RGB", (_THUMB * 2, _THUMB * 2) if ours else (_SIDE * 2, _SIDE * 2))
            opened.thumbnail((_SIDE * 2, _SIDE * 2))
            picture = ImageOps.exif_transpose(opened).convert("RGB")
    except PieceFileError:
        raise
    except Image.DecompressionBombError as error:
        raise _fault(name, "has far too many pixels") from error
    except Exception as error:  # a damaged picture raises whatever its format's reader does
        raise _fault(name, "is no picture that can be read (JPEG, PNG, WebP, TIFF, BMP or GIF)") from error
    if ours:  # made here, or by someone as careful: another round would only cost sharpness
        data, (width, height) = content, size
    else:
        picture.thumbnail((_SIDE, _SIDE))
        data, (width, height) = _jpeg(picture, 85), picture.size
    picture.thumbnail((_THUMB, _THUMB))
    return Photo(new_id(), piece_id, name[:200], width, height, data, _jpeg(picture, 80))


def _jpeg(picture: Image, quality: int) -> bytes:
    target = io.BytesIO()
    picture.save(target, "JPEG", quality=quality)
    return target.getvalue()


def _fault(name: str, message: str) -> PieceFileError:
    return PieceFileError(name, (FileProblem("$", message),))
