"""The fields of the selected feature beside its sum and its checks."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QSize, Qt, QTimer, Signal
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.document import FieldAddress, overrule, restore_rule
from long_ember.features import LABELS, Check, feature_sum
from long_ember.fields import Landmark, Limb, specs
from long_ember.plain import marked_up
from long_ember.ui.shape.given import GivenBar
from long_ember.ui.shape.limb_field import LimbField
from long_ember.ui.shape.place_field import LandmarkField, OwnBarSwitch
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.entry import ChoiceField, EntryField
from long_ember.ui.widgets.field_grid import COLUMNS, FieldGrid
from long_ember.ui.widgets.sight import TabsInSight

__all__ = ["Inspector", "Notes"]

_REST = 200  # ms
_MANY = 6  # columns for shapes with many sizes
_PLACE = ("on", "at", "along")  # of what stands on the drawn bar


class Notes(QScrollArea):
    """Words in a space of fixed size: a label in a layout would make the whole window measure itself at every keystroke. What is longer scrolls.

    Signals:
        linked: a link in them is pressed.
    """

    linked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # its links have the keys
        self._label = QLabel()
        self._label.setWordWrap(True)
        self._label.setFont(font(15))
        self._label.setTextFormat(Qt.TextFormat.RichText)
        self._label.setAlignment(Qt.AlignmentFlag.AlignTop)
        self._label.setContentsMargins(0, 0, 6, 0)  # clear of the scroll bar
        self._label.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse | Qt.TextInteractionFlag.LinksAccessibleByMouse)
        self._label.linkActivated.connect(self.linked)
        self.setWidget(self._label)
        self._room = QSize()
        self._rest = QTimer(self, singleShot=True, interval=_REST)
        self._rest.timeout.connect(self._measure)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fill the space."""
        super().resizeEvent(event)
        self._room = event.size()  # of the viewport; asking for that by itself makes an object of every kind of widget there is
        self._measure()

    def _measure(self) -> None:
        """As high as the words, once the keys rest."""
        wide, high = self._room.width(), self._room.height()
        self._label.setFixedSize(wide, max(self._label.heightForWidth(wide), high))

    @property
    def text(self) -> str:
        """What is said, as HTML."""
        return self._label.text()

    def say(self, html: str) -> None:
        """Replace what is said."""
        if html != self._label.text():
            self._label.setText(html)
            self._rest.start()


