"""Everything that follows from a piece, in one pass: the single path from an edit to the numbers."""

from __future__ import annotations

from collections.abc import Generator
from copy import copy
from functools import cached_property
from typing import Any

from long_ember.cutting import CutList, cut_list
from long_ember.errors import NoAnswer
from long_ember.features import Check, Piece, own_marks
from long_ember.frozen import dataclass
from long_ember.geometry import sizing
from long_ember.heats import ForgeSettings, ForgingPlan, Heat, replanned, sequenced
from long_ember.portions import all_portions
from long_ember.stock import Mark, Reckoning, Zone, drawn_marks, marks
from long_ember.units import own_words, say

__all__ = ["SMALL", "Answer", "answer", "quick_answer", "quick_answering"]

SMALL = 12  # features; the best order of work for them is found within a keystroke
_BENCH = ForgeSettings()


@dataclass(frozen=True)
class Answer:
    """A piece with all that follows from it.

    Args:
        piece: the question.
        reckoning: zones, cut length, mass.
        plan: heats.
        cuts: None when a piece is longer than a bar, or there is nothing to cut.
        cut_problem: why there is no cut list, or "".
    """

    piece: Piece
    reckoning: Reckoning
    plan: ForgingPlan
    cuts: CutList | None
    cut_problem: str

    @cached_property
    def marks(self) -> tuple[Mark, ...]:
        """From the piece's datum end; made when they are first looked at."""
        return marks(self.reckoning, self.piece.datum, own_marks(self.piece.planning.own))

    @cached_property
    def drawn_marks(self) -> tuple[Mark, ...]:
        """On the drawn bar, from the piece's datum end."""
        return drawn_marks(self.piece)

    @cached_property
    def over_all(self) -> tuple[float, float, float]:
        """Size of the finished piece, as drawn from the side, mm: along, up, across."""
        return all_portions(sizing(self.piece))

    def ordered(self, order: tuple[int, ...]) -> Answer:
        """The same piece in the best order of work, once that is found; what does not change with the order is not reckoned anew.

        Args:
            order: of the steps of its plan.
        """
        reckoning, plan = replanned(self.plan, order)
        if plan.order != self.plan.order or reckoning is not self.reckoning:
            return _cut(self.piece, reckoning, plan)
        same = copy(self)
        same.__dict__["plan"] = plan
        return same

    def first_worked(self, feature_id: str) -> Heat | None:
        """The heat or cold step in which a feature is begun; None where nothing is done to it."""
        return next((h for h in self.plan.heats if any(w.step.feature.id == feature_id for w in h.work)), None)

    @cached_property
    def told(self) -> tuple[tuple[Zone | None, Check], ...]:
        """Everything worth saying about dimensions and plan, with the zone it concerns, set aside or not."""
        return (*self.reckoning.checks(), *self._meetings(), *((None, c) for c in self.plan.checks))

    def _meetings(self) -> list[tuple[Zone | None, Check]]:
        """What is cut twice: its steel would be counted twice too."""
        if not self.piece.standing:
            return []
        zones = {z.feature.id: z for z in self.reckoning.all_zones}
        text = "Runs into {}: their middles lie {{}} apart, and {{}} is the least. Move one of them."
        return [
            (zones[other], Check("stop", say(text.format(own_words(zones[one].feature.title.lower())), apart, least)))
            for one, other, apart, least in self.piece.composition.meetings
        ]

    @property
    def checks(self) -> tuple[tuple[Zone | None, Check], ...]:
        """The same, without what the smith has set aside for this piece."""
        return tuple((zone, check) for zone, check in self.told if not self.aside(check, zone.feature.id if zone is not None else ""))

    def aside(self, check: Check, feature_id: str) -> bool:
        """Whether a check of a feature ("" for one of the whole plan) is set aside for this piece."""
        return any(o.rule == check.key and o.step in ("", feature_id) for o in self.piece.planning.overrules)


def answer(
    piece: Piece, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH, order: tuple[int, ...] = (), quick: bool = False, full: bool = False,
    recall: bool = False,
) -> Answer:  # fmt: skip
    """Reckon, sequence, mark and cut a piece.

    Args:
        piece: verified.
        ruler: mm.
        forge: fire, hammer, kit.
        order: with `quick`, an order of work to keep, see `heats.sequence`.
        quick: do not look for the best order of work.
        full: look for it all the same where `order` no longer fits.
        recall: with `quick`, take the best order where it has been found before.

    Raises:
        NoAnswer: when a feature has no form.
    """
    return all_portions(_answering(piece, ruler=ruler, forge=forge, order=order, quick=quick, full=full, recall=recall))


def _answering(piece: Piece, **how: Any) -> Generator[None, None, Answer]:
    return _cut(piece, *(yield from sequenced(piece, **how)))


def _cut(piece: Piece, reckoning: Reckoning, plan: ForgingPlan) -> Answer:
    cuts, problem = None, "Add a feature first." if not piece.features else ""
    if piece.features:
        try:
            wanted = piece.order
            cuts = cut_list(reckoning.cut, int(wanted.quantity), wanted.bar_length, wanted.kerf, wanted.end_trim)
        except NoAnswer as error:
            problem = str(error)
    return Answer(piece, reckoning, plan, cuts, problem)


def quick_answer(piece: Piece, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH, order: tuple[int, ...] = ()) -> Answer:
    """The same at once: with the order of work that there was, or of a large piece with one that may not be the best, see `answer`.

    Args:
        piece: verified.
        ruler: mm.
        forge: fire, hammer, kit.
        order: of before; where it no longer fits, a small piece is planned in full.
    """
    return all_portions(quick_answering(piece, ruler=ruler, forge=forge, order=order))


def quick_answering(
    piece: Piece, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH, order: tuple[int, ...] = ()
) -> Generator[None, None, Answer]:
    """The same in portions, see `quick_answer`."""
    small = len(piece.features) + len(piece.standing) <= SMALL
    return (yield from _answering(piece, ruler=ruler, forge=forge, order=order, quick=not small or bool(order), full=small, recall=True))
