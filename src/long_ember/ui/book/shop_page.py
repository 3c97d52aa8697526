"""The shop in short pages: what each setting means beside it, and above them what a change does to the piece on the bench."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QStackedWidget, QVBoxLayout, QWidget

from long_ember.document import Edit, quick_answer, take_allowances
from long_ember.features import Piece
from long_ember.frozen import NamedTuple
from long_ember.records import Shop
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.book.shop_pages import SHOP_PAGES, ShopPlace
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.model_form import ModelForm
from long_ember.ui.widgets.sight import TabsInSight

__all__ = ["ShopPage"]


_OWN = frozenset({"pieces", "bars"})  # a piece keeps its own of these
_NAV = 214


class _Effect(NamedTuple):
    """What a plan comes to: mm to saw, heats, minutes."""

    cut: float
    heats: int
    minutes: float


class ShopPage(QWidget):
    """A list of pages on the left, the chosen one beside it, its effect above."""

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work, self._typing = work, False
        self.key = SHOP_PAGES[0].key
        self.forms: dict[str, ModelForm] = {}
        self.tabs: dict[str, QPushButton] = {}
        self._before = work.session.shop, work.session.piece, self._effect()
        nav = QVBoxLayout()
        nav.setSpacing(2)
        for page in SHOP_PAGES:
            tab = self.tabs[page.key] = QPushButton()
            tab.setText(page.title)
            tab.setToolTip(page.words)
            tab.setFont(font(16, 500))
            tab.setCheckable(True)
            tab.setProperty("place", "page")
            tab.setFixedSize(_NAV, 36)
            tab.clicked.connect(partial(self.show_page, page.key))
            tab.installEventFilter(self)
            nav.addWidget(tab)
        nav.addStretch(1)
        self.stack = QStackedWidget()
        self.effect = QLabel()
        self.effect.setFont(font(17, 500))
        self.effect.setWordWrap(True)
        self.effect.setMinimumHeight(46)
        self.effect.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.back_button = worded("Put back", self._put_back, "As it was when this page was opened")
        self.give_button = worded("Give them to the piece on the bench", self._give, "Its own allowances and bars become the shop's")
        self.again_button = worded("Start from another shop…", work.ask_first_day, "One of three usual shops, to be changed from there")
        buttons = QHBoxLayout()
        for button in (self.back_button, self.give_button, self.again_button):
            buttons.addWidget(button)
        buttons.addStretch(1)
        holder = QWidget()
        side = QVBoxLayout(holder)
        side.setContentsMargins(0, 0, 0, 0)
        side.setSpacing(8)
        side.addWidget(self.stack, 1)
        side.addWidget(self.effect)
        side.addLayout(buttons)
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 24, 16)
        row.setSpacing(28)
        row.addLayout(nav)
        row.addWidget(holder, 1)
        TabsInSight(holder)
        work.session.refreshed.connect(self._follow)
        self.show_page(self.key)

    def show_page(self, key: str, _checked: bool = False) -> None:
        """One page; what was changed on another one stays, and can no longer be put back from here."""
        turned, self.key = key != self.key, key
        for name, tab in self.tabs.items():
            tab.setChecked(name == key)
        self.setFocusProxy(self.tabs[key])
        if any(tab.hasFocus() for tab in self.tabs.values()):
            self.tabs[key].setFocus(Qt.FocusReason.OtherFocusReason)
        if key not in self.forms:
            page = self._page
            form = self.forms[key] = ModelForm(
                self._work.session, self._work.session.shop, only=page.names, columns=page.columns, explained=True
            )
            form.changed.connect(partial(self._changed, page.names))
            self.stack.addWidget(_scrolled(page, form))
        self.stack.setCurrentWidget(_area_of(self.forms[key]))
        self.again_button.setVisible(key == "measures")
        if turned:
            self._before = self._work.session.shop, self._work.session.piece, self._effect()
        self._say()

    @property
    def _page(self) -> ShopPlace:
        return next(p for p in SHOP_PAGES if p.key == self.key)

    def field(self, name: str) -> QWidget:
        """The entry of a setting, its page shown."""
        self.show_page(next(p.key for p in SHOP_PAGES if name in p.names))
        return self.forms[self.key].fields[name]

    def _changed(self, names: tuple[str, ...], shop: Shop) -> None:
        session = self._work.session
        self._typing = True
        session.set_shop(replace(session.shop, **{name: getattr(shop, name) for name in names}))
        self._typing = False
        self._drop([key for key, form in self.forms.items() if form.model.measure != session.shop.measure and key != self.key])
        self._say()

    def _drop(self, keys: list[str]) -> None:
        """Pages that are made anew when they are shown again."""
        for key in keys:
            area = _area_of(self.forms.pop(key))
            self.stack.removeWidget(area)
            area.deleteLater()

    def _follow(self) -> None:
        """Another shop, other units or another piece, from elsewhere."""
        session = self._work.session
        if self._typing:
            return
        if session.piece is not self._before[1] or session.shop == self._before[0]:  # another piece, or the log has been read
            self._before = session.shop, session.piece, self._effect()
        shop = session.shop
        stale = [
            key
            for key, form in self.forms.items()
            if form.model.measure != shop.measure or any(getattr(form.model, name) != getattr(shop, name) for name in form.fields)
        ]
        if stale:
            before = self._before
            self._drop(stale)
            self.show_page(self.key)
            self._before = before
        if self.isVisible():
            self._say()

    # --- what a change does

    def _effect(self, piece: Piece | None = None) -> _Effect | None:
        """What the piece on the bench comes to, or another one in this shop."""
        session = self._work.session
        if not session.piece.features:
            return None
        answer = session.answer if piece is None else quick_answer(piece, ruler=session.shop.division, forge=session.forge)
        return _Effect(answer.reckoning.cut, answer.plan.count, answer.plan.minutes[1])

    def _as_shop(self) -> Edit:
        session = self._work.session
        return take_allowances(session.piece, session.shop.new_piece())

    def _say(self) -> None:
        session, (shop, _piece, before) = self._work.session, self._before
        changed = any(getattr(shop, n) != getattr(session.shop, n) for n in self._page.names)
        self.back_button.setVisible(changed)
        after = self._effect()
        name = session.piece.name
        own = self.key in _OWN and after is not None and self._as_shop().after != session.piece
        self.give_button.setVisible(own)
        if after is None or before is None:
            self.effect.setText("With a piece on the bench you see here what a change does to it.")
        elif own:
            given = self._effect(self._as_shop().after)
            assert given is not None
            self.effect.setText(
                f"{name} keeps its own: {self._words(after, after)}. With these it comes to {'the same' if given == after else self._words(after, given)}."
            )
        elif before == after:
            self.effect.setText(f"{name}: {self._words(after, after)}." + (" The change does nothing to it." if changed else ""))
        else:
            self.effect.setText(f"{name}: {self._words(before, after)}.")
        self.effect.setAccessibleName(self.effect.text())

    def _words(self, before: _Effect, after: _Effect) -> str:
        m = self._work.session.measure
        pairs = (
            ("saw ", m.length(before.cut), m.length(after.cut), ""),
            ("", str(before.heats), str(after.heats), " heats" if after.heats != 1 else " heat"),
            ("", f"{before.minutes:.0f}", f"{after.minutes:.0f}", " min"),
        )
        return ", ".join(f"{head}{a if a == b else f'{a} → {b}'}{tail}" for head, a, b, tail in pairs)

    def _put_back(self) -> None:
        session, before = self._work.session, self._before[0]
        session.set_shop(replace(session.shop, **{name: getattr(before, name) for name in self._page.names}))

    def _give(self) -> None:
        """The piece takes the shop's allowances and bars: a step of its own history."""
        self._work.session.attempt(take_allowances, self._work.session.shop.new_piece())

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and Down go through the pages, from their list."""
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0) if isinstance(event, QKeyEvent) else 0
        if not step or event.type() != QEvent.Type.KeyPress:
            return False
        keys = list(self.tabs)
        self.show_page(keys[min(max(keys.index(self.key) + step, 0), len(keys) - 1)])
        self.tabs[self.key].setFocus(Qt.FocusReason.TabFocusReason)
        return True

    def showEvent(self, event: QShowEvent) -> None:
        """The piece may be another one by now."""
        super().showEvent(event)
        self.tabs[self.key].setFocus(Qt.FocusReason.TabFocusReason)
        self._before = self._work.session.shop, self._work.session.piece, self._effect()
        self._say()


def _scrolled(page: ShopPlace, form: ModelForm) -> QScrollArea:
    inner, head, told = QWidget(), QLabel(page.title), QLabel(page.words)
    head.setFont(font(24, 600))
    told.setFont(font(16))
    told.setWordWrap(True)
    told.setProperty("role", "muted")
    column = QVBoxLayout(inner)
    column.setContentsMargins(4, 0, 12, 8)
    column.setSpacing(8)
    for widget in (head, told, form):
        column.addWidget(widget)
    column.addStretch(1)
    area = QScrollArea()
    area.setWidget(inner)
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    return area


def _area_of(form: ModelForm) -> QScrollArea:
    at: QWidget | None = form
    while at is not None and not isinstance(at, QScrollArea):
        at = at.parentWidget()
    assert at is not None
    return at
