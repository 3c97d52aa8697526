"""A cursor going down the pages: blocks are never broken, and every page says what it is of, when, in which unit, and carries a bar to check it by."""

from __future__ import annotations

from collections.abc import Sequence

from long_ember.frozen import dataclass
from long_ember.papers.ink import BLACK, GREY, Ink, Lettering, Page, PaperSize, Printed, box, line, shifted
from long_ember.papers.letters import MM_PER_PT, fitted, width, wrapped
from long_ember.units import Measure

__all__ = ["LEADING", "MARGIN", "Block", "Flow", "Masthead", "check_bar"]

MARGIN = 12.0  # mm; most printers leave 4 to 6 mm free
LEADING = 1.28  # of a line, against the size of its letters
_TOP, _FOOT = 11.0, 10.0  # mm, of what stands on every page


@dataclass(frozen=True)
class Masthead:
    """What every page says of itself.

    Args:
        name: of the piece, the job, the shop.
        paper: what kind of paper it is.
        state: the named state of the piece, "" for none.
        day: as it is said.
        measure: of all numbers on it.
    """

    name: str
    paper: str
    state: str
    day: str
    measure: Measure

    @property
    def title(self) -> str:
        """Of the document."""
        return f"{self.name}: {self.paper[:1].lower()}{self.paper[1:]}"


def check_bar(x: float, y: float, measure: Measure) -> list[Ink]:
    """A bar of 50 mm, or of 2 inches, with what it measures; its middle line at `y`."""
    long, words = (50.0, "50 mm") if measure.unit == "mm" else (50.8, "2″")
    ticks = [line(x + at, y - 1.6, x + at, y + 1.6, 0.3) for at in (0.0, long)]
    return [line(x, y, x + long, y, 0.3), *ticks, Lettering(x + long + 2, y + 1.1, f"this bar measures {words}", 8, colour=GREY)]


class Block:
    """Ink that stays together, from its own upper left corner downwards.

    Args:
        wide: mm.
    """

    def __init__(self, wide: float) -> None:
        self.wide, self.height = wide, 0.0
        self.ink: list[Ink] = []

    def text(self, text: str, size: float = 10, weight: int = 400, x: float = 0.0, room: float | None = None, colour: str = BLACK) -> Block:
        """A paragraph under what is there."""
        self.height = self.text_at(self.height, text, size, weight, x, room, colour)
        return self

    def text_at(self, y: float, text: str, size: float = 10, weight: int = 400, x: float = 0.0, room: float | None = None,
                colour: str = BLACK) -> float:  # fmt: skip
        """A paragraph beginning at `y`, mm; where it ends."""
        step = size * MM_PER_PT * LEADING
        for words in wrapped(text, self.wide - x if room is None else room, size, weight):
            y += step
            self.ink.append(Lettering(x, y - 0.28 * step, words, size, weight, colour=colour))
        self.height = max(self.height, y)
        return y

    def space(self, height: float) -> Block:
        """Nothing."""
        self.height += height
        return self

    def ticks(self, items: Sequence[tuple[str, bool]], size: float, x: float = 0.0) -> Block:
        """Boxes to tick with their words, one after the other; a line is broken between two of them."""
        side, at = size * MM_PER_PT * 0.95, x
        step = size * MM_PER_PT * LEADING + 1.2
        base = self.height + step
        for words, done in items:
            long = side + 1.5 + width(words, size) + 5
            if at > x and at + long > self.wide:
                at, base = x, base + step
            self.ink.append(box(at, base - side * 1.05, side, side, 0.3))
            if done:
                self.ink += [line(at, base - side * 1.05, at + side, base - side * 0.05, 0.3), line(at, base - side * 0.05, at + side, base - side * 1.05, 0.3)]  # fmt: skip
            self.ink.append(
                Lettering(at + side + 1.5, base - 0.15 * size * MM_PER_PT, fitted(words, self.wide - at - side - 1.5, size), size)
            )
            at += long
        self.height = base + 0.8
        return self

    def draw(self, ink: Sequence[Ink], x: float = 0.0, y: float | None = None, height: float = 0.0) -> Block:
        """Ink of its own, its corner at x, y; the block reaches at least `height` beyond y."""
        top = self.height if y is None else y
        self.ink += shifted(ink, x, top)
        self.height = max(self.height, top + height)
        return self


