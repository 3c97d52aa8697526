"""What it would cost to do an operation at another time, and the pins that make it so."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from long_ember.features import Pin
from long_ember.frozen import dataclass
from long_ember.heats.packing import OrderCost
from long_ember.heats.rules import PINNED, Rule
from long_ember.heats.sequencing import ForgingPlan

__all__ = ["Move", "move_step", "pin_all", "unpinned"]

_PARTS = (("heats", "heat"), ("swaps", "turn end for end"), ("colds", "cooling for cold work"), ("tools", "change of tool"))


@dataclass(frozen=True)
class Move:
    """An operation done at another time.

    Args:
        order: all steps in the order wanted.
        pins: what holds it so: the step between its new neighbours, and what was pinned before.
        before: cost of the plan as it is.
        after: cost of the order wanted, before the rest is planned anew.
        musts: rules that would be broken.
        betters: rules that would be given up.
        refused: why it can't be done at all, or "".
    """

    order: tuple[int, ...]
    pins: tuple[Pin, ...]
    before: OrderCost
    after: OrderCost
    musts: tuple[Rule, ...]
    betters: tuple[Rule, ...]
    refused: str = ""

    def landed(self, before: ForgingPlan, plan: ForgingPlan) -> Move:
        """The move as it came out: with the cost and the rules of the plan that was made round it."""
        musts, known = ({r for r, _n, why in p.flags if why == "broken"} for p in (plan, before))
        given_up = {r for r, _n in before.cost.broken}
        return replace(
            self,
            order=plan.order,
            after=plan.cost,
            musts=tuple(sorted(musts - known, key=lambda r: r.id)),
            betters=tuple(dict.fromkeys(r for r, _n in plan.cost.broken if r not in given_up)),
        )

    @property
    def words(self) -> str:
        """What the move costs, and why, in a sentence or two."""
        if self.refused:
            return self.refused
        found = []
        for name, word in _PARTS:
            more = getattr(self.after, name) - getattr(self.before, name)
            if more:
                plural = word if abs(more) == 1 else f"{word.split()[0]}s{word[len(word.split()[0]) :]}"
                found.append(f"{'+' if more > 0 else '−'}{abs(more)} {plural}")
        between = self.after.between - self.before.between
        if abs(between) >= 1.0:
            found.append(f"{'more' if between > 0 else 'less'} bar in the fire that is only between two places of work")
        cost = ", ".join(found) or "costs nothing more"
        reasons = [
            *(f"breaks a must: {_start(r.reason)}" for r in self.musts),
            *(f"against the better: {_start(r.reason)}" for r in self.betters),
        ]
        return f"{cost}; {' '.join(reasons)}" if reasons else f"{cost}."


def _start(reason: str) -> str:
    return reason[:1].lower() + reason[1:]


def move_step(plan: ForgingPlan, n: int, to: int) -> Move:
    """Step `n` at place `to` of the others."""
    rest = [m for m in plan.order if m != n]
    to = max(0, min(to, len(rest)))
    order = (*rest[:to], n, *rest[to:])
    place = {m: i for i, m in enumerate(order)}
    late = [t.rule for t in plan.ties.pairs if t.rule.strength == "must" and t.rule is not PINNED and place[t.before] > place[t.after]]
    refused = next((r.reason + " That can't be turned round." for r in late if r.id == "own-order"), "")
    before, after = plan.cost, plan.packer.cost(order)
    known = {r for r, _n in before.broken}
    betters = tuple(dict.fromkeys(r for r, _n in after.broken if r not in known))
    chain = {p.step for p in plan.piece.planning.pins} | {plan.steps[m].key for m in order[max(to - 1, 0) : to + 2]}
    return Move(order, _pins(plan, order, chain), before, after, tuple(dict.fromkeys(late)), betters, refused)


def pin_all(plan: ForgingPlan) -> tuple[Pin, ...]:
    """The order as it is, held."""
    return _pins(plan, plan.order, {s.key for s in plan.steps})


def unpinned(plan: ForgingPlan, n: int) -> tuple[Pin, ...]:
    """The pins without step `n`; a single one that is left holds nothing."""
    key = plan.steps[n].key
    left = tuple(p for p in plan.piece.planning.pins if p.step != key)
    return left if len(left) > 1 else ()


def _pins(plan: ForgingPlan, order: Iterable[int], keys: set[str]) -> tuple[Pin, ...]:
    return tuple(Pin(step=plan.steps[m].key) for m in order if plan.steps[m].key in keys)
