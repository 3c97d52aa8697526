"""Rules of order of the shop's own."""

from __future__ import annotations

from long_ember import fields
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.heats import MATCHES, WHERE, Rule

__all__ = ["OwnRule"]

_PLACES = tuple((key, words) for key, (words, _test) in WHERE.items() if key not in ("same", "listed", "thicker"))


@dataclass(frozen=True, kw_only=True)
class OwnRule:
    """One rule of order that a shop adds.

    Args:
        name: what it is called; overrules refer to it.
        strength: must or better.
        before: verb or way that comes first, see `MATCHES`.
        after: what follows.
        where: which places it ties.
        apart: the two may not share a heat.
        reason: one sentence.
    """

    name: str = fields.text("Called", "Our rule", tip="What it is called in the sequence.")
    strength: str = fields.choice(
        "Strength", "better", ("better", "better so"), ("must", "must be so"), tip="A must is always kept; a better has a price."
    )
    before: str = fields.choice("First", "draw", *MATCHES.items(), tip="What is done first.")
    after: str = fields.choice("then", "bend", *MATCHES.items(), tip="What waits for it.")
    where: str = fields.choice("Where", "any", *_PLACES, tip="How near the two must lie for the rule to bind.")
    apart: bool = fields.flag("In one heat", False, "may share a heat", "never in one heat", tip="Whether they may share a heat.")
    reason: str = fields.text("Because", "So it is done here.", tip="Told with the heat that it holds back.")

    def __post_init__(self) -> None:
        check_fields(self)

    def rule(self) -> Rule:
        """As the planner reads it."""
        before, after = frozenset({self.before}), frozenset({self.after})
        return Rule(f"own: {self.name}", self.strength, self.reason, before, after, self.where, self.apart)
