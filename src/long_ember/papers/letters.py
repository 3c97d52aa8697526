"""How wide words are, and where a paragraph breaks: by the shipped type family itself, the same wherever it is printed."""

from __future__ import annotations

import re
from functools import cache, lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    import uharfbuzz

__all__ = ["FACES", "FEATURES", "MM_PER_PT", "face_file", "fitted", "width", "wrapped"]

MM_PER_PT = 25.4 / 72
FACES = {400: "Regular", 500: "Medium", 600: "SemiBold", 700: "Bold"}
FEATURES = {"kern": True, "liga": True, "tnum": True}  # figures of one width; a fraction slash makes fractions by itself


_KEPT = "\x1f"  # stands for a space that nothing breaks at
# A whole number and its fraction, a fraction and its sign, a number and its unit.
_TOGETHER = re.compile(r"(?<=\d) (?=\d+\u2044)|(?<=\u2033) (?=[+\u2212](?:\W|$))|(?<=\d) (?=(?:mm|in|°C|°F|s|min|h|g|kg|lb|oz|blows)\b)")


def face_file(weight: int) -> Path:
    """File of a face."""
    return Path(__file__).parents[1] / "assets" / "fonts" / f"Barlow-{FACES[weight]}.ttf"


@cache
def _face(weight: int) -> tuple[uharfbuzz.Font, float, Any]:
    import uharfbuzz  # loaded with the first paper

    face = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(face_file(weight))))
    return uharfbuzz.Font(face), float(face.upem), uharfbuzz


@lru_cache(maxsize=20_000)
def _em(text: str, weight: int) -> float:
    if not text:
        return 0.0
    face, whole, shaper = _face(weight)
    buffer = shaper.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    shaper.shape(face, buffer, FEATURES)
    return float(sum(p.x_advance for p in buffer.glyph_positions)) / whole


def width(text: str, size: float, weight: int = 400) -> float:
    """Of a line of text at `size` pt, mm."""
    return _em(text.replace(_KEPT, " "), weight) * size * MM_PER_PT


def wrapped(text: str, room: float, size: float, weight: int = 400) -> list[str]:
    """Lines that a paragraph breaks into.

    Args:
        text: with line breaks of its own, if it has any.
        room: mm.
        size: pt.
        weight: of the letters.
    """
    lines: list[str] = []
    for paragraph in _TOGETHER.sub(_KEPT, text).split("\n"):
        now = ""
        for word in paragraph.split(" "):
            longer = f"{now} {word}" if now else word
            if now and width(longer, size, weight) > room:
                lines.append(now)
                longer = word
            now = longer
            while len(now) > 1 and width(now, size, weight) > room:  # one word wider than the paper
                keep = next((n for n in range(len(now) - 1, 0, -1) if width(now[:n], size, weight) <= room), 1)
                lines.append(now[:keep])
                now = now[keep:]
        lines.append(now)
    return [line.replace(_KEPT, " ") for line in lines]


def fitted(text: str, room: float, size: float, weight: int = 400) -> str:
    """The text, or as much of it as there is room for, with an ellipsis."""
    if width(text, size, weight) <= room:
        return text
    keep = next((n for n in range(len(text) - 1, 0, -1) if width(text[:n].rstrip() + "…", size, weight) <= room), 0)
    return text[:keep].rstrip() + "…" if keep else ""
