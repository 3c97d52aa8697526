"""The one type family, Barlow, shipped with the application."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtGui import QFont, QFontDatabase

__all__ = ["FAMILY", "font", "font_key", "load_fonts"]

FAMILY = "Barlow"
_WEIGHTS = {400: QFont.Weight.Normal, 500: QFont.Weight.Medium, 600: QFont.Weight.DemiBold, 700: QFont.Weight.Bold}
_cache: dict[tuple[int, int], QFont] = {}
_keys: dict[int, tuple[int, int]] = {}  # by identity: the faces of the cache live as long as the program


def load_fonts() -> None:
    """Register the shipped faces; call once the application exists."""
    folder = Path(__file__).parents[2] / "assets" / "fonts"
    for face in folder.iterdir():
        if face.name.endswith(".ttf"):
            QFontDatabase.addApplicationFont(str(face))


def font_key(face: QFont) -> tuple[int, int]:
    """Size and weight of a face that `font` made; asking the face itself takes three times as long."""
    return _keys[id(face)]


def font(size: int, weight: int = 400) -> QFont:
    """Barlow in pixels, with figures of one width; a fraction slash makes true fractions by itself."""
    key = (size, weight)
    if key not in _cache:
        made = QFont(FAMILY)
        made.setPixelSize(size)
        made.setWeight(_WEIGHTS[weight])
        made.setFeature(QFont.Tag("tnum"), 1)
        _cache[key] = made
        _keys[id(made)] = key
    return _cache[key]
