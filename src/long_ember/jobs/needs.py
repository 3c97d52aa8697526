"""What a job needs besides its bars: rivets, nuts, consumables, drill bits, strips, mandrels and jigs, from its joins and its sequences."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable
from dataclasses import replace

from long_ember.assemblies import assembled
from long_ember.assemblies.fitting import shank_of
from long_ember.features import Piece
from long_ember.features.hole import Hole
from long_ember.features.tenon import Thread
from long_ember.frozen import dataclass
from long_ember.heats import ForgingPlan, fixtures
from long_ember.heats.operations import WELDS
from long_ember.heats.step import Step
from long_ember.jobs.problems import Holdings, counts_of
from long_ember.records import FITTINGS, Assembly, Job, StoreItem, missing_tools
from long_ember.stock import believed
from long_ember.units import MM_PER, Measure

__all__ = ["Need", "amount", "needs", "needs_of_piece"]

# The judgement of this program, not measured; the shop's stores say what a gram costs.
_FLUX = 12.0  # g for a weld
_OIL = 5.0  # ml for a thread
_WAX = 30.0  # g/m² of surface
_HOLES = 60  # that a drill bit lasts for
_COUPON = 150.0  # mm of bar to test unknown steel with
_MADE = ("jig", "mandrel", "strip")
_MEANS = (*_MADE, "bit")  # made or bought once, and kept


@dataclass(frozen=True, slots=True)
class Need:
    """One thing, and how much of it.

    Args:
        name: what it is.
        kind: key of `FITTINGS`.
        quantity: for the whole job.
        unit: "" for pieces.
        price: of one, in the shop's money; 0 where nobody said.
        why: what it is for.
        there: how much the stores have of it.
        minutes: to make it, where the shop makes it itself.
        rough: the quantity is a guess.
    """

    name: str
    kind: str
    quantity: float
    unit: str = ""
    price: float = 0.0
    why: str = ""
    there: float = 0.0
    minutes: float = 0.0
    rough: bool = False

    @property
    def money(self) -> float:
        """Money for all of it."""
        return self.quantity * self.price

    @property
    def once(self) -> bool:
        """It is not used up: made or bought for this job, and kept."""
        return self.kind in _MEANS

    @property
    def to_buy(self) -> float:
        """What the stores do not have, in its own unit; strips, mandrels and jigs the shop makes itself, or has."""
        return 0.0 if self.kind in (*_MADE, "other") else max(0.0, self.quantity - self.there)


def amount(quantity: float, unit: str, rough: bool) -> str:
    """A quantity with its unit; a guess says so.

    >>> amount(12.0, "g", True), amount(3.0, "", False)
    ('about 12 g', '3')
    """
    return f"{'about ' if rough else ''}{quantity:g} {unit}".strip()


def needs(job: Job, holdings: Holdings) -> tuple[Need, ...]:
    """Everything a job needs besides its bars, the same things added up, priced from the shop's stores.

    Args:
        job: its pieces, assemblies and own fittings.
        holdings: what it draws on.

    Raises:
        NoAnswer: something the job asks for is not there.
    """
    m = holdings.shop.measure
    found: list[Need] = []
    for row in job.sets:
        assembly = holdings.assemblies.get(row.assembly)
        if assembly is not None:
            found += [replace(n, quantity=n.quantity * int(row.quantity)) for n in _joined(assembly, holdings, m)]
    for piece_id, count in counts_of(job, holdings).items():
        found += _of_piece(piece_id, count.begun, holdings, m)
    found += [Need(f.name, f.kind, f.quantity, f.unit, f.price, "asked for by the job") for f in job.fittings if f.quantity]
    return tuple(_priced(n, holdings.shop.stores) for n in _together(found))


def needs_of_piece(piece_id: str, number: int, holdings: Holdings) -> tuple[Need, ...]:
    """What so many of one piece need by themselves."""
    return tuple(_priced(n, holdings.shop.stores) for n in _together(_of_piece(piece_id, number, holdings, holdings.shop.measure)))


def _size(mm: float, m: Measure) -> str:
    """A size that can be asked for over a counter: one that is no fraction of the shop's ruler is named in mm."""
    steps = mm / MM_PER["in"] * m.denominator
    return m.length(mm) if m.unit == "mm" or abs(steps - round(steps)) < 0.01 else f"{mm:g} mm"


def _joined(assembly: Assembly, holdings: Holdings, m: Measure) -> list[Need]:
    """Rivets of the joins, and the handle."""
    found = []
    rivets = [(i, j) for i, j in enumerate(assembly.joins) if j.kind == "rivet"]
    if rivets:  # as long as they are told where it is put together
        together = assembled(assembly, {p.piece: believed(holdings.piece(p.piece), holdings.forge.lengths) for p in assembly.parts})
        for i, join in rivets:
            anchors = together.joints[i][1] if i not in together.faults else ()
            shank = f", shank {m.length(shank_of(join, anchors))}" if anchors else ""
            found.append(Need(f"Rivet {_size(join.diameter, m)}{shank}", "rivet", 1.0, why=assembly.name))
    if assembly.handle != "none":
        size = f"{m.length(assembly.handle_length)} by {m.length(assembly.handle_across)}"
        found.append(Need(f"Handle of {assembly.handle}, {size}", "bought", 1.0, why=assembly.name))
    return found


