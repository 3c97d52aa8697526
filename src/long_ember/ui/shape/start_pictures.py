"""Small pictures of starts, and of the pieces a bar is enough for."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QRectF, QSize, QTimer, Signal
from PySide6.QtGui import QPainter, QPixmap

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.geometry import piece_figure
from long_ember.records import Start
from long_ember.shorthand import proposed_bar, started
from long_ember.ui.drawing.paint import View, paint_figure
from long_ember.ui.style.theme import Theme, theme_of

__all__ = ["StartPictures"]


class StartPictures(QObject):
    """Small pictures of starts and pieces, made one after the other while nobody waits for them."""

    ready = Signal()

    def __init__(self, session: Session, find: Callable[[str], Start | Piece | None]) -> None:
        super().__init__()
        self._session, self._find = session, find
        self._made: dict[int, tuple[Start | Piece, QPixmap | None]] = {}  # by identity: the owner is kept, so that none is reused
        self._of: tuple[object, ...] = ()
        self._waiting: list[tuple[Start | Piece, QRectF]] = []
        self._turn = QTimer(self, interval=0)
        self._turn.timeout.connect(self._make_one)

    def forget_pieces(self) -> None:
        """Pieces that were made for one question are not asked for again; starts are."""
        self._made = {mark: made for mark, made in self._made.items() if isinstance(made[0], Start)}
        self._waiting = [waiting for waiting in self._waiting if isinstance(waiting[0], Start)]

    def paint(self, painter: QPainter, key: str, box: QRectF, theme: Theme, here: bool) -> None:
        """The start, where its picture is made; else it waits its turn."""
        of, ratio = self._find(key), painter.device().devicePixelRatioF()
        if self._of != (theme, ratio, self._session.measure.unit):
            self._of = theme, ratio, self._session.measure.unit
            self._made.clear()
        if of is None:
            return
        if id(of) not in self._made:
            self._made[id(of)] = of, None
            self._waiting.append((of, QRectF(0, 0, box.width(), box.height())))
            self._turn.start()
        _, picture = self._made[id(of)]
        if picture is not None:
            painter.drawPixmap(box.topLeft(), picture)

    def _make_one(self) -> None:
        if not self._waiting:
            self._turn.stop()
            self.ready.emit()
            return
        of, box = self._waiting.pop(0)
        measure, theme = self._session.measure, theme_of(self._session)
        try:
            piece = (
                of if isinstance(of, Piece) else started(of, self._session.shop.new_piece(), proposed_bar(of, measure), {}, measure).piece
            )
            figure = piece_figure(piece)
        except EmberError:  # one from elsewhere, of which nothing can be made: it says so when it is chosen
            return
        ratio = float(self._of[1])  # type: ignore[arg-type]
        picture = QPixmap(QSize(round(box.width() * ratio), round(box.height() * ratio)))
        picture.setDevicePixelRatio(ratio)
        picture.fill(theme.colour("panel"))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_figure(painter, figure, View.fitting(figure.bounds, box.adjusted(6, 6, -6, -6), most=3.0), theme)
        painter.end()
        self._made[id(of)] = of, picture
        if len(self._waiting) % 6 == 0:
            self.ready.emit()