class Inspector(QWidget):
    """What the selected feature is, how it is reckoned, what to mind; `limb_view` makes the screen for a limb."""

    def __init__(self, session: Session, limb_view: Callable[[Session], QWidget]) -> None:
        super().__init__()
        self._session = session
        self._shown: tuple[str, str, bool, frozenset[str], str] = ("", "", False, frozenset(), "")
        self._grid: FieldGrid | None = None
        self._limb_field = partial(LimbField, make_view=limb_view)
        self._row = QHBoxLayout(self)
        self._row.setContentsMargins(12, 0, 12, 0)
        self._row.setSpacing(22)
        self.notes = Notes()
        self.notes.linked.connect(self._aside)
        self.given = GivenBar(session, self)
        self._left = QVBoxLayout()
        self._left.setSpacing(4)
        self.switch = OwnBarSwitch(session, self)
        under = QHBoxLayout()
        under.setSpacing(14)
        under.addWidget(self.given)
        under.addWidget(self.switch)
        under.addStretch(1)
        self._left.addLayout(under)
        self._left.addStretch(1)
        self._row.addLayout(self._left)
        self._row.addWidget(self.notes, 1)
        self.setFixedHeight(164)
        TabsInSight(self)
        self._following = Portions(session.loop, session.turns, "notes")
        session.selected.connect(self._rebuild)
        session.refreshed.connect(self.refresh)
        session.restyled.connect(self.refresh)
        session.touched.connect(self.refresh)
        self._rebuild()

    def focus_first(self) -> None:
        """Put the cursor into the first field."""
        if self._grid is not None and self._grid.fields:
            self._grid.fields[0].setFocus(Qt.FocusReason.ShortcutFocusReason)

    @property
    def fields(self) -> list[EntryField | ChoiceField | LimbField]:
        """The entries in sight."""
        return self._grid.fields if self._grid else []

    def refresh(self) -> None:
        """Show sum and checks anew; the fields follow by themselves. Out of sight there is nothing to show."""
        if not self.isVisible():
            return
        if self._subject() != self._shown:
            self._rebuild()
            return
        self._following.follow(len(self._session.piece.features), self._say)  # rich text is laid out anew with every word

    def _subject(self) -> tuple[str, str, bool, frozenset[str], str]:
        """Id and kind of the selected feature, whether it is laid on, what it is not asked for (another piece may use the same ids), and the unit."""
        feature = self._session.piece.feature(self._session.selection)
        if feature is None:
            return "", "", False, frozenset(), ""
        return feature.id, feature.kind, self._session.piece.stands(feature.id) is not None, feature.idle, self._session.measure.unit

    def _rebuild(self) -> None:
        session = self._session
        feature, standing = session.piece.feature(session.selection), session.piece.stands(session.selection)
        held = next((f.address for f in self.fields if f.hasFocus()), None)
        if self._grid is not None:
            self._left.removeWidget(self._grid)
            self._grid.hide()
            self._grid.deleteLater()
            self._grid = None
        if feature is not None:
            hidden = {*LABELS, *feature.idle, *(feature.of_bar if standing is not None else ())}
            names = [*(name for name in specs(feature) if name not in hidden), *LABELS]
            addresses = [FieldAddress(feature.id, name) for name in (*(_PLACE if standing is not None else ()), *names)]
            self._grid = FieldGrid(
                session,
                addresses,
                columns=COLUMNS if len(addresses) <= 2 * COLUMNS else max(_MANY, (len(addresses) + 1) // 2),  # two rows, whatever there is
                kinds={Limb: self._limb_field, Landmark: LandmarkField},
            )
            self._left.insertWidget(0, self._grid)
            for field in self._grid.fields:
                if field.address == held:  # a choice that asks for other sizes keeps the keys
                    field.setFocus(Qt.FocusReason.OtherFocusReason)
        self.given.follow()
        self.switch.follow()
        self._shown = self._subject()
        self._say()

    def _say(self) -> None:
        session = self._session
        feature = session.piece.feature(session.selection)
        if feature is None:
            self.notes.say("Select a feature on the drawing to see its sizes and its sum.")
            return
        stand = session.piece.composition.stand(feature.id) if session.piece.stands(feature.id) is not None else None
        feature, place = session.piece.found(feature.id)
        sums = "<br>".join(
            marked_up(line.show(session.measure)) for line in (stand.lines if stand is not None else feature_sum(feature, place))
        )
        numbers = {s.number for s in session.answer.plan.steps if s.feature.id == feature.id}
        told = (*feature.checks(place), *session.contact_checks(feature.id), *(c for c in session.answer.plan.checks if c.step in numbers))
        shown = [c for c in told if not session.answer.aside(c, feature.id)]
        # What is wrong comes first: a long sum must not push it out of sight.
        wrong, noted = ("<br>".join(self._check(c) for c in shown if (c.level != "note") == bad) for bad in (True, False))
        if len(shown) < len(told):
            muted = theme_of(session).muted
            links = (
                f"<a href='{c.key}' style='color:{muted}'>{marked_up(c.line.show(session.measure))}</a>" for c in told if c not in shown
            )
            noted = "<br>".join([*([noted] if noted else []), "Set aside: " + "; ".join(links)])
        parts = [f"<p style='margin:0 0 5px 0; font-weight:500'>{wrong}</p>" if wrong else "", sums]
        self.notes.say("".join([*parts, f"<p style='margin-top:5px; font-weight:500'>{noted}</p>" if noted else ""]))

    def _check(self, check: Check) -> str:
        text, theme = marked_up(check.line.show(self._session.measure)), theme_of(self._session)
        aside = "" if check.caution else f" <a href='{check.key}' style='color:{theme.muted}'>set aside</a>"
        head = f"<b>{check.sign} {check.word}</b>"
        return f"{head} {text}{aside}" if check.level == "note" else f"<span style='color:{theme.fault}'>{head} {text}</span>{aside}"

    def _aside(self, key: str) -> None:
        """Set a check aside for this feature, or let it speak again."""
        feature_id = self._session.selection
        known = any(o.rule == key and o.step == feature_id for o in self._session.piece.planning.overrules)
        self._session.attempt(*((restore_rule, key) if known else (overrule, key, feature_id, "")))

    def showEvent(self, event: object) -> None:
        """Catch up with what changed out of sight."""
        self.refresh()
