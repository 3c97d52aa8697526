"""Tab goes through a panel as the eye does: row by row from the left, whatever was made first."""

from __future__ import annotations

from itertools import pairwise

from PySide6.QtCore import QEvent, QObject, QPoint, Qt, QTimer
from PySide6.QtWidgets import QScrollArea, QWidget

__all__ = ["TabsInSight"]

_ROW = 16  # px; what lies closer to a line stands in it
_TALL = 24  # px from the top of what is high: a wall of pictures is seen from its first row
_SOON = 20  # ms after the last change


class TabsInSight(QObject):
    """Keeps the order of one panel, also when entries come and go. A place that only scrolls is no stop where it holds stops itself.

    Args:
        panel: a column, or a form; never one with two columns that are read one after the other.
    """

    def __init__(self, panel: QWidget) -> None:
        super().__init__(panel)
        self._panel, self._before = panel, list[QWidget]()
        self._soon = QTimer(self, singleShot=True, interval=_SOON)
        self._soon.timeout.connect(self.follow)
        QTimer.singleShot(0, self, self._watch)  # what it is told while it is made would all be told here too, at some cost

    def _watch(self) -> None:
        self._panel.installEventFilter(self)
        self._soon.start()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Something came, went or moved."""
        if event.type() in (QEvent.Type.LayoutRequest, QEvent.Type.Show, QEvent.Type.Resize):
            self._soon.start()
        return False

    def follow(self) -> None:
        """Set the order as things stand."""
        stops = []
        for widget in self._panel.findChildren(QWidget):
            if (
                not (widget.focusPolicy() & Qt.FocusPolicy.TabFocus)
                or widget.focusProxy() is not None
                or not widget.isVisibleTo(self._panel)
            ):
                continue
            if isinstance(widget, QScrollArea) and _stops_within(widget):
                widget.setFocusPolicy(Qt.FocusPolicy.NoFocus)
                continue
            stops.append((widget.mapTo(self._panel, QPoint(0, min(widget.height() // 2, _TALL))), widget))
        stops.sort(key=lambda stop: stop[0].y())
        rows: list[list[tuple[QPoint, QWidget]]] = []
        for at, widget in stops:
            if rows and at.y() - rows[-1][0][0].y() <= _ROW:
                rows[-1].append((at, widget))
            else:
                rows.append([(at, widget)])
        found = [widget for row in rows for _at, widget in sorted(row, key=lambda stop: stop[0].x())]
        if found == self._before:
            return
        self._before = found
        for one, other in pairwise(found):
            QWidget.setTabOrder(one, other)


def _stops_within(area: QScrollArea) -> bool:
    inner = area.widget()
    return inner is not None and any(bool(w.focusPolicy() & Qt.FocusPolicy.TabFocus) for w in (inner, *inner.findChildren(QWidget)))
