"""Pictures to press."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QByteArray, QSize
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QToolButton

from long_ember.storage import Photo

__all__ = ["thumbnail"]


def thumbnail(photo: Photo, run: Callable[[], object], side: int) -> QToolButton:
    """A small photo that is shown large when it is pressed."""
    button = QToolButton()
    pixmap = QPixmap()
    pixmap.loadFromData(QByteArray(photo.thumb))
    button.setIcon(QIcon(pixmap))
    button.setIconSize(QSize(side, side))
    button.setToolTip(photo.name)
    button.setAccessibleName(f"Photo {photo.name}")
    button.clicked.connect(lambda _checked=False: run())
    return button
