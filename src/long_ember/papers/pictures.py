"""Pieces, bars and sheets as ink: what is hot is hatched, so that it is seen on any printer."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Sequence

import numpy as np

from long_ember.arrays import Array
from long_ember.cutting import SheetPlan
from long_ember.document import Answer
from long_ember.features import Piece
from long_ember.fullsize import Marking
from long_ember.geometry import Part, figure, silhouette
from long_ember.heats import Frame, Heat, moment, staged
from long_ember.jobs.cut_layout import BarLayout
from long_ember.papers.ink import BLACK, GREY, PALE, Ink, Lettering, Stroke, box, circle_line, hatched, line
from long_ember.papers.letters import fitted, width
from long_ember.units import Measure

__all__ = ["bar_picture", "drawn_picture", "frame_picture", "marked_bar", "piece_picture", "sheet_picture"]

_SHARE = 0.999  # of a heat's work, at which it is drawn: what it should look like when it is over
_STEEL = "#ececec"


def piece_picture(piece: Piece, wide: float, high: float, most: float = 1.0) -> tuple[list[Ink], float, float]:
    """The finished piece from the side.

    Args:
        piece: verified, with at least one feature.
        wide: mm of paper.
        high: mm of paper.
        most: largest scale.

    Returns:
        Ink, the height that it takes, the scale.
    """
    polygons = silhouette(piece, 1)
    size = np.ptp(np.vstack(polygons), axis=0)
    scale = min(wide / max(float(size[0]), 1e-6), high / max(float(size[1]), 1e-6), most)
    tall = float(size[1]) * scale
    left = (wide - float(size[0]) * scale) / 2
    return [Stroke(p * (scale, -scale) + (left, tall), True, 0.3, _STEEL) for p in polygons], tall, scale


def frame_picture(answer: Answer, index: int, wide: float, high: float) -> list[Ink]:
    """The piece when a heat is over, what was hot hatched; nothing for an errand."""
    frame: Frame = answer.plan.frames[index]
    if not isinstance(frame, Heat):
        return []
    begun, over = moment(answer.plan, index), moment(answer.plan, index + _SHARE)
    now = staged(answer.reckoning, over.progress)
    shown = figure([(p.id, p.shape) for p in now])
    x0, y0, x1, y1 = shown.bounds
    scale = min(wide / max(x1 - x0, 1e-6), high / max(y1 - y0, 1e-6))
    top = (high - (y1 - y0) * scale) / 2

    def place(points: Array) -> Array:
        return np.asarray((points - (x0, y1)) * (scale, -scale) + (0.0, top))

    found: list[Ink] = [Stroke(place(np.vstack((p.left, p.right[::-1]))), True, 0.25, _STEEL) for p in shown.parts]
    worked = {w.step.feature.id for w in frame.work}
    for zone, part in zip(now, shown.parts, strict=True):
        low, high_ = max(zone.start, begun.zone[0]), min(zone.end, begun.zone[1])
        if not frame.cold and high_ > low:
            share = part.shape.length / max(zone.end - zone.start, 1e-9)
            outline = place(part.slice((low - zone.start) * share, (high_ - zone.start) * share))
            found += [Stroke(outline, True, 0.35, "#ffffff"), *hatched(outline, 1.3)]
        elif frame.cold and part.id in worked:
            found.append(Stroke(place(np.vstack((part.left, part.right[::-1]))), True, 0.6, "#ffffff"))
    found += _jaws(shown.parts, frame, place, high)
    return found


def _jaws(parts: Sequence[Part], heat: Heat, place: Callable[[Array], Array], high: float) -> list[Ink]:
    """A short thick stroke across the end that is held, with a word."""
    if not parts or heat.cold:
        return []
    last = heat.held == "B"
    ends = place(np.array(parts[-1 if last else 0].end(last)))
    middle = ends.mean(axis=0)
    every = np.vstack([place(np.vstack((p.left, p.right))) for p in parts])
    edge = every[:, 0].max() if last else every[:, 0].min()
    if abs(middle[0] - edge) > 2.0 or abs(ends[0, 0] - ends[1, 0]) > 1.0:  # bent in: a word there would lie on the steel
        return [Stroke(ends, wide=0.9)]
    low = float(max(ends[:, 1]))
    y = low + 3.2 if low + 3.4 < high else float(min(ends[:, 1])) - 1.2
    return [Stroke(ends, wide=0.9), Lettering(float(middle[0]), y, "held", 7, 500, 1 if last else -1)]


def marked_bar(
    rows: Sequence[Marking], length: float, zones: Sequence[tuple[str, float, float]], end: str, wide: float, m: Measure
) -> tuple[list[Ink], float]:
    """A bar from edge to edge with its marks: running lengths above, chain lengths below, names in it.

    Args:
        rows: its marks.
        length: of the bar, mm.
        zones: name, start and end in mm from end A, of what lies in it.
        end: that the tape hooks on.
        wide: mm of paper.
        m: how numbers are shown.

    Returns:
        Ink and the height that it takes.
    """
    scale, flip = wide / max(length, 1e-6), end == "B"

    def x(at: float) -> float:
        return wide - at * scale if flip else at * scale

    levels: list[float] = []
    found: list[Ink] = []
    top, deep, step = 4.0, 9.0, 4.2
    labels: list[tuple[float, float, str]] = []
    for row in rows:
        text = m.length(row.mark.at, bare=m.unit == "mm")
        half = width(text, 9, 600) / 2 + 1.0
        middle = min(max(x(row.mark.at), half), wide - half)
        side = middle - half if not flip else wide - middle - half
        level = next((i for i, used in enumerate(levels) if used <= side), len(levels))
        if level == len(levels):
            levels.append(0.0)
        levels[level] = side + 2 * half
        labels.append((middle, float(level), text))
    bar = top + step * max(len(levels), 1)
    found.append(box(0, bar, wide, deep, 0.35, _STEEL))
    for name, start, stop in zones:
        left, right = sorted((x(start if not flip else length - start), x(stop if not flip else length - stop)))
        found.append(line(right, bar, right, bar + deep, 0.12, GREY))
        short = fitted(name, right - left - 1.5, 8, 500)
        half = width(short, 8, 500) / 2 + 0.6
        if (len(short) > 2 or short == name) and not any(abs(x(row.mark.at) - (left + right) / 2) < half for row in rows):
            found.append(Lettering((left + right) / 2, bar + deep / 2 + 1.0, short, 8, 500, 0))
    below = bar + deep
    for row, (_middle, rank, _text) in zip(rows, labels, strict=True):
        at, up = x(row.mark.at), bar - 1.4 - step * rank
        found += [line(at, up + 0.6, at, below + 1.2, 0.35), circle_line(at, bar + deep / 2, 0.55, 0.2, BLACK)]
    for middle, rank, text in labels:  # over the lines that go up past them
        up, half = bar - 1.4 - step * rank, width(text, 9, 600) / 2
        found += [box(middle - half - 0.3, up - 2.6, 2 * half + 0.6, 3.2, 0.0, "#ffffff"), Lettering(middle, up, text, 9, 600, 0)]
    from_zero, edge = [0.0, *(m.rounded(row.mark.at) for row in rows)], below + 4.6
    for a, b in itertools.pairwise(from_zero):
        text = m.length(b - a, bare=True)
        if abs(b - a) * scale > width(text, 7) + 1.5:
            found.append(Lettering((x(a) + x(b)) / 2, edge, text, 7, 400, 0, GREY))
    found.append(Lettering(wide if flip else 0, edge + 4.2, f"tape from {end}", 8, 600, 1 if flip else -1))
    found.append(Lettering(wide / 2, edge + 4.2, f"{m.length(length)} over all", 8, 500, 0))
    return found, edge + 6.0


def drawn_picture(answer: Answer, wide: float, high: float = 12.0) -> list[Ink]:
    """The drawn bar, straight still, as thick as it is at each place."""
    drawn = answer.piece.composition.drawn
    scale = wide / max(drawn.length, 1e-6)
    tall = min(scale, high / max(drawn.thickest, 1e-6))
    found: list[Ink] = []
    for i, (_identity, shape) in enumerate(drawn.row):
        at, up = [drawn.edges[i]], [shape.spans[0].start.t / 2]
        for span in shape.spans:
            at.append(at[-1] + span.length)
            up.append(span.end.t / 2)
        upper = np.column_stack((np.array(at) * scale, high / 2 - np.array(up) * tall))
        lower = np.column_stack((np.array(at) * scale, high / 2 + np.array(up) * tall))
        found.append(Stroke(np.vstack((upper, lower[::-1])), True, 0.3, _STEEL))
    return found


def bar_picture(lay: BarLayout, codes: Sequence[str], wide: float, longest: float, m: Measure) -> list[Ink]:
    """A bar with its blanks, what is sawn ticked, what is left hatched."""
    scale, high = wide / longest, 8.0
    found: list[Ink] = []
    edge = np.array([(0.0, 0.0), (lay.bar.length * scale, 0.0), (lay.bar.length * scale, high), (0.0, high)])
    found += [Stroke(edge, True, 0.3), *hatched(edge, 2.2, 0.12, GREY)]
    for n, (at, code) in enumerate(zip(lay.cuts, codes, strict=True)):
        left, long = at.start * scale, max(at.cut.length * scale, 0.4)
        found.append(box(left, 0, long, high, 0.3, "#ffffff" if n % 2 else _STEEL))
        code = f"\u2713 {code}" if at.cut.sawn else code
        words = next(
            (
                w
                for w in (f"{code}  {at.cut.name}, {m.length(at.cut.length)}", f"{code}  {m.length(at.cut.length)}", code)
                if width(w, 8, 500) < long - 1.5
            ),
            "",
        )
        if words:
            found.append(Lettering(left + long / 2, high / 2 + 1.0, words, 8, 500, 0))
    return found


def sheet_picture(one: SheetPlan, wide: float, high: float) -> tuple[list[Ink], float]:
    """A sheet with its blanks: what is cut into is hatched, what stays whole is plain; ink and height."""
    scale = min(wide / one.sheet.length, high / one.sheet.width)
    used = np.array([(0.0, 0.0), (one.used, 0.0), (one.used, one.sheet.width), (0.0, one.sheet.width)]) * scale
    found: list[Ink] = [box(0, 0, one.sheet.length * scale, one.sheet.width * scale, 0.3), *hatched(used, 2.6, 0.1, GREY)]
    found += [box(b.x * scale, b.y * scale, b.length * scale, b.width * scale, 0.3, PALE) for b in one.blanks]
    return found, one.sheet.width * scale
