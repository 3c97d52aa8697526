"""What stands on the Forge screen: large words, the steel, the sizes to hit, the clock, and next to it what comes after."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QLinearGradient, QPainter, QPen

from long_ember.document import Answer
from long_ember.export.heat_words import frame_heading, frame_lines, heat_facts
from long_ember.forging import Clock, sizings
from long_ember.frozen import NamedTuple
from long_ember.heats import Errand, Frame, Heat, Moment, craft_of, gauges
from long_ember.physics import band
from long_ember.ui.drawing.heat_paint import focus, paint_held, paint_moment, stage_figure
from long_ember.ui.drawing.paint import write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import LIGHT, Theme, heat_colour
from long_ember.units import Measure

__all__ = ["SUN", "HeatTold", "clock_rect", "main_words", "paint_clock", "paint_picture", "paint_words", "picture_rect", "told_of"]

_WORDS, _SIZES = 18, 12  # shares of the height: the main words, the sizes to hit
_LINES = 3
_UNIT = re.compile(r"(\d) (mm|in|°|kg|g|min|s)\b")
_GLOWS = 470.0  # °C
# For the sun on the glass: nothing but black on white, and a dark accent.
SUN = replace(LIGHT, name="sun", paper="#ffffff", panel="#ffffff", ink="#000000", muted="#000000", line="#000000", rim="#000000",
              accent="#00384a", steel="#b4b4b4", steel_alt="#8f8f8f", edge="#000000", chosen="#7fd0ea", fault="#7a0018")  # fmt: skip


class HeatTold(NamedTuple):
    """What is said of a step.

    Args:
        head: which one.
        words: what to do.
        hold: how it is held, "" for none.
        sizes: values with what they are.
        mind: the one thing to mind, "" for nothing.
        after: what comes next.
        ready: tools to lay ready for it.
    """

    head: str
    words: tuple[str, ...]
    hold: str
    sizes: tuple[tuple[str, str], ...]
    mind: str
    after: str
    ready: str


def main_words(frame: Frame, m: Measure) -> tuple[str, ...]:
    """What to do, in few words: the first sentence of each operation, with its part."""
    found = []
    for line in frame_lines(frame, m):
        first, _stop, rest = line.partition(". ")
        part = next((p for p in rest.split(". ") if p.startswith(("Part ", "Step "))), "")
        first = first.split("; ")[0].rstrip(".")
        found.append(f"{first}. {part.split(':')[0]}".rstrip(". ") if part else first)
    return tuple(found)


def told_of(answer: Answer, index: int, m: Measure, kit: tuple[str, ...]) -> HeatTold:
    """Everything that the screen says of a step.

    Args:
        answer: of the piece.
        index: of the frame.
        m: how numbers are shown.
        kit: keys of what the shop has.
    """
    frames = answer.plan.frames
    frame, after = frames[index], frames[index + 1] if index + 1 < len(frames) else None
    facts = heat_facts(answer, frame, m, kit)
    hold = next((f for f in facts if f.startswith("Hold: ")), "").removeprefix("Hold: ")
    place = next((f for f in facts if f.startswith("Set: ")), "").removeprefix("Set: ")
    sizes: list[tuple[str, str]] = []
    for gauge in gauges(frame, answer.reckoning):
        if gauge.cold and len(sizes) < 3:
            what = gauge.line.show(m).partition(":")[0]
            *others, last = gauge.cold
            sizes.append((" × ".join([*(m.length(x, bare=True) for x in others), m.length(last)]), what))
    if not sizes:  # bent or rolled: what it should come to
        sizes = [(m.length(s.planned), f"{s.title}, {s.label.lower()}") for s in sizings(answer.plan, index)[:3]]
    return HeatTold(
        frame_heading(answer, frame),
        main_words(frame, m),
        "; ".join(part for part in (f"end {hold[4:]}" if hold.startswith("end ") else hold, place) if part),
        tuple(sizes),
        _mind(answer, frame, m),
        f"{frame_heading(answer, after)}: {'; '.join(main_words(after, m))}" if after is not None else "Then it is done.",
        ", ".join(after.tools[:5]) if after is not None else "",
    )


def _mind(answer: Answer, frame: Frame, m: Measure) -> str:
    """The one thing to mind: a warning of the work, what went wrong with it most, or the caution that belongs to it."""
    if isinstance(frame, Errand):
        return frame.cautions[0] if frame.cautions else ""
    worked = {w.step.feature.id for w in frame.work}
    warned = next((c.line.show(m) for z, c in answer.checks if z is not None and z.feature.id in worked and c.level != "note"), "")
    wrong = next((f"{what}? {remedy}" for w in reversed(frame.work) for what, remedy in craft_of(w.step.operation.manner).wrong), "")
    return warned or wrong


def _fitted(text: str, size: int, weight: int, room: float, lines: int) -> list[str]:
    """A text in lines that fit; the last one ends with dots where even those are too few."""
    text = _UNIT.sub("\\1\u00a0\\2", text)  # a figure and its unit stay together
    metrics, found, words = QFontMetricsF(font(size, weight)), [""], text.split(" ")
    for i, word in enumerate(words):
        longer = f"{found[-1]} {word}".strip()
        if metrics.horizontalAdvance(longer) <= room or not found[-1]:
            found[-1] = longer
        elif len(found) < lines:
            found.append(word)
        else:
            found[-1] = metrics.elidedText(f"{found[-1]} {' '.join(words[i:])}", Qt.TextElideMode.ElideRight, room)
            break
    return found


def picture_rect(width: float, height: float) -> QRectF:
    """Where the steel is drawn."""
    return QRectF(0.03 * width, 0.36 * height, 0.60 * width, 0.27 * height)


def clock_rect(width: float, height: float) -> QRectF:
    """Where the clock runs."""
    return QRectF(0, 0.665 * height, width, 0.165 * height)


def paint_words(painter: QPainter, told: HeatTold, count: str, width: float, height: float, theme: Theme, note: str) -> None:
    """All that stands still: head, words, hold, sizes, the thing to mind, what comes next."""
    ink, muted, small = theme.colour("ink"), theme.colour("muted"), max(round(height / 34), 13)
    left = 0.03 * width
    write(painter, told.head, left, 0.02 * height, font(round(height / 22), 700), theme.colour("accent"))
    _right(painter, count, 0.97 * width, 0.03 * height, small, theme)
    size, y = round(height / _WORDS), 0.085 * height
    lines = [line for words in told.words for line in _fitted(words, size, 700, 0.62 * width, _LINES)][: _LINES + 1]
    for line in lines:
        write(painter, line, left, y, font(size, 700), ink)
        y += size * 1.22
    if told.hold:
        for line in _fitted(f"Hold {told.hold}", small + 3, 500, 0.62 * width, 2):
            write(painter, line, left, y + 2, font(small + 3, 500), ink)
            y += (small + 3) * 1.25
    x, y = 0.67 * width, 0.1 * height
    for value, what in told.sizes:
        big = round(height / _SIZES)
        while QFontMetricsF(font(big, 700)).horizontalAdvance(value) > 0.31 * width and big > height / 24:
            big -= 2
        write(painter, value, x, y, font(big, 700), ink)
        write(painter, _fitted(what, small, 500, 0.31 * width, 1)[0], x, y + big * 1.14, font(small, 500), muted)
        y += big * 1.14 + small * 1.7
    if told.mind and y < 0.6 * height:
        for line in _fitted(f"! {told.mind}", small + 1, 600, 0.31 * width, 6):
            if y > 0.63 * height:
                break
            write(painter, line, x, y, font(small + 1, 600), theme.colour("fault"))
            y += (small + 1) * 1.25
    y = 0.845 * height
    if note:
        for line in _fitted(note, small + 2, 600, 0.94 * width, 2):
            write(painter, line, left, y, font(small + 2, 600), theme.colour("accent"))
            y += (small + 2) * 1.2
        return
    write(painter, _fitted(f"Next: {told.after}", small, 500, 0.94 * width, 1)[0], left, y, font(small, 500), muted)
    if told.ready:
        write(painter, _fitted(f"Lay ready: {told.ready}", small, 500, 0.94 * width, 1)[0], left, y + small * 1.35, font(small, 500), muted)


def _right(painter: QPainter, text: str, right: float, y: float, size: int, theme: Theme) -> None:
    write(painter, text, right - QFontMetricsF(font(size, 500)).horizontalAdvance(text), y, font(size, 500), theme.colour("muted"))


def paint_picture(painter: QPainter, answer: Answer, now: Moment, target: QRectF, theme: Theme) -> None:
    """The worked place enlarged, glowing as it should, with the whole small beside it and the end that is held."""
    shown = stage_figure(answer, now.progress)
    painter.save()
    painter.setClipRect(target)
    near = target.adjusted(0, 0.22 * target.height(), 0, -4)
    paint_moment(painter, answer, now, shown, near, theme, focus(answer, now, shown))
    whole = QRectF(target.left() + 0.02 * target.width(), target.top() + 4, 0.5 * target.width(), 0.17 * target.height())
    view = paint_moment(painter, answer, now, shown, whole, theme)
    if isinstance(now.frame, Heat):
        paint_held(painter, shown, now.frame, view, theme)
    painter.restore()


def paint_clock(
    painter: QPainter,
    clock: Clock,
    frame: Frame,
    phase: str,
    others: Sequence[str],
    target: QRectF,
    theme: Theme,
    m: Measure,
    *,
    paused: bool,
) -> None:
    """The clock of the iron in hand; what the other irons do stands under it."""
    painter.fillRect(target, theme.colour("paper"))
    left, wide, tall = 0.03 * target.width(), 0.94 * target.width(), target.height()
    size, small = round(tall * 0.36), max(round(tall * 0.17), 12)
    bar = QRectF(left, target.top() + 0.5 * tall, wide, 0.17 * tall)
    if paused:
        write(
            painter,
            "Paused. Any step goes on; what was hot is heated anew.",
            left,
            target.top() + 2,
            font(small + 6, 600),
            theme.colour("ink"),
        )
        return
    if phase == "wait":
        write(painter, "Waits for room in the fire", left, target.top() + 2, font(small + 6, 600), theme.colour("ink"))
    elif not clock.whole:
        write(painter, "Cold work: no clock", left, target.top() + 2, font(small + 6, 600), theme.colour("muted"))
    elif isinstance(frame, Heat):
        fire = phase == "fire"
        colour = f"{band(clock.celsius).word}, about {m.temperature(round(clock.celsius, -1))}" if clock.celsius >= _GLOWS else "still dark"
        if fire:
            words = (
                f"should be {band(frame.hot).word}: look"
                if clock.ready
                else f"in the fire, {colour}; {band(frame.hot).word} in {_clocked(clock.whole - clock.seconds)}"
            )
        else:
            words = (
                f"back into the fire: below {m.temperature(frame.stop)}" if clock.ready else f"{colour}; stop at {band(frame.stop).word}"
            )
        big = _clocked(clock.seconds)
        write(painter, big, left, target.top(), font(size, 700), theme.colour("fault" if clock.ready and not fire else "ink"))
        beside = left + QFontMetricsF(font(size, 700)).horizontalAdvance(big) + 24
        write(painter, words, beside, target.top() + 0.1 * tall, font(small + 6, 600), theme.colour("ink"))
        painter.setPen(QPen(theme.colour("rim"), 1.5))
        painter.setBrush(theme.colour("panel"))
        painter.drawRect(bar)
        if fire:
            glow = heat_colour(clock.celsius) if clock.celsius >= _GLOWS else theme.colour("steel")
            painter.fillRect(QRectF(bar.left(), bar.top(), bar.width() * clock.share, bar.height()), glow)
        else:
            gradient = QLinearGradient(bar.topLeft(), bar.topRight())
            for at in np.linspace(0, 1, 6):
                gradient.setColorAt(float(at), heat_colour(frame.hot + (frame.stop - frame.hot) * float(at)))
            painter.fillRect(
                QRectF(bar.left() + bar.width() * clock.share, bar.top(), bar.width() * (1 - clock.share), bar.height()), gradient
            )
            tick = bar.left() + bar.width() * min(clock.work / clock.whole, 1.0)
            painter.setPen(QPen(theme.colour("ink"), 4))
            painter.drawLine(QPointF(tick, bar.top() - 6), QPointF(tick, bar.bottom() + 6))
        painter.setPen(QPen(theme.colour("rim"), 1.5))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(bar)
    under = [*others, "From the model: a guide. Your eye decides."] if clock.whole else list(others)
    write(painter, "   ".join(under), left, bar.bottom() + 6, font(small, 500), theme.colour("muted"))


def _clocked(seconds: float) -> str:
    """Minutes and seconds."""
    whole = max(round(seconds), 0)
    return f"{whole // 60}:{whole % 60:02d}"
