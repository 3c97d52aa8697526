"""Papers about one piece: its plan, its heats, its marks, what the log holds of it, cautions, and a card for whoever buys it."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from long_ember.choosing import CAUTION
from long_ember.document import Answer
from long_ember.export.heat_words import band_words, frame_lines, frame_title, heat_facts
from long_ember.features import FINISHES, Piece, feature_sum
from long_ember.fields import day_words
from long_ember.fullsize import Marking, carry_line, marking_out, overhang_line
from long_ember.heats import Errand, Frame, Heat, cautions, gauges
from long_ember.jobs.problems import counts_of
from long_ember.papers.flow import LEADING, Block, Flow
from long_ember.papers.ink import GREY, Lettering, PaperSize, Printed, box, line
from long_ember.papers.letters import MM_PER_PT
from long_ember.papers.pictures import drawn_picture, frame_picture, marked_bar, piece_picture
from long_ember.papers.subject import Choices, Subject
from long_ember.records import CAUSES, LogEntry
from long_ember.stock import chains
from long_ember.units import Measure

__all__ = ["card", "caution_sheet", "film", "heat_sheet", "log_sheet", "mark_sheet", "plan_sheet"]

_ROOM, _NUMBER, _PICTURE = 27.0, 17.0, 42.0  # mm of a heat's row: what happened, its number, its picture
_BLANKS = ("heats", "minutes", "came out")
_BESIDE, _MOST_ACROSS = 3, 8
_BOX = 5.0  # mm from one box to tick to the next
_CARD, _BETWEEN = 90.0, 6.0  # mm: a customer's card, and between two of them


def plan_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """Everything about a piece: drawing, bar, marks, heats in short, the sum, what to take care of."""
    answer, m, flow = s.made, s.measure, Flow(size, s.head("Plan"))
    r, piece = answer.reckoning, answer.piece
    flow.title(piece.name)
    flow.text(f"{piece.bar.label(m)}, {piece.steel.title.lower()}. Cut {m.length(r.cut)}", 15, 600)
    low, high = r.band
    said = r.choice_line().show(m)
    flow.text(f"{said[:1].upper()}{said[1:]}. 9 of 10 pieces want between {m.length(low)} and {m.length(high)}; its features alone take {m.length(r.bare)}. "
              f"Finished {m.mass(r.mass)}. {band_words(answer)}.")  # fmt: skip
    if piece.note:
        flow.text(piece.note)
    if c["drawing"] == "yes":
        ink, tall, scale = piece_picture(piece, flow.room, min(70.0, flow.room * 0.4))
        flow.put(flow.block().space(2).draw(ink, height=tall).text(f"Drawn at {scale:.2f} to 1, from the side.", 8, colour=GREY), 3)
    if c["marks"] == "yes":
        _bars(flow, answer, m)
    if c["heats"] == "yes" and answer.plan.heats:
        flow.heading("Heats")
        for heat in answer.plan.heats:
            made = flow.block().ticks([(frame_title(heat), False)], 11)
            for work in heat.work:
                made.text(work.line.show(m), 10, x=6)
            facts = [f for f in heat_facts(answer, heat, m, s.shop.kit) if not f.startswith(("Time", "Tools"))]
            flow.put(made.text(_sentences(facts), 8.5, x=6, colour=GREY), 1.5)
    if c["sum"] == "yes":
        flow.heading("Sum")
        for zone in r.zones:
            for sum_line in feature_sum(zone.feature, zone.place):
                flow.text(f"{zone.feature.title}: {sum_line.show(m)}", 9, x=4, gap=0.4)
        for stand in piece.composition.stands if piece.standing else ():
            for sum_line in stand.lines:
                flow.text(f"{stand.feature.title}: {sum_line.show(m)}", 9, x=4, gap=0.4)
        for sum_line in r.sum_lines():
            flow.text(sum_line.show(m), 9, x=4, gap=0.4)
    for zone in r.all_zones:
        if zone.feature.note:
            flow.text(f"{zone.feature.title}: {zone.feature.note}", x=4)
    name, lines = s.compared
    if lines:
        flow.heading(f"Compared with {name}")
        for told in lines:
            flow.text(told.show(m), x=4)
        flow.text(CAUTION, 9, x=4)
    if answer.cuts is not None and c["cuts"] == "yes":
        flow.heading("Cut list")
        flow.text(
            f"{answer.cuts.quantity} × {m.length(answer.cuts.piece)} from {len(answer.cuts.bars)} × {m.length(answer.cuts.bar_length)}"
        )
    _care(flow, answer, m)
    return flow.printed()


def _care(flow: Flow, answer: Answer, m: Measure) -> None:
    """Never left off."""
    flow.heading("Take care")
    for told in cautions(answer.piece, answer.reckoning, answer.plan):
        flow.text(told.show(m), 9, x=4, gap=0.5)


def _bars(flow: Flow, answer: Answer, m: Measure, rows: Sequence[Marking] | None = None, drawn: Sequence[Marking] | None = None) -> None:
    """The bar with its marks, and the drawn bar where something stands on it."""
    piece, r = answer.piece, answer.reckoning
    rows = marking_out(answer) if rows is None else rows
    if rows:
        flow.heading(f"Marks from end {piece.datum}, cold", 40)
        ink, tall = marked_bar(rows, r.cut, [(z.feature.title, z.start, z.end) for z in r.zones], piece.datum, flow.room, m)
        flow.put(flow.block().draw(ink, height=tall), 3)
    drawn = marking_out(answer, drawn=True) if drawn is None else drawn
    if drawn:
        bar, stands = piece.composition.drawn, piece.composition.stands
        flow.heading(f"Marks on the drawn bar from end {piece.datum}, straight and cold", 50)
        made = flow.block().draw(drawn_picture(answer, flow.room), height=13)
        ink, tall = marked_bar(drawn, bar.length, [(t.feature.title, t.start, t.end) for t in stands], piece.datum, flow.room, m)
        flow.put(made.draw(ink, height=tall), 3)


def heat_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """The sequence for the wall: a row a heat, never broken, with boxes to tick and room for what really happened."""
    answer, m, flow = s.made, s.measure, Flow(size, s.head("Heat sheet"))
    plan, r = answer.plan, answer.reckoning
    flow.title(answer.piece.name)
    flow.text(
        f"{answer.piece.bar.label(m)}, {answer.piece.steel.title.lower()}, cut {m.length(r.cut)}, {r.choice_line().show(m)}. {band_words(answer)}.",
        11,
        500,
    )
    for group in _groups(plan.frames):
        made, mark = _heat_row(flow, s, group, c)
        flow.put(made, 0.6, mark)
    if not plan.packed:
        flow.text("No heats: plain bar needs no fire.", 12)
    _care(flow, answer, m)
    return flow.printed()


def _sentences(facts: Iterable[str]) -> str:
    return " ".join(f"{fact.rstrip('.')}." for fact in facts)


def _parts(frames: tuple[Frame, ...], group: list[int]) -> str:
    """How many heats of an operation share a row: all, or some."""
    works = [work for i in (group[0], group[-1]) for frame in (frames[i],) if isinstance(frame, Heat) for work in frame.work]
    first, last = works[0], works[-1]
    return f"In {len(group)} heats." if len(group) == last.parts else f"Parts {first.part} to {last.part} of {last.parts}."


def _groups(frames: tuple[Frame, ...]) -> list[list[int]]:
    """Frames that share a row: the heats of one long operation that are held and heated alike."""
    found: list[list[int]] = []
    before: tuple[int, str, str] | None = None
    for i, frame in enumerate(frames):
        shares = isinstance(frame, Heat) and not frame.cold and len(frame.work) == 1
        alone = (frame.work[0].step.number, frame.fire, frame.held) if isinstance(frame, Heat) and shares else None
        if alone is not None and alone == before:
            found[-1].append(i)
        else:
            found.append([i])
        before = alone
    return found


def _heat_row(flow: Flow, s: Subject, group: list[int], c: Choices) -> tuple[Block, str]:
    """Number, picture, boxes, work, facts, checks, blanks; an errand is a line with a box."""
    answer, m = s.made, s.measure
    frame = answer.plan.frames[group[-1]]
    made = flow.block()
    made.ink.append(line(0, 0, flow.room, 0, 0.2, GREY))
    made.space(0.6)
    if isinstance(frame, Errand):
        for words in frame_lines(frame, m):
            made.ink.append(box(_NUMBER - 5.5, made.height + 1.0, 3.2, 3.2, 0.3))
            made.text(words, 9.5, x=_NUMBER)
        made.space(0.8)
        return made, ""
    room = _ROOM if c["room"] == "yes" else 0.0
    left = _NUMBER + (_PICTURE + 3 if c["pictures"] == "yes" else 0.0)
    wide = flow.room - left - room - (3 if room else 0)
    number = str(frame.number) if len(group) == 1 else f"{frame.number - len(group) + 1}–{frame.number}"
    made.ink.append(
        Lettering(
            0, 10.5 if not frame.cold else 6.5, "cold" if frame.cold else number, 12 if frame.cold else 24 if len(number) < 3 else 17, 700
        )
    )
    boxes = len(group)
    beside = boxes if boxes <= _BESIDE else 0  # so many stand before the words, more in rows of their own above them
    y = made.height + 0.8
    if not beside:
        a_row = max(int(wide // _BOX), 1)
        for i in range(boxes):
            made.ink.append(box(left + i % a_row * _BOX, y + 1.0 + i // a_row * _BOX, 3.6, 3.6, 0.3))
        y += -(-boxes // a_row) * _BOX + 0.6
    for line_ in frame_lines(frame, m):
        words = line_ if boxes == 1 else f"{line_.split(' Part ')[0]} {_parts(answer.plan.frames, group)}"
        for i in range(beside):
            made.ink.append(box(left + i * _BOX, y + 1.0, 3.6, 3.6, 0.3))
        y = made.text_at(y, words, 11.5, 600, left + beside * _BOX + 0.6, wide - beside * _BOX - 0.6) + 0.4
    if c["facts"] == "yes":
        first, *rest = heat_facts(answer, frame, m, s.shop.kit)
        told = [_sentences((first, *rest[:-1])).replace("; the work", ", the work"), rest[-1]] if rest[1:] else [_sentences((first, *rest))]
        for words in told:
            y = made.text_at(y, words, 8.8, 400, left, wide)
    if c["checks"] == "yes":
        checks = [g.line.show(m) for g in gauges(frame, answer.reckoning)]
        if checks:
            y = made.text_at(y, "Check: " + "; ".join(checks), 9, 600, left, wide)
    made.height = max(y + 1.4, 16.0)
    if c["pictures"] == "yes":
        deep = min(made.height - 2.5, 24.0)
        made.draw(frame_picture(answer, group[-1], _PICTURE, deep), _NUMBER, 1.6)
    if room:
        step = (made.height - 3) / len(_BLANKS)
        for i, words in enumerate(_BLANKS):
            base = 2 + (i + 1) * step - 0.6
            x = flow.room - _ROOM
            made.ink += [Lettering(x, base - 0.4, words, 7.5, colour=GREY), line(x + 13.5, base, flow.room, base, 0.2)]
    return made, frame_title(frame)


def _row(size: float) -> float:
    return size * MM_PER_PT * LEADING


def film(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """The filmstrip: every heat as a picture with its words, on one sheet: the more there are, the smaller."""
    across = 4 if size.width > size.height else 3
    made = _film(s, size, across)
    while len(made.pages) > 1 and across < _MOST_ACROSS:
        across += 1
        made = _film(s, size, across)
    return made


def _film(s: Subject, size: PaperSize, across: int) -> Printed:
    answer, m, flow = s.made, s.measure, Flow(size, s.head("Filmstrip"))
    flow.title(answer.piece.name)
    frames = answer.plan.frames
    heats = [group for group in _groups(frames) if isinstance(frames[group[-1]], Heat)]
    wide = (flow.room - (across - 1) * 5) / across
    tall = min(24.0, 0.45 * wide)
    for row in range(0, len(heats), across):
        made = flow.block()
        for k, group in enumerate(heats[row : row + across]):
            frame = frames[group[-1]]
            x = k * (wide + 5)
            made.draw(frame_picture(answer, group[-1], wide, tall), x, 6.0, tall)
            made.ink.append(Lettering(x, 4.4, _title(frame, len(group)), 11, 600))
            y = tall + 7.0
            for told in frame_lines(frame, m):
                words = told.split(" Part ")[0] if len(group) > 1 else told
                y = made.text_at(y, words, 8.5 if across < 6 else 7.5, x=x, room=wide)
        flow.put(made, 4)
    if not heats:
        flow.text("No heats: plain bar needs no fire.", 12)
    return flow.printed()


def _title(frame: Frame, count: int) -> str:
    """`Heats 2 to 6`, for heats that share a picture."""
    return f"Heats {frame.number - count + 1} to {frame.number}" if isinstance(frame, Heat) and count > 1 else frame_title(frame)


def mark_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """Every mark with its running and chain length, its face, what it is for and when."""
    answer, m, flow = s.made, s.measure, Flow(size, s.head("Marks"))
    piece, r = answer.piece, answer.reckoning
    flow.title(f"{piece.name}: marks" + (", mate" if c["hand"] == "mate" else ""))
    flow.text(
        f"{piece.bar.label(m)}, saw {m.length(r.cut)}, {r.choice_line().show(m)}. All lengths cold. Hook the tape on end {piece.datum}.",
        11,
        500,
    )
    for drawn in (False, True):
        rows = marking_out(answer, drawn=drawn)
        kept = [row for row in rows if c["set"] == "all" or row.least]
        if not rows:
            continue
        if drawn:
            _bars(flow, answer, m, [], kept)
        else:
            _bars(flow, answer, m, kept, [])
        if c["set"] != "all":
            flow.text(
                "Only what must be marked on the cold bar: the others can be measured from an end that still has its length when they are wanted.",
                9,
                colour=GREY,
            )
        _mark_table(flow, kept, s, c)
    flow.text(
        "Chalk burns off: a centre pop, a nick or anvil pencil. A pop on the outside of a bend opens as it bends. Eyes covered when you strike a punch.",
        9,
        colour=GREY,
    )
    return flow.printed()


def _mark_table(flow: Flow, rows: Sequence[Marking], s: Subject, c: Choices) -> None:
    m = s.measure
    columns: list[tuple[str, float, int]] = [("Mark", 1.3, 1), ("from last", 1.2, 1)]
    extra = {"far": ("other end", 1.3, 1), "hot": ("hot", 1.2, 1), "cubes": ("cubes", 0.9, 1)}
    columns += [extra[key] for key in extra if c[key] == "yes"]
    columns += [("how, on which face", 3.0, -1), ("what for, when", 3.2, -1)]
    if c["carry"] == "yes":
        columns.append(("carried by", 3.0, -1))
    table = []
    for row, chain in zip(rows, chains([r.mark for r in rows], m), strict=True):
        told = {"far": m.length(row.far), "hot": m.length(row.mark.hot), "cubes": m.cubes(row.cubes)}
        when = f"; {frame_title(row.heat).lower()}" if row.heat is not None else ""
        over = overhang_line(row, s.shop.anvil, s.shop.edge)
        cells = [m.length(row.mark.at), m.length(chain), *(told[key] for key in extra if c[key] == "yes")]
        cells += [
            f"{row.mark.kind}; {row.mirrored if c['hand'] == 'mate' else row.face}",
            row.use + when,
        ]
        ways = "; ".join(way.show(m) for way in (carry_line(row, chain, s.shop.dividers), over) if way is not None)
        table.append([*cells, ways] if c["carry"] == "yes" else cells)
    flow.table(columns, table, 8.8)


def log_sheet(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """What was written down of a piece."""
    answer, flow = s.made, Flow(size, s.head("Log"))
    flow.title(f"{answer.piece.name}: log")
    if not s.log:
        flow.text("Nothing is logged yet. Log what happened after the first piece: it makes the next plan better.", 12)
        return flow.printed()
    rows = [_logged(e, s.measure) for e in s.log]
    flow.table(
        (
            ("Day", 1.5, -1),
            ("No.", 0.6, 1),
            ("Good", 0.7, 1),
            ("Rejected", 1.8, -1),
            ("Heats", 1.1, 1),
            ("Minutes", 1.3, 1),
            ("Length", 1.6, -1),
            ("Note", 2.6, -1),
        ),
        rows,
    )
    return flow.printed()


def _logged(e: LogEntry, m: Measure) -> list[str]:
    causes = dict(CAUSES)
    rejected = ", ".join(f"{r.count} {causes[r.cause]}" for r in e.rejects)
    came = {"right": "to length", "short": f"short by {m.length(e.off)}", "long": f"long by {m.length(e.off)}"}.get(e.came, "")
    return [day_words(e.day) if e.day else "", str(e.number), str(e.good), rejected, f"{e.heats} of {e.planned_heats}" if e.heats else "",
            f"{e.minutes:g} of {e.planned_minutes:g}" if e.minutes else "", came, e.note]  # fmt: skip


def caution_sheet(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """What to take care of, large enough to read from the anvil."""
    answer, m, flow = s.made, s.measure, Flow(size, s.head("Cautions"))
    flow.title(f"{answer.piece.name}: take care")
    for told in cautions(answer.piece, answer.reckoning, answer.plan):
        flow.put(flow.block().text(told.show(m), 14, 500), 3)
    return flow.printed()


_UNTESTED = "No load was tested, and none is promised."
_NEVER = (
    "It is not made to lift, to hang over people, to climb on or to hold anybody. Whatever carries people or hangs overhead is made and checked by the local "
    "rules, by whoever is licensed to."
)
_FIX = "Fix it with all its holes, into something that holds; pilot holes keep wood from splitting."


def care_lines(piece: Piece) -> list[tuple[str, str]]:
    """What a customer should know of a piece: heading and words."""
    kinds = {f.kind for f in (*piece.features, *(t.feature for t in piece.composition.stands))}
    use = "Forged by hand: no two are quite alike, and hammer marks belong to it."
    found = [("What it is", f"{piece.steel.title}. {use}")]
    if "hole" in kinds:
        found.append(("Fixing", _FIX))
    if piece.steel.hardening in ("water", "oil", "air") and piece.planning.purpose != "none":
        found.append(
            (
                "Edge",
                "Hardened steel: never strike it with a hammer that is harder, wear glasses, and do not heat it: heat takes its hardness.",
            )
        )
    found.append(("Finish and care", FINISHES[piece.planning.finish][2]))
    if piece.steel.key in ("copper", "bronze"):
        found.append(("With food", "Not for sour food or drink: copper goes into it."))
    elif piece.planning.finish != "food":
        found.append(("With food", "Not finished for food, mouth or skin."))
    found.append(("What it is not for", f"{_UNTESTED} {_NEVER}"))
    return found


def card(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """Cards for the customer, to be cut apart: one a piece; of jobs one for each kind of piece in them, with how many are wanted."""
    flow = Flow(size, s.head("Customer's card"))
    across = max(int((flow.room + _BETWEEN) / (_CARD + _BETWEEN)), 1)
    cards = [_card_block(piece, count, s.shop.name) for piece, count in _carded(s)]
    for n in range(0, len(cards), across):
        row = flow.block()
        for k, one in enumerate(cards[n : n + across]):
            row.draw(one.ink, k * (_CARD + _BETWEEN), 0.0, one.height)
        flow.put(row, 5)
    return flow.printed()


def _carded(s: Subject) -> list[tuple[Piece, int]]:
    if s.plan is None:
        return [(s.made.piece, 1)]
    found: dict[str, int] = {}
    for job in s.planned.jobs.values():
        for piece_id, count in counts_of(job, s.planned.holdings).items():
            found[piece_id] = found.get(piece_id, 0) + count.sold
    return [(s.planned.holdings.piece(piece_id), count) for piece_id, count in found.items()]


def _card_block(piece: Piece, count: int, shop: str) -> Block:
    made = Block(_CARD)
    inner = Block(_CARD - 12)
    inner.text(piece.name, 16, 700)
    ink, tall, _scale = piece_picture(piece, 60, 22)
    inner.space(1).draw(ink, 0, height=tall).space(1.5)
    for title, words in care_lines(piece):
        inner.text(title, 9, 600).text(words, 9).space(1.0)
    inner.space(1).text(shop, 9, 600)
    if count > 1:
        inner.text(f"print {count} of this card", 7.5, colour=GREY)
    made.draw(inner.ink, 6, 5, inner.height)
    made.height += 6
    made.ink.append(box(0, 0, _CARD, made.height, 0.2, "", GREY, (2.0, 1.5)))
    return made