def _of_piece(piece_id: str, number: int, holdings: Holdings, m: Measure) -> list[Need]:
    """What the sequence of a piece asks for, for so many of it."""
    answer, piece = holdings.answer(piece_id), holdings.piece(piece_id)
    steps: tuple[Step, ...] = answer.plan.steps
    name = piece.name
    found: list[Need] = []
    welds = sum(s.operation.verb in WELDS for s in steps)
    if welds:
        found.append(Need("Flux", "flux", _FLUX * welds * number, "g", why=name, rough=True))
    found += [n for step in steps for n in _of_step(step, number, name, m)]
    holes = Counter(s.feature.diameter for s in steps if s.operation.verb == "drill" and isinstance(s.feature, Hole))
    found += [Need(f"Drill bit {_size(d, m)}", "bit", float(-(-n * number // _HOLES)), why=name) for d, n in holes.items()]
    if any(s.method.key == "fork" for s in steps):
        found.append(Need(f"Spacer strip {m.length(piece.bar.thickness)} thick, for the forks", "strip", 1.0, why=name))
    if any(e.key == "coupon" for e in answer.plan.errands):
        found.append(Need(f"Test strips of {piece.bar.label(m)}, {m.length(_COUPON)}", "strip", 2.0, why=f"{name}: unknown steel"))
    threads = [s.feature for s in steps if s.operation.verb == "thread" and isinstance(s.feature, Thread)]
    found += [Need(f"Nut and washer for a thread of {_size(f.diameter, m)}", "bolt", float(number), why=name) for f in threads if f.nut]
    found.append(
        Need("Wax or oil for the finish", "wax", round(_WAX * _surface(piece, answer.reckoning.cut) * number, 1), "g", why=name, rough=True)
    )
    found += _means(answer.plan, number, piece, holdings)
    return found


def _of_step(step: Step, number: int, name: str, m: Measure) -> list[Need]:
    """Taps, dies, cutting oil, mandrels."""
    verb, feature = step.operation.verb, step.feature
    if verb == "tap" and isinstance(feature, Hole):
        return [
            Need(f"Tap {_size(feature.tap, m)}", "bit", 1.0, why=name),
            Need("Cutting oil", "oil", _OIL * number, "ml", why=name, rough=True),
        ]
    if verb == "thread" and isinstance(feature, Thread):
        return [
            Need(f"Die {_size(feature.diameter, m)}, pitch {feature.pitch:g} mm", "bit", 1.0, why=name),
            Need("Cutting oil", "oil", _OIL * number, "ml", why=name, rough=True),
        ]
    inside = getattr(feature, "inside", 0.0)
    if inside and any("mandrel" in tool for tool in step.tools):
        return [Need(f"Mandrel {m.length(inside)}", "mandrel", 1.0, why=name)]
    return []


def _means(plan: ForgingPlan, number: int, piece: Piece, holdings: Holdings) -> list[Need]:
    """Fixtures that pay for so many, and tools that the kit has not."""
    found = [Need(w.fixture.words, "jig", 1.0, why=f"{piece.name}: saves about {w.saved:.0f} min", minutes=w.fixture.minutes)
             for w in fixtures(plan, number) if w.pays]  # fmt: skip
    tools = dict.fromkeys(tool for s in plan.steps for tool in s.tools)
    found += [
        Need(tool[:1].upper() + tool[1:], "other", 1.0, why=f"{piece.name}: not in the kit")
        for tool in missing_tools(tools, holdings.shop.kit)
    ]
    return found


def _surface(piece: Piece, cut: float) -> float:
    """m² of the bar it is made of: forging changes it little."""
    return piece.bar.perimeter * cut * 1e-6


def _together(found: Iterable[Need]) -> list[Need]:
    """The same things as one: what is used up is added, what is kept is needed once, for the most that one piece asks."""
    added: dict[tuple[str, str, str], Need] = {}
    for need in found:
        key = (need.kind, need.name, need.unit)
        before = added.get(key)
        if before is None:
            added[key] = need
            continue
        quantity = max(before.quantity, need.quantity) if need.once or need.kind == "other" else before.quantity + need.quantity
        why = before.why if need.why in before.why else f"{before.why}; {need.why}"
        added[key] = replace(before, quantity=quantity, why=why, price=before.price or need.price)
    order = list(FITTINGS)
    return sorted(added.values(), key=lambda n: order.index(n.kind))


def _priced(need: Need, stores: Iterable[StoreItem]) -> Need:
    """With what the stores have of it and what it costs there: an entry of its kind whose name begins it, the longest such name."""
    like = [s for s in stores if s.name and s.kind == need.kind and need.name.lower().startswith(s.name.lower()) and s.unit == need.unit]
    if not like:
        return need
    item = max(like, key=lambda s: len(s.name))
    return replace(need, price=need.price or item.price, there=item.there)
