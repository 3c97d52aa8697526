"""The card of a feature, in whichever row it stands."""

from __future__ import annotations

import math
from functools import lru_cache

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QPixmap

from long_ember.frozen import dataclass
from long_ember.ui.drawing.glyphs import glyphs_shown, paint_kind
from long_ember.ui.drawing.paint import text_width
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme

__all__ = ["CARD_HEIGHT", "FLAT_HEIGHT", "Card", "card_picture", "last_line"]

CARD_HEIGHT, FLAT_HEIGHT = 82, 60  # px, of a row of three lines and of one of two
_PICTURED = 125  # px; a narrower card has words only


@dataclass(frozen=True, slots=True)
class Card:
    """All that a card shows.

    Args:
        kind: of the feature, drawn small.
        words: its name, its size, and the steel it takes or where it stands.
        warned: something is wrong with it.
        chosen, pointed, focused: how the smith holds it.
        flat: in two lines, the size beside the name.
    """

    kind: str
    words: tuple[str, str, str]
    warned: bool
    chosen: bool
    pointed: bool
    focused: bool
    flat: bool = False


def card_picture(card: Card, theme: Theme, width: float, ratio: float) -> QPixmap:
    """A card as a picture, so that typing repaints only the card that changed.

    Args:
        card: what it shows.
        theme: its colours.
        width: px.
        ratio: device pixels per px.
    """
    return _picture(card, theme, width, ratio, glyphs_shown())


@lru_cache(maxsize=256)
def _picture(card: Card, theme: Theme, width: float, ratio: float, _pictured: bool) -> QPixmap:
    high = (FLAT_HEIGHT if card.flat else CARD_HEIGHT) - 4
    picture = QPixmap(math.ceil(width * ratio), math.ceil(high * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(theme.colour("paper"))
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    rect = QRectF(0, 0, width, high)
    painter.setPen(QPen(theme.colour("accent" if card.chosen or card.pointed else "line"), 2.5 if card.chosen else 1.0))
    painter.setBrush(theme.colour("panel"))
    painter.drawRoundedRect(rect.adjusted(1.5, 1.5, -1.5, -1.5), 7, 7)
    left = 54 if width >= _PICTURED else 9
    if width >= _PICTURED:
        paint_kind(painter, card.kind, QRectF(8, 7 if card.flat else 4, 40, 24), theme, strong=card.chosen)
    _text(painter, card.words[0], QRectF(left, 8 if card.flat else 5, width - left - 16, 22), font(15, 600), theme.colour("ink"))
    if card.warned:
        _text(painter, "!", QRectF(width - 15, 8 if card.flat else 5, 14, 22), font(19, 700), theme.colour("fault"))
    size, rest = QRectF(9, 31, width - 18, 22), last_line(width, flat=card.flat)
    if card.flat:
        beside = 54 + text_width(card.words[0], font(15, 600)) + 8
        size = QRectF(beside, 8, width - beside - (16 if card.warned else 5), 22)
    if card.flat or text_width(card.words[1], font(14)) <= size.width():
        _text(painter, card.words[1], size, font(14), theme.colour("ink"))
    else:  # nothing that matters is left out: in two lines
        _two_lines(painter, card.words[1], QRectF(9, 26, width - 18, 33), theme.colour("ink"))
    if card.words[2]:
        _text(painter, card.words[2], rest, font(14, 500), theme.colour("muted"))
    if card.focused:
        painter.setPen(QPen(theme.colour("accent"), 1, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(rect.adjusted(4, 4, -4, -4), 5, 5)
    painter.end()
    return picture


def last_line(width: float, *, flat: bool) -> QRectF:
    """Where a card's third words stand, px from its own corner: a row whose third words change with every key paints them over the picture.

    Args:
        width: of the card, px.
        flat: it has two lines.
    """
    return QRectF(54, 30, width - 60, 22) if flat else QRectF(9, 57, width - 18, 20)


def _two_lines(painter: QPainter, text: str, box: QRectF, colour: QColor) -> None:
    """Broken between words, the second line shortened only where even two are too few."""
    face, first = font(13), ""
    words = text.split()
    while words and text_width(f"{first} {words[0]}".strip(), face) <= box.width():
        first = f"{first} {words.pop(0)}".strip()
    half = box.height() / 2
    for i, line in enumerate((first, " ".join(words))):
        _text(painter, line, QRectF(box.left(), box.top() + i * half, box.width(), half), face, colour)


def _text(painter: QPainter, text: str, box: QRectF, face: QFont, colour: QColor) -> None:
    painter.setFont(face)
    painter.setPen(colour)
    short = QFontMetricsF(face).elidedText(text, Qt.TextElideMode.ElideRight, box.width())
    painter.drawText(box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, short)
