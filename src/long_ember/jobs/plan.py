"""Jobs with everything that follows from them: bars, sheets, needs, shopping list, prices."""

from __future__ import annotations

from collections import Counter
from collections.abc import Generator, Iterable, Mapping, Sequence
from functools import cached_property
from typing import overload

from long_ember.cutting import CutPlan, Rules, cutting, fit
from long_ember.frozen import dataclass
from long_ember.jobs.buying import Purchase, SheetCut, purchases, sheet_cuts
from long_ember.jobs.cut_layout import BarLayout, astray, bar_layouts, differences
from long_ember.jobs.needs import Need, needs
from long_ember.jobs.problems import Cutting, Holdings, counts_of, how_good, job_problems, loss_of, rules_of, sheet_of
from long_ember.jobs.quoting import PiecePrice, Quote, piece_prices, quote
from long_ember.records import Job, SavedBar, SavedCutList
from long_ember.sections import Section
from long_ember.stock import odds

__all__ = ["JobPlan", "better_plans", "plan_jobs"]


@dataclass(frozen=True)
class JobPlan:
    """Jobs that are cut together.

    Args:
        jobs: by id.
        holdings: what they draw on.
        cut_list: that they are cut by.
        sheet_cuts: their blanks on sheets.
        found: the plans behind the bars that are not kept, to be made better.
        own: the cut list is somebody's: changed by hand, locked or begun.
        kept: bars of an earlier one stand in it.
    """

    jobs: Mapping[str, Job]
    holdings: Holdings
    cut_list: SavedCutList
    sheet_cuts: tuple[SheetCut, ...]
    found: tuple[tuple[Cutting, CutPlan], ...]
    own: bool
    kept: bool = False

    @property
    def rules(self) -> Rules:
        """How the shop cuts."""
        return rules_of(self.holdings.shop)

    @cached_property
    def layouts(self) -> tuple[BarLayout, ...]:
        """Every bar with its blanks where they lie."""
        return bar_layouts(self.cut_list, self.rules)

    @cached_property
    def codes(self) -> Sequence[tuple[str, ...]]:
        """A short name for every blank, by bar: a letter for the piece and a number, as on its label."""
        return _Codes(self.cut_list.bars)

    @cached_property
    def legends(self) -> dict[tuple[str, Section], tuple[str, ...]]:
        """Which letter is which piece, by material and section."""
        letters = _lettered(self.cut_list.bars)
        told: dict[tuple[str, Section], dict[str, None]] = {}
        for bar in self.cut_list.bars:
            legend = told.setdefault((bar.material, bar.section), {})
            for piece, _job, name, _length in bar.tally:
                legend[f"{letters[piece]} {name}"] = None
        return {key: tuple(legend) for key, legend in told.items()}

    @cached_property
    def stale(self) -> tuple[str, ...]:
        """Where the cut list no longer is what the jobs still ask for, or what the rack has for them."""
        if self.cut_list.state == "sawn" or not (self.own or self.kept):
            return ()  # just made from what they ask for
        wanted = {}
        for job_id, job in self.jobs.items():
            for piece_id, count in counts_of(job, self.holdings).items():
                piece = self.holdings.piece(piece_id)
                length = self.holdings.answer(piece_id).reckoning.cut - (loss_of(piece) or 0.0)
                wanted[piece_id, job_id] = (piece.name, length, max(0, count.begun - self.holdings.done[piece_id, job_id]))
        long = tuple(f"bar {i}: its pieces no longer fit" for i, lay in enumerate(self.layouts, 1) if lay.over)
        return (*differences(self.cut_list, wanted), *astray(self.cut_list, {i: self.holdings.free(i) for i in self.holdings.rack}), *long)

    @cached_property
    def sawing_words(self) -> str:
        """Which length its blanks are sawn to; those of another choice by name. "" where it has no pieces."""
        by_choice: dict[str, dict[str, None]] = {}
        for job in self.jobs.values():
            for piece_id in counts_of(job, self.holdings):
                choice = self.holdings.answer(piece_id).reckoning.sawing.choice
                by_choice.setdefault(choice, {})[self.holdings.piece(piece_id).name] = None
        if not by_choice:
            return ""
        sawing = self.holdings.forge.sawing
        told = {"safe": f"safe lengths, {odds(sawing.confidence)} not short", "likely": "likely lengths: half come out short"}
        usual = sawing.choice if sawing.choice in by_choice else next(iter(by_choice))
        others = [f"{', '.join(names)} at the {choice} length" for choice, names in by_choice.items() if choice != usual]
        return f"Blanks are {told[usual]}{''.join(f'; {words}' for words in others)}."

    @cached_property
    def needs(self) -> dict[str, tuple[Need, ...]]:
        """What every job needs besides its bars."""
        return {i: needs(job, self.holdings) for i, job in self.jobs.items()}

    @cached_property
    def purchases(self) -> tuple[Purchase, ...]:
        """The shopping list."""
        return purchases(self.jobs, self.holdings, self.cut_list, self.sheet_cuts)

    @property
    def ready(self) -> tuple[Need, ...]:
        """What to have at hand and need not be bought: strips, mandrels, jigs, tools that the kit has not."""
        found = {(n.kind, n.name): n for needs in self.needs.values() for n in needs if (n.once or n.kind == "other") and not n.to_buy}
        return tuple(found.values())

    def quote(self, job_id: str, *, rise: float = 0.0) -> Quote:
        """One of the jobs in money."""
        return quote(job_id, self.jobs[job_id], self.holdings, self.cut_list, rise=rise)

    def prices(self, job_id: str, *, rise: float = 0.0) -> tuple[PiecePrice, ...]:
        """What one of every piece is sold at."""
        return piece_prices(self.jobs[job_id], self.holdings, rise=rise)

    def goodness(self, material: str, section: Section) -> str:
        """How far a cheaper plan could go for one section, in words; "" where the bars are somebody's own."""
        plan = next((p for c, p in self.found if c.key == (material, section)), None)
        return how_good(plan) if plan is not None and not self.own else ""

    @property
    def proven(self) -> bool:
        """No cheaper plan exists for any section."""
        return all(plan.proven for _c, plan in self.found)


