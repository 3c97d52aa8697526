"""A picture as brightness, and the ground that it shows: pixels to millimetres, straight on or at an angle."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import EmberError, NoAnswer
from long_ember.frozen import NamedTuple

__all__ = ["Grey", "Ground", "grey_of", "levelled", "scaled_by"]

_MOST = 120_000_000  # pixels that are unpacked
_SIDE = 2400  # px to which a larger picture is brought
_FLAT = 1e-6  # of the area, by which three points lie in a line


class Grey(NamedTuple):
    """A picture.

    Args:
        light: brightness, (height, width), 0 to 1.
        colour: the same in colour, (height, width, 3) bytes, to be shown.
    """

    light: Array
    colour: Array


def grey_of(content: bytes) -> Grey:
    """A picture from the bytes of its file, turned as the camera was held, brought to at most 2,400 px a side.

    Raises:
        EmberError: it is no picture, or far too large a one.
    """
    from PIL import Image, ImageOps  # loaded with the first picture

    try:
        with Image.open(io.BytesIO(content), formats=("JPEG", "PNG", "WEBP", "BMP", "TIFF", "GIF", "MPO")) as opened:
            if opened.width * opened.height > _MOST:
                raise EmberError(f"The picture has more than {_MOST // 1_000_000} million pixels. Make it smaller first.")
            opened.draft("RGB", (_SIDE * 2, _SIDE * 2))
            opened.thumbnail((_SIDE, _SIDE))
            picture = ImageOps.exif_transpose(opened).convert("RGB")
    except EmberError:
        raise
    except Exception as error:  # a damaged picture raises whatever its format's reader does
        raise EmberError("This is no picture that can be read (JPEG, PNG, WebP, TIFF, BMP or GIF).") from error
    colour = np.asarray(picture)
    light = colour.astype(float) @ (0.299 / 255, 0.587 / 255, 0.114 / 255)
    return Grey(light, colour)


class Ground(NamedTuple):
    """From pixels, y downwards, to millimetres on the flat ground that the piece lies on, y upwards.

    Args:
        matrix: (3, 3), of a projection.
    """

    matrix: Array

    def points(self, px: Array) -> Array:
        """Points in mm, (n, 2), of points in px."""
        found = np.column_stack((px, np.ones(len(px)))) @ self.matrix.T
        return np.asarray(found[:, :2] / found[:, 2:])

    def pixels(self, mm: Array) -> Array:
        """Points in px, (n, 2), of points in mm."""
        return Ground(np.asarray(np.linalg.inv(self.matrix))).points(mm)

    def scale(self, at: Array) -> float:
        """How many pixels a millimetre is near a point in px."""
        a, b, c = self.points(np.asarray(at) + np.array([(0.0, 0.0), (1.0, 0.0), (0.0, 1.0)]))
        area = abs(float((b - a)[0] * (c - a)[1] - (b - a)[1] * (c - a)[0]))
        return float(1 / max(area, 1e-12) ** 0.5)


def scaled_by(one: Sequence[float], other: Sequence[float], length: float) -> Ground:
    """A picture taken straight from above, by a length that is known in it.

    Args:
        one: point, px.
        other: point, px.
        length: mm between them.

    Raises:
        NoAnswer: the points are one.
    """
    apart = float(np.hypot(other[0] - one[0], other[1] - one[1]))
    if apart < 2 or length <= 0:
        raise NoAnswer("The two points are too near each other.", "Press two points as far apart as you can measure.")
    s = length / apart
    return Ground(np.array([[s, 0.0, 0.0], [0.0, -s, 0.0], [0.0, 0.0, 1.0]]))


def levelled(corners: Array, width: float, height: float) -> Ground:
    """A picture taken at an angle, by the corners of a rectangle that lies on the ground: a sheet of paper, a board.

    Args:
        corners: (4, 2) px, in order round it, the first two along its width.
        width: mm.
        height: mm.

    Raises:
        NoAnswer: three of them lie in a line, or they cross.
    """
    if width <= 0 or height <= 0:
        raise NoAnswer("The rectangle has no size.", "Type its width and height.")
    corners = np.asarray(corners, dtype=float)
    turns = []
    for i in range(4):
        a, b, c = corners[i], corners[(i + 1) % 4], corners[(i + 2) % 4]
        turns.append((b - a)[0] * (c - b)[1] - (b - a)[1] * (c - b)[0])
    span = float(np.ptp(corners, axis=0).prod())
    if min(map(abs, turns)) <= _FLAT * max(span, 1e-9) or len({t > 0 for t in turns}) > 1:
        raise NoAnswer("These four points are no rectangle.", "Press its corners in turn, the first two along its width.")
    target = np.array([(0.0, height), (width, height), (width, 0.0), (0.0, 0.0)])
    rows = []
    for (x, y), (u, v) in zip(corners, target, strict=True):
        rows.append([x, y, 1, 0, 0, 0, -u * x, -u * y, -u])
        rows.append([0, 0, 0, x, y, 1, -v * x, -v * y, -v])
    _u, _s, vectors = np.linalg.svd(np.array(rows))
    return Ground(np.asarray(vectors[-1].reshape(3, 3)))
