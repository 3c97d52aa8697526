"""Every kind on everyday bars in sizes of a ladder, carried through everything that shows, prints or exports a piece."""

from __future__ import annotations

import random
import time
from collections.abc import Callable, Iterator
from dataclasses import replace

from long_ember.document import answer
from long_ember.errors import EmberError
from long_ember.export import cut_list_csv, drawing_dxf, drawing_svg, heats_csv, heats_html, heats_json, piece_drawing
from long_ember.export.solid_out import solid_bytes
from long_ember.features import KINDS, Feature, Piece
from long_ember.fields import Length, specs
from long_ember.forging import another_heat, begin_forging, clock_of, forward, sizings
from long_ember.geometry.silhouettes import silhouette
from long_ember.heats import moment
from long_ember.papers.ink import PAPER_SIZES
from long_ember.papers.kinds import papers_for
from long_ember.papers.subject import Subject
from long_ember.records import Shop
from long_ember.sections import Section, flat, hexagon, octagon, round_, square
from long_ember.units import Measure

__all__ = ["everyday_pieces", "outlets", "told", "worst_of"]

SECONDS = 2.0  # of processor time for any one answer
LADDER = (0.1, 0.3, 1.0, 3.0, 10.0, 30.0, 100.0, 300.0, 1000.0, 3000.0, 10_000.0)
BARS: tuple[Section, ...] = (
    round_(3), square(6), round_(6), square(8), square(12), flat(20, 5), flat(25, 6), flat(30, 8), hexagon(16), octagon(20), square(25), square(50),
)  # fmt: skip


def everyday_pieces(number: int, seed: int = 1) -> Iterator[Piece]:
    """Pieces of one feature in a size of the ladder, some between two runs, some with the same again; all kinds in turn."""
    rng, kinds = random.Random(seed), sorted(KINDS)
    for i in range(number):
        bar, kind = rng.choice(BARS), kinds[i % len(kinds)]
        try:
            feature = _sized(KINDS[kind](id="x").fitted(bar), rng)
        except EmberError:
            continue
        row: tuple[Feature, ...] = (feature,)
        if rng.random() < 0.3:
            row = (feature, KINDS["run"](id="r", length=rng.choice(LADDER[4:])), replace(feature, id="y"))
        yield Piece(name="Everyday", bar=bar, features=row)


def _sized(feature: Feature, rng: random.Random) -> Feature:
    """One of its lengths as the ladder has it, clipped to what its field takes."""
    names = [n for n, spec in specs(feature).items() if isinstance(spec, Length)]
    name = rng.choice(names) if names else ""
    if not name:
        return feature
    spec = specs(feature)[name]
    return replace(feature, **{name: min(max(rng.choice(LADDER), spec.low), spec.high)})


def outlets(piece: Piece) -> Iterator[tuple[str, Callable[[], object]]]:
    """Everything that is made of a piece, by name; what fails in one does not keep the next from being tried.

    Raises:
        EmberError: the piece is refused in words.
    """
    piece.verify()
    shop, m = Shop(), Measure("mm")
    made = answer(piece, forge=shop.forge)
    yield "answer", lambda: answer(piece, forge=shop.forge)
    subject = Subject(m, shop, "4 Dec 2026", made)
    for paper in papers_for(subject):
        yield f"paper {paper.key}", lambda p=paper: p.printed(subject, PAPER_SIZES["a4"].turned(p.landscape), {})
    yield "drawing", lambda: drawing_svg(piece_drawing(piece))
    yield "dxf", lambda: drawing_dxf(piece_drawing(piece))
    yield "outline", lambda: silhouette(piece)
    yield "solid", lambda: solid_bytes(piece, "stl")
    plan = made.plan
    yield "film", lambda: [moment(plan, i + share) for i in range(min(len(plan.frames), 12)) for share in (0.0, 0.5)]
    yield "forge", lambda: _forged(piece, made)
    yield "tables", lambda: (cut_list_csv(piece, made.cuts, m) if made.cuts else "", heats_csv(made, m), heats_json(made, m))
    yield "html", lambda: heats_html(made, m, ())


def _forged(piece: Piece, made: object) -> None:
    plan = made.plan  # type: ignore[attr-defined]
    if not plan.frames:
        return
    run = begin_forging("p", piece.name, "{}", plan, 0.0, wanted=1, irons=1, rhythm="piece")
    for i in range(min(3 * len(plan.frames), 60)):
        if run.over:
            break
        sizings(plan, run.open[run.active].frame)
        clock_of(plan, run.open[run.active], 20.0 * i + 5.0)
        run = (another_heat if i == 3 else forward)(run, plan, 20.0 * (i + 1))


def worst_of(piece: Piece, seconds: float = SECONDS) -> tuple[str, list[str]]:
    """Carry a piece through all; returns "made" or "refused", and the faults.

    Args:
        piece: to be tried.
        seconds: of the processor that one answer may take; a test sets none, since machines differ.
    """
    faults: list[str] = []
    began = time.process_time()
    try:
        steps = outlets(piece)
        while True:
            name, make = next(steps)
            began = time.process_time()
            try:
                make()
            except EmberError:
                pass  # refused in words
            except Exception as error:
                faults.append(f"{name}: {type(error).__name__}: {error}"[:200])
            took = time.process_time() - began
            if took > seconds:
                faults.append(f"{name} took {took:.1f} s")
            began = time.process_time()
    except StopIteration:
        return "made", faults
    except EmberError:
        return "refused", faults
    except Exception as error:
        return "refused", [*faults, f"answer: {type(error).__name__}: {error}"[:200]]


def told(piece: Piece) -> str:
    """The piece in short, so that a fault can be tried again."""
    rows = (f"{f.kind} { ({n: getattr(f, n) for n, spec in specs(f).items() if isinstance(spec, Length)}) }" for f in piece.features)
    return f"{piece.bar.shape} {piece.bar.width} x {piece.bar.thickness}: {'; '.join(rows)}"