class Flow:
    """Pages being filled.

    Args:
        size: of the paper, turned as it is to lie.
        head: of every page.
    """

    def __init__(self, size: PaperSize, head: Masthead) -> None:
        self.size, self.head = size, head
        self.room = size.width - 2 * MARGIN
        self.bottom = size.height - MARGIN - _FOOT
        self._pages: list[list[Ink]] = [[]]
        self._contents: list[tuple[str, int]] = []
        self.y = MARGIN + _TOP

    @property
    def left(self) -> float:
        """What is free below, mm."""
        return self.bottom - self.y

    def block(self) -> Block:
        """An empty one as wide as the page."""
        return Block(self.room)

    def put(self, block: Block, gap: float = 2.0, mark: str = "") -> None:
        """Lay a block down whole: on the next page where it does not fit, smaller where no page is long enough.

        Args:
            block: what.
            gap: mm behind it.
            mark: its heading in the list of contents, "" for none.
        """
        whole = self.bottom - MARGIN - _TOP
        if block.height > self.left + 1e-6 and self.y > MARGIN + _TOP:
            self.new_page()
        scale = min(1.0, whole / block.height) if block.height else 1.0
        if mark:
            self._contents.append((mark, len(self._pages) - 1))
        self._pages[-1] += shifted(block.ink, MARGIN, self.y, scale)
        self.y += block.height * scale + gap

    def new_page(self) -> None:
        """Go on overleaf."""
        self._pages.append([])
        self.y = MARGIN + _TOP

    def need(self, height: float) -> None:
        """Go on overleaf where less than `height` is left."""
        if self.left < height and self.y > MARGIN + _TOP:
            self.new_page()

    def title(self, text: str, mark: bool = True) -> None:
        """The first words of a paper."""
        self.put(self.block().text(text, 20, 700), 1.0, text if mark else "")

    def heading(self, text: str, need: float = 24.0) -> None:
        """Of a part; it does not stand alone at the foot of a page."""
        self.need(need)
        self.put(self.block().space(1.5).text(text, 13, 600), 0.8, text)

    def text(self, text: str, size: float = 10, weight: int = 400, x: float = 0.0, colour: str = BLACK, gap: float = 1.0) -> None:
        """A paragraph; one that is longer than the page goes on overleaf between its lines."""
        lines = wrapped(text, self.room - x, size, weight)
        step = size * MM_PER_PT * LEADING
        if step * len(lines) <= self.bottom - MARGIN - _TOP:
            self.put(self.block().text(text, size, weight, x, colour=colour), gap)
            return
        for words in lines:
            self.put(self.block().text(words, size, weight, x, colour=colour), 0.0)

    def rule(self) -> None:
        """A line across."""
        self.put(self.block().draw([line(0, 0.8, self.room, 0.8, 0.3)], height=1.6), 1.0)

    def table(self, columns: Sequence[tuple[str, float, int]], rows: Sequence[Sequence[str]], size: float = 9.5) -> None:
        """Rows under headings, which are said again on every page.

        Args:
            columns: heading, width as a share of the page, −1 for words and 1 for numbers, which end at its right edge.
            rows: as many cells each; a cell that is too wide is broken.
            size: pt.
        """
        total = sum(share for _h, share, _a in columns)
        wide = [share / total * self.room for _h, share, _a in columns]
        left = [sum(wide[:i]) for i in range(len(wide))]

        def row(cells: Sequence[str], weight: int, colour: str) -> Block:
            made = self.block()
            step = size * MM_PER_PT * LEADING
            deep = 0
            for cell, x, w, (_h, _s, anchor) in zip(cells, left, wide, columns, strict=True):
                lines = wrapped(cell, w - 3, size, weight)
                deep = max(deep, len(lines))
                for i, words in enumerate(lines):
                    at = x + w - 3 if anchor > 0 else x
                    made.ink.append(Lettering(at, (i + 1) * step - 0.1 * step, words, size, weight, anchor, colour))
            made.height = deep * step + 1.0
            made.ink.append(line(0, made.height + 0.2, self.room, made.height + 0.2, 0.12, GREY))
            return made

        head = row([h for h, _s, _a in columns], 600, GREY)
        self.need(head.height + 14)
        self.put(head, 0.4)
        for cells in rows:
            made = row(cells, 400, BLACK)
            if made.height > self.left:
                self.new_page()
                self.put(row([h for h, _s, _a in columns], 600, GREY), 0.4)
            self.put(made, 0.4)
        self.y += 2.0

    def printed(self) -> Printed:
        """All pages with what every page says of itself."""
        total, found = len(self._pages), []
        for number, ink in enumerate(self._pages, 1):
            found.append(Page(self.size.width, self.size.height, (*page_frame(self.size, self.head, number, total), *ink)))
        return Printed(self.head.title, tuple(found), tuple(self._contents))


def page_frame(size: PaperSize, head: Masthead, number: int, total: int) -> list[Ink]:
    """What stands on every page: whose it is, of which day and state, in which unit; the bar to check it by, and its number."""
    right, unit = size.width - MARGIN, "mm" if head.measure.unit == "mm" else "inches"
    told = ", ".join(part for part in (head.state, head.day, f"lengths in {unit}") if part)
    wide = width(told, 8.5)
    named = fitted(f"{head.name}: {head.paper[:1].lower()}{head.paper[1:]}", size.width - 2 * MARGIN - wide - 6, 8.5, 600)
    y, foot = MARGIN + 4, size.height - MARGIN
    return [
        Lettering(MARGIN, y, named, 8.5, 600),
        Lettering(right, y, told, 8.5, 400, 1, GREY),
        line(MARGIN, y + 2, right, y + 2, 0.18, GREY),
        *check_bar(MARGIN, foot - 2, head.measure),
        Lettering(right, foot - 1, f"{number} of {total}", 8.5, 500, 1),
    ]
