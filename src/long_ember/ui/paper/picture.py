"""The drawing of a screen as a picture: SVG to enlarge and edit, PNG of a chosen width."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QBuffer, QByteArray, QPoint, QRect, QSize, Qt
from PySide6.QtGui import QImage, QImageWriter, QPainter
from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLabel, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.storage import write_atomic
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox

__all__ = ["PictureForm", "picture_bytes"]

_WIDTHS = ((0, "as on the screen"), (1920, "1920 px"), (3840, "3840 px"), (6000, "6000 px"))


def picture_bytes(drawn: QWidget, kind: str, wide: int = 0) -> bytes:
    """What a widget paints.

    Args:
        drawn: the widget.
        kind: svg or png.
        wide: px of a PNG; 0 for as many as on the screen.
    """
    size = drawn.size()
    buffer = QBuffer()
    buffer.open(QBuffer.OpenModeFlag.WriteOnly)
    if kind == "svg":
        from PySide6.QtSvg import QSvgGenerator  # loaded with the first one

        made = QSvgGenerator()
        made.setOutputDevice(buffer)
        made.setSize(size)
        made.setViewBox(QRect(QPoint(), size))
        made.setTitle(drawn.accessibleName())
        painter = QPainter(made)
        drawn.render(painter, QPoint())
        painter.end()
    else:
        share = (wide or size.width()) / max(size.width(), 1)
        image = QImage(QSize(round(size.width() * share), round(size.height() * share)), QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.white)
        painter = QPainter(image)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.scale(share, share)
        drawn.render(painter, QPoint())
        painter.end()
        QImageWriter(buffer, QByteArray(b"png")).write(image)
    content: QByteArray = buffer.data()
    return bytes(content.data())


class PictureForm(QDialog):
    """How large, and as what."""

    def __init__(self, session: Session, drawn: QWidget, stem: str, parent: QWidget) -> None:
        super().__init__(parent)
        self._session, self._drawn, self._stem = session, drawn, stem
        self.setWindowTitle("Picture of this screen")
        self.width_box = ChoiceBox(session)
        self.width_box.setFont(font(16))
        self.width_box.setAccessibleName("Width of a PNG")
        for wide, words in _WIDTHS:
            self.width_box.addItem(words, wide)
        label = QLabel("Width of a PNG")
        label.setFont(font(16))
        form = QFormLayout()
        form.addRow(label, self.width_box)
        row = QHBoxLayout()
        for kind in ("svg", "png"):
            row.addWidget(worded(f"Save as {kind.upper()}…", partial(self.ask, kind)))
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addLayout(row)

    def ask(self, kind: str) -> None:
        """Where to write it."""
        path = dialogs.save_name(self, "Picture", Path.home() / f"{self._stem}.{kind}", f"{kind.upper()} (*.{kind})")
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> None:
        """Write it, by the file's ending; a refusal is explained."""
        kind = "svg" if path.suffix.lower() == ".svg" else "png"
        try:
            write_atomic(path, picture_bytes(self._drawn, kind, int(self.width_box.currentData())))
        except EmberError as error:
            dialogs.explain(self, "The picture was not written", str(error))
            return
        self._session.wrote.emit(f"The picture is in {path.name}.", path)
        self.accept()
