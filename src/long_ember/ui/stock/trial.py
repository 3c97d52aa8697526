"""The test piece: its picture for each bar in question, what to measure on it, and how much surer the cut length becomes."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, QSize
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.choosing import Source, chance_words, rank
from long_ember.desk.session import Session
from long_ember.document import Edit, forget_measured, quick_answer, set_measured
from long_ember.errors import EmberError
from long_ember.features import Measured
from long_ember.geometry import PLAN, piece_figure
from long_ember.learning import trial_entry
from long_ember.sections import Section
from long_ember.stock import Question, Trial, doubt_width, measured, round_up, trial_piece
from long_ember.storage import new_id
from long_ember.ui.drawing.paint import View, paint_figure, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.units import Measure, parse_length, parse_number

if TYPE_CHECKING:
    from long_ember.ui.actions.bookwork import BookWork

__all__ = ["TrialDialog", "measured_words"]


def measured_words(found: Sequence[Measured], session: Session) -> str:
    """What is in force from a test piece, in words."""
    said = []
    for m in found:
        at = session.piece.index(m.feature)
        what = {"capture": "share that goes sideways", "shortening": "shortening", "bend": "bend factor", "scale": "scale each heat"}[
            m.name
        ]
        name = f"{session.piece.features[at].title} {at + 1}: {what}" if at >= 0 else what.capitalize()
        figure = f"{m.value:.3f} ± {m.spread:.3f}" if m.name == "bend" else f"{m.value:.1%} ± {m.spread:.1%}"
        said.append(f"{name} {figure}")
    return "; ".join(said)


class _Picture(QWidget):
    """One test piece from the side, with its bar and cut length."""

    def __init__(self, session: Session, trial: Trial) -> None:
        super().__init__()
        self._session, self._trial = session, trial
        wide = any(q.name == "capture" for q in trial.questions) and not any(q.name == "bend" for q in trial.questions)
        self._figure = piece_figure(trial.piece, PLAN if wide else None)  # what is spread shows its width from above
        self._cut = quick_answer(trial.piece, ruler=session.shop.division, forge=session.forge).reckoning.cut
        self.setMinimumHeight(150)
        self.setAccessibleName(f"Test piece of {trial.piece.bar.label(session.measure)}")

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(480, 160)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Its title over its figure."""
        painter, theme, m = QPainter(self), theme_of(self._session), self._session.measure
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("paper"))
        write(painter, f"{self._trial.piece.bar.label(m)}: cut {m.length(self._cut)}", 10, 4, font(17, 600), theme.colour("ink"))
        box = QRectF(16, 36, self.width() - 32, self.height() - 46)
        x0, y0, x1, y1 = self._figure.bounds
        scale = min(box.width() / max(x1 - x0, 1e-6), box.height() / max(y1 - y0, 1e-6))
        middle = QPointF((x0 + x1) / 2, (y0 + y1) / 2)
        view = View(scale, box.center().x() - middle.x() * scale, box.center().y() + middle.y() * scale)
        paint_figure(painter, self._figure, view, theme)