def _letters(number: int) -> str:
    """A, B … Z, AA, AB …; the letters that look like figures are left out."""
    alphabet = "ABCDEFGHJKLMNPQRSTUVWXYZ"
    text = ""
    number += 1
    while number:
        number, at = divmod(number - 1, len(alphabet))
        text = alphabet[at] + text
    return text


def _lettered(bars: Iterable[SavedBar]) -> dict[str, str]:
    """A letter for every piece, in the order they are sawn."""
    letters: dict[str, str] = {}
    for bar in bars:
        for piece, _job, _name, _length in bar.tally:
            if piece not in letters:
                letters[piece] = _letters(len(letters))
    return letters


class _Codes(Sequence[tuple[str, ...]]):
    """Short names bar by bar, made when a bar is looked at: of thousands only a few are ever in sight."""

    def __init__(self, bars: tuple[SavedBar, ...]) -> None:
        self._bars, self._letters = bars, _lettered(bars)
        self._before: list[dict[str, int]] = []  # blanks of each of its pieces on the bars before
        numbers: Counter[str] = Counter()
        for bar in bars:
            pieces = {piece for piece, _job, _name, _length in bar.tally}
            self._before.append({piece: numbers[piece] for piece in pieces})
            for (piece, _job, _name, _length), number in bar.tally.items():
                numbers[piece] += number

    def __len__(self) -> int:
        return len(self._bars)

    @overload
    def __getitem__(self, index: int) -> tuple[str, ...]: ...

    @overload
    def __getitem__(self, index: slice) -> tuple[tuple[str, ...], ...]: ...

    def __getitem__(self, index: int | slice) -> tuple[str, ...] | tuple[tuple[str, ...], ...]:
        if isinstance(index, slice):
            return tuple(self[i] for i in range(*index.indices(len(self))))
        numbers, row = dict(self._before[index]), []
        for cut in self._bars[index].cuts:
            numbers[cut.piece] += 1
            row.append(f"{self._letters[cut.piece]}{numbers[cut.piece]}")
        return tuple(row)


def plan_jobs(jobs: Mapping[str, Job], holdings: Holdings, *, own: SavedCutList | None = None, kept: Iterable[SavedBar] = ()) -> JobPlan:
    """A usable plan at once.

    Args:
        jobs: by id.
        holdings: what they draw on.
        own: a cut list of theirs that stands; None: one is made.
        kept: bars that stay as they are in a new one.

    Raises:
        NoAnswer: something a job asks for is not there, or does not fit.
    """
    sheets = sheet_cuts(jobs, holdings)
    if own is not None:
        return JobPlan(jobs, holdings, own, sheets, (), True)
    kept = tuple(kept)
    found = tuple((c, CutPlan(c.problem, fit(c.problem))) for c in job_problems(jobs, holdings, kept=kept))
    return JobPlan(jobs, holdings, sheet_of(jobs, found, kept=kept), sheets, found, False, bool(kept))


def better_plans(plan: JobPlan) -> Generator[JobPlan, None, None]:
    """Better and better plans, section after section; whoever stops asking has left it. Yields the same plan again while nothing changed."""
    kept = tuple(b for b in plan.cut_list.bars if b.kept)
    for i, (part, _first) in enumerate(plan.found):
        last: CutPlan | None = None
        for better in cutting(part.problem):
            if better is not last:
                last = better
                found = (*plan.found[:i], (part, better), *plan.found[i + 1 :])
                sheet = plan.cut_list if better.bars == plan.found[i][1].bars else sheet_of(plan.jobs, found, kept=kept)
                plan = JobPlan(plan.jobs, plan.holdings, sheet, plan.sheet_cuts, found, False, bool(kept))
            yield plan