class TrialDialog(AskingDialog):
    """Plan, forge, measure, take over."""

    def __init__(self, work: BookWork, bars: Sequence[Section]) -> None:
        super().__init__(work.window)
        self._work, self._session = work, work.session
        self.setWindowTitle("Test piece")
        self.resize(1060, 740)
        self.trials = self._planned(bars)
        self.lines: dict[tuple[int, int, int], QLineEdit] = {}  # question, what is asked, test piece
        self._edit: Edit | None = None
        head = QLabel(
            "Only what is in doubt, with plain bar to hold it by. Forge one, or one of each bar, measure it, and enter what came out."
        )
        head.setFont(font(16))
        head.setWordWrap(True)
        pictures = QHBoxLayout()
        for trial in self.trials:
            pictures.addWidget(_Picture(self._session, trial))
        self.outcome = QLabel()
        self.outcome.setFont(font(17, 500))
        self.outcome.setWordWrap(True)
        self.outcome.setMinimumHeight(96)
        area = QScrollArea()
        area.setWidget(self._table())
        area.setWidgetResizable(True)
        column = QVBoxLayout(self)
        column.addWidget(head)
        column.addLayout(pictures)
        column.addWidget(area, 1)
        column.addWidget(self.outcome)
        column.addLayout(self._buttons())
        self.renew()

    def _planned(self, bars: Sequence[Section]) -> list[Trial]:
        """One for each bar that can be forged so.

        Raises:
            EmberError: none can.
        """
        found, faults = [], []
        for bar in bars:
            try:
                found.append(trial_piece(self._session.piece, bar, self._name(bar)))
            except EmberError as error:
                faults.append(error)
        if not found:
            raise faults[0]
        return found

    def _name(self, bar: Section) -> str:
        return f"Test piece for {self._session.piece.name}, {bar.label(self._session.measure)}"

    def _table(self) -> QWidget:
        m, page = self._session.measure, QWidget()
        grid = QGridLayout(page)
        grid.setHorizontalSpacing(14)
        for k, trial in enumerate(self.trials):
            grid.addWidget(self._label(trial.piece.bar.label(m), 16, 600), 0, 2 + k)
        row = 1
        for i, question in enumerate(self.questions):
            taken = f"{question.now:.3f}" if question.name == "bend" else f"{question.now:.1%}"
            grid.addWidget(self._label(f"{question.title}, taken as {taken}", 17, 600), row, 0, 1, 2 + len(self.trials))
            row += 1
            for j, asked in enumerate(question.asked):
                planned = f"planned {_show(asked.kind, asked.planned, m)}" if asked.planned else ""
                grid.addWidget(self._label(asked.label, 16), row, 0)
                grid.addWidget(self._label(planned, 15, role="muted"), row, 1)
                for k in range(len(self.trials)):
                    line = self.lines[i, j, k] = QLineEdit()
                    line.setFont(font(17, 500))
                    line.setMinimumHeight(36)
                    line.setPlaceholderText({"length": m.unit, "mass": "g", "count": "heats"}[asked.kind])
                    line.setAccessibleName(f"{asked.label}, {question.title}, test piece {k + 1}")
                    line.textEdited.connect(self.renew)
                    grid.addWidget(line, row, 2 + k)
                row += 1
        grid.setColumnStretch(0, 1)
        grid.setRowStretch(row, 1)
        return page

    def _label(self, text: str, size: int, weight: int = 400, role: str = "") -> QLabel:
        label = QLabel(text)
        label.setFont(font(size, weight))
        if role:
            label.setProperty("role", role)
        return label

    def _buttons(self) -> QHBoxLayout:
        row = QHBoxLayout()
        self.keep_button = QPushButton("Hang it in the book" if len(self.trials) == 1 else "Hang them in the book")
        self.keep_button.setToolTip("As pieces of their own: marks, heats and cut list follow")
        self.keep_button.clicked.connect(self.keep)
        self.forget_button = QPushButton("Forget the test piece")
        if not self._session.piece.measured:
            self.forget_button.hide()
        self.forget_button.clicked.connect(self.forget)
        leave = QPushButton("Leave it")
        leave.clicked.connect(self.reject)
        self.shop_button = QPushButton("Let the shop learn of it")
        self.shop_button.setToolTip("An entry of the log: every piece is reckoned with it; this one keeps what it was planned with")
        self.shop_button.clicked.connect(self.teach_and_close)
        self.done_button = QPushButton("And hold it for this piece")
        self.done_button.setDefault(True)
        self.done_button.clicked.connect(self.take_over)
        for i, button in enumerate((self.keep_button, self.forget_button, leave, self.shop_button, self.done_button)):
            button.setFont(font(17, 500))
            button.setMinimumHeight(42)
            if i == 2:
                row.addStretch(1)
            row.addWidget(button)
        return row

    @property
    def questions(self) -> tuple[Question, ...]:
        """What the test pieces settle."""
        return self.trials[0].questions

    # --- what was measured

    def _readings(self, index: int) -> list[tuple[Section, list[float]]]:
        """Of one question, by test piece; those with nothing entered are left out.

        Raises:
            EmberError: something can't be read, or is missing beside what is there.
        """
        found, m = [], self._session.measure
        for k, trial in enumerate(self.trials):
            texts = [self.lines[index, j, k].text().strip() for j in range(len(self.questions[index].asked))]
            if not any(texts):
                continue
            read = []
            for text, asked in zip(texts, self.questions[index].asked, strict=True):
                if not text:
                    raise EmberError(f"{asked.label} is still missing")
                read.append(
                    parse_length(text, unit=m.unit, thickness=trial.piece.bar.thickness) if asked.kind == "length" else parse_number(text)
                )
            found.append((trial.piece.bar, read))
        return found

    def renew(self, _text: str = "") -> None:
        """What would come of it."""
        session, found = self._session, list[Measured]()
        self._edit = None
        self._answered: list[tuple[Question, Measured]] = []
        try:
            for i, question in enumerate(self.questions):
                readings = self._readings(i)
                if readings:
                    found.append(measured(question, session.piece, readings))
                    self._answered.append((question, found[-1]))
            if found:
                self._edit = set_measured(session.piece, found)
            self.outcome.setText(self._told(found))
        except EmberError as error:
            self.outcome.setText(f"{error}.".replace("..", "."))
        for button in (self.done_button, self.shop_button):
            button.setEnabled(self._edit is not None)

    def _told(self, found: list[Measured]) -> str:
        session, m = self._session, self._session.measure
        if self._edit is None:
            known = measured_words(session.piece.measured, session)
            return f"In force from a test piece: {known}." if known else "Nothing is measured yet. What is left empty stays as it is."
        shop = session.shop
        before, after = session.answer.reckoning, quick_answer(self._edit.after, ruler=shop.division, forge=session.forge).reckoning
        wide, narrow = (doubt_width(r) for r in (before, after))
        safe = [round_up(r.safe, r.ruler) for r in (before, after)]
        surer = f"{wide / narrow:.1f} times as sure" if narrow > 1e-9 and wide > narrow * 1.05 else "about as sure as before"
        return (
            f"{measured_words(found, session)}. Nine cut lengths in ten lay within {m.length(wide)}, now within {m.length(narrow)}: {surer}. "
            f"Safe was {m.length(safe[0])}, now {m.length(safe[1])}. {self._chances(self._edit)}The ± holds what the ruler leaves open and how far one piece may differ "
            "from the next, which is assumed."
        )

    def _chances(self, edit: Edit) -> str:
        """How likely the critical section comes out of each bar, before and after."""
        said, material = [], edit.after.material
        for trial in self.trials:
            then, now = (rank(p, [Source(material, trial.piece.bar)])[0] for p in (edit.before, edit.after))
            if now.critical is not None and abs(now.chance - then.chance) > 0.005:
                said.append(
                    f"{trial.piece.bar.label(self._session.measure)} gives {now.critical.title} with {chance_words(now.chance)} (was {chance_words(then.chance)})"
                )
        return f"{'; '.join(said)}. " if said else ""

    def held(self) -> str:
        """What was measured and is not in force."""
        return "What you measured and have not taken over" if any(line.text().strip() for line in self.lines.values()) else ""

    def take_over(self) -> None:
        """Put it in force for this piece, as a step that can be undone, and into the log for the shop."""
        if self._edit is not None:
            self.teach()
            self._session.apply(self._edit)
            self.accept()

    def teach_and_close(self) -> None:
        """Into the log alone: the shop learns of it, the piece keeps what it was planned with."""
        self.teach()
        self.accept()

    def teach(self) -> None:
        """What was measured becomes an entry of the log."""
        session = self._session
        entry = trial_entry(session.piece, session.piece_id, self._answered, session.forge, session.shop.smith, date.today())
        if entry is not None:
            self._work.put_record(new_id(), entry, None)

    def forget(self) -> None:
        """Take the figures on trust again."""
        self._session.apply(forget_measured(self._session.piece))
        self.accept()

    def keep(self) -> None:
        """The test pieces as pieces of the book."""
        self._work.add_pieces("Test piece", [replace(t.piece) for t in self.trials], self._session.piece_id)
        self.keep_button.setEnabled(False)


def _show(kind: str, value: float, m: Measure) -> str:
    return m.length(value) if kind == "length" else m.mass(value) if kind == "mass" else f"{value:g}"
